//! One document and the sheet become a plan: what changes, what is left, and why.

use std::cell::Cell;

use crate::judge::Unproven;
use crate::layer::{ByteEdits, TextEdits};
use crate::open::{Document, Leaf, SitePassage};
use crate::packed::Packed;
use crate::place::{Finder, Found, MOST_FINDS};
use crate::record::SiteChange;
use crate::sheet::Decision;

use super::attempt::{Attempt, DocumentPlan, Pace, intents_of};
use super::collision::withdraw_collisions;
use super::intent::Intent;
use super::mend::{Mender, merge};
use super::options::PlanOptions;
use super::portions::plan_in_portions;
use super::promise::Promise;
use super::proof::{Flaw, LONGEST_OUTLINED, Outline};
use super::reference::Telling;
use super::together::withdraw_half_lines;

/// Plans the rewrite of one document.
pub fn plan(document: &Document<'_>, file_name: &str, options: PlanOptions<'_>) -> DocumentPlan {
    let sheet = options.sheet;
    let wanted =
        |found: &Found, content: &str| !matches!(sheet.decide(found, content), Decision::Elsewhere);
    let limits = options.limits;
    let at_once = limits.at_once.min(limits.references);
    let draft = Draft::new(document, file_name, options, at_once, wanted);
    if draft.left == Some(Unproven::TooMany) && at_once < limits.references {
        return plan_in_portions(document, file_name, options);
    }
    let (sites, intents, edits) = (&draft.sites, draft.intents, &draft.text_edits);
    let mut references = Packed::default();
    let mut telling = Telling::new(document, options.resolver);
    telling.tell(sites, intents, edits, &mut references);
    DocumentPlan {
        references,
        sites: draft.changes,
        edits: draft.edits,
        new: draft.new,
        left: draft.left,
    }
}

/// The references of a document and what is meant to happen to each, proved.
pub(crate) struct Draft {
    /// The passages and stretches with places in them.
    pub(crate) sites: Vec<SitePassage>,
    /// For each place of each site, what is meant; none if no move touches it.
    pub(crate) intents: Vec<Vec<Option<Intent>>>,
    /// Edits of the document's text.
    text_edits: TextEdits,
    /// Edits of the file's bytes.
    edits: ByteEdits,
    /// The new bytes; none if nothing changes.
    new: Option<Vec<u8>>,
    /// What changes, piece by piece, if that is wanted.
    changes: Packed<SiteChange>,
    /// Why the file as a whole is left, although references would move.
    pub(crate) left: Option<Unproven>,
    /// Whether a new copy was made of it before.
    attempted: bool,
}

impl Draft {
    /// Drafts the rewrite of the document of `leaf`, also of passages that no move touches.
    pub(crate) fn of_all(leaf: &Leaf<'_, '_>, options: PlanOptions<'_>) -> Self {
        let most = options.limits.references;
        Self::new(leaf.document, leaf.name, options, most, |_, _| true)
    }

    /// Drafts the rewrite of the passages in which there is a place that `wanted` wants, if there are no
    /// more than `most`.
    fn new(
        document: &Document<'_>,
        file_name: &str,
        options: PlanOptions<'_>,
        most: usize,
        mut wanted: impl FnMut(&Found, &str) -> bool,
    ) -> Self {
        let finder = Finder {
            variables: &options.sheet.variables,
        };
        let count = Cell::new(0);
        let counted = |found: &Found, content: &str| {
            let touched = wanted(found, content);
            count.set(count.get() + usize::from(touched));
            // Beyond what there is room for nothing is kept.
            touched && count.get() <= most
        };
        let mut outline = Vec::new();
        let mut mended = Vec::new();
        let mender = options.mender();
        let mut pace = Pace::new(options.limits);
        let (sites, grammar) = document.sites(finder, counted, |passage| {
            let ordinal = outline.len();
            outline.push(Outline::of(passage));
            let mend = |mender: &Mender<'_>| mender.mend(document, ordinal, passage);
            if let Some(one) = mender.as_ref().and_then(mend) {
                count.set(count.get() + 1);
                mended.push(one);
            }
            !pace.is_late() && count.get() <= most
        });
        let full = sites.iter().any(|site| site.finds.len() >= MOST_FINDS)
            || document.text.content.len() > LONGEST_OUTLINED;
        let mut draft = Self {
            sites,
            intents: Vec::new(),
            text_edits: TextEdits::default(),
            edits: ByteEdits::default(),
            new: None,
            changes: Packed::default(),
            left: None,
            attempted: false,
        };
        if full || count.get() > most || pace.is_late() {
            draft.sites = Vec::new();
            draft.left = Some(match pace.is_late() {
                true => Unproven::TooSlow,
                false => Unproven::TooMany,
            });
            return draft;
        }
        draft.intend(document, options);
        merge(mended, &mut draft.sites, &mut draft.intents);
        draft.settle(&Attempt {
            document,
            options,
            file_name,
            finder,
            grammar,
            outline,
        });
        draft
    }

    /// Says what is to happen to each place, as far as the document alone tells.
    fn intend(&mut self, document: &Document<'_>, options: PlanOptions<'_>) {
        self.intents = intents_of(document, &self.sites, options);
        withdraw_collisions(document, &self.sites, &mut self.intents);
        withdraw_half_lines(document, &self.sites, &mut self.intents, options);
    }

    /// Makes the changes as they are meant now, and proves the new copy.
    pub(super) fn attempt(&mut self, attempt: &Attempt<'_>) -> Result<(), Flaw> {
        // The first is made whatever the time: that was looked at on the way here, and to ask costs something.
        if self.attempted && attempt.options.limits.is_late() {
            return Err(Unproven::TooSlow.into());
        }
        self.attempted = true;
        let promise = Promise::of(attempt.document, &self.sites, &self.intents)?;
        if let Some(made) = attempt.make(&promise, &|_| true)? {
            self.text_edits = promise.text_edits(|_| true)?.0;
            self.edits = made.edits;
            self.new = Some(made.new);
            self.changes = made.changes;
        }
        Ok(())
    }
}
