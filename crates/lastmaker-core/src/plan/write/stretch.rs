//! What a rewrite changes, piece by piece, as a record keeps it: so much of the text around each
//! change that it is known again after the program has saved, and can be taken back by itself.

use std::ops::Range;

use crate::base::compact::CompactList;
use crate::layer::{Edit, TextEdits, TextSpan};
use crate::open::Document;
use crate::record::{SiteChange, SiteEdit};

use super::expectation::within;

/// A line longer than this, in bytes, is not kept as a whole.
const LONGEST: usize = 1000;
/// What is kept of a longer one on either side of a change, in bytes.
const REACH: usize = 200;

/// Adds what `edits` of a document's text do to one passage of it, in order; `way` leads to it in the
/// new copy, and `makers` are the moves that make each edit.
pub(in crate::plan) fn stretches(
    document: &Document<'_>,
    span: &TextSpan,
    way: &str,
    edits: &TextEdits,
    makers: &[Option<u16>],
    all: &mut CompactList<SiteChange>,
) {
    let range = within(edits, &span.range());
    let passage = Passage {
        way,
        raw: document.raw(span),
        start: span.range().start,
        makers: &makers[range.clone()],
    };
    passage.add_stretches(&edits.as_slice()[range], all);
}

/// A passage that changes.
struct Passage<'a> {
    way: &'a str,
    raw: &'a str,
    /// Where it begins in the text.
    start: usize,
    /// The move that makes each of its edits.
    makers: &'a [Option<u16>],
}

impl Passage<'_> {
    fn add_stretches(&self, edits: &[Edit], all: &mut CompactList<SiteChange>) {
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
            let makers = &self.makers[at..next];
            let goes_on = (cut_before, cut_after);
            all.push(&self.stretch(start..end, &edits[at..next], makers, goes_on));
            at = next;
        }
    }

    /// The span of an edit in the passage.
    fn local(&self, edit: &Edit) -> Range<usize> {
        edit.span.start - self.start..edit.span.end - self.start
    }

    /// Where the line of `at` begins, and whether it goes on before that.
    fn line_start(&self, at: usize) -> (usize, bool) {
        let from = self.raw.floor_char_boundary(at.saturating_sub(LONGEST));
        match self.raw[from..at].rfind(['\n', '\r']) {
            Some(before) => (from + before + 1, false),
            None if from == 0 => (0, false),
            None => (self.raw.floor_char_boundary(at - REACH), true),
        }
    }

    /// Where the line of `at` ends, and whether it goes on after that.
    fn line_end(&self, at: usize) -> (usize, bool) {
        let to = self
            .raw
            .floor_char_boundary((at + LONGEST).min(self.raw.len()));
        match self.raw[at..to.max(at)].find(['\n', '\r']) {
            Some(behind) => (at + behind, false),
            None if to == self.raw.len() => (to, false),
            None => (self.raw.floor_char_boundary(at + REACH).max(at), true),
        }
    }

    fn stretch(
        &self,
        span: Range<usize>,
        edits: &[Edit],
        makers: &[Option<u16>],
        goes_on: (bool, bool),
    ) -> SiteChange {
        let mut now = String::with_capacity(span.len());
        let mut was = Vec::with_capacity(edits.len());
        let mut from = span.start;
        for (edit, by) in edits.iter().zip(makers) {
            let local = self.local(edit);
            now.push_str(&self.raw[from..local.start]);
            let with = String::from_utf8_lossy(&edit.with);
            was.push(SiteEdit {
                at: now.len(),
                length: with.len(),
                was: self.raw[local.clone()].to_owned(),
                by: by.map(usize::from),
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
}
