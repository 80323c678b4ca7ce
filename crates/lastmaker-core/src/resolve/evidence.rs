//! How many of the places to which each move leads are there.

use std::collections::{BTreeMap, HashSet};

use crate::place::Place;
use crate::report::{MissingFolder, MoveEvidence, NewPlaces, Target};
use crate::sheet::Sheet;

/// Counts what each move touches.
#[derive(Debug, Default)]
pub struct Evidence {
    moves: Vec<OfMove>,
    /// Distinct new places of all moves.
    all: Distinct,
    /// How many distinct places of each folder do not exist.
    missing: BTreeMap<String, usize>,
}

#[derive(Debug, Default)]
struct OfMove {
    references: usize,
    files: usize,
    last_file: Option<usize>,
    new: Distinct,
}

/// Distinct places, counted by whether they exist. Of each only its fingerprint is kept: there may be
/// millions.
#[derive(Debug, Default)]
struct Distinct {
    known: HashSet<u64>,
    counts: NewPlaces,
}

impl Distinct {
    /// Counts a place; whether it is new.
    fn add(&mut self, fingerprint: u64, target: Target) -> bool {
        if !self.known.insert(fingerprint) {
            return false;
        }
        self.counts.distinct += 1;
        *match target {
            Target::Live => &mut self.counts.live,
            Target::Dangling => &mut self.counts.dangling,
            Target::Unreachable => &mut self.counts.unreachable,
        } += 1;
        true
    }
}

impl Evidence {
    /// Nothing counted yet, for the moves of `sheet`.
    pub fn of(sheet: &Sheet) -> Self {
        let moves = sheet.moves.iter().map(|_| OfMove::default());
        Self {
            moves: moves.collect(),
            ..Self::default()
        }
    }

    /// Counts a reference in file number `file` that move number `by` brings to `new`. References
    /// come file by file.
    pub fn add(&mut self, by: usize, file: usize, new: &Place, target: Target) {
        let Some(one) = self.moves.get_mut(by) else {
            return;
        };
        one.references += 1;
        if one.last_file != Some(file) {
            one.files += 1;
            one.last_file = Some(file);
        }
        let fingerprint = new.fingerprint();
        one.new.add(fingerprint, target);
        if self.all.add(fingerprint, target) && target == Target::Dangling {
            let mut folder = new.clone();
            folder.components.pop();
            *self.missing.entry(folder.to_string()).or_default() += 1;
        }
    }

    /// What was counted, in the order of the sheet.
    pub fn told(&self, sheet: &Sheet) -> Vec<MoveEvidence> {
        let pairs = sheet.moves.iter().zip(&self.moves);
        pairs
            .map(|(one, counted)| {
                let counts = counted.new.counts;
                MoveEvidence {
                    from: one.from.to_string(),
                    to: one.to.to_string(),
                    references: counted.references,
                    files: counted.files,
                    new_places: counts.live + counts.dangling,
                    existing: counts.live,
                    unreachable: counts.unreachable,
                }
            })
            .collect()
    }

    /// The distinct new places of all moves.
    pub fn new_places(&self) -> NewPlaces {
        self.all.counts
    }

    /// The folders of new places that do not exist, those with most of them first.
    pub fn missing(&self) -> Vec<MissingFolder> {
        let folders = self.missing.iter();
        let mut folders: Vec<MissingFolder> = folders
            .map(|(folder, places)| MissingFolder {
                folder: folder.clone(),
                places: *places,
            })
            .collect();
        folders.sort_by_key(|one| std::cmp::Reverse(one.places));
        folders
    }
}
