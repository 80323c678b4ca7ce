//! Edits: spans of a layer and what replaces them, and the splice that makes them.

use std::marker::PhantomData;
use std::ops::Range;

use super::{InBytes, InLayer, InText};

/// A span of a layer, half-open and in bytes, and what replaces it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Edit {
    /// What goes.
    pub span: Range<usize>,
    /// What comes.
    pub with: Vec<u8>,
}

/// The edits of one text: sorted by start and disjoint, so order of application cannot matter.
/// `L` says in which of the texts around a place their offsets count.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Edits<L = InLayer> {
    all: Vec<Edit>,
    level: PhantomData<L>,
}

/// Edits of the bytes of a file, or of a part of a container.
pub type ByteEdits = Edits<InBytes>;
/// Edits of the text of a document.
pub type TextEdits = Edits<InText>;

impl<L> Default for Edits<L> {
    fn default() -> Self {
        Self::of(Vec::new())
    }
}

impl<L> Edits<L> {
    fn of(all: Vec<Edit>) -> Self {
        Self {
            all,
            level: PhantomData,
        }
    }

    /// Sorts `edits`.
    ///
    /// # Errors
    /// Gives back the first two that overlap if there are any.
    pub fn new(mut edits: Vec<Edit>) -> Result<Self, Box<(Edit, Edit)>> {
        edits.sort_by_key(|edit| (edit.span.start, edit.span.end));
        for pair in edits.windows(2) {
            let touching = pair[0].span.end > pair[1].span.start || pair[0].span == pair[1].span;
            if touching {
                return Err(Box::new((pair[0].clone(), pair[1].clone())));
            }
        }
        Ok(Self::of(edits))
    }

    /// The edits in order.
    pub fn as_slice(&self) -> &[Edit] {
        &self.all
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.all.is_empty()
    }

    /// The edits as they count at another level, `by` bytes further on.
    pub fn at_level<M>(self, by: usize) -> Edits<M> {
        let shifted = |edit: Edit| Edit {
            span: edit.span.start + by..edit.span.end + by,
            with: edit.with,
        };
        Edits::of(self.all.into_iter().map(shifted).collect())
    }

    /// The edits, for merging with others.
    pub fn into_vec(self) -> Vec<Edit> {
        self.all
    }

    /// Where what begins at `at` of the old text begins in the new one: after what is
    /// inserted there.
    pub fn moved_start(&self, at: usize) -> usize {
        self.moved(at, |edit| edit.span.start < at || edit.span == (at..at))
    }

    /// Where what ends at `at` of the old text ends in the new one: before what is inserted
    /// there.
    pub fn moved_end(&self, at: usize) -> usize {
        self.moved(at, |edit| edit.span.start < at)
    }

    fn moved(&self, at: usize, counts: impl Fn(&Edit) -> bool) -> usize {
        self.all
            .iter()
            .take_while(|edit| counts(edit))
            .fold(at, |moved, edit| {
                let gone = edit.span.end.min(at) - edit.span.start;
                moved + edit.with.len() - gone
            })
    }
}

/// Makes `edits` in `outer`; every byte outside their spans is copied.
///
/// # Panics
/// If a span reaches beyond `outer`.
pub fn splice<L>(outer: &[u8], edits: &Edits<L>) -> Vec<u8> {
    let added: usize = edits.all.iter().map(|edit| edit.with.len()).sum();
    let mut new = Vec::with_capacity(outer.len() + added);
    let mut at = 0;
    for edit in &edits.all {
        new.extend_from_slice(&outer[at..edit.span.start]);
        new.extend_from_slice(&edit.with);
        at = edit.span.end;
    }
    new.extend_from_slice(&outer[at..]);
    new
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn overlap_is_refused_and_touching_is_not() {
        let edit = |span: Range<usize>| Edit {
            span,
            with: Vec::new(),
        };
        let touching = Edits::<InLayer>::new(vec![edit(3..5), edit(0..3)]).unwrap();
        let starts: Vec<usize> = touching
            .as_slice()
            .iter()
            .map(|one| one.span.start)
            .collect();
        assert_eq!(starts, [0, 3]);
        assert!(Edits::<InLayer>::new(vec![edit(2..5), edit(0..3)]).is_err());
        assert!(Edits::<InLayer>::new(vec![edit(2..2), edit(2..2)]).is_err());
    }

    proptest! {
        #[test]
        fn untouched_bytes_survive(
            outer in prop::collection::vec(any::<u8>(), 0..60),
            cuts in prop::collection::vec((0usize..60, 0usize..6, prop::collection::vec(any::<u8>(), 0..5)), 0..6),
        ) {
            let raw: Vec<Edit> = cuts
                .into_iter()
                .filter(|(start, length, _)| start + length <= outer.len())
                .map(|(start, length, with)| Edit { span: start..start + length, with })
                .collect();
            let Ok(edits) = Edits::<InLayer>::new(raw) else { return Ok(()) };
            let new = splice(&outer, &edits);
            let mut kept = Vec::new();
            let mut at = 0;
            for edit in edits.as_slice() {
                kept.push((at, edit.span.start));
                at = edit.span.end;
            }
            kept.push((at, outer.len()));
            for (start, end) in kept {
                if start < end {
                    let moved = edits.moved_start(start);
                    prop_assert_eq!(&new[moved..moved + end - start], &outer[start..end]);
                }
            }
        }
    }
}
