//! Reads markup from tag to tag.

use std::ops::Range;

use super::dialect::Dialect;
use super::tag::{Attribute, Tells, tag_at, text_length};
use super::urls::{self, URLS, has_scheme};
use super::walk::{Element, Walk};
use super::wrappings::{Wrapped, Wrappings};
use crate::base::chunk::is_same;
use crate::format::{Grammar, Passage, Reader, Role, address_role, is_lone_letter};
use crate::scan::Hint;

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let mut walk = Walk::new(self, text, each);
        walk.read();
        walk.cursor.grammar
    }
}

impl Walk<'_, '_> {
    pub(super) fn read(&mut self) {
        let mut at = 0;
        while at < self.cursor.text.len() {
            let rest = &self.cursor.text[at..];
            let bytes = rest.as_bytes();
            if bytes[0] != b'<' {
                at = self.content(at);
                continue;
            }
            at = match bytes.get(1) {
                Some(b'!') => self.declaration(at),
                Some(b'?') => {
                    self.end_string();
                    self.until(at, 2, "?>", |reader, span| {
                        reader.emit(span, Role::Prose, Hint::Prose, Wrapped::Nothing, &[]);
                    })
                }
                Some(b'/') => self.end_tag(at),
                _ => self.tag(at),
            };
        }
        self.end_string();
        let whole = self.wear.html || (self.open.is_empty() && self.roots == 1);
        self.cursor.note(whole, Grammar::Broken);
    }

    /// A comment, a section of raw text, or a declaration; returns where it is over.
    fn declaration(&mut self, at: usize) -> usize {
        let rest = &self.cursor.text[at..];
        if rest.starts_with("<!--") {
            self.end_string();
            self.until(at, 4, "-->", |reader, span| {
                reader.emit(span, Role::Prose, Hint::Prose, Wrapped::Nothing, &[]);
            })
        } else if rest.starts_with("<![CDATA[") {
            self.end_string();
            self.until(at, 9, "]]>", |reader, span| {
                let hint = reader.hint();
                reader.emit(span, Role::Value, hint, Wrapped::Nothing, &[]);
            })
        } else {
            self.document_type(at)
        }
    }

    /// Takes what ends with `close`; returns where it is over.
    fn until(
        &mut self,
        at: usize,
        lead: usize,
        close: &str,
        take: impl FnOnce(&mut Self, Range<usize>),
    ) -> usize {
        let start = at + lead;
        let found = self.cursor.text[start..].find(close);
        self.cursor.note(found.is_some(), Grammar::Broken);
        let end = found.map_or(self.cursor.text.len(), |length| start + length);
        take(self, start..end);
        (end + close.len()).min(self.cursor.text.len())
    }

    /// `<!DOCTYPE …>` with its quoted strings.
    fn document_type(&mut self, at: usize) -> usize {
        let bytes = self.cursor.text.as_bytes();
        let (mut end, mut depth) = (at + 2, 0usize);
        while end < bytes.len() {
            match bytes[end] {
                quote @ (b'"' | b'\'') => {
                    let start = end + 1;
                    let Some(length) = memchr::memchr(quote, &bytes[start..]) else {
                        break;
                    };
                    let wrapped = match quote {
                        b'"' => Wrapped::Double,
                        _ => Wrapped::Single,
                    };
                    self.emit(start..start + length, Role::Value, Hint::Name, wrapped, &[]);
                    end = start + length;
                }
                b'[' => depth += 1,
                b']' => depth = depth.saturating_sub(1),
                b'<' => depth += 1,
                b'>' if depth > 0 => depth -= 1,
                b'>' => return end + 1,
                _ => {}
            }
            end += 1;
        }
        self.cursor.grammar = Grammar::Broken;
        self.cursor.text.len()
    }

    /// The end tag at `at`; returns where it is over.
    fn end_tag(&mut self, at: usize) -> usize {
        let bytes = self.cursor.text.as_bytes();
        let start = at + 2;
        // It is mostly that of the innermost element, and nothing else is in it.
        let name = self.open.last().map(|element| element.name.clone());
        if let Some(name) = name.clone()
            && bytes.get(start + name.len()) == Some(&b'>')
            && is_same(bytes, start, name.start, name.len())
        {
            let end = start + name.len() + 1;
            self.close(&self.cursor.text[name], at, true);
            return end;
        }
        let name = name.map(|name| &self.cursor.text[name]);
        let length = memchr::memchr(b'>', &bytes[start..]);
        let end = length.map_or(bytes.len(), |length| start + length);
        let found = self.cursor.text[start..end].trim_end();
        self.close(found, at, name == Some(found));
        end + 1
    }

    /// Ends the innermost element with the end tag of this name at `at`, if that is `its_own`.
    fn close(&mut self, name: &str, at: usize, its_own: bool) {
        if self.wear.html {
            return;
        }
        if let Some(element) = self.open.last()
            && let Some(dialect) = element.runs
            && element.start == at
        {
            // A run without text is a run all the same.
            self.gather(dialect, at..at);
        }
        self.end_string_at(name);
        self.open.pop();
        self.cursor.note(its_own, Grammar::Broken);
    }

    fn tag(&mut self, at: usize) -> usize {
        let text = self.cursor.text;
        let mut label = None;
        // Most tell nothing.
        let mut telling = std::mem::take(&mut self.telling);
        telling.clear();
        let tag = tag_at(text, at, self.wear.html, |attribute| {
            if label.is_none() && attribute.is_label(text) {
                label = Some(attribute.value(text));
            }
            if attribute.tells != Tells::Nothing {
                telling.push(attribute);
            }
        });
        let Some(tag) = tag else {
            self.end_string();
            self.cursor.note(self.wear.html, Grammar::Broken);
            let next = self.cursor.text[at + 1..]
                .find('<')
                .map_or(self.cursor.text.len(), |n| at + 1 + n);
            self.emit(at..next, Role::Prose, Hint::Prose, Wrapped::Nothing, &[]);
            return next;
        };
        let name = &text[tag.name.clone()];
        if self.open.is_empty() {
            self.roots += 1;
            self.root = name;
        }
        self.end_string_at(name);
        // Between runs of a string only what may be a place ends it.
        let in_string = self.gathered.is_some();
        let tells_place = |one: &Attribute| one.tells == Tells::Place;
        let matters = if in_string {
            telling.iter().any(tells_place)
        } else {
            !telling.is_empty()
        };
        if matters {
            self.end_string();
            for attribute in &telling {
                self.attribute(name, attribute, label);
            }
        }
        self.telling = telling;
        if self.wear.html {
            let raw = ["script", "style"]
                .into_iter()
                .find(|raw| name.eq_ignore_ascii_case(raw));
            if let Some(raw) = raw
                && !tag.empty
            {
                return self.raw_text(tag.end, raw);
            }
        }
        if !tag.empty && !self.wear.html {
            self.open.push(Element {
                start: tag.end,
                runs: self.dialect_of(name),
                name: tag.name,
                label,
            });
        }
        tag.end
    }

    /// How the text of the innermost element is cut into runs, if it is.
    fn runs(&self) -> Option<&'static Dialect> {
        self.open.last().and_then(|element| element.runs)
    }

    fn attribute(&mut self, element: &str, attribute: &Attribute, label: Option<&str>) {
        let text = self.cursor.text;
        let name = attribute.name(text);
        let is = |wanted: &str| name.eq_ignore_ascii_case(wanted);
        let mut hint = match label {
            Some(label) if !attribute.is_label(text) => Hint::for_value(label),
            _ => Hint::for_value(name),
        };
        if name == "w:instr" {
            hint = Hint::COMMAND;
        }
        // It may hold more than a place.
        if self.wear.html && is("content") {
            hint = Hint::Prose;
        }
        let wrapped = match attribute.quote {
            Some('\'') => Wrapped::Single,
            Some(_) => Wrapped::Double,
            None => Wrapped::Unquoted,
        };
        let site = [element, name];
        if is("srcset") {
            let start = attribute.value.start;
            for url in urls::of_picture_list(attribute.value(text)) {
                let url = start + url.start..start + url.end;
                self.emit_url(url, Hint::Name, wrapped, &site);
            }
            return;
        }
        if is("style") {
            return self.style(attribute.value.clone(), wrapped, &site);
        }
        let raw = attribute.value(text);
        let url = self.wear.html && URLS.into_iter().any(is);
        if url && (self.wear.encodes || raw.contains('%')) && !has_scheme(raw) {
            return self.emit_url(attribute.value.clone(), hint, wrapped, &site);
        }
        let role = if url { address_role(raw) } else { Role::Value };
        self.emit(attribute.value.clone(), role, hint, wrapped, &site);
    }

    /// The text at `at`, up to the next tag; returns where it is over.
    fn content(&mut self, at: usize) -> usize {
        let text = self.cursor.text;
        let bytes = &text.as_bytes()[at..];
        let blanks = bytes.iter().take_while(|b| b.is_ascii_whitespace());
        let blanks = blanks.count();
        let (more, may_hold_place) = text_length(&bytes[blanks..]);
        let span = at..at + blanks + more;
        if let Some(dialect) = self.runs() {
            self.key = None;
            self.gather(dialect, span.clone());
            return span.end;
        }
        let raw = &text[span.clone()];
        // Between most tags there are blanks only.
        let begins = bytes[blanks..].first().is_some_and(u8::is_ascii_graphic);
        if more == 0 || (!begins && raw.trim().is_empty()) {
            return span.end;
        }
        if !self.wear.html && self.open.is_empty() {
            self.cursor.grammar = Grammar::Broken;
        }
        self.end_string();
        let is_key = self
            .open
            .last()
            .is_some_and(|element| &text[element.name.clone()] == "key");
        let key = is_key.then(|| raw.trim().to_owned());
        if may_hold_place || is_lone_letter(raw) {
            let (role, hint) = if self.wear.html {
                (Role::Prose, Hint::Prose)
            } else {
                (Role::Value, self.hint())
            };
            self.emit(span.clone(), role, hint, Wrapped::Text, &[]);
        }
        self.key = key;
        span.end
    }

    /// What is known of the text of the innermost element.
    fn hint(&self) -> Hint {
        let Some(element) = self.open.last() else {
            return Hint::Prose;
        };
        let name = &self.cursor.text[element.name.clone()];
        let listed = self.open.len() > 1
            && &self.cursor.text[self.open[self.open.len() - 2].name.clone()] == "array";
        if listed {
            return Hint::Word;
        }
        let filed = self.key.as_deref().or(element.label);
        Hint::for_value(filed.unwrap_or(name))
    }
}
