//! The changes of one file, each before and after.

use std::io::{self, Write};
use std::ops::Range;

use anstyle::Style;
use lastmaker_core::report::{PlannedFile, Reference, Standing};

use super::position;
use crate::render::common::common;
use crate::render::wrap::{Piece, write_wrapped};
use crate::render::{Page, count};
use crate::ui::{FAINT, NAME, NEW, OLD, shown};

/// How many of the references that one excerpt shows are named.
const NAMED: usize = 4;

/// A file and its changes.
pub(crate) fn write_file(page: &mut Page<'_>, file: &PlannedFile) -> io::Result<()> {
    page.gap()?;
    let (out, width) = (&mut *page.out, page.width);
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
    let changes = file.references.iter();
    let mut changes = changes
        .filter(|one| one.standing == Standing::ToMove)
        .peekable();
    while let Some(first) = changes.next() {
        let mut at = vec![position(&first)];
        // What is close together on one line is shown together.
        let together = |next: &Reference| {
            let around = next.surroundings.as_ref();
            around.is_some_and(|around| around.shown_before)
        };
        while let Some(next) = changes.next_if(together) {
            at.push(position(&next));
        }
        write_change(out, &first, &at, width)?;
    }
    Ok(())
}

/// The format, and the encoding where there is one for the whole file.
pub(crate) fn format_and_encoding(format: &str, encoding: &str) -> String {
    match encoding {
        "" => format.to_owned(),
        encoding => format!("{format}, {encoding}"),
    }
}

/// An excerpt before and after; `at` says where its references are.
fn write_change(
    out: &mut dyn Write,
    change: &Reference,
    at: &[String],
    width: Option<usize>,
) -> io::Result<()> {
    let Some(around) = &change.surroundings else {
        return Ok(());
    };
    let mut named = at[..at.len().min(NAMED)].join(", ");
    if at.len() > NAMED {
        named.push_str(&format!(" and {} more", at.len() - NAMED));
    }
    writeln!(out, "  {FAINT}{named}{FAINT:#}")?;
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
    write_marked(out, ('-', OLD), before, &old, width)?;
    write_marked(out, ('+', NEW), after, &new, width)
}

fn write_marked(
    out: &mut dyn Write,
    (mark, style): (char, Style),
    text: &str,
    ranges: &[Range<usize>],
    width: Option<usize>,
) -> io::Result<()> {
    write!(out, "    {style}{mark}{style:#} ")?;
    let mut pieces = Vec::new();
    let mut at = 0;
    for range in ranges {
        pieces.push(Piece::plain(&text[at..range.start]));
        pieces.push(Piece::styled(&text[range.clone()], style.bold()));
        at = range.end;
    }
    pieces.push(Piece::plain(&text[at..]));
    write_wrapped(out, &pieces, 6, width)
}
