//! Which references dangle, where they stand towards the sheet, and the likeliest cure.

use std::path::Path;

use serde::Serialize;

use crate::container::BINARY;
use crate::format::Role;
use crate::job::{Job, content_of, file_name, left_by_scan, left_in};
use crate::place::Finder;
use crate::report::{LeftFile, Reference, SCHEMA, Standing};
use crate::resolve::Target;
use crate::rewrite::LineCounter;
use crate::scan::{Content, Entry, LINK, Leaf, Sieve};
use crate::sheet::{Decision, Sheet};

/// What `check` found.
#[derive(Debug, Serialize)]
pub struct CheckReport {
    /// Version of this document.
    pub schema: u32,
    /// The question.
    pub command: &'static str,
    /// What is judged and wants attention, and with `all` whatever dangles elsewhere.
    pub references: Vec<Reference>,
    /// Counts.
    pub totals: CheckTotals,
    /// Files that could not be looked at.
    pub left: Vec<LeftFile>,
}

/// The counts of a check.
#[derive(Debug, Default, Serialize)]
pub struct CheckTotals {
    /// Files looked at.
    pub files: u64,
    /// References that are judged: with a sheet those under an old or a new place.
    pub judged: usize,
    /// Of them, those that exist at a new place or as an exception.
    pub live: usize,
    /// Of them, those that dangle.
    pub dangling: usize,
    /// Of them, those that cannot be checked from here.
    pub unreachable: usize,
    /// Of them, those that still name an old place.
    pub leftover: usize,
    /// Of them, those that are evidently mistyped.
    pub malformed: usize,
    /// References elsewhere that dangle.
    pub dangling_elsewhere: usize,
    /// References in logs, backups and recycle bins, which are not judged.
    pub in_history: usize,
}

impl CheckReport {
    /// Whether something is left to do.
    pub fn has_findings(&self) -> bool {
        let totals = &self.totals;
        totals.dangling + totals.leftover + totals.malformed > 0 || !self.left.is_empty()
    }
}

/// Checks every reference of the job's scope. With `all`, what dangles elsewhere is listed too.
pub fn check(job: &Job<'_>, all: bool) -> CheckReport {
    let everything = Sieve::new(&Sheet::default(), true);
    let variables = job.variables_now();
    let finder = Finder {
        variables: &variables,
    };
    let walked = job.walk(&everything, |entry| {
        let mut found = Vec::new();
        // What no move speaks of would be noise in a file of no known kind.
        let binary = job.thorough || !job.sheet.moves.is_empty();
        let left = job.look_inside(entry, binary, &mut |leaf| {
            let unknown = leaf.format == BINARY.name() && !job.thorough;
            let of_leaf = references(job, finder, leaf, entry).into_iter();
            found.extend(of_leaf.filter(|one| !unknown || one.standing != Standing::Elsewhere));
        })?;
        let broken = broken_link(entry);
        let mut found: Vec<(Reference, bool)> = found.into_iter().map(|one| (one, false)).collect();
        found.extend(broken.map(|one| (one, true)));
        let left = left_in(entry.path, left);
        let any = !found.is_empty() || !left.is_empty();
        Ok(any.then_some((found, left, entry.history)))
    });
    let mut report = CheckReport {
        schema: SCHEMA,
        command: "check",
        references: Vec::new(),
        totals: CheckTotals {
            files: walked.files,
            ..CheckTotals::default()
        },
        left: left_by_scan(&walked.faults),
    };
    for (references, left, history) in walked.items {
        report.left.extend(left);
        for (mut reference, broken) in references {
            if history {
                report.totals.in_history += 1;
                continue;
            }
            let judged = broken || job.sheet.moves.is_empty();
            let listed = count(&mut report.totals, &reference, judged);
            if listed || (all && reference.target == Some(Target::Dangling)) {
                suggest(job, &mut reference);
                report.references.push(reference);
            }
        }
    }
    report
}

/// The reference that a relative link is which leads nowhere; it is judged whatever the sheet
/// says, since the moves cannot speak of it.
fn broken_link(entry: &Entry<'_>) -> Option<Reference> {
    let Content::Link(target) = entry.content else {
        return None;
    };
    let folder = entry.path.parent().unwrap_or(Path::new(""));
    let why = match leads(folder, target) {
        Leads::Somewhere => return None,
        Leads::Nowhere => "the link is relative and leads nowhere",
        Leads::Round => "the link leads round to itself",
    };
    let name = file_name(entry.path);
    // Where it would lead: its folder's real place, and from there as it says.
    let place = folder.canonicalize().ok()?.join(target);
    let place = crate::place::Place::parse(&place.to_string_lossy()).ok()?;
    Some(Reference {
        file: name.shown,
        file_bytes: name.bytes,
        site: String::new(),
        line: 0,
        column: 0,
        written: target.to_string_lossy().into_owned(),
        place: place.to_string(),
        target: Some(Target::Dangling),
        standing: Standing::Elsewhere,
        new_place: None,
        new_target: None,
        format: LINK,
        broke: None,
        why: Some(why.to_owned()),
        notice: None,
        before: None,
        after: None,
        marks: Vec::new(),
        shown_before: false,
        suggestions: Vec::new(),
    })
}

/// How far a relative link leads.
enum Leads {
    Somewhere,
    Nowhere,
    Round,
}

/// Follows a relative link in `folder` as long as it leads to relative ones.
fn leads(folder: &Path, target: &Path) -> Leads {
    // Systems follow about as many.
    const MOST_LINKS: usize = 40;
    let (mut folder, mut target) = (folder.to_owned(), target.to_owned());
    for _ in 0..MOST_LINKS {
        if !target.is_relative() || target.has_root() {
            return Leads::Somewhere;
        }
        let there = folder.join(&target);
        if there.symlink_metadata().is_err() {
            return Leads::Nowhere;
        }
        match crate::record::link_target(&there) {
            Some(next) => {
                folder = there.parent().map(Path::to_owned).unwrap_or_default();
                target = next;
            }
            None => return Leads::Somewhere,
        }
    }
    Leads::Round
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
    if let (true, Ok(place)) = (
        dangling || leftover,
        crate::place::Place::parse(&reference.place),
    ) {
        reference.suggestions = job.resolver.suggest(&place, job.sheet);
    }
}

/// Every reference of a document, judged or not.
fn references(
    job: &Job<'_>,
    finder: Finder<'_>,
    leaf: &Leaf<'_, '_>,
    entry: &Entry<'_>,
) -> Vec<Reference> {
    let document = leaf.document;
    let (sites, _) = document.sites(finder, |_, _| true);
    let mut lines = LineCounter::default();
    let name = file_name(entry.path);
    let mut all = Vec::new();
    for site in &sites {
        let content = content_of(document, site);
        for found in &site.finds {
            let (end, place, target) = job.resolve(found, content);
            if !job.counts(found, &place) || (found.doubt.is_some() && job.sheet.moves.is_empty()) {
                continue;
            }
            if site.begins_elsewhere(found) && !site.is_torn(&job.sheet.decide(found, content)) {
                continue;
            }
            let by_hand = site.role == Role::ByHand;
            let spoken_of = job.sheet.is_old_place(&place) || job.sheet.is_new_place(&place);
            let (standing, why) = match job.sheet.decide(found, content) {
                _ if by_hand => (
                    Standing::Malformed,
                    Some(crate::rewrite::UNDOUBLED.to_owned()),
                ),
                Decision::Moves(_) if document.sealed.is_some() => {
                    (Standing::Sealed, document.sealed.map(str::to_owned))
                }
                // Where places overlap, a place that is new already is not old.
                Decision::Moves(_) if job.sheet.is_new_place(&place) => (Standing::Moved, None),
                Decision::Doubtful(_, why) => (Standing::Doubtful, Some(why)),
                Decision::Moves(_) if site.role == Role::Mixed => (Standing::Sealed, None),
                Decision::Moves(_) if site.begins_elsewhere(found) => {
                    (Standing::Sealed, Some(crate::rewrite::TORN.to_owned()))
                }
                Decision::Moves(_) => (Standing::Leftover, None),
                Decision::Kept => (Standing::Kept, None),
                Decision::Elsewhere if job.sheet.is_new_place(&place) => (Standing::Moved, None),
                Decision::Elsewhere => (Standing::Elsewhere, None),
            };
            let flaw = found.flaw.as_ref().filter(|_| spoken_of);
            let (standing, why) = match flaw {
                Some((flaw, _)) => (Standing::Malformed, Some(flaw.sentence().to_owned())),
                None => (standing, why),
            };
            let outer = site.span.start + site.chain.outer_offset(found.start);
            let at = lines.at(&document.text.content, outer);
            let (line, column) = leaf.position(at);
            let suggestions = if by_hand {
                let new_place = job.sheet.relocated(&place);
                crate::rewrite::spelled_right(
                    site,
                    found,
                    &content[found.start..end],
                    new_place.as_ref(),
                )
            } else {
                Vec::new()
            };
            all.push(Reference {
                file: name.shown.clone(),
                file_bytes: name.bytes.clone(),
                site: leaf.site(&site.site, at.1),
                line,
                column,
                written: content[found.start..end].to_owned(),
                place: place.to_string(),
                target: Some(target),
                standing,
                new_place: None,
                new_target: None,
                format: leaf.format,
                broke: document.broke,
                why,
                notice: None,
                before: None,
                after: None,
                marks: Vec::new(),
                shown_before: false,
                suggestions,
            });
        }
    }
    all
}
