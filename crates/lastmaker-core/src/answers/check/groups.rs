//! What dangles together, for one cause, and what may cure it.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::atomic::AtomicU64;

use rayon::prelude::*;

use super::{Told, seen_folders};
use crate::base::threads::with_threads;
use crate::job::Job;
use crate::place::Place;
use crate::report::{Cause, DanglingGroup, GroupCure, Reference, Suggestion, Target};
use crate::resolve::{Cure, Cures, Index, Missing};

/// What dangles together.
#[derive(Debug, Default)]
pub(super) struct Groups {
    /// By what is missing.
    groups: BTreeMap<String, Group>,
    /// What is missing on the way to each place, by the place's key.
    missing: HashMap<String, Option<Place>>,
    /// References that have, or may have, suggestions: by the number in the list, with the place.
    listed: Vec<(usize, Place)>,
}

#[derive(Debug)]
struct Group {
    cause: Cause,
    place: Place,
    references: usize,
    /// Distinct names below what is missing.
    wanted: BTreeMap<String, Vec<String>>,
    files: HashSet<usize>,
}

impl Groups {
    /// Adds a reference of file number `file` if it dangles or cannot be checked; `at` is its number
    /// in the list, if it is listed.
    pub(super) fn add(&mut self, job: &Job<'_>, told: &Told, file: usize, at: Option<usize>) {
        if let Some(at) = at {
            self.listed.push((at, told.place.clone()));
        }
        let (cause, place) = match told.reference.target {
            Some(Target::Unreachable) => (Cause::UnreachableRoot, job.resolver.unseen(&told.place)),
            Some(Target::Dangling) => {
                let Some(missing) = self.missing_of(job, &told.place) else {
                    return;
                };
                if missing.components.len() == told.place.components.len() {
                    (Cause::MissingFile, missing)
                } else {
                    (Cause::MissingFolder, missing)
                }
            }
            _ => return,
        };
        let depth = place.components.len();
        let known = self.groups.entry(place.disk_key());
        let group = known.or_insert_with(|| Group::new(cause, place));
        // What is missing may be named by itself and as a folder, too.
        group.cause = group.cause.min(cause);
        group.references += 1;
        group.files.insert(file);
        let names = told.place.components.get(depth..).unwrap_or_default();
        let key = told.place.disk_key();
        group.wanted.entry(key).or_insert_with(|| names.to_vec());
    }

    fn missing_of(&mut self, job: &Job<'_>, place: &Place) -> Option<Place> {
        let known = self.missing.entry(place.disk_key());
        let missing = known.or_insert_with(|| job.resolver.first_missing(place));
        missing.clone()
    }

    /// Looks for cures, gives each reference of the list what may be meant by it, and tells the
    /// groups, those with most references first.
    pub(super) fn tell(
        mut self,
        job: &Job<'_>,
        indexed: &AtomicU64,
        references: &mut [Reference],
    ) -> Vec<DanglingGroup> {
        self.add_new_places(job);
        let wants_index = self
            .groups
            .values()
            .any(|group| group.cause != Cause::UnreachableRoot)
            || self
                .listed
                .iter()
                .any(|(at, _)| is_to_be_cured(&references[*at]));
        let index = if wants_index {
            Index::of(&seen_folders(job), job.jobs, indexed)
        } else {
            Index::default()
        };
        let cures = Cures::new(job.resolver, &index);
        let groups: Vec<&Group> = self.groups.values().collect();
        let of_group = |group: &&Group| match group.cause {
            Cause::UnreachableRoot => Vec::new(),
            _ => cures.of(&Missing {
                place: group.place.clone(),
                wanted: group.wanted.values().cloned().collect(),
            }),
        };
        let found: Vec<Vec<Cure>> =
            with_threads(job.jobs, || groups.par_iter().map(of_group).collect());
        let by_key: HashMap<String, usize> = groups
            .iter()
            .enumerate()
            .map(|(at, group)| (group.place.disk_key(), at))
            .collect();
        let suggest = |place: &Place| {
            let missing = self.missing.get(&place.disk_key()).cloned().flatten();
            let missing = missing.or_else(|| job.resolver.first_missing(place));
            let Some(missing) = missing else {
                return Vec::new();
            };
            let known = by_key.get(&missing.disk_key());
            let known = known.map_or(&[][..], |at| found[*at].as_slice());
            cures.suggest(place, &missing, known)
        };
        let of_listed = |(at, place): &(usize, Place)| {
            if is_to_be_cured(&references[*at]) {
                suggestions(job, place, suggest)
            } else {
                Vec::new()
            }
        };
        let suggested: Vec<Vec<Suggestion>> =
            with_threads(job.jobs, || self.listed.par_iter().map(of_listed).collect());
        for ((at, _), suggested) in self.listed.iter().zip(suggested) {
            if !suggested.is_empty() {
                references[*at].suggestions = suggested;
            }
        }
        let told = groups.iter().zip(&found);
        let told = told.filter(|(group, _)| group.references > 0);
        let mut told: Vec<DanglingGroup> =
            told.map(|(group, cures)| group.told(job, cures)).collect();
        told.sort_by_key(|group| (group.cause, std::cmp::Reverse(group.references)));
        told
    }

    /// What is missing on the way to the new places of references has cures of its own.
    fn add_new_places(&mut self, job: &Job<'_>) {
        let new: Vec<Place> = self
            .listed
            .iter()
            .filter_map(|(_, place)| job.sheet.relocated(place))
            .collect();
        for place in new {
            let Some(missing) = self.missing_of(job, &place) else {
                continue;
            };
            let depth = missing.components.len();
            let known = self.groups.entry(missing.disk_key());
            let group = known.or_insert_with(|| Group::new(Cause::MissingFolder, missing));
            let names = place.components[depth..].to_vec();
            group.wanted.entry(place.disk_key()).or_insert(names);
        }
    }
}

/// Whether somebody will want to know what may be meant by a reference.
fn is_to_be_cured(reference: &Reference) -> bool {
    reference.target == Some(Target::Dangling) || !super::is_plain(reference.standing)
}

/// What may be meant by a place: what the sheet says of it, then what is found.
fn suggestions(
    job: &Job<'_>,
    place: &Place,
    suggest: impl Fn(&Place) -> Vec<Suggestion>,
) -> Vec<Suggestion> {
    let mut all = Vec::new();
    if let Some(new) = job.sheet.relocated(place) {
        match job.resolver.target(&new) {
            Target::Live => all.push(certain(&new, "it moved there by the sheet, and exists")),
            Target::Dangling => all.extend(suggest(&new)),
            Target::Unreachable => {}
        }
    }
    for old in job.sheet.origins(place) {
        if job.resolver.target(&old) == Target::Live {
            all.push(certain(&old, "it is still at the old place"));
        }
    }
    if job.resolver.target(place) == Target::Dangling && all.is_empty() {
        all.extend(suggest(place));
    }
    all
}

fn certain(place: &Place, why: &str) -> Suggestion {
    Suggestion {
        place: place.to_string(),
        why: why.to_owned(),
        certain: true,
    }
}

impl Group {
    fn new(cause: Cause, place: Place) -> Self {
        Self {
            cause,
            place,
            references: 0,
            wanted: BTreeMap::new(),
            files: HashSet::new(),
        }
    }

    fn told(&self, job: &Job<'_>, cures: &[Cure]) -> DanglingGroup {
        let found = cures.iter().map(|cure| GroupCure {
            suggestion: Suggestion {
                place: cure.place.to_string(),
                why: cure.why.clone(),
                certain: cure.certain,
            },
            found: cure.found,
            of: cure.of,
        });
        let mut all: Vec<GroupCure> = self.by_sheet(job).into_iter().collect();
        for cure in found {
            if all
                .iter()
                .all(|one| one.suggestion.place != cure.suggestion.place)
            {
                all.push(cure);
            }
        }
        DanglingGroup {
            cause: self.cause,
            place: self.place.to_string(),
            references: self.references,
            targets: self.wanted.len(),
            files: self.files.len(),
            cures: all,
        }
    }

    /// What the sheet says of what is missing, if it is so.
    fn by_sheet(&self, job: &Job<'_>) -> Option<GroupCure> {
        let new = job.sheet.relocated(&self.place)?;
        let there = |names: &&Vec<String>| {
            let mut place = self.place.clone();
            place.components.extend(names.iter().cloned());
            let new = job.sheet.relocated(&place);
            new.is_some_and(|new| job.resolver.target(&new) == Target::Live)
        };
        let found = self.wanted.values().filter(there).count();
        (found > 0).then(|| GroupCure {
            suggestion: certain(&new, "it moved there by the sheet, and exists"),
            found,
            of: self.wanted.len(),
        })
    }
}
