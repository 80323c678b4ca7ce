//! One document and the sheet become a plan: what changes, what is left, and why.

use crate::base::compact::CompactList;
use crate::judge::Unproven;
use crate::layer::ByteEdits;
use crate::open::Document;
use crate::record::SiteChange;
use crate::report::Reference;

use crate::plan::decide::options::PlanOptions;
use crate::plan::reference::PreviewTeller;
use crate::plan::rounds::{Decided, decide};

/// What becomes of one document.
#[derive(Debug)]
pub struct DocumentPlan {
    /// Every reference that a move touches, in order.
    pub references: CompactList<Reference>,
    /// The edits of the file's bytes, if they are wanted; empty if nothing changes.
    pub edits: ByteEdits,
    /// The new bytes; none if nothing changes.
    pub new: Option<Vec<u8>>,
    /// Why the file as a whole is left, although references would move.
    pub left: Option<Unproven>,
    /// What changes, piece by piece, as a record keeps it.
    pub sites: CompactList<SiteChange>,
}

/// Plans the rewrite of one document.
pub fn plan(document: &Document<'_>, options: PlanOptions<'_>) -> DocumentPlan {
    let mut telling = PreviewTeller::new(document, options.resolver);
    let decided = decide(document, options, &mut telling);
    let Decided {
        edits,
        new,
        left,
        changes,
    } = decided;
    DocumentPlan {
        references: telling.into_references(),
        edits,
        new,
        left,
        sites: changes,
    }
}
