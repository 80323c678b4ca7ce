//! Scalars that run over several lines (YAML 1.2.2, 6.5): a line's end within one is a blank.

use std::cell::Cell;

use crate::layer::{Edits, Layer, Malformed, Opened, Unfit, lift_each, open_units};
use crate::place::OPAQUE;

use super::doubled::first_letter;

/// A flow or plain scalar as it is written, its lines not joined yet.
#[derive(Debug)]
pub struct Fold {
    /// Whether a backslash before a line's end is an escape, and left for the next layer.
    pub escapes: bool,
    /// Whether the scalar has no quotes, and is in brackets.
    pub plain: Option<Brackets>,
}

/// Where a plain scalar is: inside of brackets more letters end it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Brackets {
    /// Inside of brackets.
    Inside,
    /// Outside of brackets.
    Outside,
}

impl Layer for Fold {
    fn name(&self) -> &'static str {
        if self.plain.is_some() {
            "YAML plain scalar"
        } else {
            "YAML quoted scalar"
        }
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        if outer.is_ascii() && memchr::memchr2(b'\r', b'\n', outer).is_none() {
            return Ok(Opened::same(outer));
        }
        let whole = outer.len();
        // Blanks up to here are known to end no line; a long run of them is looked at once.
        let inner_blanks = Cell::new(0);
        let blanks = |bytes: &[u8]| {
            let blank = |b: &&u8| matches!(b, b' ' | b'\t');
            bytes.iter().take_while(blank).count()
        };
        let is_escaped = |at: usize| {
            let before = outer[..at].iter().rev();
            self.escapes && before.take_while(|b| **b == b'\\').count() % 2 == 1
        };
        Ok(open_units(outer, |rest| {
            let at = whole - rest.len();
            let before = match rest[0] {
                b' ' | b'\t' if at >= inner_blanks.get() => blanks(rest),
                _ => 0,
            };
            let ends_line = matches!(rest.get(before), Some(b'\r' | b'\n'));
            if before > 0 && !ends_line {
                inner_blanks.set(at + before);
            }
            if ends_line && !is_escaped(at) {
                let mut end = before;
                let mut lines = 0;
                while let Some(b'\r' | b'\n') = rest.get(end) {
                    end += if rest[end..].starts_with(b"\r\n") {
                        2
                    } else {
                        1
                    };
                    end += blanks(&rest[end..]);
                    lines += 1;
                }
                return (if lines == 1 { ' ' } else { '\n' }, end);
            }
            let letter = first_letter(rest);
            (letter.unwrap_or(OPAQUE), letter.map_or(1, char::len_utf8))
        }))
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        lift_each(outer, opened, inner, |with, _| {
            let text = std::str::from_utf8(with).map_err(|_| Unfit::InsideUnit)?;
            if let Some(brackets) = self.plain {
                let bad = text.contains(" #")
                    || text.contains(": ")
                    || (brackets == Brackets::Inside
                        && text.contains([',', '[', ']', '{', '}', '?']));
                if bad {
                    return Err(Unfit::NotWritable {
                        what: "a plain YAML scalar would end inside of the new place; put it in quotes",
                    });
                }
            }
            Ok(with.to_vec())
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_are_joined_by_blanks() {
        let cases = [
            (false, "D:\\My\n  Data\\x", r"D:\My Data\x"),
            (false, "a  \r\n\tb", "a b"),
            (false, "a\n\n  b", "a\nb"),
            (true, "a\\\n  b", "a\\\n  b"),
            (true, "a\\\\\n  b", "a\\\\ b"),
        ];
        for (escapes, outer, content) in cases {
            let opened = Fold {
                escapes,
                plain: None,
            }
            .open(outer.as_bytes())
            .unwrap();
            assert_eq!(
                String::from_utf8(opened.content).unwrap(),
                content,
                "{outer:?}"
            );
        }
    }
}
