//! From the units of a content to the units around them.

use std::ops::Range;

/// Units in a row that all have the same widths.
#[derive(Clone, Copy, Debug)]
struct Run {
    inner: usize,
    outer: usize,
    units: usize,
    inner_width: usize,
    outer_width: usize,
    /// From the start of one unit to the start of the next in the outer text.
    outer_stride: usize,
}

/// Where each unit of a content came from. Offsets are in bytes on both sides.
#[derive(Clone, Debug, Default)]
pub struct UnitMap {
    runs: Vec<Run>,
    inner_length: usize,
    outer_length: usize,
}

impl UnitMap {
    fn run_at(&self, inner: usize) -> Option<&Run> {
        let index = self.runs.partition_point(|run| run.inner <= inner);
        self.runs.get(index.checked_sub(1)?)
    }

    /// Where the unit at `inner` begins outside; inside a unit, where that unit begins.
    pub fn outer_start(&self, inner: usize) -> usize {
        if inner >= self.inner_length {
            return self.outer_length;
        }
        self.run_at(inner).map_or(0, |run| {
            run.outer + (inner - run.inner) / run.inner_width * run.outer_stride
        })
    }

    /// The outer span of an inner one; none if it begins or ends inside a unit.
    pub fn outer(&self, inner: Range<usize>) -> Option<Range<usize>> {
        if !self.is_boundary(inner.start) || !self.is_boundary(inner.end) {
            return None;
        }
        let start = self.outer_start(inner.start);
        if inner.start == inner.end {
            return Some(start..start);
        }
        let last = self.run_at(inner.end - 1)?;
        let unit = (inner.end - 1 - last.inner) / last.inner_width;
        Some(start..last.outer + unit * last.outer_stride + last.outer_width)
    }

    fn is_boundary(&self, inner: usize) -> bool {
        if inner >= self.inner_length {
            return inner == self.inner_length;
        }
        self.run_at(inner)
            .is_some_and(|run| (inner - run.inner).is_multiple_of(run.inner_width))
    }
}

/// Builds a map unit by unit, from left to right.
#[derive(Debug, Default)]
pub struct MapBuilder {
    map: UnitMap,
}

impl MapBuilder {
    /// Adds a unit of `inner` bytes that is at `outer` in the outer text.
    pub fn unit(&mut self, inner: usize, outer: Range<usize>) {
        let map = &mut self.map;
        let at = map.inner_length;
        map.inner_length += inner;
        let width = outer.end - outer.start;
        if let Some(run) = map.runs.last_mut()
            && run.inner_width == inner
            && run.outer_width == width
        {
            // The second tells how far apart they are.
            if run.units == 1 {
                run.outer_stride = outer.start - run.outer;
            }
            if run.outer + run.units * run.outer_stride == outer.start {
                run.units += 1;
                return;
            }
        }
        map.runs.push(Run {
            inner: at,
            outer: outer.start,
            units: 1,
            inner_width: inner,
            outer_width: width,
            outer_stride: width,
        });
    }

    /// Adds bytes that are the same in the outer text, each a unit.
    pub fn bytes(&mut self, outer: Range<usize>) {
        let mut each = outer.map(|at| at..at + 1);
        // The first two tell where they go on from, and how.
        for one in each.by_ref().take(2) {
            self.unit(1, one);
        }
        let more = each.len();
        match self.map.runs.last_mut() {
            Some(run) if more > 0 && run.outer_stride == 1 => {
                run.units += more;
                self.map.inner_length += more;
            }
            _ => each.for_each(|one| self.unit(1, one)),
        }
    }

    /// The map of an outer text of `outer_length` bytes.
    pub fn finish(mut self, outer_length: usize) -> UnitMap {
        self.map.outer_length = outer_length;
        self.map
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn every_unit_is_found_again(
            units in prop::collection::vec((1usize..4, 0usize..3, 1usize..7, 0usize..6), 0..40),
        ) {
            let mut builder = MapBuilder::default();
            let (mut inner, mut outer) = (0, 0);
            let mut expected = Vec::new();
            for (width, gap, length, bytes) in units {
                let span = outer + gap..outer + gap + length;
                builder.unit(width, span.clone());
                expected.push((inner..inner + width, span.clone()));
                inner += width;
                outer = span.end;
                builder.bytes(outer..outer + bytes);
                expected.extend((0..bytes).map(|at| (inner + at..inner + at + 1, outer + at..outer + at + 1)));
                inner += bytes;
                outer += bytes;
            }
            let map = builder.finish(outer);
            for (from, to) in &expected {
                prop_assert_eq!(map.outer(from.clone()), Some(to.clone()));
                prop_assert_eq!(map.outer_start(from.end - 1), to.start);
                if from.end - from.start > 1 {
                    prop_assert_eq!(map.outer(from.start + 1..from.end), None);
                }
            }
            if let (Some(first), Some(last)) = (expected.first(), expected.last()) {
                prop_assert_eq!(map.outer(0..inner), Some(first.1.start..last.1.end));
            }
        }
    }
}
