//! What dangles together, for one cause, and what may cure it.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::Arc;
use std::sync::atomic::AtomicU64;

use rayon::prelude::*;

use super::{CheckedReference, is_mistyped, seen_folders};
use crate::base::compact::CompactList;
use crate::base::fingerprint::fingerprint;
use crate::base::threads::with_threads;
use crate::job::Job;
use crate::place::Place;
use crate::report::{
    AllReferences, Cause, DanglingGroup, FileName, GroupCure, Reference, Suggestion, Target,
};
use crate::resolve::{Cure, Cures, Index, Missing};

/// What dangles together.
#[derive(Debug, Default)]
pub(super) struct Groups {
    /// By what is missing.
    groups: BTreeMap<String, Group>,
    /// What is missing on the way to each place, by the fingerprint of the place.
    missing: HashMap<u64, Option<Arc<Place>>>,
    /// New places of what is listed that are not there, by their fingerprints.
    new: HashMap<u64, Place>,
    /// Files of which something is listed.
    files: Vec<File>,
    /// Whether anything that is listed is to be cured.
    wants_cures: bool,
}

/// What a file brought, and what of that is listed.
#[derive(Debug)]
struct File {
    name: FileName,
    told: CompactList<CheckedReference>,
    listed: Vec<bool>,
}

#[derive(Debug)]
struct Group {
    cause: Cause,
    place: Place,
    references: usize,
    /// Distinct places below what is missing, by their fingerprints.
    targets: HashSet<u64>,
    /// Their names below it, where something is looked for by them.
    wanted: BTreeMap<String, Vec<String>>,
    /// Whether something is: a cure, or what the sheet says of the place.
    by_names: bool,
    files: usize,
    last_file: Option<usize>,
}

impl Groups {
    /// Keeps what a file brought, if any of it is listed.
    pub(super) fn list(
        &mut self,
        name: FileName,
        told: CompactList<CheckedReference>,
        listed: Vec<bool>,
    ) {
        if listed.contains(&true) {
            self.files.push(File { name, told, listed });
        }
    }

    /// Notes what is wanted for a reference that will be listed.
    pub(super) fn note(&mut self, job: &Job<'_>, told: &CheckedReference) {
        if is_mistyped(told.reference.standing) {
            return;
        }
        self.wants_cures |= is_to_be_cured(&told.reference);
        if let Some(new) = job.sheet.relocated(&told.place)
            && self.missing_of(job, &new).is_some()
        {
            self.new.insert(disk_fingerprint(&new), new);
        }
    }

    /// Adds a reference of file number `file` if it dangles or cannot be checked.
    pub(super) fn add(&mut self, job: &Job<'_>, told: &CheckedReference, file: usize) {
        let (cause, place) = match told.reference.target {
            Some(Target::Unreachable) => (Cause::UnreachableRoot, job.resolver.unseen(&told.place)),
            Some(Target::Dangling) => {
                let Some(missing) = self.missing_of(job, &told.place) else {
                    return;
                };
                let missing = Place::clone(&missing);
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
        let group = known.or_insert_with(|| Group::new(job, cause, place));
        // What is missing may be named by itself and as a folder, too.
        group.cause = group.cause.min(cause);
        group.references += 1;
        if group.last_file.replace(file) != Some(file) {
            group.files += 1;
        }
        group.want(&told.place, depth);
    }

    fn missing_of(&mut self, job: &Job<'_>, place: &Place) -> Option<Arc<Place>> {
        let known = self.missing.entry(disk_fingerprint(place));
        let missing = known.or_insert_with(|| job.resolver.first_missing(place).map(Arc::new));
        missing.clone()
    }

    /// Looks for cures, gives each reference of the list what may be meant by it, and tells the
    /// groups, those with most references first.
    pub(super) fn tell(
        mut self,
        job: &Job<'_>,
        indexed: &AtomicU64,
    ) -> (Vec<DanglingGroup>, AllReferences) {
        self.add_new_places(job);
        let mut groups = self.groups.values();
        let wants_index =
            self.wants_cures || groups.any(|group| group.cause != Cause::UnreachableRoot);
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
            let missing = self.missing.get(&disk_fingerprint(place));
            let missing = missing.cloned().flatten();
            let missing = missing.or_else(|| job.resolver.first_missing(place).map(Arc::new));
            let Some(missing) = missing else {
                return Vec::new();
            };
            let known = by_key.get(&missing.disk_key());
            let known = known.map_or(&[][..], |at| found[*at].as_slice());
            cures.suggest(place, &missing, known)
        };
        let references = self.with_suggestions(job, &|told| {
            let meant = index.likeliest(told.place.clone(), told.others.clone());
            let mut all = suggestions(job, &meant, suggest);
            if !meant.same(&told.place) {
                all.iter_mut().for_each(|one| one.certain = false);
            }
            all
        });
        let told = groups.iter().zip(&found);
        let told = told.filter(|(group, _)| group.references > 0);
        let mut told: Vec<DanglingGroup> =
            told.map(|(group, cures)| group.told(job, cures)).collect();
        told.sort_by_key(|group| (group.cause, std::cmp::Reverse(group.references)));
        (told, references)
    }

    /// What is listed, each with what may be meant by it. Some thousand are looked up at a time, so that no more
    /// of them are in the memory as they are.
    fn with_suggestions(
        &self,
        job: &Job<'_>,
        suggest: &(dyn Fn(&CheckedReference) -> Vec<Suggestion> + Sync),
    ) -> AllReferences {
        let mut all = AllReferences::default();
        let mut listed = self.files.iter().flat_map(File::listed);
        loop {
            let some: Vec<(&FileName, CheckedReference)> = listed.by_ref().take(AT_ONCE).collect();
            if some.is_empty() {
                return all;
            }
            let of_one = |(_, told): &(&FileName, CheckedReference)| {
                is_to_be_cured(&told.reference).then(|| suggest(told))
            };
            let found: Vec<Option<Vec<Suggestion>>> =
                with_threads(job.jobs, || some.par_iter().map(of_one).collect());
            for ((name, mut told), found) in some.into_iter().zip(found) {
                if let Some(found) = found.filter(|found| !found.is_empty()) {
                    told.reference.suggestions = found;
                }
                told.reference.file = name.clone();
                all.push(&told.reference);
            }
        }
    }

    /// What is missing on the way to the new places of references has cures of its own.
    fn add_new_places(&mut self, job: &Job<'_>) {
        for (fingerprint, place) in &self.new {
            let Some(Some(missing)) = self.missing.get(fingerprint) else {
                continue;
            };
            let known = self.groups.entry(missing.disk_key());
            let group = known
                .or_insert_with(|| Group::new(job, Cause::MissingFolder, Place::clone(missing)));
            group.want(place, missing.components.len());
        }
    }
}

impl File {
    /// What is listed of it.
    fn listed(&self) -> impl Iterator<Item = (&FileName, CheckedReference)> {
        let all = self.told.iter().zip(&self.listed);
        let listed = all.filter(|(_, listed)| **listed);
        listed.map(|(told, _)| (&self.name, told))
    }
}

/// So many references are looked up at a time.
const AT_ONCE: usize = 4096;

/// A number that is equal for what a file system takes for one place.
fn disk_fingerprint(place: &Place) -> u64 {
    fingerprint(place.disk_key().as_bytes())
}

/// Whether somebody will want to know what may be meant by a reference; of what is mistyped that is told already.
fn is_to_be_cured(reference: &Reference) -> bool {
    let wants = reference.target == Some(Target::Dangling) || !super::is_plain(reference.standing);
    wants && !is_mistyped(reference.standing)
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
    fn new(job: &Job<'_>, cause: Cause, place: Place) -> Self {
        let moved = job.sheet.relocated(&place).is_some();
        Self {
            by_names: moved || cause != Cause::UnreachableRoot,
            cause,
            place,
            references: 0,
            targets: HashSet::new(),
            wanted: BTreeMap::new(),
            files: 0,
            last_file: None,
        }
    }

    /// A place is wanted whose first `depth` names are what is missing.
    fn want(&mut self, place: &Place, depth: usize) {
        if self.targets.insert(disk_fingerprint(place)) && self.by_names {
            let names = place.components.get(depth..).unwrap_or_default();
            self.wanted.insert(place.disk_key(), names.to_vec());
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
            targets: self.targets.len(),
            files: self.files,
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
