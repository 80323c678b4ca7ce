//! What each move touches, and how much of it is there.

use std::io::{self, Write};

use lastmaker_core::report::{MissingFolder, MoveEvidence};

use super::table::table;
use super::{count, grouped};
use crate::ui::{DOUBT, FAINT, OLD, shown};

/// How many folders are shown unless all are asked for.
const FOLDERS: usize = 10;

/// A line for each move.
pub(crate) fn write_moves(out: &mut dyn Write, moves: &[MoveEvidence]) -> io::Result<()> {
    if moves.is_empty() {
        return Ok(());
    }
    let heading = ["move", "", "references", "files", "new places", "existing"];
    let mut rows = vec![heading.map(str::to_owned)];
    for one in moves {
        let checked = |number: usize| match one.new_places {
            0 => "-".to_owned(),
            _ => grouped(number),
        };
        rows.push([
            shown(&one.from),
            shown(&one.to),
            grouped(one.references),
            grouped(one.files),
            checked(one.new_places),
            checked(one.existing),
        ]);
    }
    table(out, 2, &rows)?;
    for one in moves {
        let to = shown(&one.to);
        let share = format!("{} of {}", grouped(one.existing), grouped(one.new_places));
        if one.looks_wrong() {
            writeln!(
                out,
                "  {OLD}hardly anything is under {to}{OLD:#}: {share} new places exist; is it the wrong folder?"
            )?;
        } else if one.is_doubtful() {
            writeln!(
                out,
                "  {DOUBT}not all is under {to}{DOUBT:#}: {share} new places exist"
            )?;
        }
        if one.unreachable > 0 {
            let number = count(one.unreachable, "new place");
            writeln!(
                out,
                "  {FAINT}{number} under {to} cannot be checked from here{FAINT:#}"
            )?;
        }
    }
    Ok(())
}

/// The folders in which new places do not exist.
pub(crate) fn write_missing(
    out: &mut dyn Write,
    folders: &[MissingFolder],
    all: bool,
) -> io::Result<()> {
    if folders.is_empty() {
        return Ok(());
    }
    let number: usize = folders.iter().map(|one| one.places).sum();
    writeln!(
        out,
        "{OLD}Not there, of the new places{OLD:#}: {}",
        grouped(number)
    )?;
    let most = if all { usize::MAX } else { FOLDERS };
    for one in folders.iter().take(most) {
        writeln!(
            out,
            "  {:>6}  in {}",
            grouped(one.places),
            shown(&one.folder)
        )?;
    }
    if folders.len() > most {
        let rest = count(folders.len() - most, "folder");
        writeln!(out, "  {FAINT}and in {rest} more (-v lists all){FAINT:#}")?;
    }
    Ok(())
}
