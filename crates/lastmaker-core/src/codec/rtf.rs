//! Text of RTF documents (Rich Text Format specification 1.9.1): `\\`, `\{`, `\}`, `\'hh` in the
//! document's code page, `\uN` with what older readers show instead.

use crate::layer::{Edits, Layer, Malformed, MapBuilder, Opened, Unfit, lift_each};
use crate::place::OPAQUE;
use crate::text::Encoding;

/// A run of text between control words and braces.
#[derive(Debug)]
pub struct RtfText {
    /// The code page of `\'hh`.
    pub page: Encoding,
    /// How many letters are after `\uN` for readers that do not know it.
    pub fallbacks: usize,
    /// Whether the document writes letters as `\uN`.
    pub unicode: bool,
}

/// What is at the start of some text.
enum Unit {
    Letter(char, usize),
    Skipped(usize),
}

impl RtfText {
    fn unit(&self, bytes: &[u8]) -> Option<Unit> {
        match bytes {
            [b'\r' | b'\n', ..] => Some(Unit::Skipped(1)),
            [b'\\', letter @ (b'\\' | b'{' | b'}'), ..] => Some(Unit::Letter(*letter as char, 2)),
            [b'\\', b'~', ..] => Some(Unit::Letter('\u{a0}', 2)),
            [b'\\', b'_', ..] => Some(Unit::Letter('\u{2011}', 2)),
            [b'\\', b'-', ..] => Some(Unit::Skipped(2)),
            [b'\\', b'\'', ..] => {
                let byte = hex_pair(bytes.get(2..4)?)?;
                Some(Unit::Letter(self.letter(byte), 4))
            }
            [b'\\', b'u', ..] => {
                let (first, width) = self.utf16_unit(bytes)?;
                // Two halves are one letter; a half by itself is none.
                if matches!(first, 0xD800..0xDC00)
                    && let Some((second, more)) = self.utf16_unit(&bytes[width..])
                    && let Some(Ok(letter)) = char::decode_utf16([first, second]).next()
                {
                    return Some(Unit::Letter(letter, width + more));
                }
                let letter = char::from_u32(u32::from(first)).unwrap_or(OPAQUE);
                Some(Unit::Letter(letter, width))
            }
            [b'\\', ..] => None,
            _ => {
                let letter = super::doubled::first_letter(bytes).unwrap_or(OPAQUE);
                Some(Unit::Letter(
                    letter,
                    if letter == OPAQUE {
                        1
                    } else {
                        letter.len_utf8()
                    },
                ))
            }
        }
    }

    /// The number after `\u`, and how many bytes it takes with what is to be skipped after it.
    fn utf16_unit(&self, bytes: &[u8]) -> Option<(u16, usize)> {
        let rest = bytes.strip_prefix(b"\\u")?;
        let sign = usize::from(rest.first() == Some(&b'-'));
        let digits = rest[sign..]
            .iter()
            .take(6)
            .take_while(|b| b.is_ascii_digit())
            .count();
        let number: i32 = std::str::from_utf8(&rest[..sign + digits])
            .ok()?
            .parse()
            .ok()?;
        let mut width = 2 + sign + digits;
        width += usize::from(bytes.get(width) == Some(&b' '));
        for _ in 0..self.fallbacks {
            width += match &bytes[width.min(bytes.len())..] {
                [b'\\', b'\'', ..] => 4,
                [] | [b'\\' | b'{' | b'}', ..] => 0,
                [first, ..] if first.is_ascii() => 1,
                rest => super::doubled::first_letter(rest).map_or(1, char::len_utf8),
            };
        }
        // Numbers are signed and of sixteen bits; some writers leave the sign out.
        let unit = u16::try_from(number.rem_euclid(0x1_0000)).ok()?;
        Some((unit, width.min(bytes.len())))
    }

    fn letter(&self, byte: u8) -> char {
        if byte < 0x80 {
            return byte as char;
        }
        let bytes = [byte];
        let text = self.page.decode(&bytes);
        let mut letters = text.chars();
        match (letters.next(), letters.next()) {
            (Some(letter), None) if letter != '\u{FFFD}' => letter,
            _ => OPAQUE,
        }
    }

    fn encode(&self, text: &str, stood: &str) -> String {
        let unicode = stood.contains("\\u") || (self.unicode && !stood.contains("\\'"));
        let mut raw = String::new();
        for letter in text.chars() {
            if "\\{}".contains(letter) {
                raw.push('\\');
                raw.push(letter);
            } else if letter.is_ascii() {
                raw.push(letter);
            } else {
                let byte = self
                    .page
                    .encode(&letter.to_string())
                    .ok()
                    .filter(|bytes| bytes.len() == 1)
                    .map(|bytes| format!("\\'{:02x}", bytes[0]));
                match byte {
                    Some(byte) if !unicode => raw.push_str(&byte),
                    fallback => {
                        let fallback = fallback.unwrap_or_else(|| "?".to_owned());
                        let mut units = [0; 2];
                        for unit in letter.encode_utf16(&mut units) {
                            raw.push_str(&format!("\\u{}", unit.cast_signed()));
                            match self.fallbacks {
                                0 => raw.push(' '),
                                count => raw.push_str(&fallback.repeat(count)),
                            }
                        }
                    }
                }
            }
        }
        raw
    }
}

fn hex_pair(digits: &[u8]) -> Option<u8> {
    u8::from_str_radix(std::str::from_utf8(digits).ok()?, 16).ok()
}

impl Layer for RtfText {
    fn name(&self) -> &'static str {
        "RTF text"
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let mut content = String::with_capacity(outer.len());
        let mut map = MapBuilder::default();
        let mut at = 0;
        while at < outer.len() {
            match self.unit(&outer[at..]) {
                Some(Unit::Letter(letter, width)) => {
                    content.push(letter);
                    map.unit(letter.len_utf8(), at..at + width);
                    at += width;
                }
                Some(Unit::Skipped(width)) => at += width,
                None => {
                    return Err(Malformed {
                        what: "a control word inside of text",
                        at,
                    });
                }
            }
        }
        Ok(Opened {
            content: content.into_bytes(),
            map: map.finish(outer.len()),
        })
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        lift_each(outer, opened, inner, |with, stood| {
            let with = std::str::from_utf8(with).map_err(|_| Unfit::InsideUnit)?;
            let stood = std::str::from_utf8(stood).map_err(|_| Unfit::InsideUnit)?;
            Ok(self.encode(with, stood).into_bytes())
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::{Edit, splice};

    #[test]
    fn letters_are_written_like_what_they_replace() {
        let cases = [
            (
                1,
                r"D:\\H\'e9\\x",
                "D:\\H\u{e9}",
                "H:\\\u{e4}",
                r"H:\\\'e4\\x",
            ),
            (
                1,
                r"D:\\H\u233?\\x",
                "D:\\H\u{e9}",
                "H:\\\u{e4}",
                r"H:\\\u228\'e4\\x",
            ),
            (
                1,
                r"D:\\H\u233\'e9\\x",
                "D:\\H\u{e9}",
                "H:\\\u{17e}\u{3b1}",
                r"H:\\\u382\'9e\u945?\\x",
            ),
            (
                0,
                r"D:\\H\u233 \\x",
                "D:\\H\u{e9}",
                "H:\\\u{e4}",
                r"H:\\\u228 \\x",
            ),
            (
                1,
                "D:\\\\He\r\nrb\\\\x",
                r"D:\Herb",
                r"H:\{C}",
                r"H:\\\{C\}\\x",
            ),
            (1, r"D:\\\u-4060?\\x", "D:\\\u{f024}", r"H:\C", r"H:\\C\\x"),
        ];
        for (fallbacks, raw, old, new, expected) in cases {
            let layer = RtfText {
                page: Encoding::WINDOWS_1252,
                fallbacks,
                unicode: false,
            };
            let opened = layer.open(raw.as_bytes()).unwrap();
            let content = std::str::from_utf8(&opened.content).unwrap();
            let at = content.find(old).unwrap_or_else(|| panic!("{content}"));
            let edit = Edit {
                span: at..at + old.len(),
                with: new.as_bytes().to_vec(),
            };
            let edits = layer
                .lift(raw.as_bytes(), &opened, &Edits::new(vec![edit]).unwrap())
                .unwrap();
            let got = String::from_utf8(splice(raw.as_bytes(), &edits)).unwrap();
            assert_eq!(got, expected, "{raw}");
        }
    }
}
