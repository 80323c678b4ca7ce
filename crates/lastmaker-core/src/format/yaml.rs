//! YAML 1.2: plain, single-quoted, double-quoted and block scalars, in blocks and in brackets.
//!
//! Yields keys, scalars, the lines of block scalars, and comments. Anchors, tags and directives
//! are passed over. The reader keeps to what decides where a scalar begins and ends, and does
//! not prove the whole grammar.

use std::ops::Range;
use std::sync::Arc;

use super::{
    Claim, Format, Grammar, MOST_STEPS, Passage, Reader, Role, Sample, Step, may_matter,
    string_role,
};
use crate::about::About;
use crate::codec::{Brackets, Doubled, Escaped, Fold, Style, YAML_DOUBLE};
use crate::layer::{Layer, Layers};
use crate::place::Hint;
use crate::text::Encoding;

/// YAML.
pub(super) struct Yaml;

const ABOUT: About = About {
    name: "yaml",
    what: "YAML",
    content: "%YAML or --- at its start",
    names: &[".yaml", ".yml", ".clang-format", ".clangd"],
    read: "keys, plain, quoted and block scalars, comments; anchors and tags stay",
    limits: "a plain scalar that the new place would break is doubtful",
};

impl Format for Yaml {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, text: &str, file_name: &str) -> Claim {
        if ABOUT.is_named(file_name)
            || text.starts_with("%YAML ")
            || text.starts_with("---\n")
            || text.starts_with("---\r\n")
        {
            Claim::IfWellFormed
        } else {
            Claim::No
        }
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[
            Sample::new("a.yaml", "", "- ", "\n"),
            Sample::new("a.yaml", "", "- \"", "\"\n"),
            Sample::new("a.yaml", "k: |\n", "  ", "\n"),
        ];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        let fold = |escapes, plain| Arc::new(Fold { escapes, plain }) as Arc<dyn Layer>;
        let upper_hex = Style {
            upper_hex: true,
            ..Style::default()
        };
        let escaped = Arc::new(Escaped {
            escapes: &YAML_DOUBLE,
            document: Style::of(text, &YAML_DOUBLE, upper_hex),
        });
        Box::new(Wrappings {
            double: Arc::new([fold(true, None), escaped]),
            single: Arc::new([fold(false, None), Arc::new(Doubled('\''))]),
            outside: Arc::new([fold(false, Some(Brackets::Outside))]),
            inside: Arc::new([fold(false, Some(Brackets::Inside))]),
            bare: Arc::new([]),
        })
    }
}

/// A document's reader: the layers of each kind of scalar in it.
struct Wrappings {
    double: Layers,
    single: Layers,
    /// Of a plain scalar outside of brackets.
    outside: Layers,
    /// Of a plain scalar inside of brackets.
    inside: Layers,
    bare: Layers,
}

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let mut walk = Walk {
            wear: self,
            text,
            at: 0,
            keys: Vec::new(),
            brackets: 0,
            scope: 0,
            line_start: (0, 0),
            grammar: Grammar::Kept,
            each,
        };
        walk.read();
        walk.grammar.note(walk.brackets == 0, Grammar::Broken);
        walk.grammar
    }
}

struct Key {
    column: usize,
    name: String,
}

/// One walk through a document.
struct Walk<'a, 'e> {
    wear: &'a Wrappings,
    text: &'a str,
    at: usize,
    /// The keys that the next scalar is under, outermost first.
    keys: Vec<Key>,
    brackets: usize,
    scope: usize,
    /// An offset, and where the line begins in which it is.
    line_start: (usize, usize),
    grammar: Grammar,
    each: &'e mut dyn FnMut(Passage<'_>),
}

impl Walk<'_, '_> {
    fn read(&mut self) {
        while self.at < self.text.len() {
            let line_start = self.text[..self.at].ends_with('\n') || self.at == 0;
            if line_start && self.brackets == 0 {
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
        let rest = &self.text[self.at..];
        let end = memchr::memchr(b'\n', rest.as_bytes()).unwrap_or(rest.len());
        rest[..end].trim_end_matches('\r')
    }

    fn column(&mut self) -> usize {
        self.at - self.start_of_line(self.at)
    }

    /// Where the line begins in which `at` is. What is known of the last asked for is used
    /// again, so that many scalars on one long line cost no more than few.
    fn start_of_line(&mut self, at: usize) -> usize {
        let (known, start) = if self.line_start.0 <= at {
            self.line_start
        } else {
            (0, 0)
        };
        let passed = &self.text.as_bytes()[known..at];
        let start = memchr::memrchr(b'\n', passed).map_or(start, |n| known + n + 1);
        self.line_start = (at, start);
        start
    }

    fn token(&mut self) {
        let bytes = self.text.as_bytes();
        let behind_blank = self.at == 0 || bytes[self.at - 1].is_ascii_whitespace();
        let next = bytes.get(self.at + 1).copied();
        let ends_word = next.is_none_or(|b| b.is_ascii_whitespace());
        match bytes[self.at] {
            b' ' | b'\t' | b'\r' | b'\n' => self.at += 1,
            b'#' if behind_blank => {
                let end = self.at + self.line().len();
                self.emit(
                    self.at..end,
                    &self.wear.bare.clone(),
                    Role::Prose,
                    Hint::Prose,
                );
                self.at = end;
            }
            b'[' | b'{' => {
                self.brackets += 1;
                self.scope += 1;
                self.at += 1;
            }
            b']' | b'}' => {
                self.grammar.note(self.brackets > 0, Grammar::Broken);
                self.brackets = self.brackets.saturating_sub(1);
                self.at += 1;
            }
            b',' if self.brackets > 0 => self.at += 1,
            b'-' | b'?' if ends_word => {
                let column = self.column();
                self.leave(column);
                self.at += 1;
            }
            b':' if ends_word || self.brackets > 0 => self.at += 1,
            b'&' | b'!' | b'*' => {
                let word = self.text[self.at..]
                    .find(|c: char| c.is_whitespace() || (self.brackets > 0 && ",]}".contains(c)));
                self.at = word.map_or(self.text.len(), |length| self.at + length);
            }
            b'|' | b'>' if self.brackets == 0 => self.block(),
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
        let bytes = self.text.as_bytes();
        let start = self.at + 1;
        let mut end = start;
        loop {
            match bytes.get(end) {
                None => {
                    self.grammar = Grammar::Broken;
                    // A backslash at the very end has nothing after it.
                    end = bytes.len();
                    let layers = self.wear.bare.clone();
                    self.emit(start..end, &layers, Role::Stray, Hint::Prose);
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
            let (role, sound) = string_role(&self.text[start..end], &YAML_DOUBLE, Role::Value);
            self.grammar.note(sound, Grammar::Escapes);
            (self.wear.double.clone(), role)
        } else {
            (self.wear.single.clone(), Role::Value)
        };
        let column = self.column();
        self.at = end + 1;
        self.scalar(start..end, &layers, role, column);
    }

    /// A plain scalar, which may go on in deeper lines.
    fn plain(&mut self) {
        let start = self.at;
        let column = self.column();
        let indent = self.indent_of_line(start);
        let mut end = self.plain_end(start);
        if end == start {
            self.grammar = Grammar::Broken;
            self.at += self.text[start..].chars().next().map_or(1, char::len_utf8);
            return;
        }
        // What parts a key from its value ends it for good.
        while !self.text[end..]
            .trim_start_matches([' ', '\t'])
            .starts_with([':', '#', ',', ']', '}'])
        {
            let rest = &self.text[end..];
            let blank = rest.len() - rest.trim_start().len();
            let next = end + blank;
            if !rest[..blank].contains('\n') || next >= self.text.len() {
                break;
            }
            let next_column = self.indent_of_line(next);
            let first = self.text.as_bytes()[next];
            let deeper = next_column > indent || self.brackets > 0;
            let list = first == b'-' && self.text[next + 1..].starts_with([' ', '\n', '\r']);
            if !deeper
                || list
                || b"#[]{},&*!|>%@`\"'".contains(&first)
                || is_marker(&self.text[next..])
            {
                break;
            }
            let further = self.plain_end(next);
            // A line with a key of its own is none of this scalar's.
            let behind = self.text[further..].trim_start_matches([' ', '\t']);
            if further == next || behind.starts_with(':') {
                break;
            }
            end = further;
        }
        self.at = end;
        let layers = if self.brackets > 0 {
            self.wear.inside.clone()
        } else {
            self.wear.outside.clone()
        };
        self.scalar(start..end, &layers, Role::Value, column);
    }

    /// The blanks before the first letter of the line in which `at` is.
    fn indent_of_line(&mut self, at: usize) -> usize {
        let start = self.start_of_line(at);
        self.text[start..]
            .bytes()
            .take_while(|b| *b == b' ')
            .count()
    }

    /// Where a plain scalar's first line ends that begins at `start`.
    fn plain_end(&self, start: usize) -> usize {
        let bytes = self.text.as_bytes();
        let mut at = start;
        while at < bytes.len() {
            let next = bytes.get(at + 1).copied();
            let ends_word = next.is_none_or(|b| b.is_ascii_whitespace());
            match bytes[at] {
                b'\n' | b'\r' => break,
                b':' if ends_word => break,
                b':' if self.brackets > 0 && next.is_some_and(|b| b",[]{}".contains(&b)) => break,
                b'#' if at > start && matches!(bytes[at - 1], b' ' | b'\t') => break,
                b',' | b'[' | b']' | b'{' | b'}' if self.brackets > 0 => break,
                _ => at += 1,
            }
        }
        start + self.text[start..at].trim_end().len()
    }

    /// A scalar that ended at `self.at`: a key if a colon follows.
    fn scalar(&mut self, span: Range<usize>, layers: &Layers, role: Role, column: usize) {
        let rest = self.text[self.at..].trim_start_matches([' ', '\t']);
        let is_key = rest.strip_prefix(':').is_some_and(|rest| {
            self.brackets > 0 || rest.is_empty() || rest.starts_with(char::is_whitespace)
        });
        if is_key {
            if self.brackets == 0 {
                self.leave(column);
            } else {
                self.leave(usize::MAX);
            }
            let name = self.text[span.clone()].to_owned();
            let column = if self.brackets > 0 {
                usize::MAX
            } else {
                column
            };
            self.keys.push(Key { column, name });
            let role = match role {
                Role::Value => Role::Name {
                    scope: self.scope * 1000 + column % 1000,
                    ignore_case: false,
                    outlives_import: false,
                },
                other => other,
            };
            return self.emit(span, layers, role, Hint::Name);
        }
        if may_matter(&self.text[span.clone()]) {
            let hint = self.value_hint();
            self.emit(span, layers, role, hint);
        }
    }

    /// What is known of a value under the innermost key.
    fn value_hint(&self) -> Hint {
        self.keys
            .last()
            .map_or(Hint::Name, |key| Hint::for_value(&key.name))
    }

    /// A block scalar: its lines are what is indented deeper than its key.
    fn block(&mut self) {
        let header = self.line().to_owned();
        let indent = self.indent_of_line(self.at);
        self.at += header.len();
        let hint = self.value_hint();
        // A list item's text may be indented as little as the item's own key.
        let parent = self
            .keys
            .last()
            .map_or(indent, |key| key.column.min(indent));
        while self.at < self.text.len() {
            self.at += self.text[self.at..]
                .bytes()
                .take_while(|b| *b == b'\r')
                .count();
            self.at += usize::from(self.text[self.at..].starts_with('\n'));
            let line = self.line();
            let length = line.len();
            let blank = length - line.trim_start_matches(' ').len();
            if !line.trim().is_empty() && blank <= parent && !(parent == 0 && self.keys.is_empty())
            {
                return;
            }
            let span = self.at + blank..self.at + length;
            self.at += length;
            let layers = self.wear.bare.clone();
            self.emit(span, &layers, Role::Value, hint);
        }
    }

    fn emit(&mut self, span: Range<usize>, layers: &Layers, role: Role, hint: Hint) {
        if span.is_empty() {
            return;
        }
        let mut site = Vec::new();
        if role != Role::Prose && crate::place::may_hold_place(&self.text[span.clone()]) {
            // The innermost names tell enough.
            let keys = &self.keys[self.keys.len().saturating_sub(MOST_STEPS)..];
            site.extend(keys.iter().map(|key| Step::Key(key.name.clone())));
        }
        (self.each)(Passage {
            span,
            layers,
            role,
            hint,
            site: &site,
        });
    }
}

/// `---` or `...` at the start of a line.
fn is_marker(line: &str) -> bool {
    ["---", "..."].iter().any(|marker| {
        line.strip_prefix(marker)
            .is_some_and(|rest| rest.is_empty() || rest.starts_with(char::is_whitespace))
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::site_text;

    fn scalars(text: &str) -> (Vec<String>, bool) {
        let mut all = Vec::new();
        let fine = Yaml.passages(text, Encoding::Utf8, &mut |passage| {
            if passage.role == Role::Value {
                let raw = &text[passage.span.clone()];
                all.push(format!("{}|{raw}", site_text(passage.site)));
            }
        });
        (all, fine == Grammar::Kept)
    }

    #[test]
    fn scalars_and_their_keys() {
        let cases: [(&str, &[&str]); 12] = [
            ("a: D:\\x y # note\nb: 'E:\\z'\n", &["a|D:\\x y", "b|E:\\z"]),
            (
                "a:\n  b: \"D:\\\\x\"\n  c:\n    - D:/y\n    - 'F:/it''s'\n",
                &["a.b|D:\\\\x", "a.c|D:/y", "a.c|F:/it''s"],
            ),
            (
                "a: [D:/x, \"E:/y\", {b: F:/z}]\n",
                &["a|D:/x", "a|E:/y", "a.b|F:/z"],
            ),
            (
                "a: |\n  D:\\x\n  E:\\y\nb: /c\n",
                &["a|D:\\x", "a|E:\\y", "b|/c"],
            ),
            (
                "a: D:/my\n  files/x\nb: /y\n",
                &["a|D:/my\n  files/x", "b|/y"],
            ),
            ("- &id D:/x\n- *id\n- !tag E:/y\n", &["|D:/x", "|E:/y"]),
            ("%YAML 1.2\n---\na: D:/x\n...\n", &["a|D:/x"]),
            ("a: \"D:\\\\x\n  y\"\n", &["a|D:\\\\x\n  y"]),
            ("\"D:\\\\k\": v/w\n", &["D:\\\\k|v/w"]),
            ("a: http://x/y\n", &["a|http://x/y"]),
            ("- a: D:/x\n  b: E:/y\n", &["a|D:/x", "b|E:/y"]),
            ("a: >-\r\n  D:/x\r\n\r\nb: /y\r\n", &["a|D:/x", "b|/y"]),
        ];
        for (text, expected) in cases {
            let (got, fine) = scalars(text);
            let got: Vec<&str> = got.iter().map(String::as_str).collect();
            assert_eq!((got, fine), (expected.to_vec(), true), "{text}");
        }
        for broken in ["a: [x", "a: \"x", "a: 'x", "a: ]", "a: \"x\\"] {
            assert!(!scalars(broken).1, "{broken}");
        }
    }
}
