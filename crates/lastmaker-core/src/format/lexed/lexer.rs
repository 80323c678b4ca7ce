//! Where comments, strings and patterns of a syntax begin and end.

use std::ops::Range;

use super::{Between, Delimiters, Inside, Quote, Syntax};
use crate::base::chunk::{Chunk, length_until};

/// A string in its quotes.
pub(super) struct Lexeme {
    /// Which of the syntax's quotes it is in.
    pub(super) kind: usize,
    /// Its inside.
    pub(super) inside: Range<usize>,
    /// Where it is over; none if it is not closed.
    pub(super) over: Option<usize>,
}

impl Quote {
    /// The first byte of what opens it.
    fn first_byte(&self) -> u8 {
        match self.delimiters {
            Delimiters::OneLine(open, _)
            | Delimiters::Lines(open, _)
            | Delimiters::Bare(open, _) => open.as_bytes()[0],
            Delimiters::LongBrackets => b'[',
        }
    }
}

/// What may begin with a byte.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Begins {
    Nothing,
    /// The prefix of a string, where no word ends with it.
    Prefix,
    /// A string, a comment or the like.
    Something,
}

/// What may begin with each byte, and which quotes do.
pub(super) struct Beginnings {
    kinds: [Begins; 256],
    quotes: Vec<Vec<usize>>,
    comments: [bool; 256],
}

impl Beginnings {
    pub(super) fn of(syntax: &Syntax) -> Self {
        let mut all = Self {
            kinds: [Begins::Nothing; 256],
            quotes: vec![Vec::new(); 256],
            comments: [false; 256],
        };
        for (kind, quote) in syntax.quotes.iter().enumerate() {
            let first = quote.first_byte();
            all.quotes[usize::from(first)].push(kind);
            all.kinds[usize::from(first)] = if first.is_ascii_alphabetic() {
                Begins::Prefix
            } else {
                Begins::Something
            };
        }
        let blocks = syntax.block_comments.iter().map(|(open, _)| open);
        let comments = syntax.line_comments.iter().chain(blocks);
        let firsts: Vec<u8> = comments.map(|sign| sign.as_bytes()[0]).collect();
        for first in &firsts {
            all.comments[usize::from(*first)] = true;
        }
        let patterns = matches!(syntax.between, Between::CodeWithPatterns).then_some(b'/');
        let pairs: &[u8] = if syntax.keys.are_pairs() { b"{}" } else { b"" };
        for first in firsts
            .into_iter()
            .chain(patterns)
            .chain(pairs.iter().copied())
        {
            all.kinds[usize::from(first)] = Begins::Something;
        }
        all
    }

    /// The next offset from `from` on at which a string, a comment or the like may begin.
    pub(super) fn next(&self, text: &str, from: usize) -> Option<usize> {
        let bytes = text.as_bytes();
        let mut at = from;
        loop {
            let rest = bytes[at..].iter();
            at += rest
                .take_while(|b| self.kinds[usize::from(**b)] == Begins::Nothing)
                .count();
            let prefix = self.kinds[usize::from(*bytes.get(at)?)] == Begins::Prefix;
            let inside = |b: &u8| b.is_ascii_alphanumeric() || *b == b'_';
            if !(prefix && at.checked_sub(1).is_some_and(|at| inside(&bytes[at]))) {
                return Some(at);
            }
            at += 1;
        }
    }

    /// Whether a comment may begin with this byte.
    pub(super) fn of_comment(&self, first: u8) -> bool {
        self.comments[usize::from(first)]
    }

    /// The quotes of `syntax` that begin with the byte at `at`, with their numbers.
    fn quotes<'s>(
        &'s self,
        syntax: &'s Syntax,
        first: u8,
    ) -> impl Iterator<Item = (usize, &'s Quote)> {
        let kinds = self.quotes[usize::from(first)].iter();
        kinds.map(|kind| (*kind, &syntax.quotes[*kind]))
    }
}

/// Whether some text begins with a sign, which has a few letters of ASCII: calling a library's comparison
/// costs more than it does.
fn begins(rest: &[u8], sign: &str) -> bool {
    let pairs = rest.iter().zip(sign.as_bytes());
    rest.len() >= sign.len() && pairs.into_iter().all(|(one, other)| one == other)
}

impl Syntax {
    /// Where the comment is over that begins at `at`, if one does.
    pub(super) fn comment_end(&self, text: &str, at: usize) -> Option<usize> {
        let rest = &text.as_bytes()[at..];
        for (open, close) in self.block_comments {
            if begins(rest, open) {
                let inside = &rest[open.len()..];
                let length = memchr::memmem::find(inside, close.as_bytes());
                return Some(
                    length.map_or(text.len(), |length| at + open.len() + length + close.len()),
                );
            }
        }
        let words = matches!(self.between, Between::Words(_));
        let begun = self.line_comments.iter().any(|sign| {
            begins(rest, sign)
                && (sign.len() > 1 || !words || {
                    // In the middle of a word it is a letter like others.
                    let before = text[..at].chars().next_back();
                    before.is_none_or(char::is_whitespace)
                })
        });
        let end = || memchr::memchr(b'\n', rest).map_or(text.len(), |length| at + length);
        begun.then(end)
    }

    /// Whether a comment names no place: most of them, whose own signs are slashes in many syntaxes.
    pub(super) fn is_idle(&self, comment: &str) -> bool {
        let mut of_line = self.line_comments.iter();
        let of_line = of_line.find_map(|sign| comment.strip_prefix(sign));
        let inside = of_line.or_else(|| {
            let mut blocks = self.block_comments.iter();
            blocks.find_map(|(open, close)| comment.strip_prefix(open)?.strip_suffix(close))
        });
        inside.is_some_and(|inside| {
            inside.starts_with(char::is_whitespace) && !crate::scan::may_hold_place(inside)
        })
    }

    /// The string that begins at `at`, if one does; `beginnings` are those of the syntax.
    pub(super) fn string_at(
        &self,
        beginnings: &Beginnings,
        text: &str,
        at: usize,
    ) -> Option<Lexeme> {
        let rest = &text.as_bytes()[at..];
        for (kind, quote) in beginnings.quotes(self, *rest.first()?) {
            match quote.delimiters {
                Delimiters::OneLine(open, close) if begins(rest, open) => {
                    let inside = quoted(text, at, open, close, quote.inside, false)?;
                    return Some(inside.of_kind(kind));
                }
                Delimiters::Lines(open, close) if begins(rest, open) => {
                    let inside = quoted(text, at, open, close, quote.inside, true)?;
                    return Some(inside.of_kind(kind));
                }
                Delimiters::Bare(open, close) if begins(rest, open) => {
                    let after = text[at + open.len()..].trim_start();
                    if !after.starts_with(['"', '\'']) {
                        let inside = quoted(text, at, open, close, quote.inside, false)?;
                        return Some(inside.of_kind(kind));
                    }
                }
                Delimiters::LongBrackets => {
                    if let Some(inside) = long_bracket(text, at) {
                        return Some(inside.of_kind(kind));
                    }
                }
                _ => {}
            }
        }
        None
    }
}

/// The inside of a string, and where the string is over.
struct Quoted {
    inside: Range<usize>,
    over: Option<usize>,
}

impl Quoted {
    fn of_kind(self, kind: usize) -> Lexeme {
        Lexeme {
            kind,
            inside: self.inside,
            over: self.over,
        }
    }
}

/// The string that `open` begins at `at`; none if a word ends with what would be its prefix.
fn quoted(
    text: &str,
    at: usize,
    open: &str,
    close: &str,
    written: Inside,
    lines: bool,
) -> Option<Quoted> {
    // A prefix letter is one only where no word ends with it.
    let lettered = open.starts_with(|c: char| c.is_ascii_alphabetic());
    let before = text[..at].chars().next_back();
    if lettered && before.is_some_and(|c| c.is_alphanumeric() || c == '_') {
        return None;
    }
    let start = at + open.len();
    let bytes = text.as_bytes();
    let close = close.as_bytes();
    let inside = |end: usize, over| {
        Some(Quoted {
            inside: start..end.min(bytes.len()),
            over,
        })
    };
    let mut end = start;
    let mark = written.mark().unwrap_or(close[0]);
    let line_end = if lines { close[0] } else { b'\n' };
    loop {
        // Nothing else ends it or takes the letter behind along.
        let ends = |letters: Chunk| {
            let marks = letters.equal(mark).or(letters.equal(line_end));
            letters.equal(close[0]).or(marks)
        };
        let end_at = |byte: u8| byte == close[0] || byte == mark || byte == line_end;
        end += length_until(&bytes[end..], ends, end_at);
        let rest = &bytes[end..];
        match rest.first() {
            None => return inside(end, None),
            Some(b'\n') if !lines => return inside(end, None),
            _ if rest.starts_with(close) => {
                let doubled =
                    matches!(written, Inside::Doubled(_)) && rest[close.len()..].starts_with(close);
                if !doubled {
                    return inside(end, Some(end + close.len()));
                }
                end += 2 * close.len();
            }
            Some(first) => end += width(rest, *first, written),
        }
    }
}

impl Inside {
    /// What takes the letter behind it along, if anything does.
    fn mark(self) -> Option<u8> {
        match self {
            Self::Escaped(escapes) | Self::Formatted(escapes) | Self::Bytes(escapes) => {
                Some(escapes.mark)
            }
            Self::RawJoined | Self::RawBytes => Some(b'\\'),
            Self::Raw | Self::RawTemplate | Self::Doubled(_) => None,
        }
    }
}

/// How many bytes the letter or escape takes that `rest` begins with.
fn width(rest: &[u8], first: u8, written: Inside) -> usize {
    let escape = written.mark() == Some(first);
    // What is escaped closes nothing; an escaped line end joins lines.
    match rest.get(1) {
        Some(b'\r') if escape && rest.get(2) == Some(&b'\n') => 3,
        Some(_) if escape => 2,
        _ => 1,
    }
}

/// The string that a long bracket begins at `at`.
fn long_bracket(text: &str, at: usize) -> Option<Quoted> {
    let rest = text[at..].strip_prefix('[')?;
    let level = rest.bytes().take_while(|b| *b == b'=').count();
    rest[level..].strip_prefix('[')?;
    let close = format!("]{}]", "=".repeat(level));
    let start = at + level + 2;
    let length = text[start..].find(&close);
    Some(match length {
        Some(length) => Quoted {
            inside: start..start + length,
            over: Some(start + length + close.len()),
        },
        None => Quoted {
            inside: start..text.len(),
            over: None,
        },
    })
}

/// Whether a text begins with `"key"` and a brace or another string.
pub(super) fn begins_with_pair(start: &str) -> bool {
    let Some(rest) = start.strip_prefix('"') else {
        return false;
    };
    let Some(close) = rest.find('"').filter(|at| *at < 80) else {
        return false;
    };
    let rest = rest[close + 1..].trim_start();
    rest.starts_with('{') || (rest.starts_with('"') && rest[1..].contains('"'))
}

/// Where a pattern between slashes ends, or the next letter if none begins at `at`.
pub(super) fn pattern_end(text: &str, at: usize) -> usize {
    let before = text[..at].trim_end_matches([' ', '\t']);
    let expected = before.is_empty()
        || before.ends_with([
            '=', '(', ',', ':', '[', '!', '&', '|', '?', '{', '}', ';', '\n',
        ])
        || before.ends_with("return");
    if !expected {
        return at + 1;
    }
    let bytes = text.as_bytes();
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

/// The words of some commands, parted by blanks and signs that are not escaped; but for those that go
/// on from a bracket, or with `goes_on` from what is before the text.
pub(super) fn words(text: &str, mark: u8, goes_on: bool) -> Vec<Range<usize>> {
    let mut words = Vec::new();
    let (mut start, mut escaped, mut goes_on) = (0, false, goes_on);
    for (at, letter) in text.char_indices() {
        let parts = letter.is_whitespace() || ";|,(){}=&<>".contains(letter);
        if parts && !escaped {
            words.extend((!goes_on).then_some(start..at));
            start = at + letter.len_utf8();
            goes_on = matches!(letter, ')' | '}');
        }
        escaped = !escaped && letter == mark as char;
    }
    words.extend((!goes_on).then_some(start..text.len()));
    words
}

/// The word before the last sign of an assignment at the end of `text`.
pub(super) fn key_before<'t>(text: &'t str, assigns: &[u8]) -> Option<&'t str> {
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
