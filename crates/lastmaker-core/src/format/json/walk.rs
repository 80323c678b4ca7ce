//! Reads a JSON document from token to token.

use std::ops::Range;

use super::super::blocks::{Blocks, DOT, ESCAPE, Inside, SIGN};
use super::super::{Grammar, Passage, Role, is_lone_letter, string_role};
use super::Wrappings;
use super::frames::{Frames, Kind};
use crate::base::chunk::{Chunk, length_until};
use crate::codec::JSON;
use crate::format::cursor::Cursor;
use crate::scan::{Hint, may_name_file};

/// What may come next.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Next {
    KeyOrEnd,
    Colon,
    Value,
    ValueOrEnd,
    CommaOrEnd,
}

/// One walk through a document.
pub(super) struct Walk<'a, 'e> {
    wear: &'a Wrappings,
    cursor: Cursor<'a, 'e>,
    blocks: Blocks<'a>,
    frames: Frames<'a>,
    next: Next,
    /// Where the last object or list is over that is in none.
    closed: usize,
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
            blocks: Blocks::of(text.as_bytes()),
            frames: Frames::new(text),
            next: Next::Value,
            closed: 0,
        }
    }

    /// Where the last line ends behind which nothing is open, if one does.
    pub(super) fn last_line_outside(mut self) -> Option<usize> {
        self.read(false);
        let rest = &self.cursor.text[self.closed..];
        let end = self.closed + rest.find('\n')? + 1;
        let blank = self.cursor.text[self.closed..end].trim().is_empty();
        (self.closed > 0 && blank).then_some(end)
    }

    /// Reads the document, or only until its grammar is broken.
    pub(super) fn read(&mut self, until_broken: bool) -> Grammar {
        let bytes = self.cursor.text.as_bytes();
        let mut at = self.blocks.behind_blanks(0);
        while at < bytes.len() {
            if until_broken && self.cursor.grammar == Grammar::Broken {
                return self.cursor.grammar;
            }
            let end = match bytes[at] {
                b'"' => self.string_and_sign(at),
                b',' => {
                    self.comma();
                    at + 1
                }
                b':' => {
                    self.colon();
                    at + 1
                }
                b'{' => {
                    self.begin(Kind::Object, Next::KeyOrEnd);
                    at + 1
                }
                b'[' => {
                    self.begin(Kind::List, Next::ValueOrEnd);
                    at + 1
                }
                b'}' => {
                    self.end(Kind::Object, at);
                    at + 1
                }
                b']' => {
                    self.end(Kind::List, at);
                    at + 1
                }
                b'/' if matches!(bytes.get(at + 1), Some(b'/' | b'*')) => self.comment(at),
                _ => self.bare(at),
            };
            at = self.blocks.behind_blanks(end);
        }
        self.cursor.note(self.frames.are_closed(), Grammar::Broken);
        self.cursor.grammar
    }

    /// What comes behind a value.
    #[inline(always)]
    fn behind_value(&self) -> Next {
        match self.frames.last().kind {
            Kind::Document => Next::Value,
            Kind::Object | Kind::List => Next::CommaOrEnd,
        }
    }

    /// Notes that what comes here is not what may.
    #[inline(always)]
    fn note(&mut self, fine: bool) {
        self.cursor.note(fine, Grammar::Broken);
    }

    /// Notes that a value begins here.
    #[inline(always)]
    fn value(&mut self) {
        self.note(matches!(self.next, Next::Value | Next::ValueOrEnd));
        self.next = self.behind_value();
    }

    #[inline(always)]
    fn begin(&mut self, kind: Kind, next: Next) {
        self.value();
        self.frames.begin(kind);
        self.next = next;
    }

    #[inline(always)]
    fn end(&mut self, kind: Kind, at: usize) {
        let may_end = matches!(
            self.next,
            Next::KeyOrEnd | Next::ValueOrEnd | Next::CommaOrEnd
        );
        let ended = self.frames.end();
        self.note(may_end && ended == Some(kind));
        if self.frames.are_closed() {
            self.closed = at + 1;
        }
        self.next = self.behind_value();
    }

    #[inline(always)]
    fn comma(&mut self) {
        self.note(self.next == Next::CommaOrEnd);
        self.next = match self.frames.last().kind {
            Kind::Document => Next::Value,
            Kind::Object => Next::KeyOrEnd,
            Kind::List => {
                self.frames.item();
                Next::ValueOrEnd
            }
        };
    }

    #[inline(always)]
    fn colon(&mut self) {
        self.note(self.next == Next::Colon);
        self.next = Next::Value;
    }

    /// Reads the string at `at`, and the sign that mostly follows it right away.
    #[inline(always)]
    fn string_and_sign(&mut self, at: usize) -> usize {
        let end = self.string(at);
        match self.cursor.text.as_bytes().get(end) {
            Some(b',') => self.comma(),
            Some(b':') => self.colon(),
            _ => return end,
        }
        end + 1
    }

    /// Reads the string that begins with the quote at `at`; returns where it ends.
    #[inline(always)]
    fn string(&mut self, at: usize) -> usize {
        let start = at + 1;
        let Inside { end, closed, seen } = self.blocks.inside_of(start);
        let name = self.next == Next::KeyOrEnd;
        if name {
            self.next = Next::Colon;
            self.frames.named(start..end);
        } else {
            self.value();
        }
        let raw = &self.cursor.text[start..end];
        // Names that cannot be places cannot become equal to one that changes either.
        let named = || !name && seen & DOT != 0 && may_name_file(raw);
        if closed && seen & (SIGN | ESCAPE) == 0 && !is_lone_letter(raw) && !named() {
            return end + 1;
        }
        self.note(closed);
        self.tell(start..end, name, closed, seen & ESCAPE != 0);
        if closed { end + 1 } else { end }
    }

    /// Yields a string that may name a place or a file.
    #[inline(never)]
    fn tell(&mut self, span: Range<usize>, name: bool, closed: bool, escapes: bool) {
        let last = self.frames.last();
        let normal = if name {
            Role::Name {
                scope: last.scope,
                ignore_case: false,
                outlives_import: false,
            }
        } else {
            Role::Value
        };
        let hint = match last.kind {
            _ if name => Hint::Name,
            Kind::Object => Hint::for_value(self.frames.key()),
            Kind::List => Hint::Word,
            Kind::Document => Hint::Name,
        };
        let (told, sound) = if escapes {
            string_role(&self.cursor.text[span.clone()], &JSON, normal)
        } else {
            (normal, true)
        };
        self.cursor.note(sound, Grammar::Escapes);
        let role = if closed { told } else { Role::Stray };
        self.emit(span, role, hint);
    }

    fn comment(&mut self, at: usize) -> usize {
        let bytes = self.cursor.text.as_bytes();
        let rest = &bytes[at + 2..];
        let (length, closing) = if bytes[at + 1] == b'/' {
            (memchr::memchr(b'\n', rest).unwrap_or(rest.len()), 0)
        } else {
            match memchr::memmem::find(rest, b"*/") {
                Some(length) => (length, 2),
                None => {
                    self.note(false);
                    (rest.len(), 0)
                }
            }
        };
        let span = at + 2..at + 2 + length;
        self.emit(span.clone(), Role::Prose, Hint::Prose);
        span.end + closing
    }

    /// Text outside of strings: a number or a literal, or else something that breaks the
    /// grammar and goes on to the end of its line.
    fn bare(&mut self, at: usize) -> usize {
        let bytes = self.cursor.text.as_bytes();
        let end = at + word_length(&bytes[at..]);
        let word = &self.cursor.text[at..end];
        let number = |word: &str| {
            let digits = word.bytes().all(|byte| byte.is_ascii_digit());
            digits || word.parse::<f64>().is_ok()
        };
        let number = word.starts_with(|c: char| c == '-' || c.is_ascii_digit()) && number(word);
        if number || matches!(word, "true" | "false" | "null") {
            self.value();
            return end;
        }
        self.note(false);
        self.next = self.behind_value();
        let ends = |byte: &u8| b"\r\n,]}{[\"".contains(byte);
        let length = bytes[at..].iter().position(ends);
        let end = (at + length.unwrap_or(bytes.len() - at)).max(at + 1);
        self.emit(at..end, Role::Stray, Hint::Code);
        end
    }

    fn emit(&mut self, span: Range<usize>, role: Role, hint: Hint) {
        let layers = match role {
            Role::Value | Role::Name { .. } | Role::Undoubled => &self.wear.string,
            _ => &self.wear.plain,
        };
        let site = match role {
            Role::Prose => &[],
            _ => self.frames.way(),
        };
        self.cursor.emit(span, layers, role, hint, site);
    }
}

/// How many letters there are before the end of a number or a literal.
fn word_length(bytes: &[u8]) -> usize {
    // All that end it are among these, beside a plus and some that never are in it.
    let marked = |letters: Chunk| {
        let brackets = letters.equal(b'[').or(letters.equal(b']'));
        let braces = letters.equal(b'{').or(letters.equal(b'}'));
        let signs = letters.equal(b':').or(letters.equal(b'/'));
        letters.up_to(b',').or(signs).or(brackets).or(braces)
    };
    length_until(bytes, marked, |letter| {
        b" \t\r\n,:]}{[\"/".contains(&letter)
    })
}
