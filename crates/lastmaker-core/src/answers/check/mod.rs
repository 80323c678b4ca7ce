//! Which references dangle and why, where they stand towards the sheet, and the likeliest cure.

mod groups;
mod reading;
mod relative;
mod told;

use std::path::{Path, PathBuf};
use std::sync::atomic::AtomicU64;

use crate::job::Job;
use crate::place::Place;
use crate::record::Rewrites;
use crate::report::{
    AllReferences, CheckReport, CheckTotals, LeftFile, Reference, Standing, Target,
};
use crate::resolve::Evidence;
use crate::scan::Finder;
use crate::tree::{Sieve, Walked};

use groups::Groups;
use reading::{Checked, check_file};
use told::CheckedReference;

/// What a check is told beside the job.
#[derive(Debug)]
pub struct CheckOptions<'a> {
    /// Whether what dangles elsewhere and what cannot be checked is listed too, and every file read for
    /// that.
    pub all: bool,
    /// Whether references that are relative to their document are looked at too, and every file read for
    /// that.
    pub relative: bool,
    /// The rewrites that were made and not taken back.
    pub rewrites: &'a Rewrites,
    /// Counts the names that are looked through for cures.
    pub indexed: &'a AtomicU64,
}

/// Looks at every reference of the job's scope, file by file.
fn look(job: &Job<'_>, options: &CheckOptions<'_>) -> Walked<Checked> {
    let variables = job.variables_now();
    let finder = Finder {
        variables: &variables,
    };
    // What no move speaks of is one count, of the files that are read anyway.
    let thorough = job.thorough || options.all || options.relative;
    let sieve = Sieve::of_both_sides(job.sheet, thorough);
    job.walk(&sieve, |entry| {
        let checked = check_file(job, options, finder, entry)?;
        Ok((!checked.is_empty()).then_some(checked))
    })
}

/// Shows each reference that wants attention where the sheet has a say, with the number of its file; gives what is
/// not read. What is in logs and backups is passed over.
pub(super) fn each_wanting(
    job: &Job<'_>,
    options: &CheckOptions<'_>,
    mut each: impl FnMut(usize, Reference, Place),
) -> Vec<LeftFile> {
    let walked = look(job, options);
    let mut left = walked.left();
    let mut totals = CheckTotals::default();
    for (file, checked) in walked.items.into_iter().enumerate() {
        left.extend(checked.left);
        if checked.history {
            continue;
        }
        for told in checked.told.iter() {
            let known = count(&mut totals, &told.reference, told.is_judged(job));
            if known.is_listed(options, &told.reference) {
                each(file, told.reference, told.place);
            }
        }
    }
    left
}

/// Checks every reference of the job's scope.
pub fn check(job: &Job<'_>, options: &CheckOptions<'_>) -> CheckReport {
    let walked = look(job, options);
    let mut report = CheckReport {
        references: AllReferences::default(),
        groups: Vec::new(),
        moves: Vec::new(),
        totals: CheckTotals {
            files: walked.files,
            ..CheckTotals::default()
        },
        left: walked.left(),
        with_sheet: !job.sheet.moves.is_empty(),
    };
    let mut evidence = Evidence::of(job.sheet);
    let mut groups = Groups::default();
    for (file, checked) in walked.items.into_iter().enumerate() {
        report.left.extend(checked.left);
        if checked.history {
            report.totals.in_history += checked.told.len();
            continue;
        }
        let mut listed = Vec::with_capacity(checked.told.len());
        for told in checked.told.iter() {
            let known = count(&mut report.totals, &told.reference, told.is_judged(job));
            if let Some((by, new, target)) = &told.by {
                evidence.add(*by, file, new, *target);
            }
            if known.is_counted(options) && !is_mistyped(told.reference.standing) {
                groups.add(job, &told, file);
            }
            listed.push(known.is_listed(options, &told.reference));
            if listed.last() == Some(&true) {
                groups.note(job, &told);
            }
        }
        groups.list(checked.name, checked.told, listed);
    }
    if report.with_sheet {
        report.moves = evidence.told(job.sheet);
    }
    (report.groups, report.references) = groups.tell(job, options.indexed);
    report
}

/// Whether nothing but its target is to be told of a reference.
fn is_plain(standing: Standing) -> bool {
    matches!(
        standing,
        Standing::Elsewhere | Standing::Moved | Standing::Kept
    )
}

fn is_mistyped(standing: Standing) -> bool {
    standing == Standing::Malformed
}

/// What is known of a reference once it is counted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Known {
    /// It is judged and wants attention.
    Judged,
    /// It dangles where the sheet has no say.
    Elsewhere,
    /// It is as it should be.
    Fine,
}

impl Known {
    /// Whether it is told among what dangles together: what cannot be checked only where the sheet has a say.
    fn is_counted(self, options: &CheckOptions<'_>) -> bool {
        self == Self::Judged || options.all
    }

    /// Whether it is listed by itself.
    fn is_listed(self, options: &CheckOptions<'_>, reference: &Reference) -> bool {
        match (self, reference.target) {
            (Self::Judged, Some(Target::Unreachable)) => {
                options.all || !is_plain(reference.standing)
            }
            (Self::Judged, _) => true,
            (Self::Elsewhere, target) => options.all && target == Some(Target::Dangling),
            // Where the sheet has no say it cannot be checked either.
            (Self::Fine, Some(Target::Unreachable)) => options.all,
            (Self::Fine, _) => false,
        }
    }
}

/// Counts a reference; `judged` ones count wherever they lie.
fn count(totals: &mut CheckTotals, reference: &Reference, judged: bool) -> Known {
    let dangling = reference.target == Some(Target::Dangling);
    if reference.standing == Standing::Elsewhere && !judged {
        totals.dangling_elsewhere += usize::from(dangling);
        return if dangling {
            Known::Elsewhere
        } else {
            Known::Fine
        };
    }
    totals.judged += 1;
    let number = match (reference.standing, reference.target) {
        (Standing::Malformed, _) => &mut totals.malformed,
        (Standing::ToMove, _) => &mut totals.to_move,
        (Standing::Leftover | Standing::Doubtful | Standing::Sealed | Standing::Collision, _) => {
            match reference.bridge {
                Some(_) => &mut totals.bridged,
                None => &mut totals.leftover,
            }
        }
        (_, Some(Target::Dangling)) => &mut totals.dangling,
        (_, Some(Target::Unreachable)) => &mut totals.unreachable,
        _ => {
            totals.live += 1;
            return Known::Fine;
        }
    };
    *number += 1;
    Known::Judged
}

/// Where the index of what can be seen is made: the folders that the sheet names, and the old and
/// new places that are on this machine.
fn seen_folders(job: &Job<'_>) -> Vec<(Place, PathBuf)> {
    let mut all: Vec<(Place, PathBuf)> = job.resolver.seen_folders().to_vec();
    let ends = job.sheet.moves.iter().flat_map(|one| [&one.to, &one.from]);
    for place in ends {
        let known = all.iter().any(|(seen, _)| place.is_under(seen));
        if let (false, Some(path)) = (known, job.resolver.path_of(place)) {
            all.push((place.clone(), path));
        }
    }
    all.retain(|(_, path)| Path::is_dir(path));
    all
}

impl Checked {
    fn is_empty(&self) -> bool {
        self.told.is_empty() && self.left.is_empty()
    }
}
