//! Looking for what a rewrite wrote in what a program has saved since.

use std::collections::{HashMap, HashSet, VecDeque};
use std::ops::Range;

use aho_corasick::AhoCorasick;

use crate::container::{Part, PartContent};
use crate::format::site_text;
use crate::layer::{Span, TextSpan};
use crate::open::{Group, Left, OpenedDocument, Visitor, join_ways};
use crate::record::SiteChange;

/// Moves of one stretch beyond which they are not taken back in any order.
const MOST_MOVES: usize = 4;

/// What is to be done to a stretch that is found.
pub(super) type Pieces = Vec<(Range<usize>, String)>;

/// A text that is looked for, and whether its line goes on before it and after it.
#[derive(PartialEq, Eq, Hash)]
pub(super) struct Pattern {
    text: String,
    goes_on: (bool, bool),
}

/// What is looked for: each stretch as the rewrite left it, or with some moves taken back already.
pub(super) struct Search<'a> {
    sites: &'a [SiteChange],
    patterns: Vec<Pattern>,
    /// For each stretch, the patterns that it may be, and what is to be done to each.
    pub(super) variants: Vec<Vec<(usize, Pieces)>>,
    /// The patterns by the first line of those that are whole lines.
    by_line: HashMap<String, Vec<usize>>,
    /// The other ones.
    cut: Vec<usize>,
    finder: Option<AhoCorasick>,
    /// The stretches that are not to be changed.
    pub(super) untouched: Vec<bool>,
}

/// A pattern that was found.
pub(super) struct Find {
    pattern: usize,
    /// Which of the documents in the file it is in, in their order.
    pub(super) document: usize,
    way: String,
    pub(super) span: TextSpan,
}

impl Find {
    /// What makes finds alike: the pattern, and the way without the numbers of list items.
    pub(super) fn kind(&self) -> (usize, String) {
        (self.pattern, shape(&self.way))
    }

    fn place(&self) -> (usize, usize) {
        (self.document, self.span.range().start)
    }
}

/// What a stretch was found to be.
pub(super) struct Choice {
    pub(super) find: usize,
    /// Which of its variants.
    pub(super) variant: usize,
}

impl<'a> Search<'a> {
    pub(super) fn new(sites: &'a [SiteChange], by: Option<usize>) -> Self {
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
    pub(super) fn assign(&self, finds: &[Find], native: &Native) -> Vec<Option<Choice>> {
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
pub(super) struct Native {
    ways: HashSet<(usize, String)>,
    shapes: HashSet<(usize, String)>,
}

impl Native {
    pub(super) fn of(finds: &[Find]) -> Self {
        let ways = finds.iter().map(|find| (find.pattern, find.way.clone()));
        Self {
            ways: ways.collect(),
            shapes: finds.iter().map(Find::kind).collect(),
        }
    }
}

/// How many finds there are of each kind.
pub(super) fn count(finds: &[Find]) -> HashMap<(usize, String), usize> {
    let mut counts = HashMap::new();
    for find in finds {
        *counts.entry(find.kind()).or_default() += 1;
    }
    counts
}

/// The ways in which a stretch may stand now, and what is to be done to each.
pub(super) fn variants(site: &SiteChange, by: Option<usize>) -> Vec<(String, Pieces)> {
    let mut moves: Vec<usize> = site.was.iter().filter_map(|edit| edit.by).collect();
    moves.sort_unstable();
    moves.dedup();
    let mixed = site.was.iter().any(|edit| edit.by.is_none());
    if mixed && by.is_some() {
        return Vec::new();
    }
    let sets = if mixed || moves.len() > MOST_MOVES {
        1
    } else {
        1usize << moves.len()
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
pub(super) fn shape(way: &str) -> String {
    let mut text = String::with_capacity(way.len());
    let mut letters = way.chars().peekable();
    while let Some(letter) = letters.next() {
        text.push(letter);
        while letter == '[' && letters.next_if(char::is_ascii_digit).is_some() {}
    }
    text
}

/// Looks for the variants in every document of a file.
pub(super) struct Finds<'s> {
    search: &'s Search<'s>,
    document: usize,
    pub(super) all: Vec<Find>,
}

impl<'s> Finds<'s> {
    pub(super) fn new(search: &'s Search<'s>) -> Self {
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

    fn wants(&self, holding: &PartContent<'_>) -> bool {
        !matches!(holding, PartContent::Unreadable(_))
    }

    fn document(&mut self, leaf: &OpenedDocument<'_, '_>, _left: &mut Left) -> Option<()> {
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
