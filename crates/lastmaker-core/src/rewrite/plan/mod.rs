//! One document and the sheet become a plan: what changes, what is left, and why.

use crate::format::Grammar;
use crate::layer::{Edit, Edits, Unfit, splice};
use crate::place::{Finder, Found, MOST_FINDS, Place, Root};
use crate::report::{Marks, Notice, Standing};
use crate::resolve::Suggestion;
use crate::scan::{Document, Reading, SitePassage};
use crate::sheet::{Decision, Sheet};
use crate::text::Encoding;

use super::collision::withdraw_collisions;
use super::excerpt::{Excerpt, excerpt};
use super::intent::{Intent, Mood, intend};
use super::lift::{edits_of, lift_passage, passages};
use super::proof::{Flaw, Proof, prove};
use super::unfit::{effective, withdraw_unfit};

/// What a plan needs to know beside the document.
#[derive(Clone, Copy, Debug)]
pub struct PlanOptions<'a> {
    /// The moves.
    pub sheet: &'a Sheet,
    /// What the technician says of documents that do not show it themselves.
    pub reading: Reading,
    /// Whether what is evidently mistyped is put right.
    pub repair: bool,
}

/// One reference of a document and what becomes of it.
#[derive(Clone, Debug)]
pub struct PlannedReference {
    /// The way to it inside the document.
    pub site: String,
    /// Line, counted from 1.
    pub line: usize,
    /// Column in letters, counted from 1.
    pub column: usize,
    /// As it is written, its layers taken off.
    pub written: String,
    /// The place it names.
    pub place: Place,
    /// The place it names afterwards.
    pub new_place: Option<Place>,
    /// How it stands.
    pub standing: Standing,
    /// Why, where that wants a word.
    pub why: Option<String>,
    /// What follows from the change.
    pub notice: Option<Notice>,
    /// What may be meant.
    pub suggestions: Vec<Suggestion>,
    /// Its surroundings as they stand in the file.
    pub before: String,
    /// The same afterwards.
    pub after: String,
    /// Where each change stands in `before`, and where in `after`, in bytes.
    pub marks: Marks,
    /// Whether the surroundings of an earlier reference show this one too.
    pub shown_before: bool,
    /// The format that read it.
    pub format: &'static str,
    /// The format whose grammar its document breaks although it claims to be of it.
    pub broke: Option<&'static str>,
}

impl PlannedReference {
    /// What is told of `found`, which stands in `content` at this line and column.
    pub(super) fn new(
        found: &Found,
        intent: Intent,
        content: &str,
        (line, column): (usize, usize),
        made: Excerpt,
    ) -> Self {
        Self {
            site: String::new(),
            line,
            column,
            written: content[found.start..intent.end].to_owned(),
            place: intent.place,
            new_place: intent.new_place,
            standing: intent.standing,
            why: intent.why,
            notice: intent.notice,
            suggestions: intent.suggestions,
            before: made.before,
            after: made.after,
            marks: made.marks,
            shown_before: false,
            format: "plain-text",
            broke: None,
        }
    }

    /// Takes the change back and says why.
    pub(super) fn withdraw(&mut self, standing: Standing, why: &str) {
        if self.standing == Standing::ToMove {
            self.standing = standing;
            self.why = Some(why.to_owned());
            self.notice = None;
        }
    }
}

/// What becomes of one document.
#[derive(Debug)]
pub struct DocumentPlan {
    /// Every reference that a move touches, in order.
    pub references: Vec<PlannedReference>,
    /// The edits of the file's bytes; empty if nothing changes.
    pub edits: Edits,
    /// The new bytes; none if nothing changes.
    pub new: Option<Vec<u8>>,
    /// Why the file as a whole is left, although references would move.
    pub left: Option<String>,
}

/// No settings file names more places; one that does is meant to exhaust the memory.
pub(super) const MOST_REFERENCES: usize = 1_000_000;

pub(super) fn too_many() -> String {
    "it names more than a million old places, so it is no settings file, and is left as it is"
        .to_owned()
}

/// Plans the rewrite of one document.
pub fn plan(
    document: &Document<'_>,
    bytes: &[u8],
    file_name: &str,
    options: PlanOptions<'_>,
) -> DocumentPlan {
    let sheet = options.sheet;
    let draft = Draft::new(document, bytes, file_name, options, |found, content| {
        !matches!(sheet.decide(found, content), Decision::Elsewhere)
    });
    DocumentPlan {
        references: describe(document, &draft.sites, draft.intents, &draft.text_edits),
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
    text_edits: Edits,
    /// Edits of the file's bytes.
    edits: Edits,
    /// The new bytes; none if nothing changes.
    new: Option<Vec<u8>>,
    /// Why the file as a whole is left, although references would move.
    pub(crate) left: Option<String>,
}

impl Draft {
    fn left(why: String) -> Self {
        Self {
            sites: Vec::new(),
            intents: Vec::new(),
            text_edits: Edits::default(),
            edits: Edits::default(),
            new: None,
            left: Some(why),
        }
    }

    /// Drafts the rewrite of the passages in which there is a place that `wanted` wants.
    pub(crate) fn new(
        document: &Document<'_>,
        bytes: &[u8],
        file_name: &str,
        options: PlanOptions<'_>,
        mut wanted: impl FnMut(&Found, &str) -> bool,
    ) -> Self {
        let sheet = options.sheet;
        let finder = Finder {
            variables: &sheet.variables,
        };
        let mut count = 0;
        let (sites, grammar) = document.sites(finder, |found, content| {
            let touched = wanted(found, content);
            count += usize::from(touched);
            touched
        });
        let full = sites.iter().any(|site| site.finds.len() >= MOST_FINDS);
        if full || count > MOST_REFERENCES {
            return Self::left(too_many());
        }
        let mood = Mood {
            sealed: document.sealed,
            broke: document.broke,
            repair: options.repair,
        };
        let mut intents: Vec<Vec<Option<Intent>>> = sites
            .iter()
            .map(|site| {
                let content = site.chain.content(document.raw(&site.span));
                site.finds
                    .iter()
                    .map(|found| intend(site, found, content, sheet, mood))
                    .collect()
            })
            .collect();
        withdraw_unfit(document, &sites, &mut intents);
        withdraw_collisions(document, &sites, &mut intents);
        let mut draft = Self {
            sites,
            intents,
            text_edits: Edits::default(),
            edits: Edits::default(),
            new: None,
            left: None,
        };
        // A flaw in one reference withdraws it, and the rest is proved again; after a few of
        // them the document is evidently not understood.
        for _ in 0..8 {
            match draft.attempt(
                document,
                bytes,
                file_name,
                (options.reading, finder, grammar),
            ) {
                Ok(()) => {
                    draft.left = None;
                    return draft;
                }
                Err(Flaw::Reference(site, which)) => {
                    let why = "after the change it would not name the new place";
                    if let Some(intent) = draft.intents[site][which].as_mut() {
                        intent.withdraw(Standing::Doubtful, why);
                    }
                    draft.left = Some(why.to_owned());
                }
                Err(Flaw::Document(why)) => {
                    draft.left = Some(why);
                    break;
                }
            }
        }
        if let Some(why) = draft.left.clone() {
            for intent in draft.intents.iter_mut().flatten().flatten() {
                if !intent.edits.is_empty() {
                    intent.withdraw(Standing::Doubtful, why.clone());
                }
            }
        }
        draft
    }

    /// Makes the changes as they are meant now, and proves the new copy.
    fn attempt(
        &mut self,
        document: &Document<'_>,
        bytes: &[u8],
        file_name: &str,
        (reading, finder, grammar): (Reading, Finder<'_>, Grammar),
    ) -> Result<(), Flaw> {
        let unfit = |why: Unfit| Flaw::Document(why.to_string());
        let text_edits = text_edits(document, &self.sites, &self.intents).map_err(unfit)?;
        if text_edits.is_empty() {
            return Ok(());
        }
        let lifted = settled(document, &self.intents)
            .lift(document, &text_edits)
            .map_err(unfit)?;
        let new = splice(bytes, &lifted);
        let proof = Proof {
            old: document,
            grammar,
            file_name,
            reading,
            sites: &self.sites,
            intents: &self.intents,
            finder,
        };
        prove(&proof, &new)?;
        self.text_edits = text_edits;
        self.edits = lifted;
        self.new = Some(new);
        Ok(())
    }
}

/// The encoding in which the changes are written.
struct Settled(Encoding);

fn settled(document: &Document<'_>, intents: &[Vec<Option<Intent>>]) -> Settled {
    let posix = intents
        .iter()
        .flatten()
        .flatten()
        .filter(|intent| !intent.edits.is_empty())
        .any(|intent| {
            intent
                .new_place
                .as_ref()
                .is_some_and(|place| place.root == Root::Posix)
        });
    Settled(effective(document.text.encoding, posix))
}

impl Settled {
    fn lift(&self, document: &Document<'_>, edits: &Edits) -> Result<Edits, Unfit> {
        if self.0 == document.text.encoding {
            return document.text.lift(edits);
        }
        // ASCII that becomes UTF-8: the bytes of the text are the bytes of the file.
        Ok(edits.clone())
    }
}

/// The edits of the document's text that all the changes make together.
fn text_edits(
    document: &Document<'_>,
    sites: &[SitePassage],
    intents: &[Vec<Option<Intent>>],
) -> Result<Edits, Unfit> {
    let mut all = Vec::new();
    for passage in passages(sites) {
        let span = &sites[passage.start].span;
        let stretches = sites[passage.clone()].iter().zip(&intents[passage.clone()]);
        let lifted = lift_passage(document.raw(span), stretches)?;
        all.extend(lifted.shifted(span.start).into_vec());
    }
    Edits::new(all).map_err(|_| Unfit::Overlap)
}

/// What is told of each reference.
fn describe(
    document: &Document<'_>,
    sites: &[SitePassage],
    intents: Vec<Vec<Option<Intent>>>,
    text_edits: &Edits,
) -> Vec<PlannedReference> {
    let text = &document.text.content;
    let mut lines = LineCounter::default();
    let mut seen = 0..0;
    let mut all = Vec::new();
    for (site, of_site) in sites.iter().zip(intents) {
        let raw = document.raw(&site.span);
        let content = site.chain.content(raw);
        // Hex digits tell nobody anything: there the decoded text is shown.
        let decoded = site.chain.is_illegible();
        let inner = if decoded {
            edits_of(&of_site)
        } else {
            Vec::new()
        };
        for (found, intent) in site.finds.iter().zip(of_site) {
            let Some(intent) = intent else { continue };
            let outer = site.span.start + site.chain.outer_offset(found.start);
            let (line, column) = lines.at(text, outer);
            let end = site.span.start + site.chain.outer_offset(intent.end);
            // Of markup in one long line the tags around a string tell little.
            let string = match document.format.name() {
                "xml" | "html" => site.span.clone(),
                _ => 0..text.len(),
            };
            let made = if decoded {
                let near = nearby(&inner, found.start, intent.end);
                excerpt(content, near, found.start..intent.end, 0..content.len())
            } else {
                let near = nearby(text_edits.as_slice(), outer, end);
                excerpt(text, near, outer..end.max(outer), string)
            };
            let shown_before = !decoded
                && intent.standing == Standing::ToMove
                && seen.start <= outer
                && end <= seen.end;
            if !decoded && intent.standing == Standing::ToMove && !shown_before {
                seen = made.window.clone();
            }
            let mut reference = PlannedReference::new(found, intent, content, (line, column), made);
            reference.site.clone_from(&site.site);
            reference.format = document.format.name();
            reference.broke = document.broke;
            reference.shown_before = shown_before;
            all.push((outer, reference));
        }
    }
    // Stretches in another syntax come behind the passage that they stand in.
    all.sort_by_key(|(outer, _)| *outer);
    all.into_iter().map(|(_, reference)| reference).collect()
}

/// The edits within reach of an excerpt.
fn nearby(edits: &[Edit], start: usize, end: usize) -> &[Edit] {
    let reach = 4096;
    let from = edits.partition_point(|edit| edit.span.end + reach < start);
    let to = edits.partition_point(|edit| edit.span.start <= end + reach);
    &edits[from..to.max(from)]
}

/// Tells lines and columns of offsets that mostly grow, each letter counted once.
#[derive(Clone, Copy, Debug)]
pub(crate) struct LineCounter {
    at: usize,
    line: usize,
    column: usize,
}

impl Default for LineCounter {
    fn default() -> Self {
        Self {
            at: 0,
            line: 1,
            column: 1,
        }
    }
}

impl LineCounter {
    /// Line and column, both counted from 1, of byte `offset` of `text`.
    pub(crate) fn at(&mut self, text: &str, offset: usize) -> (usize, usize) {
        if offset < self.at {
            *self = Self::default();
        }
        let passed = &text[self.at..offset];
        match memchr::memrchr(b'\n', passed.as_bytes()) {
            Some(last) => {
                self.line += memchr::memchr_iter(b'\n', passed.as_bytes()).count();
                self.column = 1 + passed[last + 1..].chars().count();
            }
            None => self.column += passed.chars().count(),
        }
        self.at = offset;
        (self.line, self.column)
    }
}

#[cfg(test)]
mod tests;
