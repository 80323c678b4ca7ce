//! What only web pages hold: scripts, styles, URLs that encode blanks.

use std::ops::Range;

use super::reader::Reader;
use super::urls;
use crate::format::{Format, Passage, Role, lexed};
use crate::layer::Layers;
use crate::place::Hint;
use crate::text::Encoding;

impl Reader<'_, '_> {
    /// A script or a style of HTML, up to its closing tag.
    pub(super) fn raw_text(&mut self, start: usize, name: &str) -> usize {
        let lower_rest = &self.text[start..];
        let close = format!("</{name}");
        let length = lower_rest
            .as_bytes()
            .windows(close.len())
            .position(|window| window.eq_ignore_ascii_case(close.as_bytes()))
            .unwrap_or(lower_rest.len());
        let span = start..start + length;
        if name == "script" {
            let text = &self.text[span.clone()];
            let each = &mut *self.each;
            lexed::JAVASCRIPT_SOURCE.passages(text, Encoding::Utf8, &mut |passage| {
                each(Passage {
                    span: passage.span.start + start..passage.span.end + start,
                    ..passage
                });
            });
        } else {
            self.style(span.clone(), 0, &[]);
        }
        span.end
    }

    /// A style sheet or a part of one: its URLs, and between them running text.
    pub(super) fn style(&mut self, span: Range<usize>, kind: usize, site: &[&str]) {
        let mut from = span.start;
        for url in urls::of_style(&self.text[span.clone()]) {
            let inside = span.start + url.inside.start..span.start + url.inside.end;
            self.emit(from..inside.start, Role::Prose, Hint::Prose, kind, &[]);
            from = inside.end;
            match url.quoted {
                true => self.emit(inside, Role::Value, Hint::Name, kind, site),
                false => self.emit_url(inside, Hint::Name, kind, site),
            }
        }
        self.emit(from..span.end, Role::Prose, Hint::Prose, kind, &[]);
    }

    /// Yields a URL, in which a blank is encoded.
    pub(super) fn emit_url(&mut self, span: Range<usize>, hint: Hint, kind: usize, tail: &[&str]) {
        let markup = self.layers(kind);
        let layers: Layers = markup.iter().cloned().chain([self.url.clone()]).collect();
        self.pass(span, &layers, (Role::Value, hint), tail);
    }
}

/// Attributes of HTML that hold one URL.
pub(super) const URLS: [&str; 9] = [
    "href",
    "src",
    "action",
    "data",
    "poster",
    "background",
    "cite",
    "longdesc",
    "formaction",
];

/// Whether a URL begins with a scheme, which is not a drive's letter.
pub(super) fn has_scheme(raw: &str) -> bool {
    raw.split_once(':').is_some_and(|(scheme, _)| {
        scheme.len() > 1
            && scheme
                .bytes()
                .all(|b| b.is_ascii_alphanumeric() || b"+-.".contains(&b))
    })
}
