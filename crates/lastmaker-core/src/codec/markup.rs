//! Text and attribute values of markup: entities and numeric references (XML 1.0, 4.1 and 4.6;
//! HTML's names for the letters of Latin-1).

use crate::layer::{Edits, Layer, Malformed, Opened, Unfit, lift_each, open_units};
use crate::place::OPAQUE;

use super::doubled::first_letter;

/// How a document writes letters outside ASCII.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum MarkupLetters {
    /// As they are.
    #[default]
    Raw,
    /// `&#228;`
    Decimal,
    /// `&#xe4;`, or with the flag `&#xE4;`
    Hex(bool),
    /// `&auml;`
    Named,
}

impl MarkupLetters {
    /// Reads the style from raw text; `fallback` where it has no example.
    pub fn of(raw: &str, fallback: Self) -> Self {
        if !raw.is_ascii() && raw.chars().any(|c| !c.is_ascii() && c != OPAQUE) {
            return Self::Raw;
        }
        let mut at = 0;
        let bytes = raw.as_bytes();
        while let Some(next) = memchr::memchr(b'&', &bytes[at..]) {
            let here = at + next;
            if let Some((letter, width)) = reference(&bytes[here..])
                && !letter.is_ascii()
            {
                let body = &raw[here + 1..here + width];
                return match body.strip_prefix('#') {
                    Some(number) if number.starts_with(['x', 'X']) => {
                        Self::Hex(number.bytes().skip(1).any(|b| b.is_ascii_uppercase()))
                    }
                    Some(_) => Self::Decimal,
                    None => Self::Named,
                };
            }
            at = here + 1;
        }
        fallback
    }
}

/// Text of an element or an attribute.
#[derive(Debug)]
pub struct Markup {
    /// The quote around an attribute's value, a blank where HTML leaves it out; none for text.
    pub quote: Option<char>,
    /// The document's way with letters outside ASCII.
    pub letters: MarkupLetters,
}

impl Layer for Markup {
    fn name(&self) -> &'static str {
        if self.quote.is_some() {
            "attribute value"
        } else {
            "element text"
        }
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        if outer.is_ascii() && memchr::memchr(b'&', outer).is_none() {
            return Ok(Opened::same(outer));
        }
        Ok(open_units(outer, |rest| {
            reference(rest).unwrap_or_else(|| {
                let letter = first_letter(rest);
                (letter.unwrap_or(OPAQUE), letter.map_or(1, char::len_utf8))
            })
        }))
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        lift_each(outer, opened, inner, |with, stood| {
            let with = std::str::from_utf8(with).map_err(|_| Unfit::InsideUnit)?;
            let stood = std::str::from_utf8(stood).map_err(|_| Unfit::InsideUnit)?;
            let letters = MarkupLetters::of(stood, self.letters);
            let Some((separator, written)) = separator_by_number(stood) else {
                return Ok(self.encode(with, letters).into_bytes());
            };
            let pieces = with
                .split(separator)
                .map(|piece| self.encode(piece, letters));
            Ok(pieces.collect::<Vec<_>>().join(written).into_bytes())
        })
    }
}

/// The separator that `raw` writes as a reference (`&#92;`) and never otherwise, and how.
fn separator_by_number(raw: &str) -> Option<(char, &str)> {
    memchr::memchr_iter(b'&', raw.as_bytes()).find_map(|at| {
        let (letter, width) = reference(&raw.as_bytes()[at..])?;
        let separator = matches!(letter, '\\' | '/') && !raw.contains(letter);
        separator.then(|| (letter, &raw[at..at + width]))
    })
}

impl Markup {
    fn encode(&self, text: &str, letters: MarkupLetters) -> String {
        let mut raw = String::with_capacity(text.len());
        for letter in text.chars() {
            match letter {
                '&' => raw.push_str("&amp;"),
                '<' => raw.push_str("&lt;"),
                '>' if self.quote.is_none() => raw.push_str("&gt;"),
                '"' if self.quote == Some('"') => raw.push_str("&quot;"),
                '\'' if self.quote == Some('\'') => raw.push_str("&apos;"),
                ' ' | '"' | '\'' | '=' | '`' | '>' if self.quote == Some(' ') => {
                    raw.push_str(&format!("&#{};", letter as u32));
                }
                '\t' | '\n' | '\r' => raw.push_str(&format!("&#{};", letter as u32)),
                _ if letter.is_ascii() => raw.push(letter),
                _ => match letters {
                    MarkupLetters::Raw => raw.push(letter),
                    MarkupLetters::Decimal => raw.push_str(&format!("&#{};", letter as u32)),
                    MarkupLetters::Hex(true) => raw.push_str(&format!("&#x{:X};", letter as u32)),
                    MarkupLetters::Hex(false) => raw.push_str(&format!("&#x{:x};", letter as u32)),
                    MarkupLetters::Named => match latin_name(letter) {
                        Some(name) => raw.push_str(&format!("&{name};")),
                        None => raw.push_str(&format!("&#{};", letter as u32)),
                    },
                },
            }
        }
        raw
    }
}

/// The reference at the start of `bytes`, and how many bytes it takes.
fn reference(bytes: &[u8]) -> Option<(char, usize)> {
    if bytes.first() != Some(&b'&') {
        return None;
    }
    let close = bytes.iter().take(12).position(|b| *b == b';')?;
    let name = std::str::from_utf8(&bytes[1..close]).ok()?;
    let letter = match name.strip_prefix('#') {
        Some(number) => {
            let value = match number.strip_prefix(['x', 'X']) {
                Some(digits) => u32::from_str_radix(digits, 16).ok()?,
                None => number.parse().ok()?,
            };
            char::from_u32(value)
                .filter(|letter| *letter != '\0')
                .unwrap_or(OPAQUE)
        }
        None => match name {
            "amp" => '&',
            "lt" => '<',
            "gt" => '>',
            "quot" => '"',
            "apos" => '\'',
            "bsol" => '\\',
            "sol" => '/',
            _ => {
                let index = LATIN_1.iter().position(|known| *known == name)?;
                char::from_u32(160 + index as u32)?
            }
        },
    };
    Some((letter, close + 1))
}

fn latin_name(letter: char) -> Option<&'static str> {
    let index = (letter as usize).checked_sub(160)?;
    LATIN_1.get(index).copied()
}

/// HTML's names for U+00A0 to U+00FF.
const LATIN_1: [&str; 96] = [
    "nbsp", "iexcl", "cent", "pound", "curren", "yen", "brvbar", "sect", "uml", "copy", "ordf",
    "laquo", "not", "shy", "reg", "macr", "deg", "plusmn", "sup2", "sup3", "acute", "micro",
    "para", "middot", "cedil", "sup1", "ordm", "raquo", "frac14", "frac12", "frac34", "iquest",
    "Agrave", "Aacute", "Acirc", "Atilde", "Auml", "Aring", "AElig", "Ccedil", "Egrave", "Eacute",
    "Ecirc", "Euml", "Igrave", "Iacute", "Icirc", "Iuml", "ETH", "Ntilde", "Ograve", "Oacute",
    "Ocirc", "Otilde", "Ouml", "times", "Oslash", "Ugrave", "Uacute", "Ucirc", "Uuml", "Yacute",
    "THORN", "szlig", "agrave", "aacute", "acirc", "atilde", "auml", "aring", "aelig", "ccedil",
    "egrave", "eacute", "ecirc", "euml", "igrave", "iacute", "icirc", "iuml", "eth", "ntilde",
    "ograve", "oacute", "ocirc", "otilde", "ouml", "divide", "oslash", "ugrave", "uacute", "ucirc",
    "uuml", "yacute", "thorn", "yuml",
];

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::{Edit, splice};
    use proptest::prelude::*;

    #[test]
    fn letters_are_written_like_what_they_replace() {
        let cases = [
            (
                Some('"'),
                r"D:\H&#228;\x",
                "D:\\H\u{e4}",
                "H:\\\u{f6}&",
                r"H:\&#246;&amp;\x",
            ),
            (
                Some('"'),
                r"D:\H&#xE4;\x",
                "D:\\H\u{e4}",
                "H:\\\u{f6}",
                r"H:\&#xF6;\x",
            ),
            (
                None,
                r"D:\H&auml;\x",
                "D:\\H\u{e4}",
                "H:\\\u{f6}",
                r"H:\&ouml;\x",
            ),
            (
                None,
                "D:\\H\u{e4}\\x",
                "D:\\H\u{e4}",
                "H:\\\u{f6}",
                "H:\\\u{f6}\\x",
            ),
            (
                Some('\''),
                r"&#68;:\H\x",
                r"D:\H",
                "H:\\o'\"",
                "H:\\o&apos;\"\\x",
            ),
            (None, r"D:\a&amp;b\x", r"D:\a&b", r"H:\c", r"H:\c\x"),
        ];
        for (quote, raw, old, new, expected) in cases {
            let layer = Markup {
                quote,
                letters: MarkupLetters::Raw,
            };
            let opened = layer.open(raw.as_bytes()).unwrap();
            let content = std::str::from_utf8(&opened.content).unwrap();
            let at = content.find(old).unwrap();
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

    proptest! {
        #[test]
        fn decoding_undoes_encoding(text in "\\PC{0,12}|[&<>'\"\u{e4}a;#]{0,12}", style in 0usize..4) {
            let letters = [
                MarkupLetters::Raw, MarkupLetters::Decimal, MarkupLetters::Hex(true), MarkupLetters::Named,
            ][style];
            for quote in [None, Some('"'), Some('\'')] {
                let layer = Markup { quote, letters };
                let raw = layer.encode(&text, letters);
                let opened = layer.open(raw.as_bytes()).unwrap();
                prop_assert_eq!(String::from_utf8(opened.content).unwrap(), text.clone(), "{}", raw);
            }
        }
    }
}
