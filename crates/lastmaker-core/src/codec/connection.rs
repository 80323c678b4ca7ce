//! Values of connection strings, which end at a `;` or at the quote that they are in.

use crate::layer::{Edits, Layer, Malformed, Opened, Unfit, lift_each};

/// A value as it is written; what would end it cannot be written in it.
#[derive(Debug)]
pub struct ConnectionValue;

impl Layer for ConnectionValue {
    fn name(&self) -> &'static str {
        "connection value"
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        Ok(Opened::same(outer))
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        lift_each(outer, opened, inner, |with, _| {
            if with.iter().any(|b| b";\"'".contains(b)) {
                Err(Unfit::NotWritable {
                    what: "the new place holds a letter that ends a value of a connection string",
                })
            } else {
                Ok(with.to_vec())
            }
        })
    }
}
