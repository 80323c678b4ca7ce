//! Reads directives from word to word.

use std::ops::Range;

use super::{Addresses, Arguments, DirectiveReader, Directives};
use crate::format::cursor::Cursor;
use crate::format::{Grammar, Namespace, Passage, Reader, Role, Step};
use crate::layer::Layers;
use crate::scan::Hint;

impl Reader for DirectiveReader {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let mut walk = Walk {
            wear: self,
            cursor: Cursor::new(text, each),
            directive: String::new(),
            arguments: 0,
        };
        let mut at = 0;
        while at < text.len() {
            at = walk.line(at);
        }
        walk.cursor.grammar
    }
}

/// One walk through a document.
struct Walk<'a, 'e> {
    wear: &'a DirectiveReader,
    cursor: Cursor<'a, 'e>,
    /// The first word of the line, or of what a sign begins anew.
    directive: String,
    /// How many arguments of it are read.
    arguments: usize,
}

impl Walk<'_, '_> {
    fn dialect(&self) -> &'static Directives {
        self.wear.dialect
    }

    /// Reads the line that begins at `start`; where the next one begins.
    fn line(&mut self, start: usize) -> usize {
        let end = self.line_end(start);
        let next = end + usize::from(end < self.cursor.text.len());
        let line = &self.cursor.text[start..end];
        let body = line.trim_end_matches('\r');
        let trimmed = body.trim_start();
        let at = start + body.len() - trimmed.len();
        let span = at..start + body.len();
        if trimmed.is_empty() {
            return next;
        }
        if trimmed.starts_with(self.dialect().comment) {
            self.emit(
                span,
                &self.wear.plain.clone(),
                Role::Prose,
                Hint::Prose,
                false,
            );
            return next;
        }
        if self.dialect().usual == Arguments::Scheduled {
            self.scheduled(span);
            return next;
        }
        let parts = |c: char| c.is_whitespace() || c == '=' || self.dialect().parting.contains(c);
        let begun = trimmed.trim_start_matches(parts);
        let name = begun.split(parts).next().unwrap_or("");
        let name_end = trimmed.len() - begun.len() + name.len();
        let lower = name.to_ascii_lowercase();
        let special = self
            .dialect()
            .special
            .iter()
            .find(|(known, _)| *known == lower);
        let how = special.map_or(self.dialect().usual, |(_, how)| *how);
        self.directive = if name.contains(['/', '\\', '"']) {
            String::new()
        } else {
            name.to_owned()
        };
        self.arguments = 0;
        let behind = match special {
            Some(_) => {
                let rest = trimmed[name_end..].trim_start();
                span.end - rest.len()..span.end
            }
            None if self.dialect().keywords => {
                let rest = trimmed[name_end..].trim_start_matches([' ', '\t', '=']);
                span.end - rest.len()..span.end
            }
            None => span,
        };
        self.arguments(behind, how, next)
    }

    fn arguments(&mut self, span: Range<usize>, how: Arguments, next: usize) -> usize {
        let array = self.cursor.text[span.clone()].starts_with('[');
        match how {
            Arguments::Words => self.words(span),
            Arguments::ArrayOrShell | Arguments::ArrayOrText if array => self.array(span),
            Arguments::ArrayOrShell => self.shell(span),
            Arguments::ArrayOrText | Arguments::Unknown | Arguments::Scheduled => {
                self.unknown(span);
            }
            Arguments::ScriptUntil(word) => return self.script(next, word),
        }
        next
    }

    /// Where the line ends that begins at `start`, those that it is joined with included.
    fn line_end(&self, start: usize) -> usize {
        let bytes = self.cursor.text.as_bytes();
        let mut at = start;
        loop {
            let end = memchr::memchr(b'\n', &bytes[at..]).map_or(bytes.len(), |n| at + n);
            let body = self.cursor.text[start..end].trim_end_matches('\r');
            let joined = self.dialect().continues && body.ends_with('\\');
            if !joined || end == bytes.len() {
                return end;
            }
            at = end + 1;
        }
    }

    /// Lines of a shell up to one that is `word`.
    fn script(&mut self, start: usize, word: &str) -> usize {
        let mut at = start;
        for line in self.cursor.text[start..].split_inclusive('\n') {
            if line.trim() == word {
                self.shell(start..at);
                return at + line.len();
            }
            at += line.len();
        }
        self.cursor.grammar = Grammar::Broken;
        self.cursor.text.len()
    }

    fn shell(&mut self, span: Range<usize>) {
        let namespace = self.dialect().namespace;
        let each = &mut *self.cursor.each;
        let grammar = self
            .wear
            .shell
            .read(self.cursor.text, span, &mut |passage| {
                let role = in_realm(passage.role, namespace);
                each(Passage { role, ..passage });
            });
        self.cursor
            .note(grammar != Grammar::Broken, Grammar::Broken);
    }

    fn unknown(&mut self, span: Range<usize>) {
        self.emit(
            span,
            &self.wear.plain.clone(),
            Role::Value,
            Hint::Code,
            true,
        );
    }

    /// The strings of an array of JSON.
    fn array(&mut self, span: Range<usize>) {
        let bytes = self.cursor.text.as_bytes();
        let mut at = span.start;
        while let Some(open) = memchr::memchr(b'"', &bytes[at..span.end]) {
            let start = at + open + 1;
            let mut end = start;
            while end < span.end && bytes[end] != b'"' {
                end += if bytes[end] == b'\\' { 2 } else { 1 };
            }
            if end >= span.end {
                self.cursor.grammar = Grammar::Broken;
                return;
            }
            self.emit(
                start..end,
                &self.wear.json.clone(),
                Role::Value,
                Hint::Word,
                true,
            );
            at = end + 1;
        }
    }

    /// A line of a crontab.
    fn scheduled(&mut self, span: Range<usize>) {
        let line = &self.cursor.text[span.clone()];
        let first = line.split([' ', '\t']).next().unwrap_or("");
        let time = line.starts_with(|c: char| c.is_ascii_digit() || "*@".contains(c));
        if !time && let Some((name, value)) = line.split_once('=') {
            self.directive = name.trim().to_owned();
            let trimmed = value.trim();
            let start = span.end - value.trim_start().len();
            let quoted = trimmed.len() > 1
                && trimmed.starts_with(['"', '\''])
                && trimmed.ends_with(['"', '\'']);
            let inside = if quoted {
                start + 1..start + trimmed.len() - 1
            } else {
                start..start + trimmed.len()
            };
            let hint = if quoted { Hint::Code } else { Hint::Name };
            let value = self.wear.assigned.clone();
            return self.emit(inside, &value, Role::Value, hint, true);
        }
        let columns = if first.starts_with('@') { 1 } else { 5 };
        let mut rest = line;
        for _ in 0..columns {
            let trimmed = rest.trim_start();
            rest = &trimmed[trimmed.find([' ', '\t']).unwrap_or(trimmed.len())..];
        }
        self.shell(span.end - rest.len()..span.end);
    }

    /// Words, bare and in quotes; a quote may run over lines.
    fn words(&mut self, span: Range<usize>) {
        let bytes = self.cursor.text.as_bytes();
        let dialect = self.dialect();
        let parts =
            |byte: u8| byte.is_ascii_whitespace() || dialect.parting.as_bytes().contains(&byte);
        let mut at = span.start;
        while at < span.end {
            if parts(bytes[at]) {
                at += 1;
            } else if bytes[at] == dialect.comment as u8 {
                self.emit(
                    at..span.end,
                    &self.wear.plain.clone(),
                    Role::Prose,
                    Hint::Prose,
                    false,
                );
                return;
            } else {
                let end = self.word_end(at, span.end, parts);
                let text = &self.cursor.text[at..end];
                let name = text.find('=').filter(|_| dialect.assigns);
                let name = name.filter(|sign| !text[..*sign].contains(['/', '\\', '"', '\'']));
                at += name.map_or(0, |sign| sign + 1);
                let before = self.cursor.text[span.start..at].trim_end();
                if before.ends_with([';', '{', '}']) && !text.contains(['/', '\\']) {
                    self.directive = text.to_owned();
                    self.arguments = 0;
                } else if text != self.directive {
                    // The line's first word is its directive.
                    self.arguments += 1;
                }
                if text.starts_with('[') {
                    // Brackets quote, or take one letter of several.
                    self.unknown(at..end);
                } else {
                    let word = self.wear.word.clone();
                    self.emit(at..end, &word, Role::Value, Hint::Word, true);
                }
                at = end;
            }
        }
    }

    /// Where the word ends that begins at `at`.
    fn word_end(&mut self, at: usize, end: usize, parts: impl Fn(u8) -> bool) -> usize {
        let bytes = self.cursor.text.as_bytes();
        let words = self.dialect().words;
        let quote = words.quotes.iter().map(|(quote, _)| *quote as u8);
        let quote = quote.into_iter().find(|quote| *quote == bytes[at]);
        let mut next = at + usize::from(quote.is_some());
        while next < end {
            let byte = bytes[next];
            if byte == b'\\' {
                next += 2;
                continue;
            }
            match quote {
                Some(quote) if byte == quote => return next + 1,
                None if parts(byte) => return next,
                // Quotes in the middle of a word hold it together.
                None if matches!(byte, b'"' | b'\'') => {
                    let close = memchr::memchr(byte, &bytes[next + 1..end]);
                    next += close.map_or(1, |length| length + 2);
                }
                _ => next += 1,
            }
        }
        if quote.is_some() {
            self.cursor.grammar = Grammar::Broken;
        }
        let mut next = next.min(end);
        while !self.cursor.text.is_char_boundary(next) {
            next += 1;
        }
        next
    }

    /// Whether the argument that is read is the path of an address.
    fn is_address(&self) -> bool {
        let known = self.dialect().addresses.iter();
        let mut known = known.filter(|(name, _)| name.eq_ignore_ascii_case(&self.directive));
        known.any(|(_, which)| *which == Addresses::All || self.arguments == 1)
    }

    fn emit(&mut self, span: Range<usize>, layers: &Layers, role: Role, hint: Hint, keyed: bool) {
        let Some(raw) = self.cursor.text.get(span.clone()) else {
            return;
        };
        if !crate::scan::may_hold_place(raw) {
            return;
        }
        let namespace = self
            .dialect()
            .namespace
            .or_else(|| self.is_address().then_some(Namespace::Site));
        let role = in_realm(role, namespace);
        let step = (keyed && !self.directive.is_empty()).then(|| Step::Key(self.directive.clone()));
        self.cursor.emit(span, layers, role, hint, step.as_slice());
    }
}

/// The role of a passage whose places are looked for in `namespace`.
fn in_realm(role: Role, namespace: Option<Namespace>) -> Role {
    match (role, namespace) {
        (Role::Value, Some(namespace)) => Role::Foreign(namespace),
        _ => role,
    }
}
