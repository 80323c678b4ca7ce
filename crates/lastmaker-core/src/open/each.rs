//! Looking at every document of a file and making nothing of it.

use super::parts::{Group, Leaf, Left, Visitor};
use crate::container::{Holding, Part};

/// A visitor that shows every document to a function.
pub struct EachLeaf<F> {
    /// Whether runs of letters in files of no known kind are documents too.
    pub binary: bool,
    /// Takes each document.
    pub each: F,
}

impl<F: FnMut(&Leaf<'_, '_>)> Visitor for EachLeaf<F> {
    type Made = ();
    type Mark = ();

    fn wants(&self, _: &Holding<'_>) -> bool {
        true
    }

    fn wants_binary(&self) -> bool {
        self.binary
    }

    fn document(&mut self, leaf: &Leaf<'_, '_>, _: &mut Left) -> Option<()> {
        (self.each)(leaf);
        None
    }

    fn mark(&self, _: &Part<'_>) {}

    fn container(&mut self, _: Group<'_, (), ()>) -> Option<()> {
        None
    }
}
