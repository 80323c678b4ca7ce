//! What wants a person's attention, with the reason: one by one, or by reason.

use std::io::{self, Write};

use lastmaker_core::report::{Notice, PlanReport, ReasonName, Reference, Standing};

use super::position;
use crate::render::table::table;
use crate::render::wrap::write_indented;
use crate::render::{Page, count, grouped};
use crate::ui::{DOUBT, FAINT, NAME, quoted, shown};

/// Which of them are listed together, and under what heading.
pub(super) struct Kind {
    pub(super) standing: Standing,
    heading: &'static str,
    /// What one is called in a table.
    word: &'static str,
}

/// What is left although a move touches it, and could perhaps be changed.
pub(super) const DOUBTS: &[Kind] = &[
    Kind {
        standing: Standing::Doubtful,
        heading: "Doubtful: could be read two ways, so left as they are",
        word: "doubtful",
    },
    Kind {
        standing: Standing::Malformed,
        heading: "Malformed: evidently mistyped, so left as they are",
        word: "malformed",
    },
    Kind {
        standing: Standing::Collision,
        heading: "Collisions: entries that must differ would become the same, so left as they are",
        word: "collision",
    },
];

/// What cannot be changed.
pub(super) const SEALED: &[Kind] = &[Kind {
    standing: Standing::Sealed,
    heading: "Sealed: cannot be rewritten safely",
    word: "sealed",
}];

impl Kind {
    /// How many there are in a plan.
    fn number(&self, plan: &PlanReport) -> usize {
        let totals = &plan.totals;
        match self.standing {
            Standing::Doubtful => totals.doubtful,
            Standing::Malformed => totals.malformed,
            Standing::Collision => totals.collision,
            Standing::Sealed => totals.sealed,
            _ => 0,
        }
    }
}

/// How many of these kinds there are.
pub(super) fn number(plan: &PlanReport, kinds: &[Kind]) -> usize {
    kinds.iter().map(|kind| kind.number(plan)).sum()
}

/// Each one with its reason.
pub(super) fn write_each(page: &mut Page<'_>, plan: &PlanReport, kinds: &[Kind]) -> io::Result<()> {
    for kind in kinds.iter().filter(|kind| kind.number(plan) > 0) {
        let of_kind = plan.references();
        let of_kind = of_kind.filter(|one| one.standing == kind.standing);
        section(page, kind.heading, of_kind)?;
    }
    Ok(())
}

/// How many there are for each reason, and where the first is.
pub(super) fn write_reasons(
    page: &mut Page<'_>,
    plan: &PlanReport,
    kinds: &[&[Kind]],
) -> io::Result<()> {
    let mut reasons: Vec<(&str, &str, usize, String)> = Vec::new();
    for one in plan.references() {
        let mut all = kinds.iter().copied().flatten();
        let Some(kind) = all.find(|kind| kind.standing == one.standing) else {
            continue;
        };
        let reason = one.reason.map(ReasonName::word).unwrap_or_default();
        let known = reasons
            .iter_mut()
            .find(|known| (known.0, known.1) == (kind.word, reason));
        match known {
            Some((.., number, _)) => *number += 1,
            None => reasons.push((kind.word, reason, 1, place_of(&one))),
        }
    }
    if reasons.is_empty() {
        return Ok(());
    }
    let of_kinds = kinds.iter().copied().flatten();
    let order: Vec<&str> = of_kinds.map(|kind| kind.word).collect();
    let place = |word: &str| order.iter().position(|one| *one == word);
    reasons.sort_by_key(|(word, _, number, _)| (place(word), std::cmp::Reverse(*number)));
    let heading = ["left", "reason", "first", "references"];
    let mut rows = vec![heading.map(str::to_owned)];
    for (word, reason, number, first) in reasons {
        rows.push([word.to_owned(), reason.to_owned(), first, grouped(number)]);
    }
    page.gap()?;
    table(page.out, 3, &rows)?;
    writeln!(
        page.out,
        "  {FAINT}--list doubts and --list sealed show each{FAINT:#}"
    )
}

/// What is changed but wants to be known of, each such thing once.
pub(super) fn write_notices(page: &mut Page<'_>, plan: &PlanReport) -> io::Result<()> {
    if plan.totals.notices == 0 {
        return Ok(());
    }
    if page.verbose {
        let noted = plan.references().filter(|one| one.notice.is_some());
        return section(page, "Changed, but mind this", noted);
    }
    page.gap()?;
    let out = &mut *page.out;
    writeln!(out, "{DOUBT}Changed, but mind this:{DOUBT:#}")?;
    for (sentence, number, first) in notices(plan) {
        let times = match number {
            1 => format!("at {first}"),
            number => format!("{}, first at {first}", count(number, "time")),
        };
        write!(out, "  ")?;
        write_indented(out, &format!("{sentence}: {times}"), 4, page.width)?;
    }
    Ok(())
}

/// Each thing to mind once: how often it is, and where the first time.
pub(super) fn notices(plan: &PlanReport) -> Vec<(&'static str, usize, String)> {
    let mut notices: Vec<(&str, usize, String)> = Vec::new();
    if plan.totals.notices == 0 {
        return notices;
    }
    for one in plan.references() {
        let Some(sentence) = one.notice.map(Notice::sentence) else {
            continue;
        };
        match notices.iter_mut().find(|(known, ..)| *known == sentence) {
            Some((_, number, _)) => *number += 1,
            None => notices.push((sentence, 1, place_of(&one))),
        }
    }
    notices
}

/// Where a reference is, as `explain` and `--accept` take it.
fn place_of(reference: &Reference) -> String {
    let file = shown(&reference.file.shown);
    match reference.position {
        Some(at) => format!("{file}:{}:{}", at.line, at.column),
        None => format!("{file} {}", shown(&reference.site)),
    }
}

fn section(
    page: &mut Page<'_>,
    heading: &str,
    references: impl Iterator<Item = Reference>,
) -> io::Result<()> {
    let mut file = None;
    for reference in references {
        if file.is_none() {
            page.gap()?;
            writeln!(page.out, "{DOUBT}{heading}:{DOUBT:#}")?;
        }
        if file.as_ref() != Some(&reference.file) {
            writeln!(page.out, "  {NAME}{}{NAME:#}", shown(&reference.file.shown))?;
            file = Some(reference.file.clone());
        }
        write_left(page.out, &reference, page.width)?;
    }
    Ok(())
}

/// One doubt, to be decided over.
pub(crate) fn write_doubt(page: &mut Page<'_>, reference: &Reference) -> io::Result<()> {
    write_left(page.out, reference, page.width)
}

/// One reference that is left, or that a person should know something about, with the reason.
fn write_left(out: &mut dyn Write, reference: &Reference, width: Option<usize>) -> io::Result<()> {
    writeln!(out, "    {FAINT}{}{FAINT:#}", position(reference))?;
    let mut line = |text: &str| {
        write!(out, "      ")?;
        write_indented(out, text, 8, width)
    };
    let around = reference.surroundings.as_ref();
    let before = around.map_or(&reference.written, |one| &one.before);
    line(&shown(before))?;
    if let Some(notice) = reference.notice {
        line(notice.sentence())?;
    }
    if let Some(why) = &reference.why {
        line(&shown(why))?;
    }
    if let Some(accepting) = accepting(reference) {
        line(&accepting)?;
    }
    for suggestion in &reference.suggestions {
        let place = shown(&suggestion.place);
        line(&format!("right would be: {place}  ({})", suggestion.why))?;
    }
    Ok(())
}

/// How a doubt is accepted, if it can be.
fn accepting(reference: &Reference) -> Option<String> {
    let name = reference.reason.filter(|name| name.row().acceptable)?;
    let file = quoted(&shown(&reference.file.shown));
    let site = reference
        .position
        .map(|at| format!("--accept {file}:{}:{} or ", at.line, at.column));
    Some(format!(
        "to change it all the same: {}--accept-reason {name}",
        site.unwrap_or_default()
    ))
}
