//! Places as the few folders that hold nearly all of them.

use std::collections::BTreeMap;

use crate::place::{Place, Root, fold};
use crate::report::{SurveyNode, Target};

/// A distinct place, and how many references name it.
#[derive(Clone, Debug)]
pub(super) struct Counted {
    pub(super) place: Place,
    pub(super) references: usize,
    /// Whether it exists.
    pub(super) target: Target,
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
pub(super) fn condense<'a>(places: impl Iterator<Item = &'a Counted>) -> Vec<SurveyNode> {
    let mut roots: BTreeMap<String, (Place, Trie)> = BTreeMap::new();
    for count in places {
        let top = Place {
            root: count.place.root.clone(),
            components: Vec::new(),
        };
        let windows = !matches!(top.root, Root::Posix);
        let (_, trie) = roots
            .entry(top.key())
            .or_insert_with(|| (top, Trie::default()));
        let mut node = trie;
        for name in &count.place.components {
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
        let places: Vec<Counted> = [
            (r"D:\Herbarium\Sheets\2019\1.tif", 5, Target::Dangling),
            (r"D:\herbarium\sheets\2019\2.tif", 5, Target::Dangling),
            (r"D:\Herbarium\Labels", 4, Target::Dangling),
            (r"D:\Scanner\driver.dll", 1, Target::Live),
            (r"\\mossbank\press\a", 2, Target::Unreachable),
        ]
        .into_iter()
        .map(|(place, references, target)| Counted {
            place: Place::parse(place).unwrap(),
            references,
            target,
        })
        .collect();
        let tree = condense(places.iter());
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
