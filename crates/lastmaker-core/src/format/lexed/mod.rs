//! Syntaxes that differ only in their quotes, escapes and comments: one reader, a table of
//! dialects.
//!
//! The reader knows strings and comments; what stands between them is yielded as running
//! text. It does not know the grammar of each language, so a string that is not closed is the
//! only thing that breaks it.

mod dialects;

use std::ops::Range;
use std::sync::Arc;

use super::{
    About, Claim, Format, Grammar, MOST_STEPS, Passage, Role, Step, may_matter, string_role,
};
use crate::codec::{
    BareText, Doubled, Escaped, Escapes, RAW_DOUBLE, RAW_OTHER, RAW_PYTHON, RAW_SINGLE, Style,
};
use crate::layer::{Layer, Layers};
use crate::place::Hint;
use crate::text::Encoding;

pub(super) use dialects::*;

/// How the inside of a string is written.
#[derive(Clone, Copy, Debug)]
pub(super) enum Inside {
    /// As it is.
    Raw,
    /// As it is, but a backslash takes the quote behind it along.
    RawJoined,
    /// With the quote doubled.
    Doubled(char),
    /// With escapes.
    Escaped(&'static Escapes),
}

/// One kind of string.
#[derive(Clone, Copy, Debug)]
pub(super) struct Quote {
    pub(super) open: &'static str,
    pub(super) close: &'static str,
    pub(super) inside: Inside,
    /// Whether it may run over the end of a line.
    pub(super) lines: bool,
}

/// What stands between strings and comments.
#[derive(Clone, Copy, Debug)]
pub(super) enum Between {
    /// Code: whatever looks like a place in it is running text.
    Code,
    /// Words of commands, some of which are places, with escapes of their own.
    Words(&'static Escapes),
}

/// A syntax.
pub(super) struct Syntax {
    pub(super) about: About,
    /// What a document begins with; a sign as good as its name.
    pub(super) starts: &'static [&'static str],
    pub(super) line_comments: &'static [&'static str],
    pub(super) block_comments: &'static [(&'static str, &'static str)],
    /// The first that fits counts, so longer ones come first.
    pub(super) quotes: &'static [Quote],
    /// What stands between a key and its value.
    pub(super) assigns: &'static [u8],
    pub(super) between: Between,
    /// Whether `[name]` on a line by itself begins a section.
    pub(super) sections: bool,
    /// Whether strings follow each other as keys and values.
    pub(super) pairs: bool,
    /// Whether a `/` where a value is expected begins a pattern.
    pub(super) patterns: bool,
    /// What a document of this syntax, not of its sister, holds somewhere; empty if it has none.
    pub(super) marks: &'static [&'static str],
    /// Whether `[==[` and `]==]` quote.
    pub(super) long_brackets: bool,
}

impl Format for Syntax {
    fn about(&self) -> &About {
        &self.about
    }

    fn claims(&self, text: &str, file_name: &str) -> Claim {
        let named = self.about.is_named(file_name);
        let marked = self.marks.is_empty() || self.marks.iter().any(|mark| text.contains(mark));
        let start = text.trim_start();
        let started = self.starts.iter().any(|sign| start.starts_with(sign));
        if (named || started) && marked {
            Claim::IfWellFormed
        } else if self.pairs && begins_with_pair(start) {
            Claim::Perhaps
        } else {
            Claim::No
        }
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn passages(
        &self,
        text: &str,
        _encoding: Encoding,
        each: &mut dyn FnMut(Passage<'_>),
    ) -> Grammar {
        let mut reader = Reader {
            syntax: self,
            text,
            styles: Vec::new(),
            plain: Arc::new([]),
            key: None,
            section: None,
            depth: Vec::new(),
            scope: 0,
            fresh_key: true,
            grammar: Grammar::Kept,
            each,
        };
        reader.read();
        reader.grammar
    }
}

/// `"key"` and behind it a brace or another string.
fn begins_with_pair(start: &str) -> bool {
    let Some(rest) = start.strip_prefix('"') else {
        return false;
    };
    let Some(close) = rest.find('"').filter(|at| *at < 80) else {
        return false;
    };
    let rest = rest[close + 1..].trim_start();
    rest.starts_with('{') || (rest.starts_with('"') && rest[1..].contains('"'))
}

/// A string as it stands.
struct Lexeme {
    /// Which of the syntax's quotes it is in.
    kind: usize,
    /// Where its inside stands.
    inside: Range<usize>,
    /// Where it is over; none if it is not closed.
    over: Option<usize>,
}

struct Reader<'a, 'e> {
    syntax: &'a Syntax,
    text: &'a str,
    /// The layers of each kind of string, made when first met.
    styles: Vec<(usize, Layers)>,
    plain: Layers,
    key: Option<String>,
    section: Option<String>,
    depth: Vec<String>,
    scope: usize,
    fresh_key: bool,
    grammar: Grammar,
    each: &'e mut dyn FnMut(Passage<'_>),
}

impl Reader<'_, '_> {
    fn read(&mut self) {
        let bytes = self.text.as_bytes();
        let mut at = 0;
        let mut between = 0;
        while at < bytes.len() {
            let Some(next) = self.special(at) else { break };
            at = next;
            if let Some(end) = self.comment_end(at) {
                self.code(between..at);
                self.comment(at..end);
                at = end;
                between = at;
            } else if let Some(lexeme) = self.string_at(at) {
                self.code(between..at);
                at = lexeme.over.unwrap_or(lexeme.inside.end);
                between = at;
                self.string(lexeme);
            } else if self.syntax.long_brackets
                && let Some((start, end, close)) = long_bracket(self.text, at)
            {
                self.code(between..at);
                self.grammar.note(close <= bytes.len(), Grammar::Broken);
                self.emit(start..end, &self.plain.clone(), Role::Value, self.hint());
                at = close.min(bytes.len());
                between = at;
            } else if self.syntax.patterns && bytes[at] == b'/' {
                at = self.pattern_end(at);
            } else if self.syntax.pairs && matches!(bytes[at], b'{' | b'}') {
                self.nest(bytes[at] == b'{');
                at += 1;
            } else {
                at += 1;
            }
            while !self.text.is_char_boundary(at) {
                at += 1;
            }
        }
        self.code(between..bytes.len());
    }

    /// The next offset at which a string, a comment or the like may begin.
    fn special(&self, from: usize) -> Option<usize> {
        let begins = |b: u8| {
            let opens = |sign: &str| sign.as_bytes()[0] == b;
            self.syntax.quotes.iter().any(|quote| opens(quote.open))
                || self.syntax.line_comments.iter().any(|sign| opens(sign))
                || self
                    .syntax
                    .block_comments
                    .iter()
                    .any(|(sign, _)| opens(sign))
                || (self.syntax.long_brackets && b == b'[')
                || (self.syntax.patterns && b == b'/')
                || (self.syntax.pairs && matches!(b, b'{' | b'}'))
        };
        self.text.as_bytes()[from..]
            .iter()
            .position(|b| begins(*b))
            .map(|at| from + at)
    }

    fn comment_end(&self, at: usize) -> Option<usize> {
        let rest = &self.text[at..];
        for (open, close) in self.syntax.block_comments {
            if let Some(inside) = rest.strip_prefix(open) {
                let length = inside.find(close);
                return Some(length.map_or(self.text.len(), |length| {
                    at + open.len() + length + close.len()
                }));
            }
        }
        let begins = self.syntax.line_comments.iter().any(|sign| {
            rest.starts_with(sign)
                && (sign.len() > 1 || matches!(self.syntax.between, Between::Code) || {
                    // In the middle of a word it is a letter like others.
                    self.text[..at]
                        .chars()
                        .next_back()
                        .is_none_or(char::is_whitespace)
                })
        });
        begins.then(|| {
            rest.find('\n')
                .map_or(self.text.len(), |length| at + length)
        })
    }

    /// The string that begins at `at`.
    fn string_at(&self, at: usize) -> Option<Lexeme> {
        let rest = &self.text[at..];
        let (kind, quote) = self
            .syntax
            .quotes
            .iter()
            .enumerate()
            .find(|(_, quote)| rest.starts_with(quote.open))?;
        // A prefix letter is one only where no word ends with it.
        let lettered = quote.open.starts_with(|c: char| c.is_ascii_alphabetic());
        let word_before = self.text[..at]
            .chars()
            .next_back()
            .is_some_and(|c| c.is_alphanumeric() || c == '_');
        if lettered && word_before {
            return None;
        }
        let start = at + quote.open.len();
        let bytes = self.text.as_bytes();
        let close = quote.close.as_bytes();
        let lexeme = |end: usize, over| Lexeme {
            kind,
            inside: start..end.min(bytes.len()),
            over,
        };
        let mut end = start;
        loop {
            let rest = &bytes[end..];
            match rest.first() {
                None => return Some(lexeme(end, None)),
                Some(b'\n') if !quote.lines => return Some(lexeme(end, None)),
                _ if rest.starts_with(close) => {
                    let doubled = matches!(quote.inside, Inside::Doubled(_))
                        && rest[close.len()..].starts_with(close);
                    if !doubled {
                        return Some(lexeme(end, Some(end + close.len())));
                    }
                    end += 2 * close.len();
                }
                Some(first) => {
                    let escape = match quote.inside {
                        Inside::Escaped(escapes) => *first == escapes.mark,
                        Inside::RawJoined => *first == b'\\',
                        _ => false,
                    };
                    // What is escaped closes nothing; an escaped line end joins lines.
                    end += match rest.get(1) {
                        Some(b'\r') if escape && rest.get(2) == Some(&b'\n') => 3,
                        Some(_) if escape => 2,
                        _ => 1,
                    };
                }
            }
        }
    }

    fn layers_of(&mut self, kind: usize) -> Layers {
        if let Some((_, layers)) = self.styles.iter().find(|(known, _)| *known == kind) {
            return layers.clone();
        }
        let layer: Arc<dyn Layer> = match self.syntax.quotes[kind].inside {
            Inside::Raw => Arc::new(BareText(match self.syntax.quotes[kind].close.as_bytes() {
                [.., b'"'] => &RAW_DOUBLE,
                [.., b'\''] => &RAW_SINGLE,
                _ => &RAW_OTHER,
            })),
            Inside::RawJoined => Arc::new(BareText(&RAW_PYTHON)),
            Inside::Doubled(quote) => Arc::new(Doubled(quote)),
            Inside::Escaped(escapes) => Arc::new(Escaped {
                escapes,
                document: Style::of(self.text, escapes, Style::default()),
            }),
        };
        let layers: Layers = Arc::new([layer]);
        self.styles.push((kind, layers.clone()));
        layers
    }

    fn string(&mut self, lexeme: Lexeme) {
        let Lexeme { kind, inside, over } = lexeme;
        self.grammar.note(over.is_some(), Grammar::Broken);
        let Some(raw) = self.text.get(inside.clone()) else {
            self.grammar = Grammar::Broken;
            return;
        };
        let behind = over.and_then(|over| self.text.get(over..)).unwrap_or("");
        let is_key = if self.syntax.pairs {
            let key = self.fresh_key;
            self.fresh_key = !key;
            key
        } else {
            let next = behind.trim_start_matches([' ', '\t']).bytes().next();
            next.is_some_and(|b| self.syntax.assigns.contains(&b))
        };
        let mut role = if is_key {
            Role::Name {
                scope: self.scope,
                ignore_case: false,
                outlives_import: false,
            }
        } else {
            Role::Value
        };
        if let Inside::Escaped(escapes) = self.syntax.quotes[kind].inside {
            let (told, sound) = string_role(raw, escapes, role);
            role = told;
            self.grammar.note(sound, Grammar::Escapes);
        }
        let matters = may_matter(raw);
        let hint = if is_key || !matters {
            Hint::Name
        } else {
            self.hint()
        };
        if is_key {
            self.key = Some(raw.to_owned());
        }
        if matters {
            let layers = self.layers_of(kind);
            self.emit(inside, &layers, role, hint);
        }
        if !is_key && self.syntax.pairs {
            self.key = None;
        }
    }

    fn nest(&mut self, opens: bool) {
        if opens {
            self.depth.push(self.key.take().unwrap_or_default());
            self.scope += 1;
        } else {
            self.grammar
                .note(self.depth.pop().is_some(), Grammar::Broken);
        }
        self.fresh_key = true;
    }

    fn comment(&mut self, span: Range<usize>) {
        self.emit(span, &self.plain.clone(), Role::Prose, Hint::Prose);
    }

    /// Text between strings and comments: yields its lines, and keeps the last key.
    fn code(&mut self, span: Range<usize>) {
        let Some(text) = self.text.get(span.clone()) else {
            return;
        };
        if self.syntax.sections {
            for line in text.lines() {
                let line = line.trim();
                if line.starts_with('[') && line.ends_with(']') {
                    self.section = Some(line.trim_matches(['[', ']']).trim().to_owned());
                    self.scope += 1;
                    self.key = None;
                }
            }
        }
        if !self.syntax.pairs {
            match key_before(text, self.syntax.assigns) {
                Some(key) => self.key = Some(key.to_owned()),
                // Another word in between begins something else.
                None if text.contains(char::is_alphanumeric) => self.key = None,
                None => {}
            }
        }
        if !crate::place::may_hold_place(text) {
            return;
        }
        match self.syntax.between {
            Between::Code => {
                self.emit(span, &self.plain.clone(), Role::Prose, Hint::Prose);
            }
            Between::Words(escapes) => {
                let word: Layers = Arc::new([Arc::new(Escaped {
                    escapes,
                    document: Style::default(),
                }) as Arc<dyn Layer>]);
                for range in words(text, escapes.mark) {
                    let range = span.start + range.start..span.start + range.end;
                    if crate::place::may_hold_place(&self.text[range.clone()]) {
                        self.emit(range, &word, Role::Value, Hint::Word);
                    }
                }
            }
        }
    }

    fn hint(&self) -> Hint {
        self.key.as_deref().map_or(Hint::Name, Hint::for_value)
    }

    /// Where a pattern between slashes ends, or the next letter if none begins at `at`.
    fn pattern_end(&self, at: usize) -> usize {
        let before = self.text[..at].trim_end_matches([' ', '\t']);
        let expected = before.is_empty()
            || before.ends_with([
                '=', '(', ',', ':', '[', '!', '&', '|', '?', '{', '}', ';', '\n',
            ])
            || before.ends_with("return");
        if !expected {
            return at + 1;
        }
        let bytes = self.text.as_bytes();
        let mut end = at + 1;
        let mut class = false;
        while let Some(byte) = bytes.get(end) {
            match byte {
                b'\n' => return at + 1,
                b'\\' => end += 1,
                b'[' => class = true,
                b']' => class = false,
                b'/' if !class => return end + 1,
                _ => {}
            }
            end += 1;
        }
        at + 1
    }

    fn emit(&mut self, span: Range<usize>, layers: &Layers, role: Role, hint: Hint) {
        if span.is_empty() || self.text.get(span.clone()).is_none() {
            return;
        }
        let mut site = Vec::new();
        if !matches!(role, Role::Prose) {
            // The innermost names tell enough.
            let depth = &self.depth[self.depth.len().saturating_sub(MOST_STEPS)..];
            let parts = self.section.iter().chain(depth).chain(&self.key);
            site.extend(parts.map(|part| Step::Key(part.clone())));
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

/// The words of some commands, parted by blanks and signs that are not escaped.
fn words(text: &str, mark: u8) -> Vec<Range<usize>> {
    let mut words = Vec::new();
    let (mut start, mut escaped) = (0, false);
    for (at, letter) in text.char_indices() {
        let parts = letter.is_whitespace() || ";|,(){}=&<>".contains(letter);
        if parts && !escaped {
            words.push(start..at);
            start = at + letter.len_utf8();
        }
        escaped = !escaped && letter == mark as char;
    }
    words.push(start..text.len());
    words
}

/// The word before the last sign of an assignment at the end of `text`.
fn key_before<'t>(text: &'t str, assigns: &[u8]) -> Option<&'t str> {
    let text = text.trim_end_matches([' ', '\t', '[', '{', '(', '\n', '\r']);
    let last = *text.as_bytes().last()?;
    if !assigns.contains(&last) {
        return None;
    }
    let text =
        text[..text.len() - 1].trim_end_matches(['=', ':', '+', '?', ' ', '\t', ']', '"', '\'']);
    let start = text
        .char_indices()
        .rev()
        .find(|(_, c)| !(c.is_alphanumeric() || "_-.".contains(*c)))
        .map_or(0, |(at, c)| at + c.len_utf8());
    (start < text.len()).then(|| &text[start..])
}

/// The inside of the long bracket at `at`, and where it is over: beyond the text if it is not
/// closed.
fn long_bracket(text: &str, at: usize) -> Option<(usize, usize, usize)> {
    let rest = text[at..].strip_prefix('[')?;
    let level = rest.bytes().take_while(|b| *b == b'=').count();
    rest[level..].strip_prefix('[')?;
    let close = format!("]{}]", "=".repeat(level));
    let start = at + level + 2;
    match text[start..].find(&close) {
        Some(length) => Some((start, start + length, start + length + close.len())),
        None => Some((start, text.len(), text.len() + 1)),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::site_text;

    /// Strings with their sites, comments and code left out.
    fn strings(syntax: &Syntax, text: &str) -> (Vec<String>, bool) {
        let mut all = Vec::new();
        let fine = syntax.passages(text, Encoding::Utf8, &mut |passage| {
            if !matches!(passage.role, Role::Prose) {
                let raw = &text[passage.span.clone()];
                all.push(format!("{}|{raw}", site_text(passage.site)));
            }
        });
        (all, fine == Grammar::Kept)
    }

    #[test]
    fn strings_and_their_keys() {
        let cases: [(&Syntax, &str, &[&str]); 14] = [
            (
                &TOML,
                "[a]\nb = \"x\" # 'no'\nc = 'y'\n",
                &["a.b|x", "a.c|y"],
            ),
            (
                &TOML,
                "b = '''x'y'''\nl = [\"p\", 'q']",
                &["b|x'y", "l|p", "l|q"],
            ),
            (
                &JAVASCRIPT_SOURCE,
                "x = { root: 'a', \"k\": `b` }; // 'c'",
                &["root|a", "k|k", "k|b"],
            ),
            (&JAVASCRIPT_SOURCE, "a = /['\"]/; b = \"x\"", &["b|x"]),
            (&JAVASCRIPT_SOURCE, r"a = 'it\'s'; ", &[r"a|it\'s"]),
            (
                &LUA_SOURCE,
                "a = [==[x]]y]==] -- 'n'\nb = 'z'",
                &["a|x]]y", "b|z"],
            ),
            (&LUA_SOURCE, "--[[ 'x' ]] a = \"y\"", &["a|y"]),
            (
                &PYTHON_SOURCE,
                "R = r'D:\\x'\nS = \"\"\"a\nb\"\"\"",
                &[r"R|D:\x", "S|a\nb"],
            ),
            (&C_SOURCE, "#define P \"x\" /* \"n\" */", &["|x"]),
            (
                &SQL_SOURCE,
                "insert into t values ('it''s /a', 'b'); -- 'n'",
                &["|it''s /a", "|b"],
            ),
            (
                &POWERSHELL_SOURCE,
                "$a = \"x`\"y\"; $b = 'it''s /a' # 'n'",
                &["a|x`\"y", "b|it''s /a"],
            ),
            (
                &POWERSHELL_SOURCE,
                "$a = @\"\n/x \"q\" y\n\"@\n",
                &["a|/x \"q\" y"],
            ),
            (&LISP_SOURCE, "(setq a \"x\") ; \"n\"", &["|x"]),
            (
                &KEY_VALUES_SYNTAX,
                "\"a\"\n{\n  \"b\" \"c\"\n  \"d\" { \"e\" \"f\" }\n}",
                &["a|a", "a.b|b", "a.b|c", "a.d|d", "a.d.e|e", "a.d.e|f"],
            ),
        ];
        for (syntax, text, expected) in cases {
            let (got, fine) = strings(syntax, text);
            assert_eq!(
                (got.iter().map(String::as_str).collect::<Vec<_>>(), fine),
                (expected.to_vec(), true),
                "{text}"
            );
        }
    }

    #[test]
    fn strings_that_do_not_end_break_the_grammar() {
        for (syntax, text) in [
            (&TOML, "a = \"x\nb = 1"),
            (&PYTHON_SOURCE, "a = '''x"),
            (&JAVASCRIPT_SOURCE, "a = 'x\n"),
            (&TOML, r#"a = "D:\Herbarium""#),
        ] {
            assert!(!strings(syntax, text).1, "{text}");
        }
    }
}
