//! A trace: the moves that explain what dangles, and what none explains.

use std::io::{self, Write};

use lastmaker_core::report::{TraceReport, TracedMove};

use super::table::table;
use super::{ForPeople, Page, count, grouped, left};
use crate::ui::{DOUBT, FAINT, NAME, NEW, OLD, shown};

/// How many places are shown that nothing explains, unless all are asked for.
const SHOWN: usize = 20;

impl ForPeople for TraceReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        let out = &mut *page.out;
        if !self.moves.is_empty() {
            write_table(out, &self.moves)?;
            writeln!(out)?;
        }
        for one in &self.moves {
            write_details(out, one)?;
        }
        write_unexplained(out, self, page.verbose)?;
        write_totals(out, self)?;
        left(out, &self.left, "Not looked at")
    }
}

fn write_table(out: &mut dyn Write, moves: &[TracedMove]) -> io::Result<()> {
    let heading = ["move", "", "", "explains", "places", "not there"];
    let mut rows = vec![heading.map(str::to_owned)];
    for one in moves {
        let sure = if one.certain {
            ""
        } else if one.rivals.is_empty() {
            "not certain"
        } else {
            "fits two ways"
        };
        rows.push([
            shown(&one.from),
            shown(&one.to),
            sure.to_owned(),
            grouped(one.explains),
            grouped(one.places),
            grouped(one.contradicts),
        ]);
    }
    table(out, 3, &rows)
}

/// What a row does not say.
fn write_details(out: &mut dyn Write, one: &TracedMove) -> io::Result<()> {
    let more = !one.also.is_empty() || !one.except.is_empty() || !one.rivals.is_empty();
    if !more {
        return Ok(());
    }
    writeln!(out, "{NAME}{}{NAME:#}", shown(&one.from))?;
    if let Some(why) = &one.why {
        writeln!(out, "  {DOUBT}not certain:{DOUBT:#} {}", shown(why))?;
    }
    for rival in &one.rivals {
        writeln!(out, "  {NEW}or to:{NEW:#} {}", shown(rival))?;
    }
    for name in &one.also {
        writeln!(out, "  is also called {}", shown(name))?;
    }
    for place in &one.except {
        writeln!(out, "  but {} is still there and stays", shown(place))?;
    }
    writeln!(out)
}

fn write_unexplained(out: &mut dyn Write, report: &TraceReport, all: bool) -> io::Result<()> {
    if report.unexplained.is_empty() {
        return Ok(());
    }
    let number = grouped(report.unexplained.len());
    writeln!(out, "{OLD}Not found anywhere{OLD:#} ({number})")?;
    let most = if all { usize::MAX } else { SHOWN };
    for one in report.unexplained.iter().take(most) {
        let references = count(one.references, "reference");
        writeln!(out, "  {}  {FAINT}{references}{FAINT:#}", shown(&one.place))?;
    }
    if report.unexplained.len() > most {
        let rest = grouped(report.unexplained.len() - most);
        writeln!(out, "  {FAINT}and {rest} more (-v lists all){FAINT:#}")?;
    }
    writeln!(out)
}

fn write_totals(out: &mut dyn Write, report: &TraceReport) -> io::Result<()> {
    let totals = &report.totals;
    let explain = if report.moves.len() == 1 {
        "explains"
    } else {
        "explain"
    };
    writeln!(
        out,
        "{NAME}{} {explain} {} of {}{NAME:#} that dangle or cannot be checked, in {}; {} looked through.",
        count(report.moves.len(), "move"),
        grouped(totals.explained),
        count(totals.references, "reference"),
        count(totals.files as usize, "file"),
        count(totals.names, "name")
    )?;
    if totals.names_cut {
        writeln!(
            out,
            "{DOUBT}There are more names than can be looked through{DOUBT:#}: name folders further down."
        )?;
    }
    Ok(())
}
