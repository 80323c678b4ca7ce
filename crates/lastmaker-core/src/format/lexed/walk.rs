//! Reads a document from string to string.

use std::ops::Range;

use super::lexer::{Lexeme, key_before, pattern_end, words};
use super::statements::whole_statements;
use super::wrappings::Wrappings;
use super::{Between, Delimiters, Inside, Keys, Syntax};
use crate::format::cursor::Cursor;
use crate::format::way::Way;
use crate::format::{
    Grammar, MOST_STEPS, Passage, Reader, Records, Role, address_role, is_drive_alone,
    is_lone_letter, open_bracket, string_role,
};
use crate::layer::Layers;
use crate::scan::{Hint, OF_PLACES, Upcoming, is_file_name};

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let mut walk = Walk::new(self, text, each);
        walk.read();
        walk.cursor.grammar
    }

    fn whole_records(&self, text: &str, _: u64) -> Option<Records> {
        whole_statements(self, text)
    }
}

/// One walk through a document.
pub(super) struct Walk<'a, 'e> {
    wear: &'a Wrappings,
    cursor: Cursor<'a, 'e>,
    /// The last key, as it was before what may tell another.
    key: Option<&'a str>,
    /// The last code that has a key at its end or begins something else: most keys are never asked for.
    telling: Option<&'a str>,
    /// The letters of places.
    upcoming: Upcoming<'a>,
    section: Option<&'a str>,
    depth: Vec<&'a str>,
    way: Way,
    scope: usize,
    fresh_key: bool,
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
            key: None,
            telling: None,
            upcoming: Upcoming::new(text, 0, &[OF_PLACES]),
            section: None,
            depth: Vec::new(),
            way: Way::default(),
            scope: 0,
            fresh_key: true,
        }
    }

    fn syntax(&self) -> &'static Syntax {
        self.wear.syntax
    }

    pub(super) fn read(&mut self) {
        let syntax = self.syntax();
        let beginnings = &self.wear.beginnings;
        let bytes = self.cursor.text.as_bytes();
        // The line that names a script's interpreter is a comment in any language.
        let mut at = 0;
        if self.cursor.text.starts_with("#!") && syntax.comment_end(self.cursor.text, 0).is_none() {
            at = self
                .cursor
                .text
                .find('\n')
                .unwrap_or(self.cursor.text.len());
            self.comment(0..at);
        }
        let mut between = at;
        while at < bytes.len() {
            let Some(next) = beginnings.next(self.cursor.text, at) else {
                break;
            };
            at = next;
            let comment = if beginnings.of_comment(bytes[at]) {
                syntax.comment_end(self.cursor.text, at)
            } else {
                None
            };
            if let Some(end) = comment {
                self.code(between..at);
                self.comment(at..end);
                at = end;
                between = at;
            } else if let Some(lexeme) = syntax.string_at(beginnings, self.cursor.text, at) {
                self.code(between..at);
                at = lexeme.over.unwrap_or(lexeme.inside.end);
                between = at;
                self.string(lexeme);
            } else {
                at = self.sign(at);
            }
            while !self.cursor.text.is_char_boundary(at) {
                at += 1;
            }
        }
        self.code(between..bytes.len());
    }

    /// Passes a sign that begins neither comment nor string.
    fn sign(&mut self, at: usize) -> usize {
        let sign = self.cursor.text.as_bytes()[at];
        let syntax = self.syntax();
        if matches!(syntax.between, Between::CodeWithPatterns) && sign == b'/' {
            return pattern_end(self.cursor.text, at);
        }
        if syntax.keys.are_pairs() && matches!(sign, b'{' | b'}') {
            self.nest(sign == b'{');
        }
        at + 1
    }

    fn string(&mut self, lexeme: Lexeme) {
        let Lexeme { kind, inside, over } = lexeme;
        let quote = self.syntax().quotes[kind];
        self.cursor.note(over.is_some(), Grammar::Broken);
        if matches!(quote.delimiters, Delimiters::LongBrackets) {
            let (plain, hint) = (self.wear.plain.clone(), self.hint());
            return self.emit(inside, &plain, Role::Value, hint);
        }
        let text = self.cursor.text;
        let Some(raw) = text.get(inside.clone()) else {
            self.cursor.grammar = Grammar::Broken;
            return;
        };
        let is_key = self.is_key(over);
        let mut role = if is_key {
            Role::Name {
                scope: self.scope,
                ignore_case: false,
                outlives_import: false,
            }
        } else if self.syntax().names_files {
            address_role(raw)
        } else {
            Role::Value
        };
        let named = self.upcoming.sign(inside.start) < inside.end;
        if let Inside::Escaped(escapes) | Inside::Formatted(escapes) | Inside::Bytes(escapes) =
            quote.inside
            // A backslash is among the letters of places.
            && (named || escapes.mark != b'\\')
        {
            let (told, sound) = string_role(raw, escapes, role);
            role = told;
            self.cursor.note(sound, Grammar::Escapes);
        }
        let names_file = || self.syntax().names_files && is_file_name(raw);
        let matters = named || is_lone_letter(raw) || names_file();
        let hint = if is_key || !matters {
            Hint::Name
        } else if self.hint() == Hint::Literal && is_drive_alone(raw) {
            Hint::Literal
        } else if in_list(self.cursor.text, inside.start) {
            Hint::Word
        } else {
            self.hint()
        };
        if is_key {
            self.has_key(Some(raw));
        }
        if matters {
            let layers = self.wear.of_quote(kind, self.cursor.text).clone();
            self.emit(inside, &layers, role, hint);
        }
        if !is_key && self.syntax().keys.are_pairs() {
            self.has_key(None);
        }
    }

    /// Whether a string that is over at `over` is a key.
    fn is_key(&mut self, over: Option<usize>) -> bool {
        let keys = self.syntax().keys;
        if keys.are_pairs() {
            let key = self.fresh_key;
            self.fresh_key = !key;
            return key;
        }
        let following = over
            .and_then(|over| self.cursor.text.get(over..))
            .unwrap_or("");
        let next = following.trim_start_matches([' ', '\t']).bytes().next();
        next.is_some_and(|b| keys.signs().contains(&b))
    }

    fn nest(&mut self, opens: bool) {
        if opens {
            let key = self.key();
            self.has_key(None);
            self.depth.push(key.unwrap_or_default());
            self.scope += 1;
        } else {
            self.cursor
                .note(self.depth.pop().is_some(), Grammar::Broken);
        }
        self.fresh_key = true;
    }

    fn comment(&mut self, span: Range<usize>) {
        let sign = self.upcoming.sign(span.start);
        if sign >= span.end || self.syntax().is_idle(&self.cursor.text[span.clone()]) {
            return;
        }
        self.emit(span, &self.wear.plain.clone(), Role::Prose, Hint::Prose);
    }

    /// Text between strings and comments: yields its lines, and keeps the last key.
    fn code(&mut self, span: Range<usize>) {
        let whole = self.cursor.text;
        let Some(text) = whole.get(span.clone()) else {
            return;
        };
        let keys = self.syntax().keys;
        if let Keys::InSections(_) = keys {
            self.sections(text);
        }
        if !keys.are_pairs() {
            self.pass(text);
        }
        if self.upcoming.sign(span.start) >= span.end {
            return;
        }
        match self.syntax().between {
            Between::Text => {
                self.emit(span, &self.wear.plain.clone(), Role::Prose, Hint::Code);
            }
            Between::Code | Between::CodeWithPatterns => {
                let plain = self.wear.plain.clone();
                let mut at = span.start;
                while let Some(name) = included(self.cursor.text, at..span.end) {
                    self.emit(at..name.start, &plain, Role::Stray, Hint::Code);
                    self.emit(name.clone(), &plain, Role::Value, Hint::Literal);
                    at = name.end;
                }
                self.emit(at..span.end, &plain, Role::Stray, Hint::Code);
            }
            Between::Words(escapes) => {
                let word = self.wear.word.clone();
                let goes_on = self.cursor.text[..span.start].ends_with(['"', '\'']);
                for range in words(text, escapes.mark, goes_on) {
                    let range = span.start + range.start..span.start + range.end;
                    if crate::scan::may_hold_place(&self.cursor.text[range.clone()]) {
                        self.emit(range, &word, Role::Value, Hint::Word);
                    }
                }
            }
        }
    }

    /// Notes the code that comes before a string, which may tell its key.
    fn pass(&mut self, text: &'a str) {
        if text.bytes().any(|byte| byte.is_ascii_alphanumeric()) {
            self.telling = Some(text);
        } else if text
            .bytes()
            .any(|byte| !byte.is_ascii() || b"_-.".contains(&byte))
        {
            let key = self.key();
            self.has_key(key_at_end(text, self.syntax().keys, key));
        }
    }

    /// The last key.
    fn key(&mut self) -> Option<&'a str> {
        if let Some(text) = self.telling.take() {
            self.key = key_at_end(text, self.syntax().keys, None);
        }
        self.key
    }

    /// Makes this the last key.
    fn has_key(&mut self, key: Option<&'a str>) {
        self.telling = None;
        self.key = key;
    }

    /// Begins the sections whose heads are lines of `text`.
    fn sections(&mut self, text: &'a str) {
        if memchr::memchr(b'[', text.as_bytes()).is_none() {
            return;
        }
        for line in text.lines().map(str::trim) {
            if line.starts_with('[') && line.ends_with(']') {
                self.section = Some(line.trim_matches(['[', ']']).trim());
                self.scope += 1;
                self.has_key(None);
            }
        }
    }

    fn hint(&mut self) -> Hint {
        let between = self.syntax().between;
        let source = matches!(between, Between::Code | Between::CodeWithPatterns);
        match self.key() {
            Some(key) => Hint::for_value(key),
            None if source => Hint::Literal,
            None => Hint::Name,
        }
    }

    fn emit(&mut self, span: Range<usize>, layers: &Layers, role: Role, hint: Hint) {
        // The innermost names tell enough.
        let key = self.key();
        let depth = &self.depth[self.depth.len().saturating_sub(MOST_STEPS)..];
        let names = self.section.iter().chain(depth).chain(&key);
        let site = match role {
            Role::Prose => &[],
            _ => self.way.through(names.copied()),
        };
        self.cursor.emit(span, layers, role, hint, site);
    }
}

/// The key that code ends with; `before` where it has none and begins nothing else.
fn key_at_end<'t>(text: &'t str, keys: Keys, before: Option<&'t str>) -> Option<&'t str> {
    match key_before(text, keys.signs()) {
        Some(key) => Some(key),
        // Another word in between begins something else.
        None if text.contains(char::is_alphanumeric) => None,
        None => before,
    }
}

/// Whether what is at `at` is in square brackets by itself: an item of a list.
fn in_list(text: &str, at: usize) -> bool {
    open_bracket(text, at).is_some_and(|open| text.as_bytes()[open] == b'[')
}

/// The first name in angle brackets that `#include` takes in `span`.
fn included(text: &str, span: Range<usize>) -> Option<Range<usize>> {
    let inside = &text[span.clone()];
    let open = inside.find("include <")? + "include <".len();
    let line = inside[open..].lines().next()?;
    let length = line.find('>')?;
    let start = span.start + open;
    Some(start..start + length)
}
