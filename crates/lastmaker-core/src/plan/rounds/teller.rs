//! Who is told what is decided.

use crate::layer::TextEdits;
use crate::open::SitePassage;

use crate::plan::decide::occurrence::Occurrences;

/// How far around a reference edits are shown with it, in bytes.
pub(in crate::plan) const REACH: usize = 4096;

/// Takes what is decided over the references of a document, portion by portion.
pub(crate) trait Teller {
    /// Another round begins: what was told before is void.
    fn begin(&mut self);

    /// Whether it is told of a passage that no move touches.
    fn wants(&mut self, _site: &SitePassage) -> bool {
        false
    }

    /// Takes some passages, in order. `edits` are those of the text in and around them.
    fn tell(&mut self, sites: Vec<Occurrences>, edits: &TextEdits);
}

/// Tells nobody.
pub(in crate::plan) struct Silent;

impl Teller for Silent {
    fn begin(&mut self) {}

    fn tell(&mut self, _: Vec<Occurrences>, _: &TextEdits) {}
}
