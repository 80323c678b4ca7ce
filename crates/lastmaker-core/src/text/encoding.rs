//! Encodings, unit by unit in both directions.

use std::borrow::Cow;

use encoding_rs::{DecoderResult, EncoderResult};

use super::DosPage;
use crate::layer::{Edits, Layer, Malformed, Opened, Unfit, lift_each, open_units};
use crate::place::OPAQUE;

/// How text is written as bytes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Encoding {
    /// ASCII so far: nothing shows how a letter outside would be written.
    Undecided,
    /// UTF-8.
    Utf8,
    /// UTF-16, the low byte first.
    Utf16Le,
    /// UTF-16, the high byte first.
    Utf16Be,
    /// A code page in which ASCII is ASCII.
    CodePage(&'static encoding_rs::Encoding),
    /// A code page of DOS.
    Dos(&'static DosPage),
}

impl Encoding {
    /// Windows-1252, which eight-bit Windows text of Western Europe is in.
    pub const WINDOWS_1252: Self = Self::CodePage(encoding_rs::WINDOWS_1252);

    /// The encoding that the WHATWG Encoding Standard calls `label`, or the code page of DOS of that
    /// number; none where a splice would not be safe.
    pub fn for_label(label: &str) -> Option<Self> {
        let standard = encoding_rs::Encoding::for_label_no_replacement(label.as_bytes());
        let Some(found) = standard else {
            return DosPage::for_label(label).map(Self::Dos);
        };
        Some(match found {
            e if e == encoding_rs::UTF_8 => Self::Utf8,
            e if e == encoding_rs::UTF_16LE => Self::Utf16Le,
            e if e == encoding_rs::UTF_16BE => Self::Utf16Be,
            // Its shifts change what later bytes mean, so a splice is not safe.
            e if e == encoding_rs::ISO_2022_JP => return None,
            e => Self::CodePage(e),
        })
    }

    /// The name that people know it by.
    pub fn name(self) -> &'static str {
        match self {
            Self::Undecided => "ASCII",
            Self::Utf8 => "UTF-8",
            Self::Utf16Le => "UTF-16LE",
            Self::Utf16Be => "UTF-16BE",
            Self::CodePage(page) => page.name(),
            Self::Dos(page) => page.name,
        }
    }

    /// Whether it has one byte for each letter, or for most of them.
    pub fn is_code_page(self) -> bool {
        matches!(self, Self::CodePage(_) | Self::Dos(_))
    }

    /// Decodes `bytes`; what is no letter becomes [`OPAQUE`].
    pub fn decode(self, bytes: &[u8]) -> Cow<'_, str> {
        if matches!(self, Self::Undecided | Self::Utf8)
            && let Ok(text) = std::str::from_utf8(bytes)
        {
            return Cow::Borrowed(text);
        }
        let mut text = Vec::with_capacity(bytes.len());
        let mut at = 0;
        while at < bytes.len() {
            let rest = &bytes[at..];
            let (count, width) = self.ascii_run(rest);
            if count > 0 {
                let run = &rest[..count * width];
                match self {
                    // Of the two bytes of a letter of ASCII the other one is zero.
                    Self::Utf16Le => text.extend(run.chunks_exact(2).map(|unit| unit[0])),
                    Self::Utf16Be => text.extend(run.chunks_exact(2).map(|unit| unit[1])),
                    _ => text.extend_from_slice(run),
                }
                at += run.len();
                continue;
            }
            let (letter, width) = self.unit(rest);
            text.extend_from_slice(letter.encode_utf8(&mut [0; 4]).as_bytes());
            at += width;
        }
        // Only whole letters were put in it.
        let text = String::from_utf8(text);
        Cow::Owned(text.unwrap_or_else(|bad| String::from_utf8_lossy(bad.as_bytes()).into_owned()))
    }

    /// How many letters of ASCII `bytes` begin with, as far as that is told at a glance, and how wide one
    /// is.
    pub(crate) fn ascii_run(self, bytes: &[u8]) -> (usize, usize) {
        let wide = |low: usize| {
            let fits = |unit: &[u8]| unit[1 - low] == 0 && unit[low].is_ascii();
            // Many units at once, without a branch for each.
            let blocks = bytes.chunks_exact(32);
            let all_fit = |block: &&[u8]| {
                block
                    .chunks_exact(2)
                    .fold(true, |fit, unit| fit & fits(unit))
            };
            let whole = blocks.take_while(all_fit).count() * 16;
            let rest = bytes[whole * 2..].chunks_exact(2);
            whole + rest.take_while(|unit| fits(unit)).count()
        };
        match self {
            Self::Utf16Le => (wide(0), 2),
            Self::Utf16Be => (wide(1), 2),
            Self::Dos(_) => (0, 1),
            Self::Undecided | Self::Utf8 | Self::CodePage(_) => {
                (encoding_rs::Encoding::ascii_valid_up_to(bytes), 1)
            }
        }
    }

    /// The first unit of `bytes`, which are not empty: its letter and its width in bytes.
    pub fn unit(self, bytes: &[u8]) -> (char, usize) {
        match self {
            Self::Undecided | Self::Utf8 => utf8_unit(bytes),
            Self::Utf16Le => utf16_unit(bytes, u16::from_le_bytes),
            Self::Utf16Be => utf16_unit(bytes, u16::from_be_bytes),
            Self::CodePage(page) => page_unit(page, bytes),
            Self::Dos(page) => (page.letter(bytes[0]), 1),
        }
    }

    /// Encodes `text`, without a mark.
    ///
    /// # Errors
    /// Where the encoding lacks a letter, or is undecided and the text is not ASCII.
    pub fn encode(self, text: &str) -> Result<Vec<u8>, Unfit> {
        match self {
            _ if text.is_ascii() && !matches!(self, Self::Utf16Le | Self::Utf16Be) => {
                Ok(text.as_bytes().to_vec())
            }
            Self::Undecided => {
                let letter = text.chars().find(|c| !c.is_ascii()).unwrap_or(OPAQUE);
                Err(Unfit::Undecided { letter })
            }
            Self::Utf8 => Ok(text.as_bytes().to_vec()),
            Self::Utf16Le => Ok(text.encode_utf16().flat_map(u16::to_le_bytes).collect()),
            Self::Utf16Be => Ok(text.encode_utf16().flat_map(u16::to_be_bytes).collect()),
            Self::CodePage(page) => encode_page(page, text),
            Self::Dos(page) => {
                let byte = |letter| {
                    page.byte(letter).ok_or(Unfit::NoSuchLetter {
                        letter,
                        encoding: page.name,
                    })
                };
                text.chars().map(byte).collect()
            }
        }
    }
}

fn utf8_unit(bytes: &[u8]) -> (char, usize) {
    let head = &bytes[..bytes.len().min(4)];
    let valid = match std::str::from_utf8(head) {
        Ok(text) => text,
        Err(error) => std::str::from_utf8(&head[..error.valid_up_to()]).unwrap_or(""),
    };
    valid
        .chars()
        .next()
        .map_or((OPAQUE, 1), |letter| (letter, letter.len_utf8()))
}

fn utf16_unit(bytes: &[u8], read: fn([u8; 2]) -> u16) -> (char, usize) {
    let at = |index: usize| Some(read([*bytes.get(index)?, *bytes.get(index + 1)?]));
    let Some(first) = at(0) else {
        return (OPAQUE, 1);
    };
    let pair = [first, at(2).unwrap_or(0)];
    let used = if (0xD800..0xDC00).contains(&first) {
        2
    } else {
        1
    };
    match char::decode_utf16(pair[..used].iter().copied()).next() {
        Some(Ok(letter)) => (letter, used * 2),
        _ => (OPAQUE, 2),
    }
}

fn page_unit(page: &'static encoding_rs::Encoding, bytes: &[u8]) -> (char, usize) {
    if bytes[0].is_ascii() {
        return (bytes[0] as char, 1);
    }
    for width in 1..=bytes.len().min(4) {
        let mut decoder = page.new_decoder_without_bom_handling();
        let mut room = [0u8; 16];
        let (result, _, written) =
            decoder.decode_to_utf8_without_replacement(&bytes[..width], &mut room, true);
        if result == DecoderResult::InputEmpty {
            let text = std::str::from_utf8(&room[..written]).unwrap_or("");
            let mut letters = text.chars();
            if let (Some(letter), None) = (letters.next(), letters.next()) {
                // A letter that would be written otherwise than it is, is left alone.
                return (letter, width);
            }
        }
    }
    (OPAQUE, 1)
}

fn encode_page(page: &'static encoding_rs::Encoding, text: &str) -> Result<Vec<u8>, Unfit> {
    let mut encoder = page.new_encoder();
    let mut bytes = vec![0u8; text.len() * 4 + 16];
    let (result, _, written) = encoder.encode_from_utf8_without_replacement(text, &mut bytes, true);
    match result {
        EncoderResult::Unmappable(letter) => Err(Unfit::NoSuchLetter {
            letter,
            encoding: page.name(),
        }),
        _ => {
            bytes.truncate(written);
            Ok(bytes)
        }
    }
}

/// An encoding as the layer of a passage: text inside bytes inside something else.
#[derive(Debug)]
pub struct Encoded(pub Encoding);

impl Layer for Encoded {
    fn name(&self) -> &'static str {
        self.0.name()
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        Ok(open_units(outer, |rest| self.0.unit(rest)))
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        lift_each(outer, opened, inner, |with, _| {
            let text = std::str::from_utf8(with).map_err(|_| Unfit::InsideUnit)?;
            self.0.encode(text)
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn labels_are_those_of_the_standard() {
        let cases = [
            ("utf-8", Some("UTF-8")),
            ("cp1252", Some("windows-1252")),
            ("latin1", Some("windows-1252")),
            ("shift_jis", Some("Shift_JIS")),
            ("utf-16", Some("UTF-16LE")),
            ("iso-2022-jp", None),
            ("nonsense", None),
        ];
        for (label, name) in cases {
            assert_eq!(
                Encoding::for_label(label).map(Encoding::name),
                name,
                "{label}"
            );
        }
    }

    #[test]
    fn what_is_no_letter_stays_opaque() {
        let cases: [(Encoding, &[u8], &str); 4] = [
            (Encoding::Utf8, b"a\xffb", "a\u{10FFFF}b"),
            (Encoding::Utf16Le, b"a\0\0\xd8b\0", "a\u{10FFFF}b"),
            (Encoding::Utf16Le, b"a\0b", "a\u{10FFFF}"),
            (Encoding::WINDOWS_1252, b"\xe4\x80", "\u{e4}\u{20ac}"),
        ];
        for (encoding, bytes, text) in cases {
            assert_eq!(encoding.decode(bytes), text, "{bytes:?}");
        }
    }

    #[test]
    fn letters_that_a_page_lacks_are_named() {
        let fault = Encoding::WINDOWS_1252.encode("H:\\\u{6a19}").unwrap_err();
        assert!(matches!(
            fault,
            Unfit::NoSuchLetter {
                letter: '\u{6a19}',
                ..
            }
        ));
        assert!(matches!(
            Encoding::Undecided.encode("\u{f6}"),
            Err(Unfit::Undecided { letter: '\u{f6}' })
        ));
    }

    proptest! {
        #[test]
        fn decoding_undoes_encoding(text in "\\PC{0,30}", which in 0usize..4) {
            let page = Encoding::for_label("gb18030").unwrap();
            let encoding = [Encoding::Utf8, Encoding::Utf16Le, Encoding::Utf16Be, page][which];
            if let Ok(bytes) = encoding.encode(&text) {
                // A few letters share their bytes with others in gb18030.
                if which < 3 {
                    prop_assert_eq!(encoding.decode(&bytes), text.as_str());
                } else {
                    prop_assert_eq!(encoding.encode(&encoding.decode(&bytes)).unwrap(), bytes);
                }
            }
        }
    }
}
