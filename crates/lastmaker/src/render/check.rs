//! A check: what dangles, and the likeliest place of each.

use std::io::{self, Write};

use lastmaker_core::report::{CheckReport, Reference, Standing, Target};

use super::plan::position;
use super::{ForPeople, Page, count, left};
use crate::ui::{DOUBT, FAINT, NAME, NEW, OLD, shown};

impl ForPeople for CheckReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        write(page.out, self)
    }
}

fn write(out: &mut dyn Write, report: &CheckReport) -> io::Result<()> {
    let mut file = None;
    for reference in &report.references {
        if file != Some(&reference.file) {
            if file.is_some() {
                writeln!(out)?;
            }
            writeln!(out, "{NAME}{}{NAME:#}", shown(&reference.file.shown))?;
            file = Some(&reference.file);
        }
        write_reference(out, reference)?;
    }
    if file.is_some() {
        writeln!(out)?;
    }
    write_totals(out, report)?;
    left(out, &report.left, "Not looked at")
}

fn write_reference(out: &mut dyn Write, reference: &Reference) -> io::Result<()> {
    let target = reference.target.map_or("", Target::word);
    let state = match reference.standing {
        Standing::Elsewhere | Standing::Moved => target.to_owned(),
        standing => format!("{}, {target}", standing.word()),
    };
    let style = if reference.target == Some(Target::Dangling) {
        OLD
    } else {
        DOUBT
    };
    writeln!(
        out,
        "  {FAINT}{}{FAINT:#}  {style}{state}{style:#}",
        position(reference)
    )?;
    writeln!(out, "    {}", shown(&reference.written))?;
    if let Some(why) = &reference.why {
        writeln!(out, "    {FAINT}{}{FAINT:#}", shown(why))?;
    }
    let word = if reference.standing == Standing::Malformed {
        "right would be"
    } else {
        "likely"
    };
    for suggestion in &reference.suggestions {
        writeln!(
            out,
            "    {NEW}{word}:{NEW:#} {}  {FAINT}({}){FAINT:#}",
            shown(&suggestion.place),
            shown(&suggestion.why)
        )?;
    }
    Ok(())
}

fn write_totals(out: &mut dyn Write, report: &CheckReport) -> io::Result<()> {
    let (totals, with_sheet) = (&report.totals, report.with_sheet);
    let what = if with_sheet {
        "reference to what moved"
    } else {
        "reference"
    };
    let judged = if with_sheet && totals.judged != 1 {
        format!("{} to what moved", count(totals.judged, "reference"))
    } else {
        count(totals.judged, what)
    };
    write!(
        out,
        "{NAME}{judged}{NAME:#} in {}: {} live",
        count(totals.files as usize, "file"),
        totals.live
    )?;
    let parts = [
        (totals.dangling, "dangling"),
        (totals.unreachable, "not to be checked from here"),
        (totals.leftover, "still at the old place"),
        (totals.malformed, "malformed"),
    ];
    for (number, word) in parts {
        if number > 0 {
            write!(out, ", {number} {word}")?;
        }
    }
    writeln!(out, ".")?;
    if totals.dangling_elsewhere > 0 {
        writeln!(
            out,
            "{} elsewhere, where the sheet has no say (--all lists them).",
            count(totals.dangling_elsewhere, "dangling reference")
        )?;
    }
    if totals.in_history > 0 {
        writeln!(
            out,
            "{} in logs, backups or recycle bins not judged.",
            count(totals.in_history, "reference")
        )?;
    }
    Ok(())
}
