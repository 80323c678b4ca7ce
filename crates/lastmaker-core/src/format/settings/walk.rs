//! Reads settings lines from line to line.

use std::ops::Range;

use super::lone_ends::next_lone_end;
use super::wrappings::Wrappings;
use super::{Commands, Lines, Shape};
use crate::format::cursor::Cursor;
use crate::format::way::Way;
use crate::format::{Grammar, Passage, Reader, Role};
use crate::layer::Layers;
use crate::scan::{Hint, Letters, OF_PLACES, Upcoming};

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let mut walk = Walk::new(self, text, each);
        walk.read();
        walk.cursor.grammar
    }
}

/// The letters in which strings and sections begin.
const OPENING: Letters = [b'"', b'\'', b'['];

/// One walk through a document.
pub(super) struct Walk<'a, 'e> {
    pub(super) wear: &'a Wrappings,
    pub(super) cursor: Cursor<'a, 'e>,
    scope: usize,
    section: Option<String>,
    /// The way to a value: the section, if there is one, and the key.
    way: Way,
    /// Where the text speaks of a mount next; its end if nowhere.
    mount: usize,
    upcoming: Upcoming<'a>,
}

impl<'a, 'e> Walk<'a, 'e> {
    pub(super) fn new(
        wear: &'a Wrappings,
        text: &'a str,
        each: &'e mut dyn FnMut(Passage<'_>),
    ) -> Self {
        Self {
            wear,
            cursor: Cursor::new(text, each),
            scope: 0,
            section: None,
            way: Way::default(),
            mount: 0,
            upcoming: Upcoming::new(text, 0, &[OF_PLACES, OPENING]),
        }
    }

    fn dialect(&self) -> &'static Lines {
        self.wear.dialect
    }

    pub(super) fn read(&mut self) {
        let mut at = 0;
        while at < self.cursor.text.len() {
            if !self.lists_files() {
                at = self.telling_line(at);
            }
            let end = self.logical_end(at);
            self.line(at, end);
            at = end;
            at += self.cursor.text[at..]
                .bytes()
                .take_while(|b| *b == b'\r')
                .count();
            at += usize::from(self.cursor.text[at..].starts_with('\n'));
            if at == end {
                break;
            }
        }
    }

    /// The start of the first line at or after the line start `at` that may name a place or begin a section:
    /// most lines of most files do neither.
    fn telling_line(&mut self, at: usize) -> usize {
        let line = self.line_with_sign(at);
        // The name of a mount unit has dashes instead of separators.
        if self.dialect().commands != Commands::Units {
            return line;
        }
        if self.mount < at || at == 0 {
            let rest = &self.cursor.text.as_bytes()[at..];
            self.mount = at + memchr::memmem::find(rest, b"mount").unwrap_or(rest.len());
        }
        if self.mount >= line {
            return line;
        }
        let start = memchr::memrchr(b'\n', &self.cursor.text.as_bytes()[..self.mount]);
        start.map_or(0, |newline| newline + 1)
    }

    /// The start of the first line at or after the line start `at` that has one of the letters in it, or ends
    /// with a lone letter, which may name a drive.
    fn line_with_sign(&mut self, at: usize) -> usize {
        let sign = self.upcoming.sign(at);
        let bytes = self.cursor.text.as_bytes();
        let stop = next_lone_end(bytes, at, sign).unwrap_or(sign);
        let before = memchr::memrchr(b'\n', &bytes[at..stop]);
        before.map_or(at, |newline| at + newline + 1)
    }

    /// Where the line that begins at `at` ends, continued ones included, without its line end.
    fn logical_end(&self, at: usize) -> usize {
        let continues = self.dialect().continues;
        let comment = self.is_comment(self.cursor.text[at..].trim_start_matches([' ', '\t']));
        let bytes = self.cursor.text.as_bytes();
        let mut from = at;
        loop {
            let newline = memchr::memchr(b'\n', &bytes[from..]).map_or(bytes.len(), |n| from + n);
            let mut end = newline;
            if end > at && bytes[end - 1] == b'\r' {
                end -= 1;
            }
            let backslashes = bytes[at..end]
                .iter()
                .rev()
                .take_while(|b| **b == b'\\')
                .count();
            if continues && !comment && backslashes % 2 == 1 && newline < bytes.len() {
                from = newline + 1;
            } else {
                return end;
            }
        }
    }

    fn is_comment(&self, line: &str) -> bool {
        let Some(first) = line.as_bytes().first() else {
            return false;
        };
        self.dialect().comments.iter().any(|sign| {
            sign.as_bytes()[0] == *first
                && line.starts_with(sign)
                && (sign.len() == 1
                    || line[sign.len()..].is_empty()
                    || line[sign.len()..].starts_with([' ', '\t']))
        })
    }

    fn line(&mut self, start: usize, end: usize) {
        let line = &self.cursor.text[start..end];
        if let Some(recipe) = &self.wear.recipe
            && line.starts_with('\t')
        {
            let commands = line.trim_start_matches(['\t', ' ', '@', '-', '+']);
            let grammar = recipe.read(
                self.cursor.text,
                end - commands.len()..end,
                self.cursor.each,
            );
            return self
                .cursor
                .note(grammar != Grammar::Broken, Grammar::Escapes);
        }
        let start = start + line.len() - line.trim_start().len();
        let line = self.cursor.text[start..end].trim_end();
        let span = start..start + line.len();
        if line.is_empty() {
            return;
        }
        if self.is_comment(line) {
            return self.prose(span);
        }
        match self.dialect().shape {
            Shape::Place => {
                let line = self.wear.line.clone();
                self.emit(span, &line, Role::Value, Hint::Name, None);
            }
            Shape::Words => self.words(span),
            Shape::Entry if line.starts_with('[') && self.dialect().sections => self.head(span),
            Shape::Entry => self.entry(span),
        }
    }

    /// Whether lines hold the names of files: those of a playlist, in either form.
    pub(super) fn lists_files(&self) -> bool {
        let section = || self.section.as_deref().unwrap_or_default();
        self.dialect().shape == Shape::Place || section().eq_ignore_ascii_case("playlist")
    }

    /// A key and its value.
    fn entry(&mut self, span: Range<usize>) {
        let line = &self.cursor.text[span.clone()];
        let Some(parting) = self.parting(line) else {
            // A key alone, a continued value, or another syntax altogether.
            let plain = self.wear.plain.clone();
            return self.emit(span, &plain, Role::Value, Hint::Code, None);
        };
        let key = line[..parting].trim_end();
        let mut value = parting + line[parting..].chars().next().map_or(0, char::len_utf8);
        if self.dialect().joined_separators {
            value += line[value..].bytes().take_while(|b| *b == b'=').count();
        }
        value += line[value..].len() - line[value..].trim_start().len();
        self.key(span.start..span.start + key.len());
        if value < line.len() {
            let name = key.strip_prefix("export ").unwrap_or(key).trim();
            self.value(span.start + value..span.end, name);
        }
    }

    /// Where key and value part.
    fn parting(&self, line: &str) -> Option<usize> {
        let escaped = self.dialect().key_escapes.is_some();
        let mut backslash = false;
        let bytes = line.as_bytes();
        let found = line.bytes().enumerate().find(|(at, letter)| {
            let was = backslash;
            backslash = escaped && *letter == b'\\' && !was;
            let parts = self.dialect().separators.contains(letter)
                || (escaped && matches!(letter, b' ' | b'\t'));
            if was || !parts {
                return false;
            }
            // The colon of a drive, a scheme or a time parts nothing.
            let next = bytes.get(at + 1).copied();
            *letter != b':'
                || escaped
                || next.is_none_or(|b| matches!(b, b' ' | b'\t' | b'='))
                || (*at > 1 && begins_with_root(&line[..*at], &line[at + 1..]))
        });
        let found = found.map(|(at, _)| at);
        if !escaped {
            return found;
        }
        // A blank parts them too, unless a sign follows it.
        let found = found?;
        let rest = line[found..].trim_start_matches([' ', '\t']);
        if rest.starts_with(['=', ':']) {
            Some(line.len() - rest.len())
        } else {
            Some(found)
        }
    }

    fn head(&mut self, span: Range<usize>) {
        let line = &self.cursor.text[span.clone()];
        let Some(close) = line.find(']') else {
            self.cursor.grammar = Grammar::Broken;
            return;
        };
        self.section = Some(line[1..close].to_owned());
        self.scope += 1;
        let role = Role::Name {
            scope: 0,
            ignore_case: false,
            outlives_import: false,
        };
        let worn = self.wear.name.clone();
        let name = span.start + 1..span.start + close;
        self.emit(name, &worn, role, Hint::Name, None);
        self.prose(span.start + close + 1..span.end);
    }

    fn key(&mut self, span: Range<usize>) {
        if !crate::scan::may_hold_place(&self.cursor.text[span.clone()]) {
            return;
        }
        let role = Role::Name {
            scope: self.scope,
            ignore_case: false,
            outlives_import: false,
        };
        let layers = self.wear.key.clone();
        self.emit(span, &layers, role, Hint::Name, None);
    }

    /// A line of words: its quoted strings are values, the rest running text.
    fn words(&mut self, span: Range<usize>) {
        let line = &self.cursor.text[span.clone()];
        let word = line.split(' ').next().unwrap_or("").to_owned();
        match (line.find('"'), line.rfind('"')) {
            (Some(open), Some(close)) if open < close => {
                let quoted = self.wear.quoted.clone();
                let inside = span.start + open + 1..span.start + close;
                self.emit(inside, &quoted, Role::Value, Hint::Name, Some(&word));
            }
            _ => self.prose(span),
        }
    }

    /// Yields running text.
    pub(super) fn prose(&mut self, span: Range<usize>) {
        let plain = self.wear.plain.clone();
        self.emit(span, &plain, Role::Prose, Hint::Prose, None);
    }

    pub(super) fn emit(
        &mut self,
        span: Range<usize>,
        layers: &Layers,
        role: Role,
        hint: Hint,
        key: Option<&str>,
    ) {
        let site = match key {
            Some(key) => self
                .way
                .through(self.section.as_deref().into_iter().chain([key])),
            None => &[],
        };
        self.cursor.emit(span, layers, role, hint, site);
    }
}

/// Whether a place with a root of its own follows the colon of `key`.
fn begins_with_root(key: &str, value: &str) -> bool {
    const SCHEMES: [&str; 3] = ["file", "http", "https"];
    let bytes = value.as_bytes();
    let drive = bytes.first().is_some_and(u8::is_ascii_alphabetic)
        && bytes.get(1) == Some(&b':')
        && matches!(bytes.get(2), Some(b'\\' | b'/'));
    let share = value.starts_with(r"\\");
    let posix = value.starts_with('/') && !value.starts_with("//");
    drive || ((share || posix) && !SCHEMES.contains(&key.trim()))
}
