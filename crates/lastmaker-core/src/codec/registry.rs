//! Strings and hex data of registry exports.

use crate::layer::{Edit, Edits, Layer, Malformed, MapBuilder, Opened, Unfit, lift_each, splice};

/// Bytes written as hex digits with commas, wrapped with `\` at the end of a line.
///
/// A registry editor begins a new line once the line has 77 characters before the `\`; each
/// further line begins with two blanks. Data wrapped that way is wrapped that way again.
#[derive(Debug)]
pub struct RegistryHex {
    /// Characters before the first digit on its line: `"name"=hex(2):`.
    pub column: usize,
    /// How the file ends its lines.
    pub line_end: &'static str,
}

/// Characters on a line, after which the editor wraps.
const WRAP_AT: usize = 77;

impl RegistryHex {
    /// Writes `bytes` as a registry editor does.
    fn render(&self, bytes: &[u8], upper: bool, wrap: bool) -> Vec<u8> {
        let mut raw = Vec::with_capacity(bytes.len() * 4);
        let mut column = self.column;
        for (index, byte) in bytes.iter().enumerate() {
            raw.extend_from_slice(&digits(*byte, upper));
            if index + 1 == bytes.len() {
                break;
            }
            raw.push(b',');
            column += 3;
            if wrap && column >= WRAP_AT {
                raw.push(b'\\');
                raw.extend_from_slice(self.line_end.as_bytes());
                raw.extend_from_slice(b"  ");
                column = 2;
            }
        }
        raw
    }
}

fn digits(byte: u8, upper: bool) -> [u8; 2] {
    let set: &[u8; 16] = if upper {
        b"0123456789ABCDEF"
    } else {
        b"0123456789abcdef"
    };
    [set[usize::from(byte >> 4)], set[usize::from(byte & 15)]]
}

impl Layer for RegistryHex {
    fn name(&self) -> &'static str {
        "registry hex"
    }

    fn is_illegible(&self) -> bool {
        true
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let mut content = Vec::with_capacity(outer.len() / 3);
        let mut map = MapBuilder::default();
        let mut at = 0;
        let value = |byte: u8| (byte as char).to_digit(16).map(|digit| digit as u8);
        while at < outer.len() {
            match outer[at] {
                b',' | b' ' | b'\t' | b'\r' | b'\n' | b'\\' => at += 1,
                high => {
                    let low = outer.get(at + 1).copied();
                    let (Some(high), Some(low)) = (value(high), low.and_then(value)) else {
                        return Err(Malformed {
                            what: "something other than two hex digits",
                            at,
                        });
                    };
                    content.push(high << 4 | low);
                    map.unit(1, at..at + 2);
                    at += 2;
                }
            }
        }
        Ok(Opened {
            content,
            map: map.finish(outer.len()),
        })
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        let upper = outer.iter().any(|b| (b'A'..=b'F').contains(b));
        let wrapped = self.render(&opened.content, upper, true) == outer;
        let one_line = self.render(&opened.content, upper, false) == outer;
        if wrapped || one_line {
            let new = self.render(&splice(&opened.content, inner), upper, wrapped);
            return Ok(difference(outer, new));
        }
        lift_each(outer, opened, inner, |with, _| {
            let digits: Vec<[u8; 2]> = with.iter().map(|byte| digits(*byte, upper)).collect();
            Ok(digits.join(&b','))
        })
    }
}

/// The one edit that makes `old` into `new`, as short as it can be.
fn difference(old: &[u8], new: Vec<u8>) -> Edits {
    let same = |(a, b): &(&u8, &u8)| a == b;
    let shorter = old.len().min(new.len());
    let head = old.iter().zip(&new).take_while(same).count();
    let tail = old
        .iter()
        .rev()
        .zip(new.iter().rev())
        .take_while(same)
        .count();
    let tail = tail.min(shorter - head);
    let span = head..old.len() - tail;
    let with = new[head..new.len() - tail].to_vec();
    if span.is_empty() && with.is_empty() {
        return Edits::default();
    }
    Edits::new(vec![Edit { span, with }]).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn lines_wrap_where_a_registry_editor_wraps_them() {
        let layer = RegistryHex {
            column: r#""Root"=hex(2):"#.len(),
            line_end: "\r\n",
        };
        let raw = layer.render(&[0x44; 60], false, true);
        let text = String::from_utf8(raw).unwrap();
        let lengths: Vec<usize> = text.split("\r\n").map(str::len).collect();
        // 14 + 21 * 3 = 77 characters and the backslash, then 2 + 25 * 3 and the backslash.
        assert_eq!(lengths, [64, 78, 43]);
        let long = RegistryHex {
            column: 100,
            line_end: "\n",
        };
        assert!(
            long.render(&[1, 2], false, true)
                .starts_with(b"01,\\\n  02")
        );
    }

    proptest! {
        #[test]
        fn edits_of_wrapped_data_give_wrapped_data(
            old in prop::collection::vec(any::<u8>(), 1..120), start in 0usize..120, length in 0usize..20,
            with in prop::collection::vec(any::<u8>(), 0..40), column in 3usize..110, wrap: bool,
        ) {
            prop_assume!(start + length <= old.len());
            let layer = RegistryHex { column, line_end: "\r\n" };
            let raw = layer.render(&old, false, wrap);
            let opened = layer.open(&raw).unwrap();
            prop_assert_eq!(&opened.content, &old);
            let edits = Edits::new(vec![Edit { span: start..start + length, with }]).unwrap();
            let new = splice(&old, &edits);
            let lifted = layer.lift(&raw, &opened, &edits).unwrap();
            let got = splice(&raw, &lifted);
            if wrap || layer.render(&old, false, true) == raw {
                prop_assert_eq!(got, layer.render(&new, false, true));
            } else {
                prop_assert_eq!(got, layer.render(&new, false, false));
            }
        }

        #[test]
        fn edits_of_oddly_wrapped_data_keep_its_lines(at in 1usize..8, with in prop::collection::vec(any::<u8>(), 1..9)) {
            let layer = RegistryHex { column: 5, line_end: "\n" };
            let raw = b"01,02,\\\n 03,04,05,\\\n 06,07,08,09";
            let opened = layer.open(raw).unwrap();
            let edits = Edits::new(vec![Edit { span: at - 1..at, with: with.clone() }]).unwrap();
            let got = splice(raw, &layer.lift(raw, &opened, &edits).unwrap());
            prop_assert_eq!(layer.open(&got).unwrap().content, splice(&opened.content, &edits));
            prop_assert_eq!(got.iter().filter(|b| **b == b'\n').count(), 2);
        }
    }
}
