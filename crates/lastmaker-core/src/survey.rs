//! Which places the files name, and which of them exist.

use std::collections::BTreeMap;

use serde::Serialize;

use crate::job::{Job, content_of, left_by_scan, left_in};
use crate::place::{Finder, Place, Root, fold};
use crate::report::{LeftFile, SCHEMA};
use crate::resolve::Target;
use crate::scan::Sieve;
use crate::sheet::Sheet;

/// What `survey` found.
#[derive(Debug, Serialize)]
pub struct SurveyReport {
    /// Version of this document.
    pub schema: u32,
    /// The question.
    pub command: &'static str,
    /// Every distinct place, by root and name.
    pub places: Vec<PlaceCount>,
    /// The folders that hold nearly all of them.
    pub tree: Vec<SurveyNode>,
    /// Files looked at.
    pub files: u64,
    /// Files that name a place.
    pub naming_files: usize,
    /// References in all.
    pub references: usize,
    /// Files that could not be looked at.
    pub left: Vec<LeftFile>,
}

/// One distinct place.
#[derive(Clone, Debug, Serialize)]
pub struct PlaceCount {
    /// The place.
    pub place: String,
    /// How many references name it.
    pub references: usize,
    /// How many files do.
    pub files: usize,
    /// Whether it exists.
    pub target: Target,
    #[serde(skip)]
    parsed: Place,
}

/// A folder in which places lie, with those below it.
#[derive(Clone, Debug, Serialize)]
pub struct SurveyNode {
    /// The folder, or root.
    pub place: String,
    /// References to it and below it.
    pub references: usize,
    /// Distinct places, itself included.
    pub places: usize,
    /// Of the references, those that exist.
    pub live: usize,
    /// Those that dangle.
    pub dangling: usize,
    /// Those that cannot be checked from here.
    pub unreachable: usize,
    /// The folders below it that hold most, the fullest first.
    pub below: Vec<Self>,
}

/// Lists every place that the files of the job's scope name.
pub fn survey(job: &Job<'_>) -> SurveyReport {
    let everything = Sieve::new(&Sheet::default(), true);
    let variables = job.variables_now();
    let finder = Finder {
        variables: &variables,
    };
    let walked = job.walk(&everything, |entry| {
        let mut places = Vec::new();
        let left = job.look_inside(entry, job.thorough, &mut |leaf| {
            for site in leaf.document.sites(finder, |_, _| true).0 {
                let content = content_of(leaf.document, &site);
                for found in &site.finds {
                    if site.begins_elsewhere(found) {
                        continue;
                    }
                    let (_, place, target) = job.resolve(found, content);
                    if found.doubt.is_none() && job.counts(found, &place) {
                        places.push((place, target));
                    }
                }
            }
        })?;
        let left = left_in(entry.path, left);
        Ok((!places.is_empty() || !left.is_empty()).then_some((places, left)))
    });
    let mut distinct: BTreeMap<String, PlaceCount> = BTreeMap::new();
    let mut naming_files = 0;
    let mut references = 0;
    let mut left = left_by_scan(&walked.faults);
    for (file, left_inside) in walked.items {
        left.extend(left_inside);
        naming_files += usize::from(!file.is_empty());
        references += file.len();
        let mut in_this_file = Vec::new();
        for (place, target) in file {
            let key = place.key();
            let known = distinct.entry(key.clone()).or_insert_with(|| PlaceCount {
                place: place.to_string(),
                references: 0,
                files: 0,
                target,
                parsed: place,
            });
            known.references += 1;
            if !in_this_file.contains(&key) {
                known.files += 1;
                in_this_file.push(key);
            }
        }
    }
    let places: Vec<PlaceCount> = distinct.into_values().collect();
    SurveyReport {
        schema: SCHEMA,
        command: "survey",
        tree: condense(&places),
        places,
        files: walked.files,
        naming_files,
        references,
        left,
    }
}

#[derive(Default)]
struct Trie {
    name: String,
    own: Option<(usize, Target)>,
    below: BTreeMap<String, Self>,
}

/// A folder is shown if it holds at least this share of its root's references.
const SHARE: usize = 20;
/// How many folders are shown side by side.
const WIDEST: usize = 8;

/// The few folders that hold nearly everything: chains without branches become one node,
/// and what holds little is left to the totals of the folder above it.
fn condense(places: &[PlaceCount]) -> Vec<SurveyNode> {
    let mut roots: BTreeMap<String, (Place, Trie)> = BTreeMap::new();
    for count in places {
        let top = Place {
            root: count.parsed.root.clone(),
            components: Vec::new(),
        };
        let windows = !matches!(top.root, Root::Posix);
        let (_, trie) = roots
            .entry(top.key())
            .or_insert_with(|| (top, Trie::default()));
        let mut node = trie;
        for name in &count.parsed.components {
            let key = if windows { fold(name) } else { name.clone() };
            node = node.below.entry(key).or_default();
            if node.name.is_empty() {
                node.name.clone_from(name);
            }
        }
        node.own = Some((count.references, count.target));
    }
    let mut nodes: Vec<SurveyNode> = roots
        .into_values()
        .map(|(top, trie)| {
            let (trie, at) = end_of_chain(&trie, top);
            let whole = totals(trie, &at).references;
            branch(trie, at, whole)
        })
        .collect();
    sort(&mut nodes);
    nodes
}

/// A chain in which nothing else lies is one step.
fn end_of_chain(mut trie: &Trie, mut at: Place) -> (&Trie, Place) {
    while let (None, 1, Some(next)) = (trie.own, trie.below.len(), trie.below.values().next()) {
        at = at.child(&next.name);
        trie = next;
    }
    (trie, at)
}

fn totals(trie: &Trie, place: &Place) -> SurveyNode {
    let mut node = SurveyNode {
        place: place.to_string(),
        references: 0,
        places: 0,
        live: 0,
        dangling: 0,
        unreachable: 0,
        below: Vec::new(),
    };
    let mut left = vec![trie];
    while let Some(next) = left.pop() {
        if let Some((references, target)) = next.own {
            node.references += references;
            node.places += 1;
            match target {
                Target::Live => node.live += references,
                Target::Dangling => node.dangling += references,
                Target::Unreachable => node.unreachable += references,
            }
        }
        left.extend(next.below.values());
    }
    node
}

fn branch(trie: &Trie, place: Place, whole: usize) -> SurveyNode {
    let mut node = totals(trie, &place);
    let mut below: Vec<SurveyNode> = trie
        .below
        .values()
        .filter_map(|child| {
            let (child, at) = end_of_chain(child, place.child(&child.name));
            let counted = totals(child, &at);
            // A single file is no folder to show, unless much points at it.
            let folder = !child.below.is_empty() || counted.references > 1;
            (folder && counted.references * SHARE >= whole).then(|| {
                if child.below.is_empty() {
                    counted
                } else {
                    branch(child, at, whole)
                }
            })
        })
        .collect();
    sort(&mut below);
    below.truncate(WIDEST);
    node.below = below;
    node
}

fn sort(nodes: &mut [SurveyNode]) {
    nodes.sort_by(|a, b| {
        b.references
            .cmp(&a.references)
            .then_with(|| a.place.cmp(&b.place))
    });
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_tree_shows_the_folders_that_hold_most() {
        let places: Vec<PlaceCount> = [
            (r"D:\Herbarium\Sheets\2019\1.tif", 5, Target::Dangling),
            (r"D:\herbarium\sheets\2019\2.tif", 5, Target::Dangling),
            (r"D:\Herbarium\Labels", 4, Target::Dangling),
            (r"D:\Scanner\driver.dll", 1, Target::Live),
            (r"\\mossbank\press\a", 2, Target::Unreachable),
        ]
        .into_iter()
        .map(|(place, references, target)| PlaceCount {
            place: place.to_owned(),
            references,
            files: 1,
            target,
            parsed: Place::parse(place).unwrap(),
        })
        .collect();
        let tree = condense(&places);
        assert_eq!(tree.len(), 2);
        assert_eq!(
            (tree[0].place.as_str(), tree[0].references, tree[0].live),
            ("D:\\", 15, 1)
        );
        let herbarium = &tree[0].below[0];
        assert_eq!(
            (herbarium.place.as_str(), herbarium.dangling),
            (r"D:\Herbarium", 14)
        );
        assert_eq!(herbarium.below[0].place, r"D:\Herbarium\Sheets\2019");
        assert_eq!(herbarium.below[1].place, r"D:\Herbarium\Labels");
        assert_eq!(tree[1].unreachable, 2);
    }
}
