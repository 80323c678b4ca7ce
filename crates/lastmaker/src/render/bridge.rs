//! Links at old places: those that there could be, that stand, or that were made and taken away.

use std::io::{self, Write};

use lastmaker_core::report::{BridgeKind, BridgeLine, BridgeReport, BridgeState};

use super::table::table;
use super::{ForPeople, Page, count, left};
use crate::ui::{DOUBT, FAINT, NAME, OLD, shown};

impl ForPeople for BridgeReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        let out = &mut *page.out;
        if !self.bridges.is_empty() {
            write_table(out, &self.bridges)?;
            write_notes(out, &self.bridges)?;
            writeln!(out)?;
        }
        write_rest(out, self)?;
        left(out, &self.left, "Not looked at")?;
        match &self.kept_in {
            Some(id) => writeln!(
                out,
                "What was done is in record {id}; take it back with:   lastmaker restore {id}{}",
                page.records
            ),
            None => write_next(out, self),
        }
    }
}

fn write_table(out: &mut dyn Write, bridges: &[BridgeLine]) -> io::Result<()> {
    let heading = ["old place", "new place", "kind", "state", "serves"].map(str::to_owned);
    let rows = bridges.iter().map(|line| {
        let serves = match (line.references, line.files) {
            (Some(references), Some(files)) if references > 0 => format!(
                "{} in {}",
                count(references, "reference"),
                count(files, "file")
            ),
            (Some(_), _) => "nothing".to_owned(),
            _ => String::new(),
        };
        [
            shown(&line.old),
            shown(&line.new),
            kind(line.kind).to_owned(),
            state(line.state).to_owned(),
            serves,
        ]
    });
    let rows: Vec<[String; 5]> = std::iter::once(heading).chain(rows).collect();
    table(out, 5, &rows)
}

/// Why each stands as it does, and what else it takes.
fn write_notes(out: &mut dyn Write, bridges: &[BridgeLine]) -> io::Result<()> {
    let mut told: Vec<&str> = Vec::new();
    for line in bridges {
        let place = shown(&line.old);
        for folder in &line.folders {
            let folder = shown(folder);
            match line.state {
                BridgeState::Made => writeln!(
                    out,
                    "\n{NAME}{place}{NAME:#}: the folder {folder} was made for it"
                )?,
                _ => writeln!(
                    out,
                    "\n{NAME}{place}{NAME:#}: the folder {folder} is missing, and is made for it"
                )?,
            }
        }
        if let Some(aside) = &line.set_aside {
            let aside = shown(aside);
            writeln!(
                out,
                "\n{NAME}{place}{NAME:#}: what stands there is set aside as {aside}"
            )?;
        }
        // What is said of all at the end is not said of each.
        let told_at_end = line.state == BridgeState::Elsewhere;
        let Some(why) = line.why.as_ref().filter(|_| !told_at_end) else {
            continue;
        };
        let color = match line.state {
            BridgeState::Refused
            | BridgeState::Left
            | BridgeState::Broken
            | BridgeState::Blocked => OLD,
            _ => DOUBT,
        };
        // What is true of many is said once.
        let others = bridges
            .iter()
            .filter(|other| other.why.as_ref() == Some(why))
            .count();
        if others > 1 {
            if told.contains(&why.as_str()) {
                continue;
            }
            told.push(why);
            writeln!(
                out,
                "\n{color}{}{color:#}: {}",
                count(others, "link"),
                shown(why)
            )?;
            continue;
        }
        writeln!(out, "\n{color}{place}{color:#}: {}", shown(why))?;
    }
    Ok(())
}

fn write_rest(out: &mut dyn Write, report: &BridgeReport) -> io::Result<()> {
    if report.beyond_help > 0 {
        let references = count(report.beyond_help, "reference");
        writeln!(
            out,
            "{OLD}{references}{OLD:#} would not be served by any link: the new place is not there either (see check)"
        )?;
    }
    if report.to_rewrite > 0 {
        let references = count(report.to_rewrite, "reference");
        writeln!(
            out,
            "{FAINT}{references} can be rewritten, and need no link then{FAINT:#}"
        )?;
    }
    Ok(())
}

/// What to do next.
fn write_next(out: &mut dyn Write, report: &BridgeReport) -> io::Result<()> {
    let number = |state| {
        report
            .bridges
            .iter()
            .filter(|one| one.state == state)
            .count()
    };
    if report.bridges.is_empty() {
        return if report.only_standing {
            writeln!(out, "No link stands at an old place.")
        } else {
            writeln!(out, "No link is needed.")
        };
    }
    let possible = number(BridgeState::Possible);
    let elsewhere = number(BridgeState::Elsewhere) + number(BridgeState::Unseen);
    if possible > 0 {
        let links = count(possible, "link");
        writeln!(out, "{links} can be made here: run again with --make.")?;
    }
    if elsewhere > 0 {
        let links = count(elsewhere, "link");
        writeln!(
            out,
            "{links} can be made on the machine whose places these are: --script cmd, powershell or sh prints a script for it."
        )?;
    }
    let needless = number(BridgeState::Needless) + number(BridgeState::Broken);
    if needless > 0 {
        let links = count(needless, "link");
        writeln!(out, "{links} can go: run again with --remove PLACE.")?;
    }
    Ok(())
}

fn kind(kind: BridgeKind) -> &'static str {
    match kind {
        BridgeKind::Link => "link",
        BridgeKind::SymbolicLink => "symbolic link",
        BridgeKind::Junction => "junction",
        BridgeKind::Letter => "letter",
    }
}

fn state(state: BridgeState) -> &'static str {
    match state {
        BridgeState::Possible => "can be made",
        BridgeState::Unseen => "not seen from here",
        BridgeState::Elsewhere => "can be made there",
        BridgeState::Stands => "stands",
        BridgeState::Refused => "cannot be made",
        BridgeState::Made => "made",
        BridgeState::Taken => "taken away",
        BridgeState::Left => "left",
        BridgeState::Needed => "needed",
        BridgeState::Needless => "needless",
        BridgeState::Broken => "broken",
        BridgeState::Blocked => "blocked",
    }
}
