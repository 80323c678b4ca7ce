//! Reads YAML from token to token.

use std::ops::Range;

use super::Wrappings;
use super::containers::{self, Side};
use crate::base::chunk::{Chunk, length_until};
use crate::codec::YAML_DOUBLE;
use crate::format::cursor::Cursor;
use crate::format::way::Way;
use crate::format::{
    Grammar, MOST_STEPS, Namespace, Passage, Reader, Role, is_lone_letter, string_role,
};
use crate::layer::Layers;
use crate::scan::{Hint, OF_PLACES, Upcoming};

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let mut walk = Walk {
            wear: self,
            cursor: Cursor::new(text, each),
            at: 0,
            keys: Vec::new(),
            way: Way::default(),
            brackets: Vec::new(),
            item: false,
            scope: 0,
            line_start: (0, 0),
            upcoming: Upcoming::new(text, 0, &[OF_PLACES]),
        };
        walk.read();
        walk.cursor.note(walk.brackets.is_empty(), Grammar::Broken);
        walk.cursor.grammar
    }
}

struct Key<'a> {
    column: usize,
    name: &'a str,
}

/// One walk through a document.
struct Walk<'a, 'e> {
    wear: &'a Wrappings,
    cursor: Cursor<'a, 'e>,
    at: usize,
    /// The keys that the next scalar is under, outermost first.
    keys: Vec<Key<'a>>,
    way: Way,
    /// The brackets that are open, outermost first.
    brackets: Vec<u8>,
    /// Whether the next scalar is an item of a list by itself.
    item: bool,
    scope: usize,
    /// An offset, and where the line begins in which it is.
    line_start: (usize, usize),
    /// The letters of places.
    upcoming: Upcoming<'a>,
}

impl<'a> Walk<'a, '_> {
    fn read(&mut self) {
        while self.at < self.cursor.text.len() {
            let bytes = self.cursor.text.as_bytes();
            let line_start = self.at == 0 || bytes[self.at - 1] == b'\n';
            if line_start
                && self.brackets.is_empty()
                && matches!(bytes[self.at], b'%' | b'-' | b'.')
            {
                let line = self.line();
                if line.starts_with('%') || is_marker(line) {
                    self.at += if line.starts_with('%') { line.len() } else { 3 };
                    self.keys.clear();
                    self.scope += 1;
                    continue;
                }
            }
            self.token();
        }
    }

    /// The rest of the current line, without its end.
    fn line(&self) -> &str {
        let rest = &self.cursor.text[self.at..];
        let end = memchr::memchr(b'\n', rest.as_bytes()).unwrap_or(rest.len());
        rest[..end].trim_end_matches('\r')
    }

    fn column(&mut self, at: usize) -> usize {
        at - self.start_of_line(at)
    }

    /// Where the line begins in which `at` is. What is known of the last asked for is used
    /// again, so that many scalars on one long line cost no more than few.
    fn start_of_line(&mut self, at: usize) -> usize {
        if self.line_start.0 == at {
            return self.line_start.1;
        }
        let (known, start) = if self.line_start.0 < at {
            self.line_start
        } else {
            (0, 0)
        };
        let passed = &self.cursor.text.as_bytes()[known..at];
        let start = memchr::memrchr(b'\n', passed).map_or(start, |n| known + n + 1);
        self.line_start = (at, start);
        start
    }

    fn token(&mut self) {
        let bytes = self.cursor.text.as_bytes();
        let behind_blank = self.at == 0 || bytes[self.at - 1].is_ascii_whitespace();
        let next = bytes.get(self.at + 1).copied();
        let ends_word = next.is_none_or(|b| b.is_ascii_whitespace());
        match bytes[self.at] {
            b'\n' => self.at += 1,
            b' ' | b'\t' | b'\r' => {
                let blank = |byte: &&u8| matches!(**byte, b' ' | b'\t' | b'\r');
                self.at += bytes[self.at..].iter().take_while(blank).count();
            }
            b'#' if behind_blank => {
                let end = self.at + self.line().len();
                self.emit(self.at..end, &self.wear.bare, Role::Prose, Hint::Prose);
                self.at = end;
            }
            b'[' | b'{' => {
                self.item = bytes[self.at] == b'[';
                self.brackets.push(bytes[self.at]);
                self.scope += 1;
                self.at += 1;
            }
            b']' | b'}' => {
                let open = self.brackets.pop();
                self.cursor.note(open.is_some(), Grammar::Broken);
                self.item = false;
                self.at += 1;
            }
            b',' if !self.brackets.is_empty() => {
                self.item = self.brackets.last() == Some(&b'[');
                self.at += 1;
            }
            b'-' | b'?' if ends_word => {
                let column = self.column(self.at);
                self.leave(column);
                self.item = bytes[self.at] == b'-';
                self.at += 1;
            }
            b':' if ends_word || !self.brackets.is_empty() => self.at += 1,
            b'&' | b'!' | b'*' => {
                let word = self.cursor.text[self.at..].find(|c: char| {
                    c.is_whitespace() || (!self.brackets.is_empty() && ",]}".contains(c))
                });
                self.at = word.map_or(self.cursor.text.len(), |length| self.at + length);
            }
            b'|' | b'>' if self.brackets.is_empty() => self.block(),
            b'"' => self.quoted(b'"'),
            b'\'' => self.quoted(b'\''),
            _ => self.plain(),
        }
    }

    /// Forgets the keys at or right of `column`.
    fn leave(&mut self, column: usize) {
        while self.keys.last().is_some_and(|key| key.column >= column) {
            self.keys.pop();
        }
    }

    fn quoted(&mut self, quote: u8) {
        let bytes = self.cursor.text.as_bytes();
        let start = self.at + 1;
        let escape = if quote == b'"' { b'\\' } else { quote };
        let mut end = start;
        loop {
            let rest = bytes.get(end..).unwrap_or_default();
            let marked = |letters: Chunk| letters.equal(quote).or(letters.equal(escape));
            end += length_until(rest, marked, |letter| letter == quote || letter == escape);
            match bytes.get(end) {
                None => {
                    self.cursor.grammar = Grammar::Broken;
                    // A backslash at the very end has nothing after it.
                    end = bytes.len();
                    self.emit(start..end, &self.wear.bare, Role::Stray, Hint::Prose);
                    self.at = end;
                    return;
                }
                Some(b'\\') if quote == b'"' => end += 2,
                Some(b) if *b == quote => {
                    if quote == b'\'' && bytes.get(end + 1) == Some(&b'\'') {
                        end += 2;
                    } else {
                        break;
                    }
                }
                Some(_) => end += 1,
            }
        }
        let (layers, role) = if quote == b'"' {
            let (role, sound) =
                string_role(&self.cursor.text[start..end], &YAML_DOUBLE, Role::Value);
            self.cursor.note(sound, Grammar::Escapes);
            (&self.wear.double, role)
        } else {
            (&self.wear.single, Role::Value)
        };
        let from = self.at;
        self.at = end + 1;
        self.scalar(start..end, layers, role, from);
    }

    /// A plain scalar, which may go on in deeper lines.
    fn plain(&mut self) {
        let start = self.at;
        let mut end = self.plain_end(start);
        if end == start {
            self.cursor.grammar = Grammar::Broken;
            self.at += self.cursor.text[start..]
                .chars()
                .next()
                .map_or(1, char::len_utf8);
            return;
        }
        let mut indent = None;
        // What parts a key from its value ends it for good.
        while !self.cursor.text[end..]
            .trim_start_matches([' ', '\t'])
            .starts_with([':', '#', ',', ']', '}'])
        {
            let rest = &self.cursor.text[end..];
            let blank = rest.len() - rest.trim_start().len();
            let next = end + blank;
            if !rest[..blank].contains('\n') || next >= self.cursor.text.len() {
                break;
            }
            let indent = *indent.get_or_insert_with(|| self.indent_of_line(start));
            let first = self.cursor.text.as_bytes()[next];
            let deeper = self.indent_of_line(next) > indent || !self.brackets.is_empty();
            let list = first == b'-' && self.cursor.text[next + 1..].starts_with([' ', '\n', '\r']);
            if !deeper
                || list
                || b"#[]{},&*!|>%@`\"'".contains(&first)
                || is_marker(&self.cursor.text[next..])
            {
                break;
            }
            let further = self.plain_end(next);
            // A line with a key of its own is none of this scalar's.
            let behind = self.cursor.text[further..].trim_start_matches([' ', '\t']);
            if further == next || behind.starts_with(':') {
                break;
            }
            end = further;
        }
        self.at = end;
        let layers = if self.brackets.is_empty() {
            &self.wear.outside
        } else {
            &self.wear.inside
        };
        self.scalar(start..end, layers, Role::Value, start);
    }

    /// The blanks before the first letter of the line in which `at` is.
    fn indent_of_line(&mut self, at: usize) -> usize {
        let start = self.start_of_line(at);
        self.cursor.text[start..]
            .bytes()
            .take_while(|b| *b == b' ')
            .count()
    }

    /// Where a plain scalar's first line ends that begins at `start`.
    fn plain_end(&self, start: usize) -> usize {
        let bytes = self.cursor.text.as_bytes();
        let mut at = start;
        let within = !self.brackets.is_empty();
        let marked = |letters: Chunk| {
            let lines = letters.equal(b'\n').or(letters.equal(b'\r'));
            let signs = letters.equal(b':').or(letters.equal(b'#')).or(lines);
            if !within {
                signs
            } else {
                let list = letters.equal(b'[').or(letters.equal(b']'));
                let pairs = letters.equal(b'{').or(letters.equal(b'}'));
                signs.or(letters.equal(b',')).or(list).or(pairs)
            }
        };
        while at < bytes.len() {
            at += length_until(&bytes[at..], marked, |letter| {
                b"\n\r:#".contains(&letter) || (within && b",[]{}".contains(&letter))
            });
            if at == bytes.len() {
                break;
            }
            let next = bytes.get(at + 1).copied();
            let ends_word = next.is_none_or(|b| b.is_ascii_whitespace());
            match bytes[at] {
                b'\n' | b'\r' => break,
                b':' if ends_word => break,
                b':' if within && next.is_some_and(|b| b",[]{}".contains(&b)) => break,
                b'#' if at > start && matches!(bytes[at - 1], b' ' | b'\t') => break,
                b',' | b'[' | b']' | b'{' | b'}' => break,
                _ => at += 1,
            }
        }
        start + self.cursor.text[start..at].trim_end().len()
    }

    /// A scalar that began at `from` and ended at `self.at`: a key if a colon follows.
    fn scalar(&mut self, span: Range<usize>, layers: &Layers, role: Role, from: usize) {
        let rest = self.cursor.text[self.at..].trim_start_matches([' ', '\t']);
        let is_key = rest.strip_prefix(':').is_some_and(|rest| {
            !self.brackets.is_empty() || rest.is_empty() || rest.starts_with(char::is_whitespace)
        });
        if is_key {
            let column = if self.brackets.is_empty() {
                self.column(from)
            } else {
                usize::MAX
            };
            self.leave(column);
            let text = self.cursor.text;
            let name = &text[span.clone()];
            self.keys.push(Key { column, name });
            let role = match role {
                Role::Value => Role::Name {
                    scope: self.scope * 1000 + column % 1000,
                    ignore_case: false,
                    outlives_import: false,
                },
                other => other,
            };
            self.item = false;
            return self.emit(span, layers, role, Hint::Name);
        }
        if self.may_matter(&span) {
            let hint = self.value_hint();
            self.value(span, layers, role, hint);
        }
    }

    /// Yields a value, of which a part may be a container's.
    fn value(&mut self, span: Range<usize>, layers: &Layers, role: Role, hint: Hint) {
        const INSIDE: Role = Role::Foreign(Namespace::Container);
        let names = self.keys.iter().map(|key| key.name);
        match containers::side(names, self.wear.compose) {
            _ if role != Role::Value => self.emit(span, layers, role, hint),
            Side::Machine => self.emit(span, layers, role, hint),
            Side::Container => self.emit(span, layers, INSIDE, hint),
            Side::Both => match containers::parting(&self.cursor.text[span.clone()]) {
                Some(colon) => {
                    let colon = span.start + colon;
                    self.emit(span.start..colon, layers, role, Hint::Name);
                    // How it is mounted may stand behind another colon.
                    let inside = &self.cursor.text[colon + 1..span.end];
                    let end = containers::parting(inside).map_or(span.end, |at| colon + 1 + at);
                    self.emit(colon + 1..end, layers, INSIDE, hint);
                }
                None => self.emit(span, layers, INSIDE, hint),
            },
        }
    }

    /// What is known of a value under the innermost key.
    fn value_hint(&mut self) -> Hint {
        if std::mem::take(&mut self.item) {
            return Hint::Word;
        }
        self.keys
            .last()
            .map_or(Hint::Name, |key| Hint::for_value(key.name))
    }

    /// A block scalar: its lines are what is indented deeper than its key.
    fn block(&mut self) {
        let header = self.line().to_owned();
        let indent = self.indent_of_line(self.at);
        self.at += header.len();
        let hint = match self.value_hint() {
            Hint::Word => Hint::Name,
            hint => hint,
        };
        // A list item's text may be indented as little as the item's own key.
        let parent = self
            .keys
            .last()
            .map_or(indent, |key| key.column.min(indent));
        while self.at < self.cursor.text.len() {
            self.at += self.cursor.text[self.at..]
                .bytes()
                .take_while(|b| *b == b'\r')
                .count();
            self.at += usize::from(self.cursor.text[self.at..].starts_with('\n'));
            let line = self.line();
            let length = line.len();
            let blank = length - line.trim_start_matches(' ').len();
            if !line.trim().is_empty() && blank <= parent && !(parent == 0 && self.keys.is_empty())
            {
                return;
            }
            let span = self.at + blank..self.at + length;
            self.at += length;
            self.value(span, &self.wear.block, Role::Value, hint);
        }
    }

    /// Whether what is in `span` can name a place, or a drive beside its key. No span may begin before that of the
    /// last question.
    fn may_matter(&mut self, span: &Range<usize>) -> bool {
        self.upcoming.sign(span.start) < span.end || is_lone_letter(&self.cursor.text[span.clone()])
    }

    fn emit(&mut self, span: Range<usize>, layers: &Layers, role: Role, hint: Hint) {
        // A name that cannot be a place cannot become equal to one that changes either.
        if !self.may_matter(&span) {
            return;
        }
        // The innermost names tell enough.
        let keys = &self.keys[self.keys.len().saturating_sub(MOST_STEPS)..];
        let told = role != Role::Prose && self.upcoming.sign(span.start) < span.end;
        let site = if told {
            self.way.through(keys.iter().map(|key| key.name))
        } else {
            &[]
        };
        self.cursor.emit(span, layers, role, hint, site);
    }
}

/// `---` or `...` at the start of a line.
fn is_marker(line: &str) -> bool {
    ["---", "..."].iter().any(|marker| {
        line.strip_prefix(marker)
            .is_some_and(|rest| rest.is_empty() || rest.starts_with(char::is_whitespace))
    })
}
