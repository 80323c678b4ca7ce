//! How many of the places to which each move leads are there.

use std::collections::{BTreeMap, HashMap};

use crate::place::Place;
use crate::report::{MissingFolder, MoveEvidence, Target};
use crate::sheet::Sheet;

/// Counts what each move touches.
#[derive(Debug, Default)]
pub struct Evidence {
    moves: Vec<OfMove>,
}

#[derive(Debug, Default)]
struct OfMove {
    references: usize,
    files: usize,
    last_file: Option<usize>,
    /// Distinct new places, by their keys.
    new: HashMap<String, (Target, Place)>,
}

impl Evidence {
    /// Nothing counted yet, for the moves of `sheet`.
    pub fn of(sheet: &Sheet) -> Self {
        let moves = sheet.moves.iter().map(|_| OfMove::default());
        Self {
            moves: moves.collect(),
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
        one.new
            .entry(new.key())
            .or_insert_with(|| (target, new.clone()));
    }

    /// What was counted, in the order of the sheet.
    pub fn told(&self, sheet: &Sheet) -> Vec<MoveEvidence> {
        let pairs = sheet.moves.iter().zip(&self.moves);
        pairs
            .map(|(one, counted)| {
                let of = |wanted: Target| {
                    let targets = counted.new.values().map(|(target, _)| *target);
                    targets.filter(|target| *target == wanted).count()
                };
                let existing = of(Target::Live);
                MoveEvidence {
                    from: one.from.to_string(),
                    to: one.to.to_string(),
                    references: counted.references,
                    files: counted.files,
                    new_places: existing + of(Target::Dangling),
                    existing,
                    unreachable: of(Target::Unreachable),
                }
            })
            .collect()
    }

    /// The folders of new places that do not exist, those with most of them first.
    pub fn missing(&self) -> Vec<MissingFolder> {
        let mut folders: BTreeMap<String, usize> = BTreeMap::new();
        let all = self.moves.iter().flat_map(|one| one.new.values());
        for (_, place) in all.filter(|(target, _)| *target == Target::Dangling) {
            let mut folder = place.clone();
            folder.components.pop();
            *folders.entry(folder.to_string()).or_default() += 1;
        }
        let mut folders: Vec<MissingFolder> = folders
            .into_iter()
            .map(|(folder, places)| MissingFolder { folder, places })
            .collect();
        folders.sort_by_key(|one| std::cmp::Reverse(one.places));
        folders
    }
}
