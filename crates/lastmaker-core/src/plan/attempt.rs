//! What planning a document at once and in portions have in common: what is meant of passages, a new copy
//! of the document, and the proof of that.

use crate::format::Grammar;
use crate::judge::{Allowance, Case, Unproven};
use crate::layer::{ByteEdits, TextEdits, Unfit, splice};
use crate::limits::Limits;
use crate::open::{Document, SitePassage};
use crate::packed::Packed;
use crate::place::Finder;
use crate::record::SiteChange;
use crate::report::Reference;

use super::accept::insist_where_accepted;
use super::intent::{Intent, intend};
use super::options::PlanOptions;
use super::promise::Promise;
use super::proof::{Flaw, Kept, Outline, Proof};
use super::unfit::{effective, withdraw_unfit};

/// What becomes of one document.
#[derive(Debug)]
pub struct DocumentPlan {
    /// Every reference that a move touches, in order.
    pub references: Packed<Reference>,
    /// The edits of the file's bytes, if they are wanted; empty if nothing changes.
    pub edits: ByteEdits,
    /// The new bytes; none if nothing changes.
    pub new: Option<Vec<u8>>,
    /// Why the file as a whole is left, although references would move.
    pub left: Option<Unproven>,
    /// What changes, piece by piece, as a record keeps it.
    pub sites: Packed<SiteChange>,
}

/// What is meant to happen to each place of these passages, as far as they tell by themselves.
pub(super) fn intents_of(
    document: &Document<'_>,
    sites: &[SitePassage],
    options: PlanOptions<'_>,
) -> Vec<Vec<Option<Intent>>> {
    let allowance = Allowance {
        repair: options.repair,
        existing: options.existing(),
        resolver: options.resolver,
        ..Allowance::of(document)
    };
    let of_site = |site: &SitePassage| {
        let content = document.content_of(site);
        let of_place = |found| {
            let case = Case {
                site,
                found,
                content,
            };
            let mut intent = intend(case, options.sheet, allowance)?;
            let spellings = options.spellings;
            if let Some(portability) = spellings.and_then(|one| one.portability.as_ref()) {
                let change = intent.change(case);
                intent.respelled = change
                    .and_then(|change| portability.respelled(document, change, options.sheet));
            }
            Some(intent)
        };
        site.finds.iter().map(of_place).collect()
    };
    let mut intents: Vec<Vec<Option<Intent>>> = sites.iter().map(of_site).collect();
    withdraw_unfit(document, sites, &mut intents);
    if insist_where_accepted(document, sites, &mut intents, options, allowance) {
        withdraw_unfit(document, sites, &mut intents);
    }
    intents
}

/// Looks at the time now and then.
pub(super) struct Pace {
    limits: Limits,
    count: usize,
    late: bool,
}

impl Pace {
    pub(super) fn new(limits: Limits) -> Self {
        Self {
            limits,
            count: 0,
            late: false,
        }
    }

    pub(super) fn is_late(&mut self) -> bool {
        const OFTEN: usize = 512;
        self.count += 1;
        if self.count.is_multiple_of(OFTEN) {
            self.late |= self.limits.is_late();
        }
        self.late
    }
}

/// What new copies of a document are made and proved with.
pub(super) struct Attempt<'a> {
    pub(super) document: &'a Document<'a>,
    pub(super) options: PlanOptions<'a>,
    pub(super) file_name: &'a str,
    pub(super) finder: Finder<'a>,
    /// Whether the document keeps its format's grammar.
    pub(super) grammar: Grammar,
    /// Every passage of the document, in order.
    pub(super) outline: Vec<Outline>,
}

/// A new copy that is proved.
pub(super) struct MadeCopy {
    pub(super) edits: ByteEdits,
    pub(super) new: Vec<u8>,
    pub(super) changes: Packed<SiteChange>,
}

impl Attempt<'_> {
    /// Makes the changes of the passages that are kept, by their numbers in the promise, and proves the
    /// new copy; none if nothing changes.
    pub(super) fn make(
        &self,
        promise: &Promise,
        is_kept: &dyn Fn(usize) -> bool,
    ) -> Result<Option<MadeCopy>, Flaw> {
        let (text_edits, makers) = promise.text_edits(is_kept)?;
        if text_edits.is_empty() {
            return Ok(None);
        }
        // A document may have a million edits, so they are kept only if they have to be.
        let pieces = self
            .options
            .for_record
            .then(|| (text_edits.clone(), makers));
        let mut edits = lift_to_bytes(self.document, promise.posix, text_edits)?;
        let new = splice(self.document.text.raw(), &edits);
        if !self.options.for_record {
            edits = ByteEdits::default();
        }
        let proof = Proof {
            old: self.document,
            outline: &self.outline,
            grammar: self.grammar,
            file_name: self.file_name,
            reading: self.options.reading,
            promise,
            finder: self.finder,
        };
        let kept = Kept {
            is_kept,
            pieces: pieces.as_ref(),
        };
        let changes = proof.holds_for(&new, &kept)?;
        Ok(Some(MadeCopy {
            edits,
            new,
            changes,
        }))
    }
}

/// Turns edits of the text into edits of the file. POSIX places settle an encoding that nothing
/// shows.
fn lift_to_bytes(
    document: &Document<'_>,
    posix: bool,
    edits: TextEdits,
) -> Result<ByteEdits, Unfit> {
    if effective(document.text.encoding, posix) == document.text.encoding {
        return document.text.lift(edits);
    }
    // ASCII that becomes UTF-8: the bytes of the text are the bytes of the file.
    Ok(edits.at_level(0))
}
