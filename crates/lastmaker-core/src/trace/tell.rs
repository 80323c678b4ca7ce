//! The moves that were found, with what speaks for and against each.

use std::collections::{BTreeMap, HashMap};

use super::Clues;
use super::cover::{Emitted, Label};
use super::mentions::fold_names;
use super::places::{Node, Places};
use super::votes::{Chosen, rivals};
use crate::place::{Place, Root, fold};
use crate::report::{TraceReport, TracedMove, Unexplained};

/// So many distinct places leave no doubt.
const ENOUGH: usize = 5;
/// So many do if there are folders among the names in common, and so do so many names in common.
const SOME: usize = 3;
/// So many distinct places are many.
const MANY: usize = 10;
/// How many rivals are named.
const RIVALS: usize = 3;

/// What falls under one move.
#[derive(Debug, Default)]
struct Under {
    explained: Vec<usize>,
    not: Vec<usize>,
}

/// Tells the moves.
pub(super) fn tell(
    places: &Places,
    clues: &Clues<'_>,
    chosen: &Chosen,
    emitted: &[Emitted],
) -> TraceReport {
    let by_node: HashMap<Node, usize> = emitted
        .iter()
        .enumerate()
        .map(|(number, one)| (one.node, number))
        .collect();
    let mut support = vec![0; chosen.shifts.len()];
    for shift in chosen.of_place.iter().flatten() {
        support[*shift] += 1;
    }
    let teller = Teller {
        places,
        clues,
        chosen,
        emitted,
        by_node: &by_node,
        support,
    };
    let mut under: BTreeMap<usize, Under> = BTreeMap::new();
    let mut unexplained = Vec::new();
    for (number, wanted) in places.all.iter().enumerate() {
        let governing = places.up(wanted.node).find_map(|at| by_node.get(&at));
        let governing = governing.filter(|at| emitted[**at].label != Label::Stays);
        let shift = governing.map(|at| emitted[*at].label);
        let explaining = chosen.all_of_place[number].iter();
        let explained = shift.is_some_and(|label| {
            explaining
                .map(|shift| Label::Goes(*shift))
                .any(|it| it == label)
        });
        let tells = !wanted.stays || places.nodes[wanted.node].children == 0;
        if let Some(at) = governing.filter(|_| tells) {
            let under = under.entry(*at).or_default();
            if explained {
                under.explained.push(number);
            } else {
                under.not.push(number);
            }
        }
        if !explained && !wanted.stays {
            unexplained.push(Unexplained {
                place: places.place(wanted.node).to_string(),
                references: wanted.references,
            });
        }
    }
    let mut moves: Vec<(Place, Place, TracedMove)> = under
        .into_iter()
        .filter(|(_, under)| !under.explained.is_empty())
        .filter_map(|(at, under)| teller.told(at, &under))
        .collect();
    fold_names(clues.mentions, &mut moves);
    let moves = moves.into_iter().map(|(_, _, one)| one);
    in_order(moves.collect(), unexplained)
}

/// What explains most, and what is named most, comes first.
fn in_order(mut moves: Vec<TracedMove>, mut unexplained: Vec<Unexplained>) -> TraceReport {
    moves.sort_by(|a, b| {
        let by_number = b.explains.cmp(&a.explains);
        by_number.then_with(|| a.from.cmp(&b.from))
    });
    unexplained.sort_by(|a, b| {
        let by_number = b.references.cmp(&a.references);
        by_number.then_with(|| a.place.cmp(&b.place))
    });
    TraceReport {
        moves,
        unexplained,
        ..TraceReport::default()
    }
}

/// Tells one move after the other.
struct Teller<'a> {
    places: &'a Places,
    clues: &'a Clues<'a>,
    chosen: &'a Chosen,
    emitted: &'a [Emitted],
    by_node: &'a HashMap<Node, usize>,
    /// How many places go by each shift, under whatever move.
    support: Vec<usize>,
}

impl Teller<'_> {
    fn told(&self, at: usize, under: &Under) -> Option<(Place, Place, TracedMove)> {
        let Emitted {
            node,
            label: Label::Goes(shift),
        } = self.emitted[at]
        else {
            return None;
        };
        let places = self.places;
        let from = places.place(node);
        let to = self.new_place(shift, node);
        let references =
            |numbers: &[usize]| numbers.iter().map(|at| places.all[*at].references).sum();
        let (explains, contradicts): (usize, usize) =
            (references(&under.explained), references(&under.not));
        let rivals = self.rivals(shift, node, &to, under);
        let why = self.doubt(shift, under, &rivals);
        let told = TracedMove {
            from: from.to_string(),
            to: to.to_string(),
            explains,
            places: under.explained.len(),
            contradicts,
            certain: why.is_none(),
            also: Vec::new(),
            except: self.exceptions(node),
            rivals,
            why,
        };
        Some((from, to, told))
    }

    /// The new places that fit as well.
    fn rivals(&self, shift: usize, node: Node, to: &Place, under: &Under) -> Vec<String> {
        let mut rivals: Vec<(usize, usize)> = rivals(self.chosen, shift, &under.explained)
            .into_iter()
            .filter(|(_, count)| count * 10 >= under.explained.len() * 9)
            .map(|(shift, count)| (count, shift))
            .collect();
        rivals.sort_by_key(|(count, shift)| (std::cmp::Reverse(*count), *shift));
        let fits = rivals
            .into_iter()
            .filter(|(_, other)| self.is_said_at(*other, node))
            .map(|(_, other)| self.new_place(other, node));
        fits.filter(|other| !other.same(to))
            .map(|other| other.to_string())
            .take(RIVALS)
            .collect()
    }

    /// Whether a shift can be said at a node: its old place is that or lies above it.
    fn is_said_at(&self, shift: usize, node: Node) -> bool {
        let from = self.chosen.shifts[shift].from;
        self.places.up(node).any(|at| at == from)
    }

    /// Why a move is not certain; none if it is.
    fn doubt(&self, shift: usize, under: &Under, rivals: &[String]) -> Option<String> {
        if let Some(rival) = rivals.first() {
            return Some(format!("{rival} fits as well"));
        }
        if !self.is_enough(shift, under) {
            return Some("few names speak for it".to_owned());
        }
        let found = under.explained.len();
        let all = found + under.not.len();
        // Of many names half are enough: the others are gone, and nowhere else.
        let enough = found * 3 >= all * 2 || (found >= MANY && found * 2 >= all);
        (!enough).then(|| format!("{found} of {all} places are there"))
    }

    /// Whether enough names speak for a shift: many, some that lie in like folders, or one that has
    /// several folders in common. A few files of common names may lie anywhere.
    fn is_enough(&self, shift: usize, under: &Under) -> bool {
        let places = self.support[shift];
        let shift = self.chosen.shifts[shift];
        let depth = self.places.nodes[shift.from].depth;
        let shares = match (
            self.places.place(shift.from),
            self.clues.index.place(shift.to),
        ) {
            (from, to) if from.components.is_empty() && to.components.is_empty() => {
                matches!((from.root, to.root), (Root::Share { share, .. }, Root::Share { share: other, .. })
                    if fold(&share) == fold(&other))
            }
            _ => false,
        };
        let common = |at: &usize| self.places.all[*at].names.len() - depth + usize::from(shares);
        let most = under.explained.iter().map(common).max().unwrap_or(0);
        places >= ENOUGH || (places >= SOME && most > 1) || most >= SOME
    }

    /// What of an old place stays, right below it and not below another move.
    fn exceptions(&self, node: Node) -> Vec<String> {
        let stays = self.emitted.iter().filter(|one| one.label == Label::Stays);
        let right_below = stays.filter(|one| {
            let mut up = self.places.up(one.node).skip(1);
            up.find(|at| self.by_node.contains_key(at)) == Some(node)
        });
        right_below
            .map(|one| self.places.place(one.node).to_string())
            .collect()
    }

    /// The new place to which a shift brings a node.
    fn new_place(&self, shift: usize, node: Node) -> Place {
        let shift = self.chosen.shifts[shift];
        let depth = self.places.nodes[shift.from].depth;
        let old = self.places.place(node);
        let below = old.components.get(depth..).unwrap_or_default();
        let names: Vec<String> = below.iter().map(|name| fold(name)).collect();
        let index = self.clues.index;
        match index.below(shift.to, &names) {
            Some(known) => index.place(known),
            None => old.rebased(depth, &index.place(shift.to)),
        }
    }
}
