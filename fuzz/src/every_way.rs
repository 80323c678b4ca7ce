//! What one way of reading sees, every way sees: whole, in portions, in windows, and by each command.

use std::collections::BTreeSet;
use std::path::Path;
use std::sync::atomic::AtomicU64;

use lastmaker_core::answers::{CheckOptions, check, explain, preview, survey};
use lastmaker_core::base::limits::Limits;
use lastmaker_core::job::{Job, Workspace};
use lastmaker_core::layer::splice;
use lastmaker_core::open::{Document, LargeFault, LargeText, Reading, WindowSize};
use lastmaker_core::plan::{DocumentPlan, PlanOptions, plan, plan_large};
use lastmaker_core::record::{Rewrites, Store};
use lastmaker_core::report::{Position, ReasonName, Reference, Standing};
use lastmaker_core::sheet::Sheet;
use lastmaker_core::tree::{Scope, Sieve};

/// Where a reference is, as what it is told, and how it stands and why.
type Told = (Option<(usize, usize)>, String, Standing, Option<ReasonName>);

fn told(at: Option<Position>, place: &str, standing: Standing, reason: Option<ReasonName>) -> Told {
    let at = at.map(|at| (at.line, at.column));
    (at, place.to_owned(), standing, reason)
}

fn of_reference(one: &Reference) -> Told {
    told(one.position, &one.place, one.standing, one.reason)
}

/// Reads a document in portions and in windows: all must come out as the whole does.
pub fn planned_alike(bytes: &[u8], name: &str, sheet: &Sheet) {
    let Some(document) = Document::open(bytes, name, Reading::default()) else {
        return;
    };
    let whole = plan(&document, PlanOptions::of(sheet));
    let expected: Vec<Told> = whole
        .references
        .iter()
        .map(|one| of_reference(&one))
        .collect();
    for at_once in [0, 1] {
        let mut limits = Limits::default();
        limits.at_once = at_once;
        let options = PlanOptions {
            limits,
            ..PlanOptions::of(sheet)
        };
        let portions = plan(&document, options);
        let got: Vec<Told> = portions
            .references
            .iter()
            .map(|one| of_reference(&one))
            .collect();
        assert_eq!(
            got,
            expected,
            "{name} in portions of {at_once}: {:?}",
            lossy(bytes)
        );
        assert!(portions.new == whole.new, "{name} in portions of {at_once}");
    }
    planned_in_windows(bytes, name, sheet, &whole, &expected);
}

fn lossy(bytes: &[u8]) -> std::borrow::Cow<'_, str> {
    String::from_utf8_lossy(bytes)
}

fn planned_in_windows(
    bytes: &[u8],
    name: &str,
    sheet: &Sheet,
    whole: &DocumentPlan,
    expected: &[Told],
) {
    let size = WindowSize {
        usual: 64,
        most: 16 * bytes.len() + 4096,
    };
    let text = match LargeText::open(&bytes, name, Reading::default(), size) {
        Ok(text) => text,
        Err(LargeFault::OnlyWhole { .. }) => return,
        Err(fault) => panic!("{name} in windows: {fault}"),
    };
    let windows = plan_large(&text, PlanOptions::of(sheet), &Sieve::new(sheet, true));
    let windows = windows.unwrap_or_else(|fault| panic!("{name} in windows: {fault}"));
    let (references, edits) = match windows {
        Some(plan) => (plan.references, plan.edits),
        None => Default::default(),
    };
    let got: Vec<Told> = references.iter().map(|one| of_reference(&one)).collect();
    assert_eq!(got, expected, "{name} in windows: {:?}", lossy(bytes));
    let new = splice(bytes, &edits);
    let expected = whole.new.as_deref().unwrap_or(bytes);
    assert!(new == expected, "{name} in windows: {:?}", lossy(bytes));
}

/// Lets `ask` ask of the file at `path`, which is all there is in its folder.
fn with_job<T>(path: &Path, sheet: &Sheet, ask: impl FnOnce(&Job<'_>) -> T) -> T {
    let scope = Scope::new(vec![path.to_owned()], &[], &[]).expect("a path alone");
    let workspace = Workspace::new(sheet.clone(), scope);
    let job = workspace.job().thorough(true).history_files(true);
    ask(&job.max_document(1 << 24).threads(1).build())
}

/// The places that the moves of `sheet` touch in the file at `path`, and those that a survey without a move names.
pub fn named(path: &Path, sheet: &Sheet) -> (Vec<String>, Vec<String>) {
    let records = Store::new(path.with_extension("records"));
    let plan = with_job(path, sheet, |job| preview(job, &records, false));
    let references = plan.files.iter().flat_map(|file| file.references.iter());
    let with = references.map(|one| one.place).collect();
    let surveyed = with_job(path, &Sheet::default(), survey);
    let without = surveyed.places.into_iter().map(|one| one.place);
    (with, without.collect())
}

/// Reads the file at `path` by every command: what a preview tells, an explanation and a check tell alike.
pub fn told_alike(path: &Path, sheet: &Sheet) {
    with_job(path, sheet, |job| told_alike_in(job, path));
}

fn told_alike_in(job: &Job<'_>, path: &Path) {
    let folder = path.parent().expect("a file is in a folder");
    let plan = preview(job, &Store::new(folder.join("records")), false);
    let previewed: BTreeSet<String> = plan
        .files
        .iter()
        .flat_map(|file| file.references.iter())
        .map(|one| format!("{:?}", of_reference(&one)))
        .collect();
    let touched = |standing| !matches!(standing, Standing::Elsewhere | Standing::Moved);
    let explained = explain(job, None).expect("the file is there");
    let explained: BTreeSet<String> = explained
        .references
        .iter()
        .filter(|one| touched(one.standing))
        .map(|one| {
            format!(
                "{:?}",
                told(one.position, &one.place, one.standing, one.reason)
            )
        })
        .collect();
    assert_eq!(explained, previewed, "explained and previewed");
    let options = CheckOptions {
        all: true,
        relative: false,
        rewrites: &Rewrites::default(),
        indexed: &AtomicU64::new(0),
    };
    // By what exists a check may read a name longer or shorter, and what is kept it has no need to list.
    let without_place = |(at, _, standing, reason): Told| format!("{at:?} {standing:?} {reason:?}");
    let listed = |standing| touched(standing) && standing != Standing::Kept;
    let checked: BTreeSet<String> = check(job, &options)
        .references
        .iter()
        .filter(|one| listed(one.standing))
        .map(|one| without_place(of_reference(&one)))
        .collect();
    let previewed: BTreeSet<String> = plan
        .files
        .iter()
        .flat_map(|file| file.references.iter())
        .filter(|one| listed(one.standing))
        .map(|one| without_place(of_reference(&one)))
        .collect();
    let missing: Vec<_> = previewed.difference(&checked).collect();
    assert!(missing.is_empty(), "previewed, not checked: {missing:#?}");
    // What is mistyped is no plan's business where no move touches it.
    let mistyped = format!("{:?}", Standing::Malformed);
    let more = checked.difference(&previewed);
    let more: Vec<_> = more.filter(|one| !one.contains(&mistyped)).collect();
    assert!(more.is_empty(), "checked, not previewed: {more:#?}");
}
