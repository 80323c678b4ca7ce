//! Taking back what a rewrite changed in a file that has been saved since, piece by piece: where
//! the string still holds what the rewrite wrote, it gets what stood there before.
//!
//! A stretch is known again by the way to it and its whole line. Where lists have grown or shrunk,
//! it is the value that is followed, not its number. What a program made of it since, a longer
//! place above all, is another value, and stays.

use std::collections::{HashMap, HashSet, VecDeque};
use std::ops::Range;

use aho_corasick::AhoCorasick;

use crate::container::{Budget, Holding, Part};
use crate::format::{Grammar, site_text};
use crate::layer::{ByteEdits, Edit, Edits, Span, TextEdits, TextSpan, splice};
use crate::open::{Document, Group, Inside, Leaf, Left, Reading, Visitor, join_ways, visit};
use crate::record::SiteChange;

use super::container::{ContentPlan, mark_of, settle_group};

/// Moves of one stretch beyond which they are not taken back in any order.
const MOST_MOVES: usize = 4;

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

/// What is to be done to a stretch that is found.
type Pieces = Vec<(Range<usize>, String)>;

/// A text that is looked for, and whether its line goes on before it and after it.
#[derive(PartialEq, Eq, Hash)]
struct Pattern {
    text: String,
    goes_on: (bool, bool),
}

/// What is looked for: each stretch as the rewrite left it, or with some moves taken back already.
struct Search<'a> {
    sites: &'a [SiteChange],
    patterns: Vec<Pattern>,
    /// For each stretch, the patterns that it may be, and what is to be done to each.
    variants: Vec<Vec<(usize, Pieces)>>,
    /// The patterns by the first line of those that are whole lines.
    by_line: HashMap<String, Vec<usize>>,
    /// The other ones.
    cut: Vec<usize>,
    finder: Option<AhoCorasick>,
    /// The stretches that are not to be changed.
    untouched: Vec<bool>,
}

/// A pattern that was found.
struct Find {
    pattern: usize,
    /// Which of the documents in the file it is in, in their order.
    document: usize,
    way: String,
    span: TextSpan,
}

impl Find {
    /// What makes finds alike: the pattern, and the way without the numbers of list items.
    fn kind(&self) -> (usize, String) {
        (self.pattern, shape(&self.way))
    }

    fn place(&self) -> (usize, usize) {
        (self.document, self.span.range().start)
    }
}

/// What a stretch was found to be.
struct Choice {
    find: usize,
    /// Which of its variants.
    variant: usize,
}

impl<'a> Search<'a> {
    fn new(sites: &'a [SiteChange], by: Option<usize>) -> Self {
        let mut search = Self {
            sites,
            patterns: Vec::new(),
            variants: Vec::with_capacity(sites.len()),
            by_line: HashMap::new(),
            cut: Vec::new(),
            finder: None,
            untouched: vec![false; sites.len()],
        };
        let mut known: HashMap<Pattern, usize> = HashMap::new();
        for (number, site) in sites.iter().enumerate() {
            let touches = |by: usize| {
                site.was
                    .iter()
                    .any(|edit| edit.by.is_none_or(|it| it == by))
            };
            let untouched = by.is_some_and(|by| !touches(by));
            search.untouched[number] = untouched;
            let all = if untouched {
                Vec::new()
            } else {
                variants(site, by)
            };
            let mut numbered = Vec::with_capacity(all.len());
            for (text, pieces) in all {
                let goes_on = site.goes_on;
                let next = known.len();
                let pattern = known.entry(Pattern { text, goes_on }).or_insert(next);
                numbered.push((*pattern, pieces));
            }
            search.variants.push(numbered);
        }
        let mut patterns: Vec<(Pattern, usize)> = known.into_iter().collect();
        patterns.sort_unstable_by_key(|(_, number)| *number);
        search.patterns = patterns.into_iter().map(|(pattern, _)| pattern).collect();
        for (number, pattern) in search.patterns.iter().enumerate() {
            if pattern.goes_on == (false, false) {
                let line = pattern.text.split(['\n', '\r']).next().unwrap_or("");
                let known = search.by_line.entry(line.to_owned()).or_default();
                known.push(number);
            } else {
                search.cut.push(number);
            }
        }
        if !search.cut.is_empty() {
            let texts = search.cut.iter().map(|cut| &search.patterns[*cut].text);
            search.finder = AhoCorasick::new(texts).ok();
        }
        search
    }

    /// Which find each stretch is: the one at its own way, else the next of its kind. Where the
    /// like stood there before the rewrite, nobody can tell which is which.
    fn assign(&self, finds: &[Find], native: &Native) -> Vec<Option<Choice>> {
        let mut chosen: Vec<Option<Choice>> = self.sites.iter().map(|_| None).collect();
        let mut taken = HashSet::new();
        for as_is in [true, false] {
            let way = |way: &str| if as_is { way.to_owned() } else { shape(way) };
            let mut waiting: HashMap<(usize, String), VecDeque<usize>> = HashMap::new();
            for (number, find) in finds.iter().enumerate() {
                let key = (find.pattern, way(&find.way));
                waiting.entry(key).or_default().push_back(number);
            }
            for (number, site) in self.sites.iter().enumerate() {
                for (variant, (pattern, _)) in self.variants[number].iter().enumerate() {
                    if chosen[number].is_some() {
                        break;
                    }
                    let key = (*pattern, way(&site.site));
                    let known = if as_is { &native.ways } else { &native.shapes };
                    let Some(queue) = waiting.get_mut(&key).filter(|_| !known.contains(&key))
                    else {
                        continue;
                    };
                    while let Some(find) = queue.pop_front() {
                        if taken.insert(finds[find].place()) {
                            chosen[number] = Some(Choice { find, variant });
                            break;
                        }
                    }
                }
            }
        }
        chosen
    }
}

/// What stood in the original already as the rewrite writes it: patterns, each with its way, and
/// with that without the numbers of list items.
struct Native {
    ways: HashSet<(usize, String)>,
    shapes: HashSet<(usize, String)>,
}

impl Native {
    fn of(finds: &[Find]) -> Self {
        let ways = finds.iter().map(|find| (find.pattern, find.way.clone()));
        Self {
            ways: ways.collect(),
            shapes: finds.iter().map(Find::kind).collect(),
        }
    }
}

/// How many finds there are of each kind.
fn count(finds: &[Find]) -> HashMap<(usize, String), usize> {
    let mut counts = HashMap::new();
    for find in finds {
        *counts.entry(find.kind()).or_default() += 1;
    }
    counts
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

/// The ways in which a stretch may stand now, and what is to be done to each.
fn variants(site: &SiteChange, by: Option<usize>) -> Vec<(String, Pieces)> {
    let mut moves: Vec<usize> = site.was.iter().filter_map(|edit| edit.by).collect();
    moves.sort_unstable();
    moves.dedup();
    let mixed = site.was.iter().any(|edit| edit.by.is_none());
    if mixed && by.is_some() {
        return Vec::new();
    }
    let sets = match mixed || moves.len() > MOST_MOVES {
        true => 1,
        false => 1usize << moves.len(),
    };
    let variant = |set: usize| {
        let is_back = |edit: Option<usize>| {
            let at = edit.and_then(|by| moves.binary_search(&by).ok());
            at.is_some_and(|at| set & (1 << at) != 0)
        };
        let mut text = String::with_capacity(site.now.len());
        let (mut from, mut edits) = (0, Vec::new());
        for edit in &site.was {
            text.push_str(site.now.get(from..edit.at)?);
            from = edit.at + edit.length;
            if is_back(edit.by) {
                text.push_str(&edit.was);
                continue;
            }
            let start = text.len();
            text.push_str(site.now.get(edit.at..from)?);
            if by.is_none() || edit.by == by {
                edits.push((start..text.len(), edit.was.clone()));
            }
        }
        text.push_str(site.now.get(from..)?);
        (!edits.is_empty()).then_some((text, edits))
    };
    (0..sets).filter_map(variant).collect()
}

/// A way without the numbers of list items.
fn shape(way: &str) -> String {
    let mut text = String::with_capacity(way.len());
    let mut letters = way.chars().peekable();
    while let Some(letter) = letters.next() {
        text.push(letter);
        while letter == '[' && letters.next_if(char::is_ascii_digit).is_some() {}
    }
    text
}

/// Looks for the variants in every document of a file.
struct Finds<'s> {
    search: &'s Search<'s>,
    document: usize,
    all: Vec<Find>,
}

impl<'s> Finds<'s> {
    fn new(search: &'s Search<'s>) -> Self {
        Self {
            search,
            document: 0,
            all: Vec::new(),
        }
    }

    fn look(&mut self, raw: &str, start: usize, way: &dyn Fn() -> String) {
        let search = self.search;
        let mut line_start = 0;
        for line in raw.split(['\n', '\r']) {
            for number in search.by_line.get(line).into_iter().flatten() {
                let text = &search.patterns[*number].text;
                let end = line_start + text.len();
                let ends =
                    |end: usize| raw[end..].chars().next().is_none_or(|c| "\n\r".contains(c));
                if raw.get(line_start..end) == Some(text) && ends(end) {
                    self.add(*number, start + line_start, way());
                }
            }
            line_start += line.len() + 1;
        }
        let Some(finder) = &search.finder else { return };
        for found in finder.find_overlapping_iter(raw) {
            let number = search.cut[found.pattern().as_usize()];
            let (before, after) = search.patterns[number].goes_on;
            let is_break = |c: char| "\n\r".contains(c);
            let begins = before
                || raw[..found.start()]
                    .chars()
                    .next_back()
                    .is_none_or(is_break);
            let ends = after || raw[found.end()..].chars().next().is_none_or(is_break);
            if begins && ends {
                self.add(number, start + found.start(), way());
            }
        }
    }

    fn add(&mut self, pattern: usize, at: usize, way: String) {
        let length = self.search.patterns[pattern].text.len();
        self.all.push(Find {
            pattern,
            document: self.document,
            way,
            span: Span::new(at..at + length),
        });
    }
}

impl Visitor for Finds<'_> {
    type Made = ();
    type Mark = ();

    fn wants(&self, holding: &Holding<'_>) -> bool {
        !matches!(holding, Holding::Unreadable(_))
    }

    fn document(&mut self, leaf: &Leaf<'_, '_>, _left: &mut Left) -> Option<()> {
        leaf.document.passages(&mut |_, passage| {
            let raw = &leaf.document.text.content[passage.span.clone()];
            let way = || join_ways(leaf.way, &site_text(passage.site));
            self.look(raw, passage.span.start, &way);
        });
        self.document += 1;
        None
    }

    fn mark(&self, _part: &Part<'_>) {}

    fn container(&mut self, _group: Group<'_, (), ()>) -> Option<()> {
        None
    }
}

/// Plans the way back of documents as they come, and of containers from their parts.
struct Planner {
    edits: HashMap<usize, Vec<Edit>>,
    document: usize,
}

impl Visitor for Planner {
    type Made = ContentPlan;
    type Mark = blake3::Hash;

    fn wants(&self, holding: &Holding<'_>) -> bool {
        !matches!(holding, Holding::Unreadable(_))
    }

    fn document(&mut self, leaf: &Leaf<'_, '_>, _left: &mut Left) -> Option<ContentPlan> {
        let number = self.document;
        self.document += 1;
        if leaf.document.sealed.is_some() {
            return None;
        }
        let edits: TextEdits = Edits::new(self.edits.remove(&number)?).ok()?;
        let (edits, new) = edited(leaf, &edits)?;
        Some(ContentPlan {
            format: leaf.format,
            encoding: "",
            references: Vec::new(),
            edits,
            new: Some(new),
            container: None,
            sites: Vec::new(),
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
fn edited(leaf: &Leaf<'_, '_>, edits: &TextEdits) -> Option<(ByteEdits, Vec<u8>)> {
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
    let lifted = document.text.lift(edits).ok()?;
    let new = splice(document.text.raw(), &lifted);
    let again = Document::open(&new, leaf.name, leaf.reading)?;
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
