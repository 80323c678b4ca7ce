//! A string whose beginning is elsewhere, so that only the two together can be read.

use crate::layer::{Edit, Edits, Layer, Malformed, MapBuilder, Opened, Unfit};

/// Puts before a string what it goes on from, which is read and never written.
#[derive(Debug)]
pub struct Torn(pub String);

impl Layer for Torn {
    fn name(&self) -> &'static str {
        "end of a torn string"
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let mut map = MapBuilder::default();
        for _ in self.0.bytes() {
            map.unit(1, 0..0);
        }
        map.bytes(0..outer.len());
        Ok(Opened {
            content: [self.0.as_bytes(), outer].concat(),
            map: map.finish(outer.len()),
        })
    }

    fn lift(&self, _outer: &[u8], _opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        let here = inner.as_slice().iter().map(|edit| {
            let at = |offset: usize| offset.checked_sub(self.0.len());
            let (start, end) = (at(edit.span.start), at(edit.span.end));
            let span = start.zip(end).ok_or(Unfit::NotWritable {
                what: "its beginning stands elsewhere",
            })?;
            Ok(Edit {
                span: span.0..span.1,
                with: edit.with.clone(),
            })
        });
        let here: Result<Vec<Edit>, Unfit> = here.collect();
        Edits::new(here?).map_err(|_| Unfit::Overlap)
    }
}
