//! What only web pages hold: scripts and styles.

use std::ops::Range;

use super::urls;
use super::walk::Walk;
use super::wrappings::Wrapped;
use crate::format::{Format, Passage, Role, address_role, lexed};
use crate::scan::Hint;
use crate::text::Encoding;

impl Walk<'_, '_> {
    /// A script or a style of HTML, up to its closing tag.
    pub(super) fn raw_text(&mut self, start: usize, name: &str) -> usize {
        let rest = &self.cursor.text.as_bytes()[start..];
        let close = format!("</{name}");
        let closes = |at: &usize| {
            let there = rest.get(*at..*at + close.len());
            there.is_some_and(|there| there.eq_ignore_ascii_case(close.as_bytes()))
        };
        let length = memchr::memchr_iter(b'<', rest).find(closes);
        let length = length.unwrap_or(rest.len());
        let span = start..start + length;
        if name == "script" {
            let text = &self.cursor.text[span.clone()];
            let each = &mut *self.cursor.each;
            lexed::JAVASCRIPT_SOURCE.passages(text, Encoding::Utf8, &mut |passage| {
                each(Passage {
                    span: passage.span.start + start..passage.span.end + start,
                    ..passage
                });
            });
        } else {
            self.style(span.clone(), Wrapped::Nothing, &[]);
        }
        span.end
    }

    /// A style sheet or a part of one: its URLs, and between them running text.
    pub(super) fn style(&mut self, span: Range<usize>, wrapped: Wrapped, site: &[&str]) {
        let mut from = span.start;
        for url in urls::of_style(&self.cursor.text[span.clone()]) {
            let inside = span.start + url.inside.start..span.start + url.inside.end;
            self.emit(from..inside.start, Role::Prose, Hint::Prose, wrapped, &[]);
            from = inside.end;
            if url.quoted {
                let role = address_role(&self.cursor.text[inside.clone()]);
                self.emit(inside, role, Hint::Name, wrapped, site);
            } else {
                self.emit_url(inside, Hint::Name, wrapped, site);
            }
        }
        self.emit(from..span.end, Role::Prose, Hint::Prose, wrapped, &[]);
    }
}
