//! A stretch of a text that is in another syntax than the rest.

use std::ops::Range;

use crate::layer::{Edits, Layer, Malformed, MapBuilder, Opened, Unfit, lift_each};

/// The name of this layer, which takes nothing off but the surroundings of a stretch.
pub const STRETCH: &str = "part";

/// Shows one stretch of the outer text, as it is written.
#[derive(Debug)]
pub struct Subrange(pub Range<usize>);

impl Layer for Subrange {
    fn name(&self) -> &'static str {
        STRETCH
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let content = outer.get(self.0.clone()).ok_or(Malformed {
            what: "less text than there should be",
            at: outer.len(),
        })?;
        let mut map = MapBuilder::default();
        map.bytes(self.0.clone());
        Ok(Opened {
            content: content.to_vec(),
            map: map.finish(self.0.end),
        })
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        lift_each(outer, opened, inner, |with, _| Ok(with.to_vec()))
    }
}
