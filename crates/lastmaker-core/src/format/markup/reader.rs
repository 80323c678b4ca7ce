//! Reads markup from tag to tag.

use std::ops::Range;

use super::tag::{Attribute, tag_at};
use super::urls::{self, URLS, has_scheme};
use super::walk::{Element, Walk};
use super::wrappings::{Wrapped, Wrappings};
use crate::format::{Grammar, Passage, Reader, Role, address_role, is_lone_letter, may_matter};
use crate::place::{Hint, may_name_file};

/// Attributes of pages and of packages' parts that hold the address of one file.
const ADDRESSES: [&str; 6] = ["href", "src", "poster", "data", "xlink:href", "Target"];

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let mut walk = Walk::new(self, text, each);
        walk.read();
        walk.grammar
    }
}

impl Walk<'_, '_> {
    pub(super) fn read(&mut self) {
        let mut at = 0;
        while at < self.text.len() {
            let rest = &self.text[at..];
            let bytes = rest.as_bytes();
            if bytes[0] != b'<' {
                let length = memchr::memchr(b'<', bytes).unwrap_or(bytes.len());
                self.content(at..at + length);
                at += length;
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
                Some(b'/') => {
                    let length = memchr::memchr(b'>', bytes).unwrap_or(bytes.len());
                    self.close(rest[2..length].trim_end(), at);
                    at + length + 1
                }
                _ => self.tag(at),
            };
        }
        self.end_string();
        let whole = self.wear.html || (self.open.is_empty() && self.roots == 1);
        self.grammar.note(whole, Grammar::Broken);
    }

    /// A comment, a section of raw text, or a declaration; returns where it is over.
    fn declaration(&mut self, at: usize) -> usize {
        let rest = &self.text[at..];
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
        let found = self.text[start..].find(close);
        self.grammar.note(found.is_some(), Grammar::Broken);
        let end = found.map_or(self.text.len(), |length| start + length);
        take(self, start..end);
        (end + close.len()).min(self.text.len())
    }

    /// `<!DOCTYPE …>` with its quoted strings.
    fn document_type(&mut self, at: usize) -> usize {
        let bytes = self.text.as_bytes();
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
        self.grammar = Grammar::Broken;
        self.text.len()
    }

    fn close(&mut self, name: &str, at: usize) {
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
        self.grammar.note(
            self.open
                .pop()
                .is_some_and(|open| &self.text[open.name] == name),
            Grammar::Broken,
        );
    }

    fn tag(&mut self, at: usize) -> usize {
        let room = std::mem::take(&mut self.room);
        let Some(tag) = tag_at(self.text, at, self.wear.html, room) else {
            self.end_string();
            self.grammar.note(self.wear.html, Grammar::Broken);
            let next = self.text[at + 1..]
                .find('<')
                .map_or(self.text.len(), |n| at + 1 + n);
            self.emit(at..next, Role::Prose, Hint::Prose, Wrapped::Nothing, &[]);
            return next;
        };
        let text = self.text;
        let name = &text[tag.name.clone()];
        if self.open.is_empty() {
            self.roots += 1;
            self.root = name;
        }
        self.end_string_at(name);
        let attributes = &tag.attributes;
        // Between runs of a string only what may be a place ends it.
        let in_string = self.gathered.is_some();
        let matters = attributes.iter().any(|one| {
            one.may_hold_place
                || (!in_string && is_lone_letter(&text[one.value.clone()]))
                || self.names_file(one)
        });
        // `<add key="root" value="D:\x"/>`: one attribute names the other.
        let label = attributes
            .iter()
            .find(|one| {
                let name = &self.text[one.name.clone()];
                ["key", "name", "id"]
                    .iter()
                    .any(|it| name.eq_ignore_ascii_case(it))
            })
            .map(|one| &text[one.value.clone()]);
        if matters {
            self.end_string();
            for attribute in attributes {
                self.attribute(name, attribute, label);
            }
        }
        self.room = tag.attributes;
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

    /// Whether an attribute is the address of a file beside the document.
    fn names_file(&self, attribute: &Attribute) -> bool {
        let name = &self.text[attribute.name.clone()];
        let value = &self.text[attribute.value.clone()];
        ADDRESSES.iter().any(|one| name.eq_ignore_ascii_case(one)) && may_name_file(value)
    }

    fn attribute(&mut self, element: &str, attribute: &Attribute, label: Option<&str>) {
        if !may_matter(&self.text[attribute.value.clone()]) && !self.names_file(attribute) {
            return;
        }
        let name = self.text[attribute.name.clone()].to_owned();
        let lower = name.to_ascii_lowercase();
        let names_other = matches!(lower.as_str(), "key" | "name" | "id");
        let mut hint = match label {
            Some(label) if !names_other => Hint::for_value(label),
            _ => Hint::for_value(&name),
        };
        if name == "w:instr" {
            hint = Hint::COMMAND;
        }
        // It may hold more than a place.
        if self.wear.html && lower == "content" {
            hint = Hint::Prose;
        }
        let wrapped = match attribute.quote {
            Some('\'') => Wrapped::Single,
            Some(_) => Wrapped::Double,
            None => Wrapped::Unquoted,
        };
        let site = [element, name.as_str()];
        if lower == "srcset" {
            let start = attribute.value.start;
            for url in urls::of_picture_list(&self.text[attribute.value.clone()]) {
                let url = start + url.start..start + url.end;
                self.emit_url(url, Hint::Name, wrapped, &site);
            }
            return;
        }
        if lower == "style" {
            return self.style(attribute.value.clone(), wrapped, &site);
        }
        let raw = &self.text[attribute.value.clone()];
        let url = self.wear.html && URLS.contains(&lower.as_str());
        if url && (self.wear.encodes || raw.contains('%')) && !has_scheme(raw) {
            return self.emit_url(attribute.value.clone(), hint, wrapped, &site);
        }
        let role = match url {
            true => address_role(raw),
            false => Role::Value,
        };
        self.emit(attribute.value.clone(), role, hint, wrapped, &site);
    }

    fn content(&mut self, span: Range<usize>) {
        let raw = &self.text[span.clone()];
        if let Some(dialect) = self.open.last().and_then(|element| element.runs) {
            self.key = None;
            return self.gather(dialect, span);
        }
        let begins = raw.as_bytes().first().is_some_and(u8::is_ascii_graphic);
        if !begins && raw.trim().is_empty() {
            return;
        }
        if !self.wear.html && self.open.is_empty() {
            self.grammar = Grammar::Broken;
        }
        self.end_string();
        let is_key = self
            .open
            .last()
            .is_some_and(|element| &self.text[element.name.clone()] == "key");
        let key = is_key.then(|| raw.trim().to_owned());
        if may_matter(raw) {
            let (role, hint) = match self.wear.html {
                true => (Role::Prose, Hint::Prose),
                false => (Role::Value, self.hint()),
            };
            self.emit(span, role, hint, Wrapped::Text, &[]);
        }
        self.key = key;
    }

    /// What is known of the text of the innermost element.
    fn hint(&self) -> Hint {
        let Some(element) = self.open.last() else {
            return Hint::Prose;
        };
        let name = &self.text[element.name.clone()];
        let listed = self.open.len() > 1
            && &self.text[self.open[self.open.len() - 2].name.clone()] == "array";
        if listed {
            return Hint::Word;
        }
        let filed = self.key.as_deref().or(element.label);
        Hint::for_value(filed.unwrap_or(name))
    }
}
