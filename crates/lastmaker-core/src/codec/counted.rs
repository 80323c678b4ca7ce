//! Strings that are preceded by their own length: `12:"D:\Herbarium"` in serialised data, and
//! `12:D:\Herbarium` in bencoded data.

use crate::layer::{Edit, Edits, Layer, Malformed, MapBuilder, Opened, Unfit};

/// Length, colon and string, with or without quotes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Counted {
    /// Whether the string is in quotes.
    pub quoted: bool,
    /// Whether the length is in letters: the file's encoding has one byte for each.
    pub letters: bool,
}

/// Letters are counted one by one only so far, lest many long counts cost too much time.
const MOST_LETTERS: usize = 1 << 14;

impl Counted {
    /// Where the counted string at the start of `outer` begins and ends; none if there is
    /// none, or if what follows the count shows that it is not right.
    pub fn bounds(self, outer: &str) -> Option<(usize, usize)> {
        let digits = outer.bytes().take_while(u8::is_ascii_digit).count();
        if digits == 0 || digits > 9 {
            return None;
        }
        let count: usize = outer[..digits].parse().ok()?;
        let lead = if self.quoted { ":\"" } else { ":" };
        let rest = outer[digits..].strip_prefix(lead)?;
        let length = if self.letters && !rest.as_bytes().get(..count)?.is_ascii() {
            if count > MOST_LETTERS {
                return None;
            }
            let ends = rest.char_indices().map(|(at, _)| at);
            ends.chain([rest.len()]).nth(count)?
        } else {
            count
        };
        rest.get(..length)?;
        if self.quoted && !rest[length..].starts_with('"') {
            return None;
        }
        let start = digits + lead.len();
        Some((start, start + length))
    }

    fn length(self, text: &[u8]) -> usize {
        if self.letters {
            String::from_utf8_lossy(text).chars().count()
        } else {
            text.len()
        }
    }
}

impl Layer for Counted {
    fn name(&self) -> &'static str {
        "counted string"
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let wrong = Malformed {
            what: "a length that is not the string's",
            at: 0,
        };
        let text = std::str::from_utf8(outer).map_err(|_| wrong)?;
        let (start, end) = self.bounds(text).ok_or(wrong)?;
        let mut map = MapBuilder::default();
        map.bytes(start..end);
        Ok(Opened {
            content: outer[start..end].to_vec(),
            map: map.finish(end),
        })
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        let mut lifted = Vec::new();
        let mut length = self.length(&opened.content);
        for edit in inner.as_slice() {
            let span = opened
                .map
                .outer(edit.span.clone())
                .ok_or(Unfit::InsideUnit)?;
            length = length + self.length(&edit.with) - self.length(&outer[span.clone()]);
            lifted.push(Edit {
                span,
                with: edit.with.clone(),
            });
        }
        let digits = outer.iter().take_while(|b| b.is_ascii_digit()).count();
        let counted = length.to_string().into_bytes();
        if !lifted.is_empty() && outer[..digits] != counted {
            lifted.push(Edit {
                span: 0..digits,
                with: counted,
            });
        }
        Edits::new(lifted).map_err(|_| Unfit::Overlap)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::splice;

    #[test]
    fn the_length_follows_the_string() {
        let cases = [
            (
                true,
                false,
                r#"6:"D:\H\x";"#,
                r"D:\H",
                "H:\\C\u{e4}",
                "8:\"H:\\C\u{e4}\\x\";",
            ),
            (
                true,
                true,
                r#"6:"D:\H\x";"#,
                r"D:\H",
                "H:\\C\u{e4}",
                "7:\"H:\\C\u{e4}\\x\";",
            ),
            (
                false,
                false,
                r"6:D:\H\x",
                r"D:\H",
                r"H:\Col\Herb",
                r"13:H:\Col\Herb\x",
            ),
        ];
        for (quoted, letters, outer, old, new, expected) in cases {
            let layer = Counted { quoted, letters };
            let opened = layer.open(outer.as_bytes()).unwrap();
            let edit = Edit {
                span: 0..old.len(),
                with: new.as_bytes().to_vec(),
            };
            let edits = layer
                .lift(outer.as_bytes(), &opened, &Edits::new(vec![edit]).unwrap())
                .unwrap();
            let got = String::from_utf8(splice(outer.as_bytes(), &edits)).unwrap();
            assert_eq!(got, expected);
        }
        let layer = Counted {
            quoted: true,
            letters: false,
        };
        for wrong in [
            r#"7:"D:\H\x";"#,
            r#"99:"D:\H\x";"#,
            r#":"D:\H\x";"#,
            "3:\"\u{e4}\u{e4}\";",
        ] {
            assert!(layer.open(wrong.as_bytes()).is_err(), "{wrong}");
        }
    }
}
