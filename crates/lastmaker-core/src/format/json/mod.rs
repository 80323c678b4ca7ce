//! JSON (RFC 8259), with comments and trailing commas tolerated, and one document after
//! another (JSON lines).
//!
//! Yields keys, string values and comments. Leaves numbers and literals. A document that
//! breaks the grammar is read on: its sound strings are yielded as always, text outside of
//! strings as stray, and strings with evidently undoubled backslashes as typed by hand.

mod ends;

use std::ops::Range;
use std::sync::Arc;

use self::ends::{DOT, ESCAPE, Inside, SIGN, behind_blanks, inside_of, word_length};
use super::{
    Claim, Format, Grammar, Passage, Reader, Role, Sample, Step, Subject, is_lone_letter,
    string_role,
};
use crate::about::About;
use crate::codec::{Escaped, JSON, Style};
use crate::layer::{Layers, alone};
use crate::place::{Hint, may_name_file};
use crate::text::Encoding;

/// JSON and its tolerated dialects.
pub(super) struct Json;

const ABOUT: About = About {
    name: "json",
    what: "JSON, with comments and trailing commas tolerated, and JSON lines",
    content: "a brace or bracket at its start, and the grammar kept",
    names: &[".json", ".jsonc", ".jsonl", ".ndjson", ".geojson"],
    read: "keys, strings and comments, with escapes as the document has them",
    limits: "a string with undoubled backslashes is malformed (rewrite --repair mends it)",
};

impl Format for Json {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let (text, file_name) = (subject.text, subject.file_name);
        if ABOUT.is_named(file_name) {
            return Claim::Certain;
        }
        match begins(text) {
            true => Claim::Perhaps,
            false => Claim::No,
        }
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[Sample::new(
            "a.json",
            "{\"a\": \"b\"}\n",
            "{\"a\": \"",
            "\"}\n",
        )];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        let document = Style::of(text, &JSON, Style::default());
        Box::new(Wrappings {
            string: alone(Escaped {
                escapes: &JSON,
                document,
            }),
            plain: Arc::new([]),
        })
    }
}

/// A document's reader: the layers of each kind of string in it.
struct Wrappings {
    string: Layers,
    plain: Layers,
}

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        self.walk(text, each).read(false)
    }

    fn passages_if_kept(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        self.walk(text, each).read(true)
    }
}

impl Wrappings {
    fn walk<'a, 'e>(&'a self, text: &'a str, each: &'e mut dyn FnMut(Passage<'_>)) -> Walk<'a, 'e> {
        Walk {
            wear: self,
            text,
            frames: Vec::new(),
            site: Vec::new(),
            told: 0,
            scopes: 0,
            grammar: Grammar::Kept,
            each,
        }
    }
}

/// The text after the blanks and comments that it begins with.
fn behind_comments(text: &str) -> &str {
    let mut rest = text.trim_start();
    loop {
        let end = if rest.starts_with("//") {
            rest.find('\n')
        } else if rest.starts_with("/*") {
            rest.find("*/").map(|at| at + 2)
        } else {
            return rest;
        };
        rest = end.map_or("", |end| &rest[end..]).trim_start();
    }
}

/// Whether `text` begins as an object or a list does; the head of a section is no list.
fn begins(text: &str) -> bool {
    let text = behind_comments(text);
    let Some(object) = text.strip_prefix('{') else {
        let item = |rest: &str| {
            let words = ["true", "false", "null"];
            rest.is_empty()
                || rest.starts_with(|c: char| "\"{[]-".contains(c) || c.is_ascii_digit())
                || words.iter().any(|word| rest.starts_with(word))
        };
        let list = text.strip_prefix('[').map(behind_comments);
        return list.is_some_and(item);
    };
    let first = behind_comments(object);
    first.is_empty() || first.starts_with(['"', '}'])
}

/// What may come next.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Next {
    KeyOrEnd,
    Colon,
    Value,
    ValueOrEnd,
    CommaOrEnd,
}

struct Frame {
    object: bool,
    scope: usize,
    next: Next,
    /// The last key, if the way does not tell it yet: most are never told.
    key: Option<Range<usize>>,
}

/// One walk through a document.
struct Walk<'a, 'e> {
    wear: &'a Wrappings,
    text: &'a str,
    frames: Vec<Frame>,
    site: Vec<Step>,
    /// Of how many frames the way tells the last key.
    told: usize,
    scopes: usize,
    grammar: Grammar,
    each: &'e mut dyn FnMut(Passage<'_>),
}

impl Walk<'_, '_> {
    /// Reads the document, or only until its grammar is broken.
    fn read(mut self, until_broken: bool) -> Grammar {
        let bytes = self.text.as_bytes();
        let mut at = 0;
        while at < bytes.len() {
            if until_broken && self.grammar == Grammar::Broken {
                return self.grammar;
            }
            match bytes[at] {
                b' ' | b'\t' | b'\r' | b'\n' => at = behind_blanks(bytes, at + 1),
                b'"' => at = self.string_and_sign(at),
                b'{' | b'[' => {
                    self.begin(bytes[at] == b'{');
                    at += 1;
                }
                b'}' | b']' => {
                    self.end(bytes[at] == b'}');
                    at += 1;
                }
                sign @ (b',' | b':') => {
                    self.sign(sign);
                    at = behind_blanks(bytes, at + 1);
                }
                b'/' if matches!(bytes.get(at + 1), Some(b'/' | b'*')) => at = self.comment(at),
                _ => at = self.bare(at),
            }
        }
        self.grammar.note(self.frames.is_empty(), Grammar::Broken);
        self.grammar
    }

    fn expected(&self) -> Next {
        self.frames.last().map_or(Next::Value, |frame| frame.next)
    }

    fn expect_next(&mut self, next: Next) {
        if let Some(frame) = self.frames.last_mut() {
            frame.next = next;
        }
    }

    /// Notes that a value begins here.
    fn value(&mut self) {
        if !matches!(self.expected(), Next::Value | Next::ValueOrEnd) {
            self.grammar = Grammar::Broken;
        }
        self.expect_next(Next::CommaOrEnd);
    }

    fn begin(&mut self, object: bool) {
        self.value();
        self.scopes += 1;
        self.site.push(if object {
            Step::Key(String::new())
        } else {
            Step::Index(0)
        });
        self.frames.push(Frame {
            object,
            scope: self.scopes,
            next: if object {
                Next::KeyOrEnd
            } else {
                Next::ValueOrEnd
            },
            key: None,
        });
    }

    fn end(&mut self, object: bool) {
        let Some(frame) = self.frames.pop() else {
            self.grammar = Grammar::Broken;
            return;
        };
        self.site.pop();
        let may_end = matches!(
            frame.next,
            Next::KeyOrEnd | Next::ValueOrEnd | Next::CommaOrEnd
        );
        if frame.object != object || !may_end {
            self.grammar = Grammar::Broken;
        }
    }

    fn comma(&mut self) {
        if self.expected() != Next::CommaOrEnd {
            self.grammar = Grammar::Broken;
        }
        if let Some(frame) = self.frames.last_mut() {
            frame.next = if frame.object {
                Next::KeyOrEnd
            } else {
                Next::ValueOrEnd
            };
        }
        if let Some(Step::Index(index)) = self.site.last_mut() {
            *index += 1;
        }
    }

    fn colon(&mut self) {
        if self.expected() != Next::Colon {
            self.grammar = Grammar::Broken;
        }
        self.expect_next(Next::Value);
    }

    fn sign(&mut self, sign: u8) {
        match sign {
            b',' => self.comma(),
            _ => self.colon(),
        }
    }

    /// Reads the string at `at`, and the sign that mostly follows it right away.
    fn string_and_sign(&mut self, at: usize) -> usize {
        let end = self.string(at);
        let bytes = self.text.as_bytes();
        match bytes.get(end) {
            Some(sign @ (b',' | b':')) => {
                self.sign(*sign);
                behind_blanks(bytes, end + 1)
            }
            _ => end,
        }
    }

    /// Reads the string that begins with the quote at `at`; returns where it ends.
    fn string(&mut self, at: usize) -> usize {
        let start = at + 1;
        let Inside { end, closed, seen } = inside_of(self.text.as_bytes(), start);
        let span = start..end;
        let raw = &self.text[span.clone()];
        let name = self.expected() == Next::KeyOrEnd;
        if name {
            self.expect_next(Next::Colon);
        } else {
            self.value();
        }
        if !closed {
            self.grammar = Grammar::Broken;
        }
        if name && let Some(frame) = self.frames.last_mut() {
            frame.key = Some(span.clone());
            self.told = self.told.min(self.frames.len() - 1);
        }
        let next = if closed { span.end + 1 } else { span.end };
        // Names that cannot be places cannot become equal to one that changes either.
        let escapes = seen & ESCAPE != 0;
        let named = !name && seen & DOT != 0 && may_name_file(raw);
        let matters = seen & (SIGN | ESCAPE) != 0 || named || is_lone_letter(raw);
        if closed && !matters {
            return next;
        }
        let scope = self.frames.last().map_or(0, |frame| frame.scope);
        let normal = if name {
            Role::Name {
                scope,
                ignore_case: false,
                outlives_import: false,
            }
        } else {
            Role::Value
        };
        let (told, sound) = match escapes {
            true => string_role(raw, &JSON, normal),
            false => (normal, true),
        };
        self.grammar.note(sound, Grammar::Escapes);
        let role = if closed { told } else { Role::Stray };
        self.tell_keys();
        let hint = match self.site.last() {
            _ if name => Hint::Name,
            Some(Step::Key(key)) => Hint::for_value(key),
            Some(Step::Index(_)) => Hint::Word,
            _ => Hint::Name,
        };
        self.emit(span, role, hint);
        next
    }

    /// Makes the way tell the last keys.
    fn tell_keys(&mut self) {
        let told = self.told.min(self.frames.len());
        let frames = self.frames[told..].iter_mut();
        for (frame, step) in frames.zip(&mut self.site[told..]) {
            if let (Some(key), Step::Key(told)) = (frame.key.take(), step) {
                self.text[key].clone_into(told);
            }
        }
        self.told = self.frames.len();
    }

    fn comment(&mut self, at: usize) -> usize {
        let bytes = self.text.as_bytes();
        let rest = &bytes[at + 2..];
        let (length, closing) = if bytes[at + 1] == b'/' {
            (memchr::memchr(b'\n', rest).unwrap_or(rest.len()), 0)
        } else {
            match memchr::memmem::find(rest, b"*/") {
                Some(length) => (length, 2),
                None => {
                    self.grammar = Grammar::Broken;
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
        let bytes = self.text.as_bytes();
        let mut end = at + word_length(&bytes[at..]);
        let word = &self.text[at..end.max(at)];
        let number = |word: &str| {
            let digits = word.bytes().all(|byte| byte.is_ascii_digit());
            digits || word.parse::<f64>().is_ok()
        };
        let number = word.starts_with(|c: char| c == '-' || c.is_ascii_digit()) && number(word);
        if number || matches!(word, "true" | "false" | "null") {
            self.value();
            return end;
        }
        self.grammar = Grammar::Broken;
        self.expect_next(Next::CommaOrEnd);
        let is_line_end = |b: &u8| b"\r\n,]}{[\"".contains(b);
        end = at
            + bytes[at..]
                .iter()
                .position(is_line_end)
                .unwrap_or(bytes.len() - at);
        let end = end.max(at + 1);
        self.emit(at..end, Role::Stray, Hint::Code);
        end
    }

    fn emit(&mut self, span: Range<usize>, role: Role, hint: Hint) {
        if span.is_empty() || self.text.get(span.clone()).is_none() {
            return;
        }
        let layers = match role {
            Role::Value | Role::Name { .. } | Role::ByHand => &self.wear.string,
            _ => &self.wear.plain,
        };
        let prose = matches!(role, Role::Prose);
        self.tell_keys();
        (self.each)(Passage {
            span,
            layers,
            role,
            hint,
            site: if prose { &[] } else { &self.site },
        });
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::site_text;

    fn read(text: &str) -> (Vec<(String, String, &'static str)>, bool) {
        let mut all = Vec::new();
        let grammar = Json.passages(text, Encoding::Utf8, &mut |passage| {
            let role = match passage.role {
                Role::Value => "value",
                Role::Name { .. } => "name",
                Role::Prose => "prose",
                Role::Stray => "stray",
                Role::ByHand => "by hand",
                Role::Torn { .. } | Role::Mixed | Role::Counted | Role::Foreign(_) => "mixed",
            };
            all.push((
                site_text(passage.site),
                text[passage.span.clone()].to_owned(),
                role,
            ));
        });
        (all, grammar == Grammar::Kept)
    }

    #[test]
    fn passages_and_their_sites() {
        let text = r#"{"a": {"b": ["x", "y"], "c": 1}, /* note */ "d": "z"}"#;
        let (all, fine) = read(text);
        assert!(fine);
        let got: Vec<_> = all
            .iter()
            .map(|(s, t, r)| (s.as_str(), t.as_str(), *r))
            .collect();
        assert_eq!(
            got,
            [
                ("a", "a", "name"),
                ("a.b", "b", "name"),
                ("a.b[0]", "x", "value"),
                ("a.b[1]", "y", "value"),
                ("a.c", "c", "name"),
                ("", " note ", "prose"),
                ("d", "d", "name"),
                ("d", "z", "value"),
            ]
        );
    }

    #[test]
    fn documents_that_break_the_grammar_are_read_on() {
        let cases = [
            (r#"{"a": "D:\new"}"#, "by hand", true),
            (r#"{"a": "D:\Herbarium"}"#, "by hand", false),
            (r#"{"a": 'D:\x', "b": 1}"#, "stray", false),
            ("{\"a\": \"D:\\\\x\n}", "stray", false),
            (r#"{"a": "\q"}"#, "stray", false),
        ];
        for (text, role, fine) in cases {
            let (all, got) = read(text);
            assert_eq!((all[1].2, got), (role, fine), "{text}");
        }
        assert!(!read(r#"{"a": [1, 2}"#).1);
        assert!(!read(r#"{"a" 1}"#).1);
        assert!(!read(r#"[1,,2]"#).1);
        assert!(read(r#"[1,2,]"#).1);
    }

    #[test]
    fn nesting_costs_no_stack() {
        let deep = "[".repeat(200_000) + &"]".repeat(200_000);
        assert!(read(&deep).1);
    }
}
