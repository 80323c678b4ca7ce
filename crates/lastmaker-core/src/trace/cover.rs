//! The fewest moves and exceptions that give every place its shift.
//!
//! A place goes by the longest old place that it lies under, as addresses are routed by the longest
//! prefix; so the fewest moves are found as the fewest routes are (R. Draves and others,
//! "Constructing Optimal IP Routing Tables", 1999): from the places up, each node has the choices
//! that most of those below it have in common; from the roots down, a move is made only where what
//! holds above is none of them.

use std::collections::BTreeMap;

use super::places::{Node, OfNode, Places};
use super::votes::Chosen;
use crate::place::fold;
use crate::resolve::Index;

/// What is said at a node for all that lies below.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Label {
    /// It stays.
    Stays,
    /// It goes by this shift.
    Goes(usize),
}

/// A move or an exception.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Emitted {
    pub(super) node: Node,
    pub(super) label: Label,
}

/// The moves and exceptions, each after what it lies below.
pub(super) fn cover(places: &Places, chosen: &Chosen, index: &Index) -> Vec<Emitted> {
    let choices = choices(places, chosen);
    let mut holding: Vec<Label> = vec![Label::Stays; places.nodes.len()];
    let mut emitted = Vec::new();
    for (node, of_node) in places.nodes.iter().enumerate() {
        let above = of_node.above.map_or(Label::Stays, |above| holding[above]);
        let best = choices[node].iter().max_by_key(|(label, count)| {
            // Of equal ones what holds above, then the first.
            (**count, **label == above, std::cmp::Reverse(**label))
        });
        let most = choices[node].values().max();
        let holds = choices[node].get(&above) == most && most.is_some();
        holding[node] = match best {
            Some((_, 1)) if !holds && is_for_each(of_node, choices[node].len()) => above,
            Some((label, _)) if !holds => {
                emitted.push(Emitted {
                    node,
                    label: *label,
                });
                *label
            }
            _ => above,
        };
    }
    emitted
        .into_iter()
        .map(|one| lowered(places, chosen, index, one))
        .collect()
}

/// Whether nothing is won by saying at a node what holds for one of those below it alone: it is said
/// of that.
fn is_for_each(node: &OfNode, choices: usize) -> bool {
    node.place.is_none() && node.children > 1 && (choices > 1 || node.above.is_none())
}

/// For each node the labels that most of what is right below it, and it itself, have in common, with
/// how many.
fn choices(places: &Places, chosen: &Chosen) -> Vec<BTreeMap<Label, usize>> {
    let mut counts: Vec<BTreeMap<Label, usize>> = vec![BTreeMap::new(); places.nodes.len()];
    for (number, wanted) in places.all.iter().enumerate() {
        let label = match (wanted.stays, chosen.of_place[number]) {
            // A folder of which a part went says nothing of the part.
            (true, _) if places.nodes[wanted.node].children > 0 => None,
            (true, _) => Some(Label::Stays),
            (false, shift) => shift.map(Label::Goes),
        };
        if let Some(label) = label {
            *counts[wanted.node].entry(label).or_default() += 1;
        }
    }
    for node in (0..places.nodes.len()).rev() {
        let depth = places.nodes[node].depth;
        // A shift can be said no higher than at its old place.
        counts[node].retain(|label, _| match label {
            Label::Stays => true,
            Label::Goes(shift) => places.nodes[chosen.shifts[*shift].from].depth <= depth,
        });
        let most = counts[node].values().max().copied();
        counts[node].retain(|_, count| Some(*count) == most);
        if let Some(above) = places.nodes[node].above {
            let common: Vec<Label> = counts[node].keys().copied().collect();
            for label in common {
                *counts[above].entry(label).or_default() += 1;
            }
        }
    }
    counts
}

/// A move at the top of its shift below which there is one folder alone is said of that: the less is
/// said the better.
fn lowered(places: &Places, chosen: &Chosen, index: &Index, one: Emitted) -> Emitted {
    let Label::Goes(shift) = one.label else {
        return one;
    };
    let shift = chosen.shifts[shift];
    let of_node = &places.nodes[one.node];
    if shift.from != one.node || of_node.children != 1 || of_node.place.is_some() {
        return one;
    }
    let mut below = one.node + 1..places.nodes.len();
    let only = below.find(|at| places.nodes[*at].above == Some(one.node));
    let is_folder = |node: &Node| {
        let name = places.place(*node).components.pop().unwrap_or_default();
        let known = index.child(shift.to, &fold(&name));
        known.is_some_and(|known| index.is_folder(known))
    };
    Emitted {
        node: only.filter(is_folder).unwrap_or(one.node),
        ..one
    }
}
