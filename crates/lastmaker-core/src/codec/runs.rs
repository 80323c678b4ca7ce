//! Text that is cut into runs: stretches between tags that read as one string.

use std::ops::Range;

use crate::layer::{Edit, Edits, Layer, Malformed, MapBuilder, Opened, Unfit};

/// Stretches of the outer text, in order, that are one string. What lies between them stays.
#[derive(Debug)]
pub struct Runs(pub Vec<Range<usize>>);

impl Layer for Runs {
    fn name(&self) -> &'static str {
        "runs of text"
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let mut content = Vec::new();
        let mut map = MapBuilder::default();
        for run in &self.0 {
            let text = outer.get(run.clone()).ok_or(Malformed {
                what: "less text than there should be",
                at: outer.len(),
            })?;
            content.extend_from_slice(text);
            map.bytes(run.clone());
        }
        let end = self.0.last().map_or(0, |run| run.end);
        Ok(Opened {
            content,
            map: map.finish(end),
        })
    }

    /// What is new goes into the run in which the old text began; the rest of the old text
    /// goes from the runs after it.
    fn lift(&self, _outer: &[u8], _opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        let mut lifted = Vec::new();
        for edit in inner.as_slice() {
            let mut with = Some(edit.with.clone());
            let mut before = 0;
            for run in &self.0 {
                let length = run.end - run.start;
                let start = edit.span.start.clamp(before, before + length);
                let end = edit.span.end.clamp(before, before + length);
                let last = before + length == edit.span.start && edit.span.is_empty();
                // An empty span is at the end of the run that it follows.
                let here = start < end || last;
                if here && (with.is_some() || start < end) {
                    lifted.push(Edit {
                        span: run.start + start - before..run.start + end - before,
                        with: with.take().unwrap_or_default(),
                    });
                }
                before += length;
            }
            if let Some(with) = with.filter(|with| !with.is_empty()) {
                let start = self.0.first().map_or(0, |run| run.start);
                lifted.push(Edit {
                    span: start..start,
                    with,
                });
            }
        }
        Edits::new(lifted).map_err(|_| Unfit::Overlap)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::splice;

    #[test]
    fn what_is_new_stands_where_the_old_began() {
        let outer = "<r>ab</r><r>cd</r><r></r><r>ef</r>";
        let layer = Runs(vec![3..5, 12..14, 21..21, 28..30]);
        let opened = layer.open(outer.as_bytes()).unwrap();
        assert_eq!(opened.content, b"abcdef");
        let cases = [
            (0..2, "X", "<r>X</r><r>cd</r><r></r><r>ef</r>"),
            (1..5, "XY", "<r>aXY</r><r></r><r></r><r>f</r>"),
            (2..4, "", "<r>ab</r><r></r><r></r><r>ef</r>"),
            (6..6, "X", "<r>ab</r><r>cd</r><r></r><r>efX</r>"),
            (0..0, "X", "<r>Xab</r><r>cd</r><r></r><r>ef</r>"),
            (2..2, "X", "<r>abX</r><r>cd</r><r></r><r>ef</r>"),
        ];
        for (span, with, expected) in cases {
            let edit = Edit {
                span: span.clone(),
                with: with.as_bytes().to_vec(),
            };
            let edits = Edits::new(vec![edit]).unwrap();
            let lifted = layer.lift(outer.as_bytes(), &opened, &edits).unwrap();
            let got = splice(outer.as_bytes(), &lifted);
            assert_eq!(String::from_utf8(got).unwrap(), expected, "{span:?}");
        }
    }
}
