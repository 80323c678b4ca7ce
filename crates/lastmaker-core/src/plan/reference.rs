//! What is told of each reference of a plan.

use crate::judge::Reason;
use crate::layer::{Edit, TextEdits};
use crate::open::{Document, LineCounter, SitePassage};
use crate::place::{Found, Place};
use crate::report::{FileName, Notice, Position, Reference, Standing, Suggestion, Surroundings};

use super::excerpt::{Excerpt, excerpt};
use super::intent::Intent;
use super::lift::edits_of;

/// One reference of a document and what becomes of it.
#[derive(Clone, Debug)]
pub struct PlannedReference {
    /// The way to it inside the document.
    pub site: String,
    /// Where it begins; none where the site says all.
    pub position: Option<Position>,
    /// As it is written, its layers taken off.
    pub written: String,
    /// The place it names.
    pub place: Place,
    /// The place it names afterwards.
    pub new_place: Option<Place>,
    /// How it stands.
    pub standing: Standing,
    /// Why, where that wants a word.
    pub reason: Option<Reason>,
    /// What follows from the change.
    pub notice: Option<Notice>,
    /// What may be meant.
    pub suggestions: Vec<Suggestion>,
    /// Its surroundings as they are in the file, and as they will be.
    pub surroundings: Surroundings,
    /// The number of the move that touches it.
    pub by: Option<usize>,
    /// The format that read it.
    pub format: &'static str,
    /// The format whose grammar its document breaks although it claims to be of it.
    pub broke: Option<&'static str>,
}

impl PlannedReference {
    /// What is told of `found` in `content`, which begins at `position`.
    pub(super) fn new(
        found: &Found,
        intent: Intent,
        content: &str,
        position: Position,
        made: Excerpt,
    ) -> Self {
        let verdict = intent.verdict;
        Self {
            site: String::new(),
            by: verdict.relocation.as_ref().map(|one| one.by),
            position: Some(position),
            written: content[found.start..verdict.end].to_owned(),
            place: verdict.place,
            new_place: intent.new_place,
            standing: verdict.standing,
            reason: verdict.reason,
            notice: intent.notice,
            suggestions: intent.suggestions,
            surroundings: Surroundings {
                before: made.before,
                after: Some(made.after),
                marks: made.marks,
                shown_before: false,
            },
            format: "plain-text",
            broke: None,
        }
    }

    /// Takes the change back and says why.
    pub(super) fn withdraw(&mut self, reason: &Reason) {
        if self.standing == Standing::ToMove {
            self.standing = reason.standing();
            self.reason = Some(reason.clone());
            self.notice = None;
        }
    }

    /// The reference as a report tells it of `file`.
    pub(super) fn told(self, file: FileName) -> Reference {
        let place = self.place.to_string();
        let mut surroundings = self.surroundings;
        if self.standing != Standing::ToMove {
            surroundings.after = None;
        }
        Reference {
            site: self.site,
            position: self.position,
            new_place: self.new_place.map(|place| place.to_string()),
            broke: self.broke,
            reason: self.reason.as_ref().map(Reason::name),
            why: self.reason.map(|reason| reason.to_string()),
            notice: self.notice,
            surroundings: Some(Box::new(surroundings)),
            suggestions: self.suggestions,
            by: self.by,
            ..Reference::new(file, &self.written, place, self.standing, self.format)
        }
    }
}

/// What is told of each reference, in the order of the text.
pub(super) fn describe(
    document: &Document<'_>,
    sites: &[SitePassage],
    intents: Vec<Vec<Option<Intent>>>,
    text_edits: &TextEdits,
) -> Vec<PlannedReference> {
    let mut telling = Telling {
        document,
        text_edits,
        lines: LineCounter::default(),
        shown: 0..0,
    };
    let mut all = Vec::new();
    for (site, of_site) in sites.iter().zip(intents) {
        // Hex digits tell nobody anything: there the decoded text is shown.
        let decoded = site.chain.is_illegible().then(|| edits_of(&of_site));
        for (found, intent) in site.finds.iter().zip(of_site) {
            if let Some(intent) = intent {
                let reference = telling.reference(site, found, intent, decoded.as_deref());
                all.push((site.in_text(found.start), reference));
            }
        }
    }
    // Stretches in another syntax come after the passage that they are in.
    all.sort_by_key(|(at, _)| *at);
    all.into_iter().map(|(_, reference)| reference).collect()
}

/// What is told of the references of one document.
struct Telling<'a> {
    document: &'a Document<'a>,
    text_edits: &'a TextEdits,
    lines: LineCounter,
    /// What part of the text the surroundings of the last change show.
    shown: std::ops::Range<usize>,
}

impl Telling<'_> {
    /// What is told of one; `decoded` are the edits of the passage where its decoded text is
    /// shown.
    fn reference(
        &mut self,
        site: &SitePassage,
        found: &Found,
        intent: Intent,
        decoded: Option<&[Edit]>,
    ) -> PlannedReference {
        let text = &self.document.text.content;
        let content = self.document.content_of(site);
        let position = self.lines.at(text, site.in_text(found.start));
        let end = intent.verdict.end;
        let to_move = intent.verdict.standing == Standing::ToMove;
        let mut shown_before = false;
        let made = match decoded {
            Some(edits) => {
                let near = nearby(edits, found.start, end);
                excerpt(content, near, found.start..end, 0..content.len())
            }
            None => {
                let start = site.in_text(found.start).get();
                let end = site.in_text(end).get();
                let near = nearby(self.text_edits.as_slice(), start, end);
                // Of markup in one long line the tags around a string tell little.
                let string = match self.document.format.is_markup() {
                    true => site.span.range(),
                    false => 0..text.len(),
                };
                let made = excerpt(text, near, start..end.max(start), string);
                shown_before = to_move && self.shown.start <= start && end <= self.shown.end;
                if to_move && !shown_before {
                    self.shown = made.window.clone();
                }
                made
            }
        };
        let mut reference = PlannedReference::new(found, intent, content, position, made);
        reference.site.clone_from(&site.site);
        reference.format = self.document.format.name();
        reference.broke = self.document.broke;
        reference.surroundings.shown_before = shown_before;
        reference
    }
}

/// The edits within reach of an excerpt.
fn nearby(edits: &[Edit], start: usize, end: usize) -> &[Edit] {
    let reach = 4096;
    let from = edits.partition_point(|edit| edit.span.end + reach < start);
    let to = edits.partition_point(|edit| edit.span.start <= end + reach);
    &edits[from..to.max(from)]
}
