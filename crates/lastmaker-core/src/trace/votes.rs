//! Shifts from an old place to a new one, and which of them explain most.

use std::collections::{BTreeMap, BinaryHeap, HashMap};
use std::fs;
use std::io::Read;
use std::path::PathBuf;

use super::places::{Node, Places, Wanted};
use crate::base::platform;
use crate::place::{Place, fold};
use crate::resolve::{Index, Known};

/// A name that is in more places than this tells nothing by itself.
const MOST_NAMED: usize = 64;
/// How many shifts are tried for places whose name tells nothing.
const MOST_TRIED: usize = 64;

/// An old place and the new one under which the same names are found. The last names of the two
/// are not the same, or one of them is a root.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) struct Shift {
    pub(super) from: Node,
    pub(super) to: Known,
}

/// Which shifts explain which places.
#[derive(Debug, Default)]
pub(super) struct Votes {
    pub(super) shifts: Vec<Shift>,
    /// For each place the shifts that explain it, sorted.
    of_place: Vec<Vec<usize>>,
}

/// Which shift is taken for each place, and what speaks for it.
#[derive(Debug)]
pub(super) struct Chosen {
    pub(super) shifts: Vec<Shift>,
    /// For each place its shift; none if nothing explains it.
    pub(super) of_place: Vec<Option<usize>>,
    /// For each place all shifts that explain it.
    pub(super) all_of_place: Vec<Vec<usize>>,
}

/// The old folders that still exist, which tell like files apart.
pub(super) struct Old<'a> {
    pub(super) old: &'a [(Place, PathBuf)],
    pub(super) seen_at: &'a [(Place, PathBuf)],
}

impl Votes {
    /// Looks for every place that is to be explained by its name.
    pub(super) fn cast(places: &Places, index: &Index, old: &Old<'_>) -> Self {
        let mut votes = Self::default();
        let mut numbers: HashMap<Shift, usize> = HashMap::new();
        let mut telling_nothing = Vec::new();
        for (number, wanted) in places.all.iter().enumerate() {
            votes.of_place.push(Vec::new());
            let Some(last) = wanted.names.last().filter(|_| !wanted.stays) else {
                continue;
            };
            let found: Vec<Known> = index.named(last).take(MOST_NAMED + 1).collect();
            if found.len() > MOST_NAMED {
                telling_nothing.push(number);
                continue;
            }
            for known in old.like(places, wanted, index, found) {
                let shift = shift(places, wanted, index, known);
                let number = numbers.entry(shift).or_insert_with(|| {
                    votes.shifts.push(shift);
                    votes.shifts.len() - 1
                });
                let of_place = votes.of_place.last_mut();
                of_place.into_iter().for_each(|of| of.push(*number));
            }
        }
        votes.try_on(places, index, &telling_nothing);
        for of_place in &mut votes.of_place {
            of_place.sort_unstable();
            of_place.dedup();
        }
        votes
    }

    /// Tries the shifts with most votes on places whose name is everywhere.
    fn try_on(&mut self, places: &Places, index: &Index, numbers: &[usize]) {
        let mut best: Vec<usize> = (0..self.shifts.len()).collect();
        let weights = self.weights(places);
        best.sort_by_key(|shift| (std::cmp::Reverse(weights[*shift]), *shift));
        best.truncate(MOST_TRIED);
        for number in numbers {
            let wanted = &places.all[*number];
            let explaining = |shift: &&usize| explains(places, wanted, index, self.shifts[**shift]);
            let explaining: Vec<usize> = best.iter().filter(explaining).copied().collect();
            self.of_place[*number] = explaining;
        }
    }

    /// How many references each shift explains.
    fn weights(&self, places: &Places) -> Vec<usize> {
        let mut weights = vec![0; self.shifts.len()];
        for (wanted, shifts) in places.all.iter().zip(&self.of_place) {
            for shift in shifts {
                weights[*shift] += wanted.references;
            }
        }
        weights
    }

    /// Takes the shift that explains most, then the one that explains most of the rest, and so on.
    pub(super) fn choose(self, places: &Places, index: &Index) -> Chosen {
        let mut by_shift: Vec<Vec<usize>> = vec![Vec::new(); self.shifts.len()];
        for (number, shifts) in self.of_place.iter().enumerate() {
            for shift in shifts {
                by_shift[*shift].push(number);
            }
        }
        let mut of_place: Vec<Option<usize>> = vec![None; places.all.len()];
        let left = |shift: usize, of_place: &[Option<usize>]| -> usize {
            let open = by_shift[shift].iter().filter(|at| of_place[**at].is_none());
            open.map(|at| places.all[*at].references).sum()
        };
        // What explains as much from less far away comes first.
        let near = |shift: &Shift| {
            let depth = places.nodes[shift.from].depth;
            std::cmp::Reverse((depth, index.place(shift.to).components.len(), shift.to))
        };
        let mut heap: BinaryHeap<(usize, _, std::cmp::Reverse<usize>)> = self
            .shifts
            .iter()
            .enumerate()
            .map(|(number, shift)| {
                let weight = left(number, &of_place);
                (weight, near(shift), std::cmp::Reverse(number))
            })
            .collect();
        while let Some((weight, key, std::cmp::Reverse(shift))) = heap.pop() {
            let now = left(shift, &of_place);
            if now == 0 {
                continue;
            }
            if now < weight {
                heap.push((now, key, std::cmp::Reverse(shift)));
                continue;
            }
            for at in &by_shift[shift] {
                of_place[*at].get_or_insert(shift);
            }
        }
        Chosen {
            shifts: self.shifts,
            of_place,
            all_of_place: self.of_place,
        }
    }
}

/// The shift for which it is a vote that `known` has the name of a place.
fn shift(places: &Places, wanted: &Wanted, index: &Index, known: Known) -> Shift {
    let mut to = known;
    let mut depth = wanted.names.len();
    for name in wanted.names.iter().rev() {
        let Some(above) = index.above(to).filter(|_| fold(index.name(to)) == *name) else {
            break;
        };
        to = above;
        depth -= 1;
    }
    Shift {
        from: places.at_depth(wanted.node, depth),
        to,
    }
}

/// Whether a place lies under the new place of a shift by the names that it has under the old one.
fn explains(places: &Places, wanted: &Wanted, index: &Index, shift: Shift) -> bool {
    let depth = places.nodes[shift.from].depth;
    wanted.names.len() > depth
        && places.at_depth(wanted.node, depth) == shift.from
        && index.below(shift.to, &wanted.names[depth..]).is_some()
}

impl Old<'_> {
    /// Those of several files of one name that are like the old one, as far as that is to be seen:
    /// of its size, else of its content too.
    fn like(
        &self,
        places: &Places,
        wanted: &Wanted,
        index: &Index,
        found: Vec<Known>,
    ) -> Vec<Known> {
        if found.len() < 2 || self.old.is_empty() {
            return found;
        }
        let place = places.place(wanted.node);
        let Some(old) = on_disk(self.old, &place).filter(|path| path.is_file()) else {
            return found;
        };
        let path = |known: &Known| on_disk(self.seen_at, &index.place(*known));
        let size = |path: PathBuf| Some(fs::symlink_metadata(path).ok()?.len());
        let Some(wanted) = size(old.clone()) else {
            return found;
        };
        let mut same: Vec<Known> = found
            .iter()
            .copied()
            .filter(|known| path(known).and_then(size) == Some(wanted))
            .collect();
        if same.len() > 1 {
            let content = start_of(old);
            let like: Vec<Known> = same
                .iter()
                .copied()
                .filter(|known| path(known).and_then(start_of) == content)
                .collect();
            same = if like.is_empty() { same } else { like };
        }
        if same.is_empty() { found } else { same }
    }
}

/// Where a place is on this machine, by the folder that is nearest.
fn on_disk(folders: &[(Place, PathBuf)], place: &Place) -> Option<PathBuf> {
    let under = folders.iter().filter(|(top, _)| place.is_under(top));
    let (top, folder) = under.max_by_key(|(top, _)| top.components.len())?;
    let mut path = folder.clone();
    path.extend(&place.components[top.components.len()..]);
    Some(path)
}

/// Hash of the first megabyte of a file, which tells files of one size apart.
fn start_of(path: PathBuf) -> Option<blake3::Hash> {
    let (file, _) = platform::open_regular(&path).ok()?;
    let mut start = Vec::new();
    file.take(1 << 20).read_to_end(&mut start).ok()?;
    Some(blake3::hash(&start))
}

/// How many of some places each other shift explains as well.
pub(super) fn rivals(chosen: &Chosen, of: usize, places: &[usize]) -> BTreeMap<usize, usize> {
    let mut rivals = BTreeMap::new();
    for place in places {
        for shift in &chosen.all_of_place[*place] {
            if *shift != of {
                *rivals.entry(*shift).or_default() += 1;
            }
        }
    }
    rivals
}
