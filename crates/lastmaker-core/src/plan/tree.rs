//! The plan for a whole tree: what preview shows and rewrite makes.

use std::collections::BTreeMap;

use crate::job::{Job, RelativeReferences};
use crate::judge::Reason;
use crate::place::Place;
use crate::record::Chain;
use crate::report::{
    LeftFile, MissingFolder, MoveEvidence, PlanReport, PlanTotals, PlannedFile, ReasonName,
    Reference, Standing,
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
        self.files.iter().filter(|file| file.changes)
    }

    /// The plan as it is told.
    pub fn report(&self) -> PlanReport {
        PlanReport {
            files: self.files.iter().map(told).collect(),
            left: self.left.clone(),
            moves: self.moves.clone(),
            missing: self.missing.clone(),
            totals: self.totals.clone(),
        }
    }

    /// The same where nothing else becomes of it.
    pub fn into_report(self) -> PlanReport {
        let files = self.files.into_iter().map(|mut file| PlannedFile {
            references: std::mem::take(&mut file.references),
            ..told(&file)
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

fn told(file: &FilePlan) -> PlannedFile {
    PlannedFile {
        format: file.format,
        encoding: file.encoding,
        read_only: file.read_only,
        other_names: file.links.len(),
        changes: file.changes,
        references: file.references.clone(),
    }
}

/// Plans the rewrite of the job's scope. `chain` says what earlier rewrites did, for sheets
/// that are not repeatable; with `again` files that changed since are planned all the same. Only
/// `for_record` it says how each change is made, which a rewrite needs.
pub fn plan_tree(job: &Job<'_>, chain: &Chain, again: bool, for_record: bool) -> TreePlan {
    let sieve = Sieve::new(
        job.sheet,
        job.thorough || job.relative != RelativeReferences::Left,
    );
    let past = (!job.sheet.is_repeatable()).then_some(Past { chain, again });
    let walked = job.walk(&sieve, |entry| {
        let planned = plan_file(job, &sieve, entry, past, for_record)?;
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
    let evidence = count(job, &plan.files, &mut plan.totals);
    plan.moves = evidence.told(job.sheet);
    plan.totals.new_places = evidence.new_places();
    plan.missing = evidence.missing();
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

/// Counts what becomes of the references, and which of the new places exist for each move.
fn count(job: &Job<'_>, files: &[FilePlan], totals: &mut PlanTotals) -> Evidence {
    let mut evidence = Evidence::of(job.sheet);
    for (number, file) in files.iter().enumerate() {
        totals.changing_files += usize::from(file.changes);
        for reference in file.references.iter() {
            count_reference(&reference, totals);
            let new = reference.new_place.as_deref();
            let new = new.and_then(|new| Place::parse(new).ok());
            if let (Standing::ToMove, Some(by), Some(new), Some(target)) =
                (reference.standing, reference.by, new, reference.new_target)
            {
                evidence.add(by, number, &new, target);
            }
        }
    }
    evidence
}

fn count_reference(reference: &Reference, totals: &mut PlanTotals) {
    totals.notices += usize::from(reference.notice.is_some());
    *match reference.standing {
        Standing::ToMove => &mut totals.to_move,
        Standing::Kept if reference.reason == Some(ReasonName::Foreign) => &mut totals.foreign,
        Standing::Kept => &mut totals.kept,
        Standing::Malformed => &mut totals.malformed,
        Standing::Sealed => &mut totals.sealed,
        Standing::Collision => &mut totals.collision,
        _ => &mut totals.doubtful,
    } += 1;
}
