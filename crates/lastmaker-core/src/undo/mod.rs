//! Taking back what a rewrite changed in a file that has been saved since, piece by piece: where
//! the string still holds what the rewrite wrote, it gets what stood there before.
//!
//! A stretch is known again by the way to it and its whole line. Where lists have grown or shrunk,
//! it is the value that is followed, not its number. What a program made of it since, a longer
//! place above all, is another value, and stays.

mod search;

use std::collections::HashMap;

use crate::base::compact::CompactList;
use crate::container::{Budget, Part, PartContent};
use crate::format::Grammar;
use crate::layer::{ByteEdits, Edit, Edits, TextEdits, splice};
use crate::open::{Group, Inside, Left, OpenedDocument, Reading, Visitor, visit};
use crate::record::SiteChange;

use search::{Choice, Find, Finds, Native, Search, count};

use crate::plan::{ContentPlan, mark_of, settle_group};

/// What came of taking changes back.
#[derive(Debug, Default)]
pub struct Undone {
    /// The new content; none if nothing is taken back.
    pub content: Option<Vec<u8>>,
    /// For each of the stretches, whether it is taken back.
    pub taken_back: Vec<bool>,
}

/// A file whose changes are to be taken back.
#[derive(Clone, Copy, Debug)]
pub struct Undoing<'a> {
    /// Its name, by which its format may be known.
    pub name: &'a str,
    /// What it was before the rewrite: what stood there already is not what that wrote.
    pub original: &'a [u8],
    /// What it holds now.
    pub present: &'a [u8],
    /// What the rewrite changed.
    pub sites: &'a [SiteChange],
    /// The move whose changes alone are taken back.
    pub by: Option<usize>,
    /// The largest document that is read as a whole, in bytes.
    pub max_document: u64,
}

/// Takes back what a rewrite changed, or what one of its moves did. A stretch that this move did
/// not touch counts as taken back.
pub fn undo(undoing: Undoing<'_>) -> Undone {
    let Undoing {
        name,
        present: bytes,
        max_document,
        ..
    } = undoing;
    let search = Search::new(undoing.sites, undoing.by);
    let look = |bytes: &[u8]| {
        let mut found = Finds::new(&search);
        visit(inside(bytes, name), &Budget::new(max_document), &mut found);
        found.all
    };
    let finds = look(bytes);
    let chosen = search.assign(&finds, &Native::of(&look(undoing.original)));
    let mut undone = Undone {
        content: None,
        taken_back: search.untouched.clone(),
    };
    let mut planner = Planner {
        edits: edits_by_document(&search, &finds, &chosen),
        document: 0,
    };
    let budget = Budget::new(max_document);
    let (plan, _) = visit(inside(bytes, name), &budget, &mut planner);
    let Some(new) = plan.and_then(|plan| plan.new) else {
        return undone;
    };
    // What is really taken back is what is no longer found.
    let left = count(&look(&new));
    let mut before = count(&finds);
    for (site, choice) in chosen.iter().enumerate() {
        let Some(choice) = choice else { continue };
        let key = finds[choice.find].kind();
        let there = before.entry(key.clone()).or_default();
        if *there > left.get(&key).copied().unwrap_or(0) {
            *there -= 1;
            undone.taken_back[site] = true;
        }
    }
    undone.content = (new != bytes).then_some(new);
    undone
}

fn inside<'a>(bytes: &'a [u8], name: &'a str) -> Inside<'a> {
    Inside {
        bytes,
        name,
        reading: Reading::default(),
    }
}

/// What is to be done to each document of the file, by its number.
fn edits_by_document(
    search: &Search<'_>,
    finds: &[Find],
    chosen: &[Option<Choice>],
) -> HashMap<usize, Vec<Edit>> {
    let mut all: HashMap<usize, Vec<Edit>> = HashMap::new();
    for (choice, variants) in chosen.iter().zip(&search.variants) {
        let Some(choice) = choice else { continue };
        let find = &finds[choice.find];
        let start = find.span.range().start;
        let of_document = all.entry(find.document).or_default();
        for (span, was) in &variants[choice.variant].1 {
            of_document.push(Edit {
                span: start + span.start..start + span.end,
                with: was.clone().into_bytes(),
            });
        }
    }
    all
}

/// Plans the way back of documents as they come, and of containers from their parts.
struct Planner {
    edits: HashMap<usize, Vec<Edit>>,
    document: usize,
}

impl Visitor for Planner {
    type Made = ContentPlan;
    type Mark = blake3::Hash;

    fn wants(&self, holding: &PartContent<'_>) -> bool {
        !matches!(holding, PartContent::Unreadable(_))
    }

    fn document(&mut self, leaf: &OpenedDocument<'_, '_>, _left: &mut Left) -> Option<ContentPlan> {
        let number = self.document;
        self.document += 1;
        if leaf.document.sealed().is_some() {
            return None;
        }
        let edits: TextEdits = Edits::new(self.edits.remove(&number)?).ok()?;
        let (edits, new) = edited(leaf, &edits)?;
        Some(ContentPlan {
            format: leaf.format,
            encoding: "",
            references: CompactList::default(),
            edits,
            new: Some(new),
            container: None,
            sites: CompactList::default(),
        })
    }

    fn mark(&self, part: &Part<'_>) -> blake3::Hash {
        mark_of(part)
    }

    fn container(&mut self, group: Group<'_, ContentPlan, blake3::Hash>) -> Option<ContentPlan> {
        let is_whole = group.fault.is_none() && !group.parts.is_empty();
        is_whole.then(|| settle_group(group))
    }
}

/// A document with these edits of its text, if it reads as it should then: the same passages, and
/// in them what was there but for the edits.
fn edited(leaf: &OpenedDocument<'_, '_>, edits: &TextEdits) -> Option<(ByteEdits, Vec<u8>)> {
    let document = leaf.document;
    let mut expected = Vec::new();
    let all = edits.as_slice();
    let mut next = 0;
    let grammar = document.passages(&mut |_, passage| {
        let raw = &document.text.content[passage.span.clone()];
        let from = next;
        while all
            .get(next)
            .is_some_and(|edit| edit.span.end <= passage.span.end)
        {
            next += 1;
        }
        let inner = all[from..next].iter().map(|edit| Edit {
            span: edit.span.start - passage.span.start..edit.span.end - passage.span.start,
            with: edit.with.clone(),
        });
        let inner: Option<Edits> = Edits::new(inner.collect()).ok();
        expected.push(match inner {
            Some(inner) if !inner.is_empty() => blake3::hash(&splice(raw.as_bytes(), &inner)),
            _ => blake3::hash(raw.as_bytes()),
        });
    });
    let lifted = document.text.lift(edits.clone()).ok()?;
    let new = splice(document.text.raw(), &lifted);
    let again = document.again(&new)?;
    let mut got = Vec::with_capacity(expected.len());
    let grammar_again = again.passages(&mut |_, passage| {
        let raw = &again.text.content[passage.span.clone()];
        got.push(blake3::hash(raw.as_bytes()));
    });
    let same =
        again.format.name() == document.format.name() && again.text.mark == document.text.mark;
    let kept = grammar_again == grammar || grammar_again == Grammar::Kept;
    (same && kept && expected == got).then_some((lifted, new))
}
