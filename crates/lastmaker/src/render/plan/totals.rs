//! The totals of a plan, which are the last thing on the screen.

use std::io::{self, Write};

use lastmaker_core::report::{NewPlaces, PlanReport};

use super::doubts::notices;
use crate::render::evidence::{write_missing, write_moves as write_table};
use crate::render::{Page, are, count, grouped, left, verb};
use crate::ui::{DOUBT, NAME, OLD};

/// The table of moves, before much else.
pub(super) fn write_moves(page: &mut Page<'_>, plan: &PlanReport) -> io::Result<()> {
    page.gap()?;
    write_table(page.out, &plan.moves)
}

/// What it comes to; `whole` says that everything was told before, not one list.
pub(super) fn write_totals(page: &mut Page<'_>, plan: &PlanReport, whole: bool) -> io::Result<()> {
    page.gap()?;
    let (out, totals) = (&mut *page.out, &plan.totals);
    if whole {
        write_table(out, &plan.moves)?;
        write_missing(out, &plan.missing, page.verbose)?;
    }
    let left = in_counts(plan);
    if !left.is_empty() {
        writeln!(
            out,
            "{DOUBT}Left as they are:{DOUBT:#} {}.",
            left.join(", ")
        )?;
    }
    if totals.kept > 0 {
        let kept = are(totals.kept, "reference", "kept", "kept");
        writeln!(out, "{kept} by an exception of the sheet.")?;
    }
    if totals.foreign > 0 {
        writeln!(
            out,
            "{}, being none of this machine: inside of containers, within web sites, in lists of patterns.",
            are(totals.foreign, "reference", "left", "left")
        )?;
    }
    if totals.in_history > 0 {
        writeln!(
            out,
            "{} in logs, backups or recycle bins (--history-files rewrites them too).",
            are(totals.in_history, "reference", "left", "left")
        )?;
    }
    let new = new_places(&totals.new_places);
    if !new.is_empty() {
        writeln!(out, "{new}")?;
    }
    if plan.looks_wrong() && totals.changing_files > 0 {
        writeln!(
            out,
            "{OLD}A rewrite would stop here{OLD:#}: hardly any of these new places exists (--anyway goes on)."
        )?;
    }
    writeln!(
        out,
        "{NAME}{} in {} would change{NAME:#}, of {} looked at.",
        count(totals.to_move, "reference"),
        count(totals.changing_files, "file"),
        count(totals.files as usize, "file")
    )
}

/// How many of the new places exist.
fn new_places(places: &NewPlaces) -> String {
    if places.distinct == 0 {
        return String::new();
    }
    let mut text = format!("Of {}, ", count(places.distinct, "new place"));
    text.push_str(&verb(places.live, "exists", "exist"));
    if places.dangling > 0 {
        text.push_str(&format!(
            ", {}",
            verb(places.dangling, "does not", "do not")
        ));
    }
    if places.unreachable > 0 {
        text.push_str(&format!(
            ", {} cannot be checked from here",
            grouped(places.unreachable)
        ));
    }
    text.push('.');
    text
}

/// What is left, as counts.
fn in_counts(plan: &PlanReport) -> Vec<String> {
    let totals = &plan.totals;
    [
        (totals.doubtful, "doubtful"),
        (totals.malformed, "malformed"),
        (totals.collision, "in a collision"),
        (totals.sealed, "sealed"),
    ]
    .iter()
    .filter(|(number, _)| *number > 0)
    .map(|(number, word)| format!("{} {word}", grouped(*number)))
    .collect()
}

/// What a rewrite leaves, as counts.
pub(crate) fn write_remainder(out: &mut dyn Write, plan: &PlanReport) -> io::Result<()> {
    let parts = in_counts(plan);
    if !parts.is_empty() {
        writeln!(
            out,
            "{DOUBT}Left as they are:{DOUBT:#} {} (`lastmaker preview` lists them).",
            parts.join(", ")
        )?;
    }
    for (sentence, number, _) in notices(plan) {
        writeln!(
            out,
            "{DOUBT}Mind this,{DOUBT:#} {}: {sentence}.",
            count(number, "time")
        )?;
    }
    left(out, &plan.left, "Left as they are")
}
