//! Strings in which a mark, mostly a backslash, begins an escape: one table of dialects, one
//! layer that reads and writes them all.

mod dialects;
mod style;

pub use dialects::*;
pub use style::Style;

use std::ops::Range;

use crate::layer::{
    Edit, Edits, Expansion, Layer, Malformed, MapBuilder, Opened, Unfit, VariableForm, lift_each,
};
use crate::place::OPAQUE;

/// What the mark means before a letter that the dialect does not know.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Unknown {
    /// The string breaks the grammar.
    Malformed,
    /// The letter stands for itself and the mark for nothing.
    Drops,
    /// Both stand for themselves.
    Keeps,
}

/// How a letter outside ASCII is written where a document escapes such letters.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Letters {
    /// As it is, always.
    Raw,
    /// `\uXXXX`, two of them beyond the first plane.
    Utf16,
    /// `\uXXXX`, and `\UXXXXXXXX` beyond the first plane.
    Scalar,
    /// `\xXX`, then as `Scalar`.
    ShortScalar,
    /// `\xX…`, as many digits as it takes, in UTF-16 units.
    Greedy,
}

/// One dialect of escapes.
#[derive(Debug)]
pub struct Escapes {
    /// What a person calls such a string, in lower case but for names.
    pub name: &'static str,
    /// What begins an escape.
    pub mark: u8,
    /// Letters after the mark, and what they stand for.
    pub simple: &'static [(u8, char)],
    /// Whether `\xXX` is read, and whether its digits are bytes of UTF-8, not a letter.
    pub hex: Hex,
    /// Whether `\uXXXX` is read.
    pub unicode4: bool,
    /// Whether `\UXXXXXXXX` is read.
    pub unicode8: bool,
    /// Whether `\u{X…}` is read.
    pub braces: bool,
    /// Whether up to three digits after the mark are a byte, and in which base; 0 if not.
    pub digits: u32,
    /// What other letters mean.
    pub unknown: Unknown,
    /// What must be escaped beside the mark; each is among `simple` or is kept by
    /// [`Unknown::Drops`].
    pub escaped: &'static str,
    /// Whether a mark before a line's end joins the lines, blanks of the next one dropped.
    pub joins_lines: bool,
    /// How letters outside ASCII are escaped.
    pub letters: Letters,
    /// Whether what must be escaped is written by its number, as three digits in base 8.
    pub octal: bool,
    /// How its program puts in the value of an environment variable.
    pub variables: Option<VariableForm>,
}

/// What `\x` means.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Hex {
    /// Nothing.
    None,
    /// Two digits are a letter of the first 256.
    Letter,
    /// Two digits are a byte of UTF-8.
    Byte,
    /// Digits to the last are a unit of UTF-16.
    Greedy,
    /// Up to four digits are one.
    Unit,
}

fn hex(bytes: &[u8], count: usize) -> Option<u32> {
    let digits = bytes.get(..count)?;
    digits.iter().try_fold(0u32, |value, digit| {
        value
            .checked_mul(16)?
            .checked_add((*digit as char).to_digit(16)?)
    })
}

/// What is at the start of some text.
enum Unit {
    /// A letter, and how many bytes it takes.
    Letter(char, usize),
    /// Nothing: lines joined, so wide.
    Nothing(usize),
}

impl Escapes {
    /// Whether every escape of `raw` is one of this dialect.
    pub fn is_sound(&self, raw: &str) -> bool {
        let bytes = raw.as_bytes();
        let mut at = 0;
        while let Some(next) = memchr::memchr(self.mark, &bytes[at..]) {
            at += next;
            at += match self.escape(&bytes[at..]) {
                Some(Unit::Letter(_, width) | Unit::Nothing(width)) => width,
                None => return false,
            };
        }
        true
    }

    /// The separator that `raw` writes by its number (`\u005c`) and never otherwise, and how.
    fn separator_by_number<'a>(&self, raw: &'a str) -> Option<(char, &'a str)> {
        let bytes = raw.as_bytes();
        let mut found = None;
        let mut at = 0;
        while let Some(next) = memchr::memchr(self.mark, &bytes[at..]) {
            at += next;
            let unit = self.escape(&bytes[at..])?;
            let (Unit::Letter(_, width) | Unit::Nothing(width)) = unit;
            match unit {
                Unit::Letter('\\', ..=2) => return None,
                Unit::Letter(letter @ ('\\' | '/'), width) if width > 2 => {
                    found = found.or(Some((letter, &raw[at..at + width])));
                }
                _ => {}
            }
            at += width;
        }
        found.filter(|(letter, _)| *letter != '/' || !raw.contains('/'))
    }

    /// The escape at the start of `bytes`, which begin with the mark. A lone surrogate and a
    /// byte that is no text are opaque.
    fn escape(&self, bytes: &[u8]) -> Option<Unit> {
        let unknown = || match self.unknown {
            Unknown::Malformed => None,
            Unknown::Keeps => Some(Unit::Letter(self.mark as char, 1)),
            Unknown::Drops => {
                let rest = std::str::from_utf8(bytes.get(1..5.min(bytes.len()))?)
                    .or_else(|e| std::str::from_utf8(&bytes[1..1 + e.valid_up_to()]))
                    .ok()?;
                let letter = rest.chars().next()?;
                Some(Unit::Letter(letter, 1 + letter.len_utf8()))
            }
        };
        let Some(&letter) = bytes.get(1) else {
            return match self.unknown {
                Unknown::Malformed => None,
                _ => Some(Unit::Letter(self.mark as char, 1)),
            };
        };
        if self.joins_lines && matches!(letter, b'\n' | b'\r') {
            let end = if bytes[1..].starts_with(b"\r\n") {
                3
            } else {
                2
            };
            let blanks = bytes[end..]
                .iter()
                .take_while(|b| matches!(b, b' ' | b'\t'))
                .count();
            return Some(Unit::Nothing(end + blanks));
        }
        if letter == b'u' && self.braces && bytes.get(2) == Some(&b'{') {
            let close = bytes[3..].iter().take(9).position(|b| *b == b'}')?;
            let letter = char::from_u32(hex(&bytes[3..], close)?).unwrap_or(OPAQUE);
            return Some(Unit::Letter(letter, close + 4));
        }
        if letter == b'u' && self.unicode4 {
            return match utf16_escape(bytes) {
                Some((letter, width)) => Some(Unit::Letter(letter, width)),
                None => unknown(),
            };
        }
        if letter == b'U' && self.unicode8 {
            return match hex(&bytes[2..], 8) {
                Some(value) => Some(Unit::Letter(char::from_u32(value).unwrap_or(OPAQUE), 10)),
                None => unknown(),
            };
        }
        if letter == b'x' && self.hex != Hex::None {
            return match self.hex_escape(bytes) {
                Some((letter, width)) => Some(Unit::Letter(letter, width)),
                None => unknown(),
            };
        }
        if let Some((_, letter)) = self.simple.iter().find(|(known, _)| *known == letter) {
            // A digit after `\0` makes it a number in another base.
            let number = letter == &'\0' && bytes.get(2).is_some_and(u8::is_ascii_digit);
            if !number || self.digits == 0 {
                return Some(Unit::Letter(*letter, 2));
            }
        }
        if self.digits > 0 && (letter as char).is_digit(self.digits) {
            return self
                .byte_escape(bytes)
                .map(|(letter, width)| Unit::Letter(letter, width));
        }
        unknown()
    }

    fn hex_escape(&self, bytes: &[u8]) -> Option<(char, usize)> {
        match self.hex {
            Hex::Byte => self.byte_escape(bytes),
            Hex::Letter => Some((char::from_u32(hex(&bytes[2..], 2)?)?, 4)),
            _ => {
                let digits = bytes[2..]
                    .iter()
                    .take(if self.hex == Hex::Unit { 4 } else { 6 })
                    .take_while(|b| b.is_ascii_hexdigit())
                    .count();
                let first = hex(&bytes[2..], digits.max(1))?;
                let end = 2 + digits;
                if let 0xD800..0xDC00 = first
                    && bytes.get(end..end + 2) == Some(br"\x")
                    && let Some(second @ 0xDC00..0xE000) = hex(&bytes[end + 2..], 4)
                {
                    return Some((surrogates(first, second)?, end + 6));
                }
                Some((char::from_u32(first).unwrap_or(OPAQUE), end))
            }
        }
    }

    /// One byte of an escape by number, and how many bytes it takes.
    fn byte_at(&self, bytes: &[u8]) -> Option<(u8, usize)> {
        if *bytes.first()? != self.mark {
            return None;
        }
        if bytes.get(1) == Some(&b'x') && self.hex == Hex::Byte {
            return Some((hex(&bytes[2..], 2)? as u8, 4));
        }
        if self.digits == 0 {
            return None;
        }
        let (mut value, mut width) = (0u32, 1);
        for digit in bytes[1..].iter().take(3) {
            let Some(digit) = (*digit as char).to_digit(self.digits) else {
                break;
            };
            value = value * self.digits + digit;
            width += 1;
        }
        (width > 1).then(|| (u8::try_from(value).unwrap_or(0xFF), width))
    }

    /// A letter that is written by its number or by the numbers of its bytes.
    fn byte_escape(&self, bytes: &[u8]) -> Option<(char, usize)> {
        let (first, width) = self.byte_at(bytes)?;
        if first < 0x80 {
            return Some((first as char, width));
        }
        if self.hex == Hex::Letter {
            return Some((first as char, width));
        }
        let mut text = vec![first];
        let mut end = width;
        while text.len() < 4 {
            let Some((next, width)) = self.byte_at(&bytes[end..]) else {
                break;
            };
            text.push(next);
            end += width;
            if let Ok(letter) = std::str::from_utf8(&text) {
                return Some((letter.chars().next()?, end));
            }
        }
        Some((OPAQUE, width))
    }

    fn simple_for(&self, letter: char) -> Option<u8> {
        self.simple
            .iter()
            .find(|(_, known)| *known == letter)
            .map(|(code, _)| *code)
    }

    /// Writes `text` as this dialect and `style` have it, before a letter that `follows`.
    fn encode(&self, text: &str, style: Style, follows: Option<char>) -> String {
        let mark = self.mark as char;
        let mut raw = String::with_capacity(text.len());
        let mut greedy_before = false;
        let mut letters = text.chars().peekable();
        while let Some(letter) = letters.next() {
            let after_greedy = std::mem::take(&mut greedy_before);
            if letter == mark {
                let follows = letters.peek().copied().or(follows);
                let means_itself = self.unknown == Unknown::Keeps
                    && !style.mark
                    && follows.is_some_and(|next| self.would_keep(next, style));
                raw.push(mark);
                if !means_itself && self.octal {
                    raw.push_str(&format!("{:03o}", letter as u32));
                } else if !means_itself {
                    raw.push(mark);
                }
            } else if self.octal && (self.escaped.contains(letter) || letter.is_ascii_control()) {
                raw.push_str(&format!("{mark}{:03o}", letter as u32));
            } else if self.escaped.contains(letter)
                || (letter == '/' && style.slash)
                || (letter == ':' && style.colon)
            {
                raw.push(mark);
                raw.push(self.simple_for(letter).map_or(letter, char::from));
            } else if letter.is_ascii_control() {
                match self.simple_for(letter) {
                    Some(code) => {
                        raw.push(mark);
                        raw.push(code as char);
                    }
                    None => self.push_number(&mut raw, letter, style),
                }
            } else if (!letter.is_ascii() && style.letters && self.letters != Letters::Raw)
                || (after_greedy && letter.is_ascii_hexdigit())
            {
                self.push_number(&mut raw, letter, style);
                greedy_before = self.letters == Letters::Greedy;
            } else {
                raw.push(letter);
            }
        }
        raw
    }

    /// Whether the mark before `next` means itself where unknown escapes are kept.
    fn would_keep(&self, next: char, style: Style) -> bool {
        if !next.is_ascii() {
            return !style.letters || self.letters == Letters::Raw;
        }
        if next.is_ascii_control() || self.escaped.contains(next) {
            return false;
        }
        let byte = next as u8;
        let known = self.simple.iter().any(|(code, _)| *code == byte)
            || (byte == b'x' && self.hex != Hex::None)
            || (byte == b'u' && (self.unicode4 || self.braces))
            || (byte == b'U' && self.unicode8)
            || (self.digits > 0 && next.is_digit(self.digits));
        !known
    }

    /// Writes a letter by its number.
    fn push_number(&self, raw: &mut String, letter: char, style: Style) {
        let mark = self.mark as char;
        let value = letter as u32;
        let mut number = |kind: char, value: u32, width: usize| {
            let digits = if style.upper_hex {
                format!("{value:0width$X}")
            } else {
                format!("{value:0width$x}")
            };
            raw.push(mark);
            raw.push(kind);
            raw.push_str(&digits);
        };
        let mut units = [0; 2];
        match self.letters {
            Letters::Utf16 => {
                for unit in letter.encode_utf16(&mut units) {
                    number('u', u32::from(*unit), 4);
                }
            }
            Letters::Greedy => {
                for unit in letter.encode_utf16(&mut units) {
                    number('x', u32::from(*unit), 1);
                }
            }
            Letters::ShortScalar if value < 0x100 => number('x', value, 2),
            Letters::Scalar | Letters::ShortScalar if value > 0xFFFF => number('U', value, 8),
            Letters::Scalar | Letters::ShortScalar => number('u', value, 4),
            Letters::Raw => raw.push(letter),
        }
    }
}

fn surrogates(first: u32, second: u32) -> Option<char> {
    char::from_u32(0x10000 + ((first - 0xD800) << 10) + (second - 0xDC00))
}

/// `\uXXXX`, with its second half where it is the first of a pair.
fn utf16_escape(bytes: &[u8]) -> Option<(char, usize)> {
    let first = hex(&bytes[2..], 4)?;
    if let Some(letter) = char::from_u32(first) {
        return Some((letter, 6));
    }
    let second = bytes
        .get(6..)
        .and_then(|rest| rest.strip_prefix(br"\u"))
        .and_then(|rest| hex(rest, 4));
    if let (0xD800..0xDC00, Some(second @ 0xDC00..0xE000)) = (first, second) {
        return Some((surrogates(first, second)?, 12));
    }
    Some((OPAQUE, 6))
}

/// The text between the quotes of a string with escapes.
#[derive(Debug)]
pub struct Escaped {
    /// The dialect.
    pub escapes: &'static Escapes,
    /// The style of the document around it, for what the string itself does not show.
    pub document: Style,
}

impl Layer for Escaped {
    fn name(&self) -> &'static str {
        self.escapes.name
    }

    fn expansion(&self, _: &[u8], _: Range<usize>) -> Option<Expansion> {
        self.escapes.variables.map(Expansion::whole)
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let mark = self.escapes.mark;
        let mut content = Vec::with_capacity(outer.len());
        let mut map = MapBuilder::default();
        let mut at = 0;
        while at < outer.len() {
            if outer[at] != mark {
                let plain = memchr::memchr(mark, &outer[at..]).unwrap_or(outer.len() - at);
                map.bytes(at..at + plain);
                content.extend_from_slice(&outer[at..at + plain]);
                at += plain;
                continue;
            }
            match self.escapes.escape(&outer[at..]) {
                Some(Unit::Letter(letter, width)) => {
                    let mut room = [0; 4];
                    let text = letter.encode_utf8(&mut room);
                    content.extend_from_slice(text.as_bytes());
                    map.unit(text.len(), at..at + width);
                    at += width;
                }
                Some(Unit::Nothing(width)) => at += width,
                None => {
                    return Err(Malformed {
                        what: "an escape that means nothing",
                        at,
                    });
                }
            }
        }
        Ok(Opened {
            content,
            map: map.finish(outer.len()),
        })
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        let content = std::str::from_utf8(&opened.content).unwrap_or("");
        let marks = [self.escapes.mark; 2];
        // Where nothing was before, the mark is never left to mean itself; nor is it in a
        // string that begins with two of them, which would have to become three.
        let pair = |edit: &Edit| edit.span.start == 0 && edit.with.starts_with(&marks);
        let always = !self.escapes.octal && (outer.is_empty() || inner.as_slice().iter().any(pair));
        let mut edits = inner.as_slice().iter().peekable();
        lift_each(outer, opened, inner, |with, stood| {
            let with = std::str::from_utf8(with).map_err(|_| Unfit::InsideUnit)?;
            let stood = std::str::from_utf8(stood).map_err(|_| Unfit::InsideUnit)?;
            let mut style = Style::of(stood, self.escapes, self.document);
            style.mark &= !self.escapes.octal;
            style.mark |= always && !stood.as_bytes().contains(&self.escapes.mark);
            let end = edits.next().map_or(content.len(), |edit| edit.span.end);
            let follows = match edits.peek() {
                Some(next) if next.span.start == end => None,
                _ => content[end..].chars().next(),
            };
            let Some((separator, written)) = self.escapes.separator_by_number(stood) else {
                return Ok(self.escapes.encode(with, style, follows).into_bytes());
            };
            let pieces: Vec<&str> = with.split(separator).collect();
            let last = pieces.len() - 1;
            let encoded = pieces.iter().enumerate().map(|(index, piece)| {
                let follows = follows.filter(|_| index == last);
                self.escapes.encode(piece, style, follows)
            });
            Ok(encoded.collect::<Vec<_>>().join(written).into_bytes())
        })
    }
}

#[cfg(test)]
mod tests;
