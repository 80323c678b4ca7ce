//! What a rewrite changes, piece by piece, as a record keeps it: so much of the text around each
//! change that it is known again after the program has saved, and can be taken back by itself.

use std::ops::Range;

use crate::layer::{Edit, TextEdits};
use crate::open::{Document, SitePassage};
use crate::packed::Packed;
use crate::record::{SiteChange, SiteEdit};

use super::intent::Intent;
use super::lift::{lift_passage, passages};

/// A line longer than this, in bytes, is not kept as a whole.
const LONGEST: usize = 1000;
/// What is kept of a longer one on either side of a change, in bytes.
const REACH: usize = 200;

/// What the changes of a document do to it, in order. `edits` are its text's; `ways` says where
/// each changed passage is in the new copy.
pub(super) fn stretches(
    document: &Document<'_>,
    sites: &[SitePassage],
    intents: &[Vec<Option<Intent>>],
    edits: &TextEdits,
    ways: &[(usize, String)],
) -> Packed<SiteChange> {
    let mut all = Packed::default();
    for group in passages(sites) {
        let site = &sites[group.start];
        let of_passage = within(edits.as_slice(), &site.span.range());
        if of_passage.is_empty() {
            continue;
        }
        let way = ways.binary_search_by_key(&site.ordinal, |(ordinal, _)| *ordinal);
        let passage = Passage {
            way: way.map_or("", |at| &ways[at].1),
            raw: document.raw(&site.span),
            start: site.span.range().start,
            makers: makers(document, &sites[group.clone()], &intents[group.clone()]),
        };
        passage.add_stretches(of_passage, &mut all);
    }
    all
}

/// The edits within a span of the text.
fn within<'e>(edits: &'e [Edit], span: &Range<usize>) -> &'e [Edit] {
    let from = edits.partition_point(|edit| edit.span.start < span.start);
    let to = edits.partition_point(|edit| edit.span.start <= span.end && edit.span.end <= span.end);
    &edits[from.min(to)..to]
}

/// Which move makes which edits of a passage.
enum Makers {
    /// One makes all.
    One(usize),
    /// Each makes these by itself.
    Several(Vec<(usize, Vec<Edit>)>),
}

fn makers(
    document: &Document<'_>,
    sites: &[SitePassage],
    intents: &[Vec<Option<Intent>>],
) -> Makers {
    let by = |intent: &Intent| Some(intent.verdict.relocation.as_ref()?.by);
    let changing = intents.iter().flatten().flatten().filter(|i| i.changes());
    let mut moves: Vec<usize> = changing.filter_map(by).collect();
    moves.sort_unstable();
    moves.dedup();
    if let [one] = moves[..] {
        return Makers::One(one);
    }
    let raw = sites.first().map_or("", |site| document.raw(&site.span));
    let of_move = |number: usize| {
        let only = |intent: &Option<Intent>| {
            let mut intent = intent.clone()?;
            if by(&intent) != Some(number) {
                intent.edits.clear();
            }
            Some(intent)
        };
        let alone: Vec<Vec<Option<Intent>>> = intents
            .iter()
            .map(|of_site| of_site.iter().map(only).collect())
            .collect();
        let lifted = lift_passage(raw, sites.iter().zip(&alone)).ok()?;
        Some((number, lifted.into_vec()))
    };
    Makers::Several(moves.into_iter().filter_map(of_move).collect())
}

/// A passage that changes.
struct Passage<'a> {
    way: &'a str,
    raw: &'a str,
    /// Where it begins in the text.
    start: usize,
    makers: Makers,
}

impl Passage<'_> {
    fn add_stretches(&self, edits: &[Edit], all: &mut Packed<SiteChange>) {
        let mut at = 0;
        while at < edits.len() {
            let first = self.local(&edits[at]);
            let (start, cut_before) = self.line_start(first.start);
            let mut end = first.end;
            let mut next = at;
            let mut cut_after = false;
            while next < edits.len() && (next == at || self.local(&edits[next]).start <= end) {
                (end, cut_after) = self.line_end(self.local(&edits[next]).end);
                next += 1;
            }
            all.push(&self.stretch(start..end, &edits[at..next], (cut_before, cut_after)));
            at = next;
        }
    }

    /// The span of an edit in the passage.
    fn local(&self, edit: &Edit) -> Range<usize> {
        edit.span.start - self.start..edit.span.end - self.start
    }

    /// Where the line of `at` begins, and whether it goes on before that.
    fn line_start(&self, at: usize) -> (usize, bool) {
        let from = floor(self.raw, at.saturating_sub(LONGEST));
        match self.raw[from..at].rfind(['\n', '\r']) {
            Some(before) => (from + before + 1, false),
            None if from == 0 => (0, false),
            None => (floor(self.raw, at - REACH), true),
        }
    }

    /// Where the line of `at` ends, and whether it goes on after that.
    fn line_end(&self, at: usize) -> (usize, bool) {
        let to = floor(self.raw, (at + LONGEST).min(self.raw.len()));
        match self.raw[at..to.max(at)].find(['\n', '\r']) {
            Some(behind) => (at + behind, false),
            None if to == self.raw.len() => (to, false),
            None => (floor(self.raw, at + REACH).max(at), true),
        }
    }

    fn stretch(&self, span: Range<usize>, edits: &[Edit], goes_on: (bool, bool)) -> SiteChange {
        let mut now = String::with_capacity(span.len());
        let mut was = Vec::with_capacity(edits.len());
        let mut from = span.start;
        for edit in edits {
            let local = self.local(edit);
            now.push_str(&self.raw[from..local.start]);
            let with = String::from_utf8_lossy(&edit.with);
            was.push(SiteEdit {
                at: now.len(),
                length: with.len(),
                was: self.raw[local.clone()].to_owned(),
                by: self.maker(edit),
            });
            now.push_str(&with);
            from = local.end;
        }
        now.push_str(&self.raw[from..span.end]);
        SiteChange {
            site: self.way.to_owned(),
            now,
            goes_on,
            was,
        }
    }

    /// The move that makes an edit; none if several make it together.
    fn maker(&self, edit: &Edit) -> Option<usize> {
        let local = Edit {
            span: self.local(edit),
            with: edit.with.clone(),
        };
        match &self.makers {
            Makers::One(one) => Some(*one),
            Makers::Several(all) => {
                let has = |edits: &Vec<Edit>| {
                    let from = edits.partition_point(|one| one.span.start < local.span.start);
                    edits.get(from).is_some_and(|one| *one == local)
                };
                let mut makers = all.iter().filter(|(_, edits)| has(edits));
                makers.next().map(|(number, _)| *number)
            }
        }
    }
}

/// The letter boundary at or before `at`.
fn floor(text: &str, at: usize) -> usize {
    (0..=at.min(text.len()))
        .rev()
        .find(|at| text.is_char_boundary(*at))
        .unwrap_or(0)
}
