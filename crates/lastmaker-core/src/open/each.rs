//! Looking at every document of a file and making nothing of it.

use super::parts::{Group, Left, OpenedDocument, Visitor};
use crate::container::{Part, PartContent};
use crate::tree::Sieve;

/// A visitor that shows every document to a function.
pub struct EachDocument<'s, F> {
    /// Rules parts of containers out by their bytes, if any are.
    pub sieve: Option<&'s Sieve>,
    /// Whether runs of letters in files of no known kind are documents too.
    pub binary: bool,
    /// Takes each document.
    pub each: F,
}

impl<F: FnMut(&OpenedDocument<'_, '_>)> Visitor for EachDocument<'_, F> {
    type Made = ();
    type Mark = ();

    fn wants(&self, holding: &PartContent<'_>) -> bool {
        self.sieve
            .is_none_or(|sieve| sieve.lets_part_through(holding))
    }

    fn wants_binary(&self) -> bool {
        self.binary
    }

    fn document(&mut self, leaf: &OpenedDocument<'_, '_>, _: &mut Left) -> Option<()> {
        (self.each)(leaf);
        None
    }

    fn mark(&self, _: &Part<'_>) {}

    fn container(&mut self, _: Group<'_, (), ()>) -> Option<()> {
        None
    }
}
