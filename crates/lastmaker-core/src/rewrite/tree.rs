//! The plan for a whole tree: what preview shows and rewrite makes.

use std::collections::{BTreeMap, HashMap};

use serde::Serialize;

use crate::job::{Job, left_by_scan};
use crate::record::Ledger;
use crate::report::{LeftFile, Reference, SCHEMA, Standing};
use crate::resolve::Target;
use crate::scan::Sieve;

use super::file::{FilePlan, Planned, earlier, plan_file, withdraw};

/// What becomes of a tree.
#[derive(Debug)]
pub struct TreePlan {
    /// The files that name an old place, in path order.
    pub files: Vec<FilePlan>,
    /// Files that could not be looked at or that are left as they are, and why.
    pub left: Vec<LeftFile>,
    /// Counts.
    pub totals: PlanTotals,
}

/// The counts of a plan.
#[derive(Clone, Debug, Default, Serialize)]
pub struct PlanTotals {
    /// Files looked at.
    pub files: u64,
    /// Files that change.
    pub changing_files: usize,
    /// References that change.
    pub to_move: usize,
    /// References that an exception keeps.
    pub kept: usize,
    /// References that could be read two ways.
    pub doubtful: usize,
    /// References that are evidently mistyped.
    pub malformed: usize,
    /// References that cannot be rewritten safely.
    pub sealed: usize,
    /// References whose entries would become the same.
    pub collision: usize,
    /// Changes that a person should know something about.
    pub notices: usize,
    /// References in logs, backups and recycle bins, which stay.
    pub in_history: usize,
    /// Distinct new places.
    pub new_places: NewPlaces,
}

/// Which of the distinct new places exist.
#[derive(Clone, Copy, Debug, Default, Serialize)]
pub struct NewPlaces {
    /// How many there are.
    pub distinct: usize,
    /// Those that exist.
    pub live: usize,
    /// Those that do not.
    pub dangling: usize,
    /// Those that cannot be checked from here.
    pub unreachable: usize,
}

impl NewPlaces {
    /// Whether the moves lead to a folder that hardly holds anything of what is named: below
    /// one in ten of those that can be checked, or none that can.
    pub fn looks_wrong(&self) -> bool {
        let checkable = self.live + self.dangling;
        self.distinct > 0 && (checkable == 0 || self.live * 10 < checkable)
    }
}

/// The models that machines read.
#[derive(Debug, Serialize)]
pub struct PlanReport<'a> {
    /// Version of this document.
    pub schema: u32,
    /// The question.
    pub command: &'static str,
    /// Every reference that a move touches.
    pub references: Vec<&'a Reference>,
    /// Files that are left as they are, and why.
    pub left: &'a [LeftFile],
    /// Counts.
    pub totals: &'a PlanTotals,
}

impl TreePlan {
    /// The plan as machines read it.
    pub fn report(&self, command: &'static str) -> PlanReport<'_> {
        PlanReport {
            schema: SCHEMA,
            command,
            references: self
                .files
                .iter()
                .flat_map(|file| &file.references)
                .collect(),
            left: &self.left,
            totals: &self.totals,
        }
    }

    /// Whether a person has to look at something.
    pub fn has_findings(&self) -> bool {
        let totals = &self.totals;
        let wanting =
            totals.doubtful + totals.malformed + totals.sealed + totals.collision + totals.notices;
        wanting > 0 || !self.left.is_empty()
    }
}

/// Plans the rewrite of the job's scope. `ledger` says what earlier rewrites did, for sheets
/// that are not repeatable; with `again` files that changed since are planned all the same.
pub fn plan_tree(job: &Job<'_>, ledger: &Ledger, again: bool) -> TreePlan {
    let sieve = Sieve::new(job.sheet, job.thorough);
    let repeatable = job.sheet.is_repeatable();
    let walked = job.walk(&sieve, |entry| {
        let earlier = if repeatable {
            None
        } else {
            earlier(ledger, entry)
        };
        let planned = plan_file(job, &sieve, entry, (earlier, again))?;
        Ok((!planned.is_empty()).then_some(planned))
    });
    let mut left = left_by_scan(&walked.faults);
    let mut files = Vec::new();
    let mut totals = PlanTotals {
        files: walked.files,
        ..PlanTotals::default()
    };
    for item in walked.items.into_iter().flatten() {
        match item {
            Planned::Left(fault) => left.push(fault),
            Planned::File(file) if file.history && !job.history_files => {
                totals.in_history += file.references.len();
            }
            Planned::File(file) => files.push(*file),
        }
    }
    join_names(&mut files);
    resolve_new_places(job, &mut files, &mut totals);
    count(&files, &mut totals);
    TreePlan {
        files,
        left,
        totals,
    }
}

/// Files with several names are rewritten once if all their names lie within the scope.
fn join_names(files: &mut Vec<FilePlan>) {
    let mut groups: BTreeMap<(u64, u64), Vec<usize>> = BTreeMap::new();
    for (index, file) in files.iter().enumerate() {
        if let Some((identity, _)) = file.identity {
            groups.entry(identity).or_default().push(index);
        }
    }
    let mut drop = Vec::new();
    for group in groups.into_values() {
        let names = files[group[0]].identity.map_or(1, |(_, names)| names);
        if group.len() as u64 == names {
            let links = group[1..]
                .iter()
                .map(|other| files[*other].canonical.clone())
                .collect();
            files[group[0]].links = links;
            drop.extend_from_slice(&group[1..]);
        } else {
            for index in group {
                withdraw(
                    &mut files[index],
                    Standing::Doubtful,
                    "the file has another name outside of the paths given (a hard link); give the folder of that \
                     name too, or make this a file of its own",
                );
            }
        }
    }
    let mut index = 0;
    files.retain(|_| {
        index += 1;
        !drop.contains(&(index - 1))
    });
}

/// Finds out which of the new places exist.
fn resolve_new_places(job: &Job<'_>, files: &mut [FilePlan], totals: &mut PlanTotals) {
    let mut seen: HashMap<String, Target> = HashMap::new();
    for reference in files.iter_mut().flat_map(|file| &mut file.references) {
        let Some(new) = reference
            .new_place
            .as_ref()
            .and_then(|new| crate::place::Place::parse(new).ok())
        else {
            continue;
        };
        let target = *seen
            .entry(new.key())
            .or_insert_with(|| job.resolver.target(&new));
        reference.new_target = Some(target);
    }
    // Only places that are really to be written count.
    let mut counted: HashMap<&str, Target> = HashMap::new();
    for reference in files.iter().flat_map(|file| &file.references) {
        if let (Standing::ToMove, Some(new), Some(target)) = (
            reference.standing,
            reference.new_place.as_deref(),
            reference.new_target,
        ) {
            counted.insert(new, target);
        }
    }
    totals.new_places.distinct = counted.len();
    for target in counted.into_values() {
        match target {
            Target::Live => totals.new_places.live += 1,
            Target::Dangling => totals.new_places.dangling += 1,
            Target::Unreachable => totals.new_places.unreachable += 1,
        }
    }
}

fn count(files: &[FilePlan], totals: &mut PlanTotals) {
    for file in files {
        totals.changing_files += usize::from(!file.edits.is_empty());
        for reference in &file.references {
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
    }
}
