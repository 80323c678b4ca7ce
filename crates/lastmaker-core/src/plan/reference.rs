//! What is told of each reference of a plan.

use crate::base::compact::CompactList;
use crate::judge::Reason;
use crate::layer::{Edit, TextEdits};
use crate::open::{Document, LineCounter, SitePassage};
use crate::place::Place;
use crate::report::{FileName, Position, Reference, Standing, Surroundings};
use crate::resolve::Resolver;
use crate::scan::Found;

use super::decide::intent::Intent;
use super::decide::lift::edits_inside;
use super::decide::occurrence::{Occurrence, Occurrences};
use super::excerpt::{Excerpt, excerpt};
use super::rounds::teller::{REACH, Teller};

/// What is told of `found` in `content`, which begins at `position`.
pub(super) fn told(
    found: &Found,
    intent: Intent,
    content: &str,
    position: Position,
    made: Excerpt,
    resolver: Option<&Resolver>,
) -> Reference {
    let verdict = intent.verdict;
    let new_place = intent.new_place.as_ref();
    let to_move = verdict.standing == Standing::ToMove;
    let surroundings = Surroundings {
        before: made.before,
        after: to_move.then_some(made.after),
        marks: made.marks,
        shown_before: false,
    };
    Reference {
        position: Some(position),
        new_place: new_place.map(Place::text),
        new_target: resolver.and_then(|resolver| Some(resolver.target(new_place?))),
        reason: verdict.reason.as_ref().map(Reason::name),
        why: verdict.reason.map(|reason| reason.to_string()),
        notice: intent.notice,
        surroundings: Some(Box::new(surroundings)),
        suggestions: intent.suggestions,
        by: verdict.relocation.as_ref().map(|one| one.by),
        ..Reference::new(
            FileName::default(),
            &content[found.start..verdict.end],
            verdict.place.text(),
            verdict.standing,
            "plain-text",
        )
    }
}

/// Packs what is told of the references of one document.
pub(super) struct PreviewTeller<'a> {
    document: &'a Document<'a>,
    resolver: Option<&'a Resolver>,
    lines: LineCounter,
    /// What part of the text the surroundings of the last change show.
    shown: std::ops::Range<usize>,
    references: CompactList<Reference>,
}

impl<'a> PreviewTeller<'a> {
    pub(super) fn new(document: &'a Document<'a>, resolver: Option<&'a Resolver>) -> Self {
        Self {
            document,
            resolver,
            lines: document.lines(),
            shown: 0..0,
            references: CompactList::default(),
        }
    }

    /// What was told, in the order of the text.
    pub(super) fn into_references(self) -> CompactList<Reference> {
        self.references
    }

    /// What is told of one; `decoded` are the edits of the passage where its decoded text is
    /// shown.
    fn reference(
        &mut self,
        site: &SitePassage,
        found: &Found,
        intent: Intent,
        edits: &TextEdits,
        decoded: Option<&[Edit]>,
    ) -> Reference {
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
                let near = nearby(edits.as_slice(), start, end);
                // Of markup in one long line the tags around a string tell little.
                let string = if self.document.format.is_markup() {
                    site.span.range()
                } else {
                    0..text.len()
                };
                let made = excerpt(text, near, start..end.max(start), string);
                shown_before = to_move && self.shown.start <= start && end <= self.shown.end;
                if to_move && !shown_before {
                    self.shown = made.window.clone();
                }
                made
            }
        };
        let mut reference = told(found, intent, content, position, made, self.resolver);
        reference.site.clone_from(&site.site);
        reference.format = self.document.format.name();
        reference.broke = self.document.broke;
        if let Some(surroundings) = &mut reference.surroundings {
            surroundings.shown_before = shown_before;
        }
        reference
    }
}

impl Teller for PreviewTeller<'_> {
    fn begin(&mut self) {
        *self = Self::new(self.document, self.resolver);
    }

    fn tell(&mut self, sites: Vec<Occurrences>, edits: &TextEdits) {
        let mut told = Vec::new();
        for one in sites {
            // Hex digits tell nobody anything: there the decoded text is shown.
            let decoded = one.site.chain.is_illegible().then(|| edits_inside(&one));
            let Occurrences { site, all } = one;
            for Occurrence { found, intent } in all {
                if let Some(intent) = intent {
                    let reference =
                        self.reference(&site, &found, intent, edits, decoded.as_deref());
                    told.push((site.in_text(found.start), reference));
                }
            }
        }
        // Stretches in another syntax come after the passage that they are in.
        told.sort_by_key(|(at, _)| *at);
        told.iter()
            .for_each(|(_, reference)| self.references.push(reference));
    }
}

/// The edits within reach of an excerpt.
fn nearby(edits: &[Edit], start: usize, end: usize) -> &[Edit] {
    let from = edits.partition_point(|edit| edit.span.end + REACH < start);
    let to = edits.partition_point(|edit| edit.span.start <= end + REACH);
    &edits[from..to.max(from)]
}
