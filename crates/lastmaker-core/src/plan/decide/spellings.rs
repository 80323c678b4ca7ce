//! Which other spellings the references of a document may take than the new place in full, and what becomes of
//! those that are relative to it already.

use std::path::Path;

use crate::job::{Job, RelativeReferences};
use crate::open::OpenedDocument;
use crate::relative::Home;
use crate::sheet::Sheet;
use crate::tree::Entry;

use super::portable::Portability;

/// What the references of a document may be written as.
#[derive(Debug)]
pub struct Spellings {
    /// Which spellings that survive the next move they may take.
    pub(in crate::plan) portability: Option<Portability>,
    /// What relative references are resolved against, if something becomes of them.
    pub(in crate::plan) relative_to: Option<Home>,
    /// What becomes of them.
    pub(in crate::plan) relative: RelativeReferences,
}

impl Spellings {
    /// Those of the file of an entry, whose path below the scope is `below`.
    pub(crate) fn of(job: &Job<'_>, sheet: &Sheet, entry: &Entry<'_>, below: &Path) -> Self {
        Self {
            portability: Portability::of(job.portable, sheet, &entry.canonical, below, |place| {
                job.resolver.path_of(place)?.canonicalize().ok()
            }),
            relative_to: match job.relative {
                RelativeReferences::Left => None,
                _ => job.resolver.place_of(&entry.canonical).and_then(Home::of),
            },
            relative: job.relative,
        }
    }

    /// Those of a document in the file.
    pub(crate) fn of_leaf(&self, leaf: &OpenedDocument<'_, '_>) -> Self {
        let home = self.relative_to.as_ref();
        Self {
            portability: self.portability.as_ref().map(|one| one.of_leaf(leaf)),
            relative_to: home.and_then(|home| home.of_leaf(leaf)),
            relative: self.relative,
        }
    }
}
