//! Bytes that a settings line holds as text: `@ByteArray(D:\Herbarium)`.

use crate::layer::{Edits, Layer, Malformed, MapBuilder, Opened, Unfit, lift_each};

const LEAD: &str = "@ByteArray(";

/// The bytes between the parentheses. In which encoding they are text nobody knows, so nothing
/// outside ASCII is written.
#[derive(Debug)]
pub struct ByteArray;

impl ByteArray {
    /// Whether a setting is one.
    pub fn is_one(setting: &str) -> bool {
        setting.starts_with(LEAD) && setting.ends_with(')')
    }
}

impl Layer for ByteArray {
    fn name(&self) -> &'static str {
        "byte array"
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let inside = outer
            .strip_prefix(LEAD.as_bytes())
            .and_then(|rest| rest.strip_suffix(b")"))
            .ok_or(Malformed {
                what: "no byte array",
                at: 0,
            })?;
        let mut map = MapBuilder::default();
        map.bytes(LEAD.len()..LEAD.len() + inside.len());
        Ok(Opened {
            content: inside.to_vec(),
            map: map.finish(LEAD.len() + inside.len()),
        })
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        lift_each(outer, opened, inner, |with, _| {
            if with.is_ascii() {
                return Ok(with.to_vec());
            }
            Err(Unfit::NotWritable {
                what: "in which encoding this byte array holds its text is not known",
            })
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::{Edit, splice};

    #[test]
    fn bytes_take_what_is_ascii() {
        let outer = br"@ByteArray(D:\H\x)";
        let opened = ByteArray.open(outer).unwrap();
        assert_eq!(opened.content, br"D:\H\x");
        let edits = |with: &str| {
            Edits::new(vec![Edit {
                span: 0..4,
                with: with.as_bytes().to_vec(),
            }])
            .unwrap()
        };
        let lifted = ByteArray.lift(outer, &opened, &edits(r"H:\C")).unwrap();
        assert_eq!(splice(outer, &lifted), br"@ByteArray(H:\C\x)");
        assert!(
            ByteArray
                .lift(outer, &opened, &edits("H:\\\u{e4}"))
                .is_err()
        );
        assert!(ByteArray.open(b"@Variant(x)").is_err());
    }
}
