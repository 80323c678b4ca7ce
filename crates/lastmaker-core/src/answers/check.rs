//! Which references dangle, where they stand towards the sheet, and the likeliest cure.

use super::broken_link::broken_link;
use crate::job::{Job, left_in};
use crate::judge::{self, Case, Reason, Resolved};
use crate::open::{EachLeaf, Leaf, LineCounter};
use crate::place::{Finder, Place};
use crate::plan::spelled_right;
use crate::report::{
    CheckReport, CheckTotals, FileName, LeftFile, Position, Reference, Standing, Target,
};
use crate::tree::{Entry, FileFault, Sieve};

/// Checks every reference of the job's scope. With `all`, what dangles elsewhere is listed too.
pub fn check(job: &Job<'_>, all: bool) -> CheckReport {
    let variables = job.variables_now();
    let finder = Finder {
        variables: &variables,
    };
    let walked = job.walk(&Sieve::open(), |entry| {
        let checked = check_file(job, finder, entry)?;
        Ok((!checked.is_empty()).then_some(checked))
    });
    let mut report = CheckReport {
        references: Vec::new(),
        totals: CheckTotals {
            files: walked.files,
            ..CheckTotals::default()
        },
        left: walked.left(),
        with_sheet: !job.sheet.moves.is_empty(),
    };
    for checked in walked.items {
        report.left.extend(checked.left);
        if checked.history {
            report.totals.in_history += checked.references.len();
            continue;
        }
        for (mut reference, of_sheet) in checked.references {
            let judged = !of_sheet || job.sheet.moves.is_empty();
            let listed = count(&mut report.totals, &reference, judged);
            if listed || (all && reference.target == Some(Target::Dangling)) {
                suggest(job, &mut reference);
                report.references.push(reference);
            }
        }
    }
    report
}

/// What a check finds in one file.
struct Checked {
    /// Its references, each with whether the sheet says if it is judged.
    references: Vec<(Reference, bool)>,
    left: Vec<LeftFile>,
    /// Whether it is a log, a backup, or in a recycle bin.
    history: bool,
}

impl Checked {
    fn is_empty(&self) -> bool {
        self.references.is_empty() && self.left.is_empty()
    }
}

fn check_file(job: &Job<'_>, finder: Finder<'_>, entry: &Entry<'_>) -> Result<Checked, FileFault> {
    let name = FileName::from(entry.path);
    let mut references = Vec::new();
    let mut visitor = EachLeaf {
        // What no move speaks of would be noise in a file of no known kind.
        binary: job.thorough || !job.sheet.moves.is_empty(),
        each: |leaf: &Leaf<'_, '_>| {
            let unknown = !leaf.known && !job.thorough;
            let of_leaf = references_in(job, finder, leaf, &name).into_iter();
            let of_leaf = of_leaf.filter(|one| !unknown || one.standing != Standing::Elsewhere);
            references.extend(of_leaf.map(|one| (one, true)));
        },
    };
    let left = job.look_inside(entry, &mut visitor)?;
    references.extend(broken_link(entry).map(|one| (one, false)));
    Ok(Checked {
        references,
        left: left_in(entry.path, left),
        history: entry.history,
    })
}

/// Every reference of a document, judged or not.
fn references_in(
    job: &Job<'_>,
    finder: Finder<'_>,
    leaf: &Leaf<'_, '_>,
    name: &FileName,
) -> Vec<Reference> {
    let document = leaf.document;
    let looking = job.looking();
    let mut lines = LineCounter::default();
    let mut all = Vec::new();
    for site in &document.all_sites(finder) {
        let content = document.content_of(site);
        for found in &site.finds {
            if found.doubt.is_some() && job.sheet.moves.is_empty() {
                continue;
            }
            let case = Case {
                site,
                found,
                content,
            };
            let Some(resolved) = looking.named(case) else {
                continue;
            };
            let at = |lines: &mut LineCounter| {
                lines.at(&document.text.content, site.in_text(found.start))
            };
            if let Some(reference) = reference(job, case, resolved, leaf, name, || at(&mut lines)) {
                all.push(reference);
            }
        }
    }
    all
}

/// One reference as it is told; `at` says where it begins.
fn reference(
    job: &Job<'_>,
    case: Case<'_>,
    resolved: Resolved,
    leaf: &Leaf<'_, '_>,
    name: &FileName,
    at: impl FnOnce() -> Position,
) -> Option<Reference> {
    let Resolved { end, place, target } = resolved;
    let sealed = leaf.document.sealed;
    let verdict = judge::after_rewrite(case, end, place.clone(), job.sheet, sealed)?;
    let written = &case.content[case.found.start..end];
    let suggestions = match verdict.reason {
        Some(Reason::Undoubled) => {
            let new_place = job.sheet.relocated(&place);
            spelled_right(case, written, new_place.as_ref())
        }
        _ => Vec::new(),
    };
    let at = at();
    let place = place.to_string();
    Some(Reference {
        site: leaf.site(&case.site.site, at),
        position: leaf.position(at),
        target: Some(target),
        broke: leaf.document.broke,
        reason: verdict.reason.as_ref().map(Reason::name),
        why: verdict.reason.map(|reason| reason.to_string()),
        suggestions,
        ..Reference::new(name.clone(), written, place, verdict.standing, leaf.format)
    })
}

/// Counts a reference, and says whether it is listed; `judged` ones count wherever they lie.
fn count(totals: &mut CheckTotals, reference: &Reference, judged: bool) -> bool {
    let dangling = reference.target == Some(Target::Dangling);
    if reference.standing == Standing::Elsewhere && !judged {
        totals.dangling_elsewhere += usize::from(dangling);
        return false;
    }
    totals.judged += 1;
    match (reference.standing, reference.target) {
        (Standing::Malformed, _) => {
            totals.malformed += 1;
            true
        }
        (Standing::Leftover | Standing::Doubtful | Standing::Sealed, _) => {
            totals.leftover += 1;
            true
        }
        (_, Some(Target::Dangling)) => {
            totals.dangling += 1;
            true
        }
        (_, Some(Target::Unreachable)) => {
            totals.unreachable += 1;
            true
        }
        _ => {
            totals.live += 1;
            false
        }
    }
}

fn suggest(job: &Job<'_>, reference: &mut Reference) {
    if reference.standing == Standing::Malformed {
        return;
    }
    let dangling = reference.target == Some(Target::Dangling);
    let leftover = matches!(
        reference.standing,
        Standing::Leftover | Standing::Doubtful | Standing::Sealed
    );
    if let (true, Ok(place)) = (dangling || leftover, Place::parse(&reference.place)) {
        reference.suggestions = job.resolver.suggest(&place, job.sheet);
    }
}
