//! Many changes told in tables: by kind of file, by file, and the new places that are not there.

use std::collections::BTreeMap;
use std::io;

use lastmaker_core::report::{PlanReport, Standing, Target};

use crate::render::table::table;
use crate::render::{Page, grouped};
use crate::ui::{FAINT, shown};

/// How many files and references of each kind change.
pub(super) fn write_kinds(page: &mut Page<'_>, plan: &PlanReport) -> io::Result<()> {
    let mut kinds: BTreeMap<&str, (usize, usize)> = BTreeMap::new();
    for file in plan.files.iter().filter(|file| file.changes) {
        let (files, references) = kinds.entry(file.format).or_default();
        *files += 1;
        *references += changing(file);
    }
    if kinds.is_empty() {
        return Ok(());
    }
    let mut kinds: Vec<_> = kinds.into_iter().collect();
    kinds.sort_by_key(|(_, (_, references))| std::cmp::Reverse(*references));
    let mut rows = vec![["kind of file", "references", "files"].map(str::to_owned)];
    for (kind, (files, references)) in kinds {
        rows.push([kind.to_owned(), grouped(references), grouped(files)]);
    }
    page.gap()?;
    table(page.out, 1, &rows)
}

fn changing(file: &lastmaker_core::report::PlannedFile) -> usize {
    let all = file.references.iter();
    all.filter(|one| one.standing == Standing::ToMove).count()
}

/// A line for each file that changes.
pub(super) fn write_files(page: &mut Page<'_>, plan: &PlanReport) -> io::Result<()> {
    page.gap()?;
    let out = &mut *page.out;
    writeln!(out, "  {FAINT}references  file{FAINT:#}")?;
    for file in plan.files.iter().filter(|file| file.changes) {
        let name = shown(&file.references.file().shown);
        writeln!(out, "  {:>10}  {name}", grouped(changing(file)))?;
    }
    Ok(())
}

/// Each new place that does not exist, with how often and where it would be named.
pub(super) fn write_missing_places(page: &mut Page<'_>, plan: &PlanReport) -> io::Result<()> {
    let mut places: BTreeMap<String, (usize, String)> = BTreeMap::new();
    for one in plan.references() {
        if let (Standing::ToMove, Some(Target::Dangling), Some(place)) =
            (one.standing, one.new_target, &one.new_place)
        {
            let first = || {
                let file = shown(&one.file.shown);
                let line = one.position.map(|at| format!(":{}:{}", at.line, at.column));
                (0, format!("{file}{}", line.unwrap_or_default()))
            };
            places.entry(shown(place)).or_insert_with(first).0 += 1;
        }
    }
    if places.is_empty() {
        return Ok(());
    }
    let mut rows = vec![["not there", "first named in", "references"].map(str::to_owned)];
    for (place, (number, first)) in places {
        rows.push([place, first, grouped(number)]);
    }
    page.gap()?;
    table(page.out, 2, &rows)
}
