//! One document and the sheet become a plan: what changes, what is left, and why.

use crate::format::Grammar;

use crate::judge::{Allowance, Case, Unproven};
use crate::layer::{ByteEdits, Edits, TextEdits, Unfit, splice};
use crate::limits::Limits;
use crate::open::{Document, Leaf, SitePassage};
use crate::packed::Packed;
use crate::place::{Finder, Found, MOST_FINDS, Root};
use crate::record::SiteChange;
use crate::report::Reference;
use crate::sheet::Decision;

use super::accept::insist_where_accepted;
use super::collision::withdraw_collisions;
use super::intent::{Intent, intend};
use super::lift::{lift_passage, passages};
use super::options::PlanOptions;
use super::proof::{Flaw, LONGEST_OUTLINED, Outline, Proof};
use super::reference::describe;
use super::stretch::stretches;
use super::together::withdraw_half_lines;
use super::unfit::{effective, withdraw_unfit};

/// What becomes of one document.
#[derive(Debug)]
pub struct DocumentPlan {
    /// Every reference that a move touches, in order.
    pub references: Packed<Reference>,
    /// The edits of the file's bytes; empty if nothing changes.
    pub edits: ByteEdits,
    /// The new bytes; none if nothing changes.
    pub new: Option<Vec<u8>>,
    /// Why the file as a whole is left, although references would move.
    pub left: Option<Unproven>,
    /// What changes, piece by piece, as a record keeps it.
    pub sites: Packed<SiteChange>,
}

/// Plans the rewrite of one document.
pub fn plan(document: &Document<'_>, file_name: &str, options: PlanOptions<'_>) -> DocumentPlan {
    let sheet = options.sheet;
    let draft = Draft::new(document, file_name, options, |found, content| {
        !matches!(sheet.decide(found, content), Decision::Elsewhere)
    });
    let (sites, intents, edits) = (&draft.sites, draft.intents, &draft.text_edits);
    let changes = match options.for_record {
        true => stretches(document, sites, &intents, edits, &draft.ways),
        false => Packed::default(),
    };
    DocumentPlan {
        sites: changes,
        references: describe(document, sites, intents, edits, options.resolver),
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
    /// The way to each changed passage in the new copy, by its ordinal.
    ways: Vec<(usize, String)>,
    /// Why the file as a whole is left, although references would move.
    pub(crate) left: Option<Unproven>,
}

impl Draft {
    /// Drafts the rewrite of the document of `leaf`, also of passages that no move touches.
    pub(crate) fn of_all(leaf: &Leaf<'_, '_>, options: PlanOptions<'_>) -> Self {
        Self::new(leaf.document, leaf.name, options, |_, _| true)
    }

    /// Drafts the rewrite of the passages in which there is a place that `wanted` wants.
    fn new(
        document: &Document<'_>,
        file_name: &str,
        options: PlanOptions<'_>,
        mut wanted: impl FnMut(&Found, &str) -> bool,
    ) -> Self {
        let finder = Finder {
            variables: &options.sheet.variables,
        };
        let mut count = 0;
        let most = options.limits.references;
        let counted = |found: &Found, content: &str| {
            let touched = wanted(found, content);
            count += usize::from(touched);
            // Beyond what there is room for nothing is kept: the document is left.
            touched && count <= most
        };
        let mut outline = Vec::new();
        let mut pace = Pace::new(options.limits);
        let (sites, grammar) = document.sites(finder, counted, |passage| {
            outline.push(Outline::of(passage));
            !pace.is_late()
        });
        let full = sites.iter().any(|site| site.finds.len() >= MOST_FINDS)
            || document.text.content.len() > LONGEST_OUTLINED;
        let mut draft = Self {
            sites,
            intents: Vec::new(),
            text_edits: TextEdits::default(),
            edits: ByteEdits::default(),
            new: None,
            ways: Vec::new(),
            left: None,
        };
        if full || count > options.limits.references || pace.is_late() {
            draft.sites = Vec::new();
            draft.left = Some(match pace.is_late() {
                true => Unproven::TooSlow,
                false => Unproven::TooMany,
            });
            return draft;
        }
        draft.intend(document, options);
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
        let allowance = Allowance {
            repair: options.repair,
            existing: options.existing(),
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
                intend(case, options.sheet, allowance)
            };
            site.finds.iter().map(of_place).collect()
        };
        self.intents = self.sites.iter().map(of_site).collect();
        withdraw_unfit(document, &self.sites, &mut self.intents);
        let (sites, intents) = (&self.sites, &mut self.intents);
        if insist_where_accepted(document, sites, intents, options, allowance) {
            withdraw_unfit(document, &self.sites, &mut self.intents);
        }
        withdraw_collisions(document, &self.sites, &mut self.intents);
        withdraw_half_lines(document, &self.sites, &mut self.intents, options);
    }

    /// Makes the changes as they are meant now, and proves the new copy.
    pub(super) fn attempt(&mut self, attempt: &Attempt<'_>) -> Result<(), Flaw> {
        if attempt.options.limits.is_late() {
            return Err(Unproven::TooSlow.into());
        }
        let document = attempt.document;
        let text_edits = text_edits(document, &self.sites, &self.intents)?;
        if text_edits.is_empty() {
            return Ok(());
        }
        let lifted = lift_to_bytes(document, &self.intents, &text_edits)?;
        let new = splice(document.text.raw(), &lifted);
        let proof = Proof {
            old: document,
            outline: &attempt.outline,
            grammar: attempt.grammar,
            file_name: attempt.file_name,
            reading: attempt.options.reading,
            sites: &self.sites,
            intents: &self.intents,
            finder: attempt.finder,
        };
        self.ways = proof.holds_for(&new)?;
        self.text_edits = text_edits;
        self.edits = lifted;
        self.new = Some(new);
        Ok(())
    }
}

/// Looks at the time now and then.
struct Pace {
    limits: Limits,
    count: usize,
    late: bool,
}

impl Pace {
    fn new(limits: Limits) -> Self {
        Self {
            limits,
            count: 0,
            late: false,
        }
    }

    fn is_late(&mut self) -> bool {
        const OFTEN: usize = 512;
        self.count += 1;
        if self.count.is_multiple_of(OFTEN) {
            self.late |= self.limits.is_late();
        }
        self.late
    }
}

/// What a draft is attempted with.
pub(super) struct Attempt<'a> {
    pub(super) document: &'a Document<'a>,
    pub(super) options: PlanOptions<'a>,
    file_name: &'a str,
    finder: Finder<'a>,
    /// Whether the document keeps its format's grammar.
    grammar: Grammar,
    /// Every passage of the document, in order.
    outline: Vec<Outline>,
}

/// Turns edits of the text into edits of the file. POSIX places settle an encoding that nothing
/// shows.
fn lift_to_bytes(
    document: &Document<'_>,
    intents: &[Vec<Option<Intent>>],
    edits: &TextEdits,
) -> Result<ByteEdits, Unfit> {
    let mut changing = intents.iter().flatten().flatten().filter(|i| i.changes());
    let posix = changing.any(|intent| {
        let new = intent.new_place.as_ref();
        new.is_some_and(|place| place.root == Root::Posix)
    });
    if effective(document.text.encoding, posix) == document.text.encoding {
        return document.text.lift(edits);
    }
    // ASCII that becomes UTF-8: the bytes of the text are the bytes of the file.
    Ok(edits.clone().at_level(0))
}

/// The edits of the document's text that all the changes make together.
fn text_edits(
    document: &Document<'_>,
    sites: &[SitePassage],
    intents: &[Vec<Option<Intent>>],
) -> Result<TextEdits, Unfit> {
    let mut all = Vec::new();
    for passage in passages(sites) {
        let span = &sites[passage.start].span;
        let stretches = sites[passage.clone()].iter().zip(&intents[passage.clone()]);
        let lifted = lift_passage(document.raw(span), stretches)?;
        let in_text: TextEdits = lifted.at_level(span.start().get());
        all.extend(in_text.into_vec());
    }
    Edits::new(all).map_err(|_| Unfit::Overlap)
}
