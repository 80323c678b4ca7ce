//! The plan for a whole tree: what preview shows and rewrite makes.

use std::collections::{BTreeMap, HashMap};

use crate::job::Job;
use crate::judge::Reason;
use crate::place::Place;
use crate::record::Chain;
use crate::report::{
    FileName, LeftFile, MissingFolder, MoveEvidence, NewPlaces, PlanReport, PlanTotals,
    PlannedFile, Reference, Standing, Target,
};
use crate::resolve::Evidence;
use crate::tree::Sieve;

use super::file::{FilePlan, Past, plan_file};

/// What becomes of a tree.
#[derive(Debug)]
pub struct TreePlan {
    /// The files that name an old place, in path order.
    pub files: Vec<FilePlan>,
    /// Files that could not be looked at or that are left as they are, and why.
    pub left: Vec<LeftFile>,
    /// What each move touches, and how many of its new places exist.
    pub moves: Vec<MoveEvidence>,
    /// The folders of new places that do not exist.
    pub missing: Vec<MissingFolder>,
    /// Counts.
    pub totals: PlanTotals,
}

impl TreePlan {
    /// The files that change.
    pub fn changing(&self) -> impl Iterator<Item = &FilePlan> {
        self.files.iter().filter(|file| !file.edits.is_empty())
    }

    /// The plan as it is told.
    pub fn into_report(self) -> PlanReport {
        let files = self.files.into_iter().map(|file| PlannedFile {
            file: FileName::from(file.path.as_path()),
            format: file.format,
            encoding: file.encoding,
            read_only: file.read_only,
            other_names: file.links.len(),
            changes: !file.edits.is_empty(),
            references: file.references,
        });
        PlanReport {
            files: files.collect(),
            left: self.left,
            moves: self.moves,
            missing: self.missing,
            totals: self.totals,
        }
    }
}

/// Plans the rewrite of the job's scope. `chain` says what earlier rewrites did, for sheets
/// that are not repeatable; with `again` files that changed since are planned all the same.
pub fn plan_tree(job: &Job<'_>, chain: &Chain, again: bool) -> TreePlan {
    let sieve = Sieve::new(job.sheet, job.thorough);
    let past = (!job.sheet.is_repeatable()).then_some(Past { chain, again });
    let walked = job.walk(&sieve, |entry| {
        let planned = plan_file(job, &sieve, entry, past)?;
        Ok((!planned.is_empty()).then_some(planned))
    });
    let mut plan = TreePlan {
        files: Vec::new(),
        left: walked.left(),
        moves: Vec::new(),
        missing: Vec::new(),
        totals: PlanTotals {
            files: walked.files,
            ..PlanTotals::default()
        },
    };
    for planned in walked.items {
        plan.left.extend(planned.left);
        match planned.file {
            Some(file) if file.history && !job.history_files => {
                plan.totals.in_history += file.references.len();
            }
            Some(file) => plan.files.push(*file),
            None => {}
        }
    }
    join_names(&mut plan.files);
    let evidence = resolve_new_places(job, &mut plan.files);
    plan.moves = evidence.told(job.sheet);
    plan.missing = evidence.missing();
    plan.totals.new_places = count_new_places(&plan.files);
    count(&plan.files, &mut plan.totals);
    plan
}

/// Files with several names are rewritten once if all their names lie within the scope.
fn join_names(files: &mut Vec<FilePlan>) {
    let mut groups: BTreeMap<(u64, u64), Vec<usize>> = BTreeMap::new();
    for (index, file) in files.iter().enumerate() {
        if let Some(names) = file.names {
            groups.entry(names.file).or_default().push(index);
        }
    }
    let mut drop: std::collections::HashSet<usize> = std::collections::HashSet::new();
    for group in groups.into_values() {
        let names = files[group[0]].names.map_or(1, |names| names.count);
        if group.len() as u64 == names {
            let others = group[1..]
                .iter()
                .map(|other| files[*other].canonical.clone());
            files[group[0]].links = others.collect();
            drop.extend(&group[1..]);
        } else {
            for index in group {
                files[index].withdraw(&Reason::OtherName);
            }
        }
    }
    let mut index = 0;
    files.retain(|_| {
        index += 1;
        !drop.contains(&(index - 1))
    });
}

/// Finds out which of the new places exist, and counts them for each move.
fn resolve_new_places(job: &Job<'_>, files: &mut [FilePlan]) -> Evidence {
    let mut evidence = Evidence::of(job.sheet);
    for (number, file) in files.iter_mut().enumerate() {
        for reference in &mut file.references {
            let new = reference.new_place.as_deref();
            let Some(new) = new.and_then(|new| Place::parse(new).ok()) else {
                continue;
            };
            let target = job.resolver.target(&new);
            reference.new_target = Some(target);
            if let (Standing::ToMove, Some(by)) = (reference.standing, reference.by) {
                evidence.add(by, number, &new, target);
            }
        }
    }
    evidence
}

/// Counts the distinct new places that are really to be written.
fn count_new_places(files: &[FilePlan]) -> NewPlaces {
    let mut distinct: HashMap<&str, Target> = HashMap::new();
    let references = files.iter().flat_map(|file| &file.references);
    for reference in references.filter(|one| one.standing == Standing::ToMove) {
        if let (Some(new), Some(target)) = (&reference.new_place, reference.new_target) {
            distinct.insert(new, target);
        }
    }
    let mut count = NewPlaces {
        distinct: distinct.len(),
        ..NewPlaces::default()
    };
    for target in distinct.into_values() {
        *match target {
            Target::Live => &mut count.live,
            Target::Dangling => &mut count.dangling,
            Target::Unreachable => &mut count.unreachable,
        } += 1;
    }
    count
}

fn count(files: &[FilePlan], totals: &mut PlanTotals) {
    for file in files {
        totals.changing_files += usize::from(!file.edits.is_empty());
        for reference in &file.references {
            count_reference(reference, totals);
        }
    }
}

fn count_reference(reference: &Reference, totals: &mut PlanTotals) {
    totals.notices += usize::from(reference.notice.is_some());
    *match reference.standing {
        Standing::ToMove => &mut totals.to_move,
        Standing::Kept => &mut totals.kept,
        Standing::Malformed => &mut totals.malformed,
        Standing::Sealed => &mut totals.sealed,
        Standing::Collision => &mut totals.collision,
        _ => &mut totals.doubtful,
    } += 1;
}
