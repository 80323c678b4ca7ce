//! JSON strings (RFC 8259, section 7): `\"`, `\\`, `\/`, `\b`, `\f`, `\n`, `\r`, `\t`, `\uXXXX`.

use crate::layer::{Edits, Layer, Malformed, MapBuilder, Opened, Unfit, lift_each};
use crate::place::OPAQUE;

/// How a document writes what it need not escape.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct JsonStyle {
    /// Whether `/` is written `\/`.
    pub escapes_slash: bool,
    /// Whether letters outside ASCII are written `\uXXXX`.
    pub escapes_letters: bool,
    /// Whether the hex digits of escapes are in upper case.
    pub upper_hex: bool,
}

impl JsonStyle {
    /// Reads the style from the raw text of a document; `fallback` where it has no example.
    pub fn of(raw: &str, fallback: Self) -> Self {
        let bytes = raw.as_bytes();
        let (mut escaped, mut plain_letters) = (0usize, 0usize);
        let (mut upper, mut lower) = (0usize, 0usize);
        let (mut slashes, mut escaped_slashes) = (0usize, 0usize);
        let mut at = 0;
        while let Some(next) = memchr::memchr2(b'\\', b'/', &bytes[at..]) {
            let here = at + next;
            plain_letters += letters(&raw[at..here]);
            at = here + 1;
            if bytes[here] == b'/' {
                slashes += 1;
                continue;
            }
            match bytes.get(here + 1) {
                Some(b'/') => {
                    escaped_slashes += 1;
                    at = here + 2;
                }
                Some(b'u') => {
                    if let Some(digits) = hex4(&bytes[here + 2..]) {
                        escaped += usize::from(digits >= 0x80);
                        let text = &bytes[here + 2..here + 6];
                        upper += text.iter().filter(|b| b.is_ascii_uppercase()).count();
                        lower += text.iter().filter(|b| b.is_ascii_lowercase()).count();
                        at = here + 6;
                    }
                }
                // The escaped backslash is no escape of what follows it.
                Some(b'\\' | b'"') => at = here + 2,
                _ => {}
            }
        }
        plain_letters += letters(&raw[at..]);
        Self {
            escapes_slash: choose(escaped_slashes, slashes, fallback.escapes_slash),
            escapes_letters: choose(escaped, plain_letters, fallback.escapes_letters),
            upper_hex: choose(upper, lower, fallback.upper_hex),
        }
    }
}

fn choose(yes: usize, no: usize, fallback: bool) -> bool {
    if yes + no == 0 { fallback } else { yes > no }
}

fn letters(text: &str) -> usize {
    if text.is_ascii() {
        return 0;
    }
    text.chars()
        .filter(|c| !c.is_ascii() && *c != OPAQUE)
        .count()
}

fn hex4(bytes: &[u8]) -> Option<u32> {
    let digits = bytes.get(..4)?;
    digits.iter().try_fold(0, |value, digit| {
        Some(value * 16 + (*digit as char).to_digit(16)?)
    })
}

/// The text between the quotes of a JSON string.
#[derive(Debug)]
pub struct JsonString {
    /// The style of the document around it, for what the string itself does not show.
    pub document: JsonStyle,
}

impl Layer for JsonString {
    fn name(&self) -> &'static str {
        "JSON string"
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let mut content = Vec::with_capacity(outer.len());
        let mut map = MapBuilder::default();
        let mut at = 0;
        while at < outer.len() {
            if outer[at] != b'\\' {
                let plain = memchr::memchr(b'\\', &outer[at..]).unwrap_or(outer.len() - at);
                for offset in at..at + plain {
                    map.unit(1, offset..offset + 1);
                }
                content.extend_from_slice(&outer[at..at + plain]);
                at += plain;
                continue;
            }
            let (letter, width) = escape(&outer[at..]).ok_or(Malformed {
                what: "a backslash that escapes nothing",
                at,
            })?;
            let mut room = [0; 4];
            let text = letter.encode_utf8(&mut room);
            content.extend_from_slice(text.as_bytes());
            map.unit(text.len(), at..at + width);
            at += width;
        }
        Ok(Opened {
            content,
            map: map.finish(outer.len()),
        })
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        lift_each(outer, opened, inner, |with, stood| {
            let with = std::str::from_utf8(with).map_err(|_| Unfit::InsideUnit)?;
            let stood = std::str::from_utf8(stood).map_err(|_| Unfit::InsideUnit)?;
            Ok(encode(with, JsonStyle::of(stood, self.document)).into_bytes())
        })
    }
}

/// The escape at the start of `bytes`: its letter and its width. A lone surrogate is opaque.
fn escape(bytes: &[u8]) -> Option<(char, usize)> {
    let letter = match *bytes.get(1)? {
        letter @ (b'"' | b'\\' | b'/') => letter as char,
        b'b' => '\u{8}',
        b'f' => '\u{c}',
        b'n' => '\n',
        b'r' => '\r',
        b't' => '\t',
        b'u' => {
            let first = hex4(&bytes[2..])?;
            if let Some(letter) = char::from_u32(first) {
                return Some((letter, 6));
            }
            let second = bytes
                .get(6..)
                .and_then(|rest| rest.strip_prefix(br"\u"))
                .and_then(hex4);
            if let (0xD800..0xDC00, Some(second @ 0xDC00..0xE000)) = (first, second) {
                let scalar = 0x10000 + ((first - 0xD800) << 10) + (second - 0xDC00);
                return Some((char::from_u32(scalar)?, 12));
            }
            return Some((OPAQUE, 6));
        }
        _ => return None,
    };
    Some((letter, 2))
}

fn encode(text: &str, style: JsonStyle) -> String {
    let mut raw = String::with_capacity(text.len());
    for letter in text.chars() {
        match letter {
            '"' => raw.push_str("\\\""),
            '\\' => raw.push_str("\\\\"),
            '/' if style.escapes_slash => raw.push_str("\\/"),
            '\n' => raw.push_str("\\n"),
            '\r' => raw.push_str("\\r"),
            '\t' => raw.push_str("\\t"),
            '\u{8}' => raw.push_str("\\b"),
            '\u{c}' => raw.push_str("\\f"),
            _ if letter.is_control() && letter.is_ascii()
                || (style.escapes_letters && !letter.is_ascii()) =>
            {
                let mut units = [0; 2];
                for unit in letter.encode_utf16(&mut units) {
                    if style.upper_hex {
                        raw.push_str(&format!("\\u{unit:04X}"));
                    } else {
                        raw.push_str(&format!("\\u{unit:04x}"));
                    }
                }
            }
            _ => raw.push(letter),
        }
    }
    raw
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::{Edit, splice};
    use proptest::prelude::*;

    fn replaced(raw: &str, old: &str, new: &str, document: JsonStyle) -> String {
        let layer = JsonString { document };
        let opened = layer.open(raw.as_bytes()).unwrap();
        let content = std::str::from_utf8(&opened.content).unwrap().to_owned();
        let at = content.find(old).unwrap();
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
    fn edits_are_escaped_like_what_they_replace() {
        let plain = JsonStyle::default();
        let escaping = JsonStyle {
            escapes_letters: true,
            ..plain
        };
        let cases = [
            (
                r"D:\\Herb\\x",
                r"D:\Herb",
                r"H:\Col\Herb",
                plain,
                r"H:\\Col\\Herb\\x",
            ),
            (
                r"D:\/Herb\/x",
                "D:/Herb",
                "H:/Col/Herb",
                plain,
                r"H:\/Col\/Herb\/x",
            ),
            (r"D:/Herb/x", "D:/Herb", "H:/Col", plain, "H:/Col/x"),
            (
                r"D:\\Gr\u00F6n\\x",
                "D:\\Gr\u{f6}n",
                "H:\\K\u{e4}se",
                plain,
                r"H:\\K\u00E4se\\x",
            ),
            (
                "D:\\\\Gr\u{f6}n\\\\x",
                "D:\\Gr\u{f6}n",
                "H:\\K\u{e4}se",
                escaping,
                "H:\\\\K\u{e4}se\\\\x",
            ),
            (
                r"D:\\Herb\\x",
                r"D:\Herb",
                "H:\\K\u{e4}se",
                escaping,
                r"H:\\K\u00e4se\\x",
            ),
            (
                r"D:\\Herb",
                r"D:\Herb",
                "H:\\\u{1f33f}",
                escaping,
                r"H:\\\ud83c\udf3f",
            ),
            (
                r#"-d D:\\Herb"#,
                r"D:\Herb",
                r#""H:\a b""#,
                plain,
                r#"-d \"H:\\a b\""#,
            ),
        ];
        for (raw, old, new, document, expected) in cases {
            assert_eq!(replaced(raw, old, new, document), expected, "{raw}");
        }
    }

    #[test]
    fn what_escapes_nothing_is_malformed() {
        for raw in [r"D:\Herbarium", r"x\", r"\u12", r"\x41"] {
            assert!(
                JsonString {
                    document: JsonStyle::default()
                }
                .open(raw.as_bytes())
                .is_err(),
                "{raw}"
            );
        }
        let lone = JsonString {
            document: JsonStyle::default(),
        }
        .open(br"\ud800x")
        .unwrap();
        assert_eq!(lone.content, format!("{OPAQUE}x").as_bytes());
    }

    proptest! {
        #[test]
        fn decoding_undoes_encoding(text in any::<String>(), slash: bool, letters: bool, upper_hex: bool) {
            let document = JsonStyle { escapes_slash: slash, escapes_letters: letters, upper_hex };
            let raw = encode(&text, document);
            let opened = JsonString { document }.open(raw.as_bytes()).unwrap();
            prop_assert_eq!(String::from_utf8(opened.content).unwrap(), text.clone());
            let read: String = serde_json::from_str(&format!("\"{raw}\"")).unwrap();
            prop_assert_eq!(read, text);
        }
    }
}
