//! Percent-encoding (RFC 3986, section 2.1), kept where it is and added where it is needed.

use crate::layer::{Edits, Layer, Malformed, Opened, Unfit, lift_each, open_units};
use crate::place::OPAQUE;

/// How the layer is called.
pub(crate) const PERCENT: &str = "percent-encoding";

/// What of a URI a percent-encoded text is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum UriPart {
    /// A path where all of it is one string.
    Path,
    /// A path in other text, which may take signs for something else: they are encoded too.
    Guarded,
    /// The target of a link in a text: letters outside ASCII are in it as they are unless it
    /// shows otherwise.
    Link,
    /// A part of another URI's query, in which separators and colons are encoded too.
    Component,
}

/// Text in which letters may be written as `%` and two hex digits, in UTF-8. A `+` is a `+`.
#[derive(Debug)]
pub struct Percent {
    /// What of a URI it is.
    pub part: UriPart,
}

impl Layer for Percent {
    fn name(&self) -> &'static str {
        PERCENT
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        Ok(open_units(outer, unit))
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        lift_each(outer, opened, inner, |with, stood| {
            let with = std::str::from_utf8(with).map_err(|_| Unfit::InsideUnit)?;
            Ok(encode(with, Style::of(stood), outer, self.part).into_bytes())
        })
    }
}

/// The letter at the start of `bytes`, which are not empty, and how many bytes it takes.
fn unit(bytes: &[u8]) -> (char, usize) {
    let mut decoded = [0u8; 4];
    let (mut count, mut at) = (0, 0);
    while count < 4 {
        let escaped = (bytes.get(at) == Some(&b'%'))
            .then(|| hex_pair(&bytes[at + 1..]))
            .flatten();
        let (byte, width) = match (escaped, bytes.get(at)) {
            (Some(byte), _) => (byte, 3),
            (None, Some(byte)) => (*byte, 1),
            (None, None) => break,
        };
        decoded[count] = byte;
        count += 1;
        at += width;
        match std::str::from_utf8(&decoded[..count]) {
            Ok(text) => return (text.chars().next().unwrap_or(OPAQUE), at),
            // More bytes may complete it.
            Err(error) if error.error_len().is_none() => {}
            Err(_) => break,
        }
    }
    (
        OPAQUE,
        if bytes[0] == b'%' && hex_pair(&bytes[1..]).is_some() {
            3
        } else {
            1
        },
    )
}

fn hex_pair(bytes: &[u8]) -> Option<u8> {
    let digit = |at: usize| (*bytes.get(at)? as char).to_digit(16);
    Some((digit(0)? << 4 | digit(1)?) as u8)
}

/// What a text shows of how it is encoded.
#[derive(Clone, Copy, Debug, Default)]
struct Style {
    raw_letters: bool,
    raw_blank: bool,
    raw_backslash: bool,
    /// Whether a question mark is in it as in `\\?\`.
    raw_question: bool,
    colon: bool,
    bar: bool,
    lower: bool,
    /// Whether bytes beyond ASCII are encoded.
    letters: bool,
}

impl Style {
    fn of(text: &[u8]) -> Self {
        let mut style = Self {
            raw_letters: text.iter().any(|b| !b.is_ascii()),
            raw_blank: text.contains(&b' '),
            raw_backslash: text.contains(&b'\\'),
            raw_question: text.contains(&b'?'),
            bar: text.get(1) == Some(&b'|'),
            ..Self::default()
        };
        for at in memchr::memchr_iter(b'%', text) {
            let digits = text.get(at + 1..at + 3).unwrap_or(b"");
            style.colon |= digits.eq_ignore_ascii_case(b"3a");
            style.letters |= digits
                .first()
                .is_some_and(|b| matches!(b, b'8'..=b'9' | b'A'..=b'F' | b'a'..=b'f'));
            style.lower |= digits.iter().any(u8::is_ascii_lowercase);
        }
        style
    }
}

fn encode(text: &str, stood: Style, outer: &[u8], part: UriPart) -> String {
    let document = Style::of(outer);
    let component = part == UriPart::Component;
    let raw_letters = part == UriPart::Link && !document.letters;
    let mut raw = String::with_capacity(text.len());
    let lower = stood.lower || document.lower;
    for letter in text.chars() {
        let plain = match letter {
            'a'..='z' | 'A'..='Z' | '0'..='9' => true,
            '-' | '.' | '_' | '~' => true,
            '/' => !component,
            ':' if stood.bar => {
                raw.push('|');
                continue;
            }
            ':' => !component && !stood.colon,
            '\\' => !component && (stood.raw_backslash || document.raw_backslash),
            '?' => !component && stood.raw_question,
            ' ' => !component && (stood.raw_blank || document.raw_blank),
            // They may stand raw, but what is around the URI may take them for something else.
            '!' | '$' | '&' | '\'' | '(' | ')' | '*' | '+' | ',' | ';' | '=' | '@' => {
                part == UriPart::Path || (!component && outer.contains(&(letter as u8)))
            }
            _ if letter.is_ascii() => false,
            _ => raw_letters || stood.raw_letters || document.raw_letters,
        };
        if plain {
            raw.push(letter);
            continue;
        }
        let mut room = [0; 4];
        for byte in letter.encode_utf8(&mut room).bytes() {
            if lower {
                raw.push_str(&format!("%{byte:02x}"));
            } else {
                raw.push_str(&format!("%{byte:02X}"));
            }
        }
    }
    raw
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::{Edit, splice};
    use proptest::prelude::*;

    fn replaced(raw: &str, old: &str, new: &str, part: UriPart) -> String {
        let layer = Percent { part };
        let opened = layer.open(raw.as_bytes()).unwrap();
        let at = std::str::from_utf8(&opened.content)
            .unwrap()
            .find(old)
            .unwrap();
        let edit = Edit {
            span: at..at + old.len(),
            with: new.as_bytes().to_vec(),
        };
        let edits = layer
            .lift(raw.as_bytes(), &opened, &Edits::new(vec![edit]).unwrap())
            .unwrap();
        String::from_utf8(splice(raw.as_bytes(), &edits)).unwrap()
    }

    #[test]
    fn encoding_is_kept_where_it_is_and_added_where_it_is_needed() {
        let cases = [
            (
                "D:/Herb/a+b",
                "D:/Herb",
                "H:/My Herb",
                UriPart::Path,
                "H:/My%20Herb/a+b",
            ),
            ("d%3A/Herb/x", "d:/Herb", "h:/C", UriPart::Path, "h%3A/C/x"),
            (
                "d%3a/Herb/x",
                "d:/Herb",
                "h:/\u{e4}",
                UriPart::Path,
                "h%3a/%c3%a4/x",
            ),
            (
                "D:/Gr%C3%BCn/x",
                "D:/Gr\u{fc}n",
                "H:/K\u{e4}se",
                UriPart::Path,
                "H:/K%C3%A4se/x",
            ),
            (
                "D:/Gr\u{fc}n/x",
                "D:/Gr\u{fc}n",
                "H:/K\u{e4}se",
                UriPart::Path,
                "H:/K\u{e4}se/x",
            ),
            (
                r"D:\Herb\x",
                r"D:\Herb",
                r"H:\C#",
                UriPart::Path,
                r"H:\C%23\x",
            ),
            (
                "D%3A%5CHerb%5Cx",
                r"D:\Herb",
                r"H:\a b",
                UriPart::Component,
                "H%3A%5Ca%20b%5Cx",
            ),
            (
                "D:/H/x",
                "D:/H",
                "H:/K\u{e4}se x",
                UriPart::Link,
                "H:/K\u{e4}se%20x/x",
            ),
            (
                "D:/H/%C3%A4",
                "D:/H",
                "H:/K\u{e4}se",
                UriPart::Link,
                "H:/K%C3%A4se/%C3%A4",
            ),
            (
                "D:/100%25/x",
                "D:/100%",
                "H:/50%",
                UriPart::Path,
                "H:/50%25/x",
            ),
        ];
        for (raw, old, new, part, expected) in cases {
            assert_eq!(replaced(raw, old, new, part), expected, "{raw}");
        }
    }

    proptest! {
        #[test]
        fn decoding_undoes_encoding(text in "\\PC{0,20}", part in prop::sample::select(vec![UriPart::Path, UriPart::Link, UriPart::Component])) {
            let raw = encode(&text, Style::default(), b"", part);
            let opened = Percent { part }.open(raw.as_bytes()).unwrap();
            prop_assert_eq!(String::from_utf8(opened.content).unwrap(), text);
        }

        #[test]
        fn any_text_opens(raw in "[%0-9a-fA-F\u{e4}/:]{0,20}") {
            let opened = Percent { part: UriPart::Path }.open(raw.as_bytes()).unwrap();
            prop_assert_eq!(opened.map.outer(0..opened.content.len()), Some(0..raw.len()));
        }
    }
}
