//! Fields that are bare or in double quotes: those of a table (RFC 4180), in whose quotes a
//! quote is doubled, and those of a settings list. A bare field that gains a letter which only
//! quotes can hold gains quotes.

use crate::layer::{Edit, Edits, Layer, Malformed, MapBuilder, Opened, Unfit};

/// A field as it is written, its quotes included.
#[derive(Debug)]
pub struct Field {
    /// What a person calls it.
    pub name: &'static str,
    /// What only quotes can hold.
    pub needs: [u8; 4],
    /// Whether a quote is doubled inside of quotes; else the syntax inside escapes it.
    pub doubles: bool,
}

impl Field {
    /// A field of a table whose fields `delimiter` parts.
    pub fn of_table(delimiter: u8) -> Self {
        Self {
            name: "table field",
            needs: [delimiter, b'"', b'\r', b'\n'],
            doubles: true,
        }
    }

    /// An item of a list in a settings line.
    pub fn of_list() -> Self {
        Self {
            name: "list item",
            needs: *b",;==",
            doubles: false,
        }
    }
}

impl Layer for Field {
    fn name(&self) -> &'static str {
        self.name
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let quoted = is_quoted(outer);
        let (start, end) = if quoted {
            (1, outer.len() - 1)
        } else {
            (0, outer.len())
        };
        let mut content = Vec::with_capacity(outer.len());
        let mut map = MapBuilder::default();
        let mut at = start;
        while at < end {
            let doubled = self.doubles && quoted && outer[at..end].starts_with(b"\"\"");
            let width = if doubled { 2 } else { 1 };
            content.push(outer[at]);
            map.unit(1, at..at + width);
            at += width;
        }
        Ok(Opened {
            content,
            map: map.finish(end),
        })
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        let quoted = is_quoted(outer);
        let needs = |byte: &u8| self.needs.contains(byte);
        let gains = !quoted
            && inner
                .as_slice()
                .iter()
                .any(|edit| edit.with.iter().any(needs));
        let mut lifted = Vec::new();
        for edit in inner.as_slice() {
            let span = opened
                .map
                .outer(edit.span.clone())
                .ok_or(Unfit::InsideUnit)?;
            let mut with = Vec::with_capacity(edit.with.len());
            for byte in &edit.with {
                with.push(*byte);
                if self.doubles && *byte == b'"' && (quoted || gains) {
                    with.push(b'"');
                }
            }
            lifted.push(Edit { span, with });
        }
        if gains {
            if self.doubles && memchr::memchr(b'"', outer).is_some() {
                return Err(Unfit::NotWritable {
                    what: "the field needs quotes now, and has odd ones inside already",
                });
            }
            let end = outer.len();
            match lifted.first_mut() {
                Some(first) if first.span.start == 0 => first.with.insert(0, b'"'),
                _ => lifted.push(Edit {
                    span: 0..0,
                    with: b"\"".to_vec(),
                }),
            }
            match lifted.iter_mut().find(|edit| edit.span.end == end) {
                Some(last) => last.with.push(b'"'),
                None => lifted.push(Edit {
                    span: end..end,
                    with: b"\"".to_vec(),
                }),
            }
        }
        Edits::new(lifted).map_err(|_| Unfit::Overlap)
    }
}

fn is_quoted(outer: &[u8]) -> bool {
    outer.len() >= 2 && outer.starts_with(b"\"") && outer.ends_with(b"\"")
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::splice;

    #[test]
    fn quotes_come_where_they_are_needed() {
        let cases = [
            (b',', r"D:\H\x", 0..4, r"H:\a, b", r#""H:\a, b\x""#),
            (b',', r"D:\H", 0..4, r"H:\a, b", r#""H:\a, b""#),
            (b',', r"at D:\H\x", 3..7, r"H:\a, b", r#""at H:\a, b\x""#),
            (b';', r"D:\H\x", 0..4, r"H:\a, b", r"H:\a, b\x"),
            (b',', r#""D:\H ""x""""#, 0..4, r#"H:\""#, r#""H:\"" ""x""""#),
            (b',', r#""D:\H\x""#, 0..4, r"H:\C", r#""H:\C\x""#),
        ];
        for (delimiter, outer, span, with, expected) in cases {
            let layer = Field::of_table(delimiter);
            let opened = layer.open(outer.as_bytes()).unwrap();
            let edit = Edit {
                span,
                with: with.as_bytes().to_vec(),
            };
            let edits = layer
                .lift(outer.as_bytes(), &opened, &Edits::new(vec![edit]).unwrap())
                .unwrap();
            let got = String::from_utf8(splice(outer.as_bytes(), &edits)).unwrap();
            assert_eq!(got, expected, "{outer}");
        }
    }
}
