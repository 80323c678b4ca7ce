//! Strings in which only the quote is escaped, by writing it twice: CSV (RFC 4180), SQL,
//! YAML's and PowerShell's single quotes.

use crate::layer::{Edits, Layer, Malformed, Opened, Unfit, lift_each, open_units};
use crate::place::OPAQUE;

/// The text between such quotes.
#[derive(Debug)]
pub struct Doubled(pub char);

impl Layer for Doubled {
    fn name(&self) -> &'static str {
        "doubled quotes"
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let mut quote = [0; 4];
        let quote = self.0.encode_utf8(&mut quote).as_bytes();
        if outer.is_ascii() && memchr::memmem::find(outer, quote).is_none() {
            return Ok(Opened::same(outer));
        }
        Ok(open_units(outer, |rest| {
            let doubled = rest
                .strip_prefix(quote)
                .is_some_and(|rest| rest.starts_with(quote));
            let letter = first_letter(rest);
            let width = letter.map_or(1, char::len_utf8);
            (
                letter.unwrap_or(OPAQUE),
                if doubled { 2 * width } else { width },
            )
        }))
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        lift_each(outer, opened, inner, |with, _| {
            let with = std::str::from_utf8(with).map_err(|_| Unfit::InsideUnit)?;
            let once = self.0.to_string();
            Ok(with.replace(self.0, &once.repeat(2)).into_bytes())
        })
    }
}

/// The first letter of some UTF-8.
pub(super) fn first_letter(bytes: &[u8]) -> Option<char> {
    let first = *bytes.first()?;
    if first.is_ascii() {
        return Some(char::from(first));
    }
    let head = &bytes[..bytes.len().min(4)];
    let text = match std::str::from_utf8(head) {
        Ok(text) => text,
        Err(error) => std::str::from_utf8(&head[..error.valid_up_to()]).ok()?,
    };
    text.chars().next()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::codec::encode_fresh;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn decoding_undoes_encoding(text in "['\"a\u{e4}]{0,12}") {
            for quote in ['"', '\'', '\u{e4}'] {
                let layer = Doubled(quote);
                let raw = encode_fresh(&layer, &text).unwrap();
                let opened = layer.open(raw.as_bytes()).unwrap();
                prop_assert_eq!(String::from_utf8(opened.content).unwrap(), text.clone());
            }
        }
    }
}
