//! What is meant of passages as far as they tell by themselves, a new copy of the document, and the proof of
//! that.

use crate::base::compact::CompactList;
use crate::base::limits::Limits;
use crate::format::Grammar;
use crate::judge::{FoundIn, Policy, Unproven};
use crate::layer::{ByteEdits, TextEdits, Unfit, splice};
use crate::open::{Document, SitePassage};
use crate::record::SiteChange;
use crate::scan::Finder;

use crate::plan::decide::accept::insist_where_accepted;
use crate::plan::decide::intent::intend;
use crate::plan::decide::occurrence::Occurrences;
use crate::plan::decide::options::PlanOptions;
use crate::plan::decide::unfit::{effective, withdraw_unfit};
use crate::plan::write::expectation::Expectation;
use crate::plan::write::proof::{Flaw, Kept, Outline, Proof};

/// The places of these passages, and what is meant to happen to each, as far as they tell by themselves.
pub(in crate::plan) fn occurrences_of(
    document: &Document<'_>,
    sites: Vec<SitePassage>,
    options: PlanOptions<'_>,
) -> Vec<Occurrences> {
    let policy = Policy {
        repair: options.repair,
        existing: options.existing(),
        resolver: options.resolver,
        ..Policy::of(document)
    };
    let intend = |case: FoundIn<'_>| {
        let mut intent = intend(case, options.sheet, policy)?;
        let spellings = options.spellings;
        if let Some(portability) = spellings.and_then(|one| one.portability.as_ref()) {
            let change = intent.change(case);
            intent.respelled =
                change.and_then(|change| portability.respelled(document, change, options.sheet));
        }
        Some(intent)
    };
    let sites = sites.into_iter();
    let mut all: Vec<Occurrences> = sites
        .map(|site| Occurrences::of(site, document, intend))
        .collect();
    withdraw_unfit(document, &mut all);
    if insist_where_accepted(document, &mut all, options, policy) {
        withdraw_unfit(document, &mut all);
    }
    all
}

/// Looks at the time now and then.
pub(in crate::plan) struct Pace {
    limits: Limits,
    count: usize,
    late: bool,
}

impl Pace {
    pub(in crate::plan) fn new(limits: Limits) -> Self {
        Self {
            limits,
            count: 0,
            late: false,
        }
    }

    pub(in crate::plan) fn is_late(&mut self) -> bool {
        const OFTEN: usize = 512;
        self.count += 1;
        if self.count.is_multiple_of(OFTEN) {
            self.late |= self.limits.is_late();
        }
        self.late
    }
}

/// What new copies of a document are made and proved with.
pub(in crate::plan) struct Attempt<'a> {
    pub(in crate::plan) document: &'a Document<'a>,
    pub(in crate::plan) options: PlanOptions<'a>,
    pub(in crate::plan) finder: Finder<'a>,
    /// Whether the document keeps its format's grammar.
    pub(in crate::plan) grammar: Grammar,
    /// Every passage of the document, in order.
    pub(in crate::plan) outline: Vec<Outline>,
}

/// A new copy that is proved.
pub(in crate::plan) struct MadeCopy {
    pub(in crate::plan) edits: ByteEdits,
    pub(in crate::plan) new: Vec<u8>,
    pub(in crate::plan) changes: CompactList<SiteChange>,
}

impl Attempt<'_> {
    /// Whether such a copy holds, if there is time to find out.
    pub(in crate::plan) fn make_in_time(
        &self,
        expectation: &Expectation,
        is_kept: &dyn Fn(usize) -> bool,
    ) -> Result<(), Flaw> {
        if self.options.limits.is_late() {
            return Err(Unproven::TooSlow.into());
        }
        self.make(expectation, is_kept).map(drop)
    }

    /// Makes the changes of the passages that are kept, by their numbers in the expectation, and proves the
    /// new copy; none if nothing changes.
    pub(in crate::plan) fn make(
        &self,
        expectation: &Expectation,
        is_kept: &dyn Fn(usize) -> bool,
    ) -> Result<Option<MadeCopy>, Flaw> {
        let (text_edits, makers) = expectation.text_edits(is_kept)?;
        if text_edits.is_empty() {
            return Ok(None);
        }
        // A document may have a million edits, so they are kept only if they have to be.
        let pieces = self
            .options
            .for_record
            .then(|| (text_edits.clone(), makers));
        let mut edits = lift_to_bytes(self.document, expectation.posix, text_edits)?;
        let new = splice(self.document.text.raw(), &edits);
        if !self.options.for_record {
            edits = ByteEdits::default();
        }
        let proof = Proof {
            old: self.document,
            outline: &self.outline,
            grammar: self.grammar,
            expectation,
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
