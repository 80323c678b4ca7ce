//! The places of a passage, and what is meant to happen to each.

use super::intent::Intent;
use crate::judge::FoundIn;
use crate::open::{Document, SitePassage};
use crate::scan::Found;

/// One found place, and what is meant to happen to it.
#[derive(Clone, Debug)]
pub(crate) struct Occurrence {
    /// The place as it was found.
    pub(crate) found: Found,
    /// What is meant to happen to it; none if no move touches it.
    pub(crate) intent: Option<Intent>,
}

impl Occurrence {
    /// What is meant, if that changes something.
    pub(in crate::plan) fn changing(&self) -> Option<&Intent> {
        self.intent.as_ref().filter(|intent| intent.changes())
    }

    /// The same.
    pub(in crate::plan) fn changing_mut(&mut self) -> Option<&mut Intent> {
        self.intent.as_mut().filter(|intent| intent.changes())
    }
}

/// A passage, or a stretch of one in another syntax, and the places in it, in order.
#[derive(Clone, Debug)]
pub(crate) struct Occurrences {
    /// The passage; its finds are in `all`.
    pub(crate) site: SitePassage,
    /// The places.
    pub(crate) all: Vec<Occurrence>,
}

impl Occurrences {
    /// The places of `site`, of which `intend` says what is to happen to them.
    pub(in crate::plan) fn of(
        mut site: SitePassage,
        document: &Document<'_>,
        intend: impl Fn(FoundIn<'_>) -> Option<Intent>,
    ) -> Self {
        let finds = std::mem::take(&mut site.finds);
        let content = document.content_of(&site);
        let of_place = |found| {
            let intent = intend(FoundIn {
                site: &site,
                found: &found,
                content,
            });
            Occurrence { found, intent }
        };
        let all = finds.into_iter().map(of_place).collect();
        Self { site, all }
    }

    /// What is meant to happen to the places that a move touches.
    pub(in crate::plan) fn intents(&self) -> impl Iterator<Item = &Intent> {
        self.all.iter().filter_map(|one| one.intent.as_ref())
    }

    /// What changes something.
    pub(in crate::plan) fn changing(&self) -> impl Iterator<Item = &Intent> {
        self.all.iter().filter_map(Occurrence::changing)
    }

    /// The same.
    pub(in crate::plan) fn changing_mut(&mut self) -> impl Iterator<Item = &mut Intent> {
        self.all.iter_mut().filter_map(Occurrence::changing_mut)
    }
}
