//! A plan: every change before and after, totals, doubts.

use std::io::{self, Write};
use std::ops::Range;

use anstyle::Style;
use lastmaker_core::report::{NewPlaces, PlanReport, PlannedFile, Reference, Standing};
use lastmaker_core::sheet::ACCEPTABLE;

use super::evidence::{write_missing, write_moves};
use super::{ForPeople, Page, are, count, left};
use crate::ui::{DOUBT, FAINT, NAME, NEW, OLD, quoted, shown};

impl ForPeople for PlanReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        for file in self.files.iter().filter(|file| file.changes) {
            write_file(page.out, file)?;
        }
        write_totals(page.out, self)?;
        write_moves(page.out, &self.moves)?;
        write_missing(page.out, &self.missing, page.verbose)?;
        if self.looks_wrong() && self.totals.changing_files > 0 {
            writeln!(
                page.out,
                "{OLD}A rewrite would stop here{OLD:#}: hardly any of these new places exists (--anyway goes on)."
            )?;
        }
        write_doubts(page.out, self)
    }
}

fn write_file(out: &mut dyn Write, file: &PlannedFile) -> io::Result<()> {
    let mut remarks = format_and_encoding(file.format, file.encoding);
    if let Some(broke) = file.references.iter().find_map(|reference| reference.broke) {
        remarks.push_str(&format!(", breaks the grammar of {broke}"));
    }
    if file.read_only {
        remarks.push_str(", read-only and stays so");
    }
    if file.other_names > 0 {
        let names = count(file.other_names, "other name");
        remarks.push_str(&format!(", has {names} that stay joined"));
    }
    writeln!(
        out,
        "{NAME}{}{NAME:#}  {FAINT}{remarks}{FAINT:#}",
        shown(&file.references.file().shown)
    )?;
    // What is close together on one line is shown together.
    for change in file.references.iter() {
        if change.standing == Standing::ToMove {
            write_change(out, &change)?;
        }
    }
    writeln!(out)
}

/// The format, and the encoding where there is one for the whole file.
pub(crate) fn format_and_encoding(format: &str, encoding: &str) -> String {
    match encoding {
        "" => format.to_owned(),
        encoding => format!("{format}, {encoding}"),
    }
}

fn write_change(out: &mut dyn Write, change: &Reference) -> io::Result<()> {
    let Some(around) = change.surroundings.as_ref().filter(|one| !one.shown_before) else {
        return Ok(());
    };
    writeln!(out, "  {FAINT}{}{FAINT:#}", position(change))?;
    let before = around.before.as_str();
    let after = around.after.as_deref().unwrap_or("");
    // An edit replaces a whole prefix; what it has in common with the old one is no news.
    let narrow = |(old, new): &(Range<usize>, Range<usize>)| {
        let (head, tail) = common(&before[old.clone()], &after[new.clone()]);
        (
            old.start + head..old.end - tail,
            new.start + head..new.end - tail,
        )
    };
    let (old, new): (Vec<_>, Vec<_>) = around.marks.iter().map(narrow).unzip();
    write_marked(out, '-', before, &old, OLD)?;
    write_marked(out, '+', after, &new, NEW)
}

fn write_marked(
    out: &mut dyn Write,
    mark: char,
    text: &str,
    ranges: &[Range<usize>],
    style: Style,
) -> io::Result<()> {
    write!(out, "    {style}{mark}{style:#} ")?;
    let strong = style.bold();
    let mut at = 0;
    for range in ranges {
        write!(
            out,
            "{}{strong}{}{strong:#}",
            shown(&text[at..range.start]),
            shown(&text[range.clone()])
        )?;
        at = range.end;
    }
    writeln!(out, "{}", shown(&text[at..]))
}

/// How many bytes two texts share at their start and at their end.
fn common(a: &str, b: &str) -> (usize, usize) {
    let head: usize = a
        .chars()
        .zip(b.chars())
        .take_while(|(x, y)| x == y)
        .map(|(x, _)| x.len_utf8())
        .sum();
    let tail: usize = a[head..]
        .chars()
        .rev()
        .zip(b[head..].chars().rev())
        .take_while(|(x, y)| x == y)
        .map(|(x, _)| x.len_utf8())
        .sum();
    (head, tail)
}

/// Line and column, where there are lines, and the site.
pub(crate) fn position(reference: &Reference) -> String {
    match (reference.position, reference.site.as_str()) {
        (None, site) => shown(site),
        (Some(at), "") => format!("{}:{}", at.line, at.column),
        (Some(at), site) => format!("{}:{}  {}", at.line, at.column, shown(site)),
    }
}

fn write_totals(out: &mut dyn Write, plan: &PlanReport) -> io::Result<()> {
    let totals = &plan.totals;
    writeln!(
        out,
        "{NAME}{} in {} would change{NAME:#}, of {} looked at.",
        count(totals.to_move, "reference"),
        count(totals.changing_files, "file"),
        count(totals.files as usize, "file")
    )?;
    let new = new_places(&totals.new_places);
    if !new.is_empty() {
        writeln!(out, "{new}")?;
    }
    if totals.kept > 0 {
        writeln!(
            out,
            "{} by an exception of the sheet.",
            are(totals.kept, "reference", "kept", "kept")
        )?;
    }
    if totals.in_history > 0 {
        writeln!(
            out,
            "{} in logs, backups or recycle bins and stay (--history-files rewrites them too).",
            count(totals.in_history, "reference")
        )?;
    }
    Ok(())
}

/// How many of the new places exist.
pub(crate) fn new_places(places: &NewPlaces) -> String {
    if places.distinct == 0 {
        return String::new();
    }
    let mut text = format!(
        "Of {}, {} exist",
        count(places.distinct, "new place"),
        places.live
    );
    if places.dangling > 0 {
        text.push_str(&format!(", {} do not", places.dangling));
    }
    if places.unreachable > 0 {
        text.push_str(&format!(
            ", {} cannot be checked from here",
            places.unreachable
        ));
    }
    text.push('.');
    text
}

/// What wants a person's attention, with the reason.
fn write_doubts(out: &mut dyn Write, plan: &PlanReport) -> io::Result<()> {
    let totals = &plan.totals;
    let headings = [
        (
            totals.doubtful,
            Standing::Doubtful,
            "Doubtful: could be read two ways, so left as they are",
        ),
        (
            totals.malformed,
            Standing::Malformed,
            "Malformed: evidently mistyped, so left as they are",
        ),
        (
            totals.collision,
            Standing::Collision,
            "Collisions: entries that must differ would become the same, so left as they are",
        ),
        (
            totals.sealed,
            Standing::Sealed,
            "Sealed: cannot be rewritten safely",
        ),
    ];
    for (number, standing, heading) in headings {
        if number > 0 {
            let of_standing = plan.references().filter(|one| one.standing == standing);
            section(out, heading, of_standing)?;
        }
    }
    if totals.notices > 0 {
        let noted = plan.references().filter(|one| one.notice.is_some());
        section(out, "Changed, but mind this", noted)?;
    }
    left(out, &plan.left, "Left as they are")
}

/// What a rewrite leaves, as counts.
pub(crate) fn write_remainder(out: &mut dyn Write, plan: &PlanReport) -> io::Result<()> {
    let totals = &plan.totals;
    let parts: Vec<String> = [
        (totals.doubtful, "doubtful"),
        (totals.malformed, "malformed"),
        (totals.collision, "in a collision"),
        (totals.sealed, "sealed"),
    ]
    .iter()
    .filter(|(number, _)| *number > 0)
    .map(|(number, word)| format!("{number} {word}"))
    .collect();
    if !parts.is_empty() {
        writeln!(
            out,
            "{DOUBT}Left as they are:{DOUBT:#} {} (`lastmaker preview` lists them).",
            parts.join(", ")
        )?;
    }
    let mut notices: Vec<(&str, usize)> = Vec::new();
    let noted = plan
        .references()
        .take(if totals.notices > 0 { usize::MAX } else { 0 });
    for notice in noted.filter_map(|one| one.notice) {
        match notices
            .iter_mut()
            .find(|(known, _)| *known == notice.sentence())
        {
            Some((_, number)) => *number += 1,
            None => notices.push((notice.sentence(), 1)),
        }
    }
    for (sentence, number) in notices {
        writeln!(
            out,
            "{DOUBT}Mind this,{DOUBT:#} {}: {sentence}.",
            count(number, "time")
        )?;
    }
    left(out, &plan.left, "Left as they are")
}

fn section(
    out: &mut dyn Write,
    heading: &str,
    references: impl Iterator<Item = Reference>,
) -> io::Result<()> {
    let mut file = None;
    for reference in references {
        if file.is_none() {
            writeln!(out, "\n{DOUBT}{heading}:{DOUBT:#}")?;
        }
        if file.as_ref() != Some(&reference.file) {
            writeln!(out, "  {NAME}{}{NAME:#}", shown(&reference.file.shown))?;
            file = Some(reference.file.clone());
        }
        write_left(out, &reference)?;
    }
    Ok(())
}

/// One reference that is left, or that a person should know something about, with the reason.
fn write_left(out: &mut dyn Write, reference: &Reference) -> io::Result<()> {
    let around = reference.surroundings.as_ref();
    let before = around.map_or(&reference.written, |one| &one.before);
    writeln!(out, "    {FAINT}{}{FAINT:#}", position(reference))?;
    writeln!(out, "      {}", shown(before))?;
    if let Some(notice) = reference.notice {
        writeln!(out, "      {FAINT}{}{FAINT:#}", notice.sentence())?;
    }
    if let Some(why) = &reference.why {
        writeln!(out, "      {FAINT}{}{FAINT:#}", shown(why))?;
    }
    if let Some(accepting) = accepting(reference) {
        writeln!(out, "      {FAINT}{accepting}{FAINT:#}")?;
    }
    for suggestion in &reference.suggestions {
        writeln!(
            out,
            "      right would be: {}  {FAINT}({}){FAINT:#}",
            shown(&suggestion.place),
            suggestion.why
        )?;
    }
    Ok(())
}

/// How a doubt is accepted, if it can be.
fn accepting(reference: &Reference) -> Option<String> {
    let name = reference.reason.filter(|name| ACCEPTABLE.contains(name))?;
    let file = quoted(&shown(&reference.file.shown));
    let site = reference
        .position
        .map(|at| format!("--accept {file}:{}:{} or ", at.line, at.column));
    Some(format!(
        "to change it all the same: {}--accept-reason {name}",
        site.unwrap_or_default()
    ))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_two_lines_share() {
        let cases = [
            ("a=D:\\x", "a=H:\\C\\x", (2, 2)),
            ("aa", "aaa", (2, 0)),
            ("\u{e9}x", "\u{e9}y", (2, 0)),
            ("", "a", (0, 0)),
        ];
        for (a, b, expected) in cases {
            assert_eq!(common(a, b), expected, "{a} {b}");
        }
    }
}
