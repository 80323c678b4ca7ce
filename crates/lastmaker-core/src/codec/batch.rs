//! Text of Windows batch files: outside of quotes `^` takes its meaning from the next letter,
//! and everywhere `%%` is a percent sign.

use std::ops::Range;

use crate::layer::{
    Edits, Expansion, Layer, Malformed, MapBuilder, Opened, Unfit, VariableForm, lift_each,
};

/// Letters that mean something to the command interpreter outside of quotes.
const MEANT: &str = "&|<>^";

/// A command line, or a part of one.
#[derive(Debug)]
pub struct BatchText {
    /// Whether it is in quotes that were opened before it.
    pub quoted: bool,
    /// Whether it is read once more later, as a variable's value or by `call`: then no percent sign that
    /// comes in is safe.
    pub read_again: bool,
    /// Whether `!` means something: the file asks for it with `enabledelayedexpansion`.
    pub bangs: bool,
}

impl BatchText {
    fn write(&self, text: &str, mut quoted: bool) -> Result<String, Unfit> {
        let mut written = String::with_capacity(text.len());
        for letter in text.chars() {
            match letter {
                '"' => quoted = !quoted,
                _ if self.read_again && (letter == '%' || MEANT.contains(letter)) => {
                    return Err(Unfit::Means {
                        letter,
                        within: "command",
                    });
                }
                '%' => written.push('%'),
                '!' if self.bangs => {
                    return Err(Unfit::NotWritable {
                        what: "the new place holds a `!`, which this script takes for a variable",
                    });
                }
                _ if MEANT.contains(letter) && !quoted => written.push('^'),
                _ => {}
            }
            written.push(letter);
        }
        Ok(written)
    }
}

impl Layer for BatchText {
    fn name(&self) -> &'static str {
        "batch text"
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let mut content = Vec::with_capacity(outer.len());
        let mut map = MapBuilder::default();
        let mut quoted = self.quoted;
        let mut at = 0;
        while at < outer.len() {
            let next = outer.get(at + 1).copied();
            quoted ^= outer[at] == b'"';
            let width = match (outer[at], next) {
                (b'%', Some(b'%')) => 2,
                (b'^', Some(letter)) if !quoted && MEANT.as_bytes().contains(&letter) => 2,
                _ => 1,
            };
            content.push(outer[at + width - 1]);
            map.unit(1, at..at + width);
            at += width;
        }
        Ok(Opened {
            content,
            map: map.finish(outer.len()),
        })
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        let (mut passed, mut quoted) = (0, self.quoted);
        let mut starts = inner.as_slice().iter().map(|edit| edit.span.start);
        lift_each(outer, opened, inner, |with, _| {
            // The edits come in order, so each quote is counted once.
            let start = starts.next().unwrap_or(passed);
            let before = &opened.content[passed..start];
            quoted ^= memchr::memchr_iter(b'"', before).count() % 2 == 1;
            passed = start;
            let text = std::str::from_utf8(with).map_err(|_| Unfit::InsideUnit)?;
            Ok(self.write(text, quoted)?.into_bytes())
        })
    }

    fn expansion(&self, outer: &[u8], span: Range<usize>) -> Option<Expansion> {
        let quotes = memchr::memchr_iter(b'"', &outer[..span.start]).count();
        let parts = memchr::memchr(b'"', &outer[span]).is_some();
        (!parts).then_some(Expansion {
            form: VariableForm::PERCENT,
            keeps_blanks: self.quoted ^ (quotes % 2 == 1),
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::{Edit, splice};

    #[test]
    fn what_means_something_is_written_so_that_it_does_not() {
        let cases = [
            (
                false,
                r"copy D:\H\x E:\",
                r"D:\H",
                r"H:\a&b",
                r"copy H:\a^&b\x E:\",
            ),
            (
                false,
                r#"copy "D:\H\x" E:\"#,
                r"D:\H",
                r"H:\a & b",
                r#"copy "H:\a & b\x" E:\"#,
            ),
            (
                false,
                r"copy D:\H\x",
                r"D:\H",
                r#""H:\a & b""#,
                r#"copy "H:\a & b"\x"#,
            ),
            (true, r"D:\H\x", r"D:\H", r"H:\a & b", r"H:\a & b\x"),
            (false, r"cd D:\a^&b\x", r"D:\a&b", r"H:\c", r"cd H:\c\x"),
            (
                false,
                r"cd D:\100%%\x",
                r"D:\100%",
                r"H:\50%",
                r"cd H:\50%%\x",
            ),
        ];
        for (quoted, outer, old, new, expected) in cases {
            let layer = BatchText {
                quoted,
                read_again: false,
                bangs: true,
            };
            let opened = layer.open(outer.as_bytes()).unwrap();
            let content = std::str::from_utf8(&opened.content).unwrap();
            let start = content.find(old).unwrap();
            let edit = |with: &str| {
                Edits::new(vec![Edit {
                    span: start..start + old.len(),
                    with: with.as_bytes().to_vec(),
                }])
                .unwrap()
            };
            let lifted = layer.lift(outer.as_bytes(), &opened, &edit(new)).unwrap();
            let written = splice(outer.as_bytes(), &lifted);
            assert_eq!(String::from_utf8(written).unwrap(), expected, "{outer}");
            assert!(
                layer
                    .lift(outer.as_bytes(), &opened, &edit("H:\\a!"))
                    .is_err()
            );
        }
    }
}
