//! References from their bytes to their places and back.

use std::io::{self, Write};

use anstyle::Style;
use lastmaker_core::report::{ExplainReport, ExplainedReference, Standing, Target};

use super::plan::format_and_encoding;
use super::{ForPeople, Page, count};
use crate::ui::{DOUBT, FAINT, NAME, NEW, OLD, shown};

/// Letters of a text, and bytes, that are shown at most.
const MOST_LETTERS: usize = 300;
const MOST_BYTES: usize = 24;

impl ForPeople for ExplainReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        write_file(page.out, self)?;
        for reference in &self.references {
            writeln!(page.out)?;
            write_reference(page.out, reference, self.with_moves)?;
        }
        let in_line = self
            .line
            .map_or_else(String::new, |line| format!(" in line {line}"));
        if self.references.is_empty() {
            writeln!(page.out, "No place is named{in_line}.")
        } else {
            let references = count(self.references.len(), "reference");
            writeln!(page.out, "\n{references}{in_line}.")
        }
    }
}

/// The file as a whole.
fn write_file(out: &mut dyn Write, explained: &ExplainReport) -> io::Result<()> {
    let mut remarks = format_and_encoding(explained.format, explained.encoding);
    if explained.mark > 0 {
        remarks.push_str(" with a byte-order mark");
    }
    if let Some(broke) = explained.broke {
        remarks.push_str(&format!(", breaks the grammar of {broke}"));
    }
    let name = shown(&explained.file.shown);
    writeln!(out, "{NAME}{name}{NAME:#}  {FAINT}{remarks}{FAINT:#}")?;
    let left = explained.left.as_deref();
    for why in explained.sealed.into_iter().chain(left) {
        writeln!(out, "{DOUBT}Left as it is:{DOUBT:#} {}", shown(why))?;
    }
    Ok(())
}

/// Labels in one column, what they say in the next.
struct Rows<'o> {
    out: &'o mut dyn Write,
    width: usize,
}

impl Rows<'_> {
    fn row(&mut self, label: &str, style: Style, text: &str, remark: &str) -> io::Result<()> {
        let width = self.width;
        write!(
            self.out,
            "    {FAINT}{label:width$}{FAINT:#}  {style}{text}{style:#}"
        )?;
        if !remark.is_empty() {
            write!(self.out, "  {FAINT}{remark}{FAINT:#}")?;
        }
        writeln!(self.out)
    }
}

fn write_reference(
    out: &mut dyn Write,
    reference: &ExplainedReference,
    with_moves: bool,
) -> io::Result<()> {
    write_heading(out, reference, with_moves)?;
    let widest = reference.layers.iter().map(|one| one.layer.chars().count());
    let width = widest.chain(["new place".len()]).max().unwrap_or_default();
    let mut rows = Rows { out, width };
    write_inwards(&mut rows, reference)?;
    write_move(&mut rows, reference, with_moves)?;
    write_outwards(&mut rows, reference)?;
    write_remarks(&mut rows, reference)
}

/// Where it is, what it is, how it stands.
fn write_heading(
    out: &mut dyn Write,
    reference: &ExplainedReference,
    with_moves: bool,
) -> io::Result<()> {
    let site = match reference.site.as_str() {
        "" => reference.part.to_owned(),
        site => format!("{}, {}", shown(site), reference.part),
    };
    let style = match reference.standing {
        Standing::Doubtful | Standing::Malformed | Standing::Sealed | Standing::Collision => DOUBT,
        _ => NAME,
    };
    let at = match reference.position {
        None => String::new(),
        Some(at) => format!("{NAME}{}:{}{NAME:#}  ", at.line, at.column),
    };
    write!(out, "  {at}{site}")?;
    if with_moves {
        write!(out, "  {style}{}{style:#}", reference.standing.word())?;
    }
    writeln!(out)
}

/// From the bytes to the place.
fn write_inwards(rows: &mut Rows<'_>, reference: &ExplainedReference) -> io::Result<()> {
    let plain = Style::new();
    let offset = format!("at {}", reference.offset);
    rows.row("bytes", plain, &bytes(&reference.bytes), &offset)?;
    for one in &reference.layers {
        let style = if one.becomes.is_some() { OLD } else { plain };
        rows.row(one.layer, style, &short(&one.text), "")?;
    }
    rows.row("spelling", plain, &reference.spelling, "")?;
    let place = shown(&reference.place);
    rows.row("place", NAME, &place, target(reference.target))
}

/// By which move it goes where.
fn write_move(
    rows: &mut Rows<'_>,
    reference: &ExplainedReference,
    with_moves: bool,
) -> io::Result<()> {
    match &reference.by {
        Some(by) => {
            let by = format!("{} becomes {}", by.from, by.to);
            rows.row("move", Style::new(), &shown(&by), "")?;
        }
        None if with_moves && reference.standing == Standing::Elsewhere => {
            rows.row("move", FAINT, "none touches it", "")?;
        }
        None if reference.standing == Standing::Moved => {
            rows.row("move", FAINT, "it names a new place already", "")?;
        }
        None => {}
    }
    match &reference.new_place {
        Some(place) => {
            let target = target(reference.new_target);
            rows.row("new place", NAME, &shown(place), target)
        }
        None => Ok(()),
    }
}

/// From the new place to its bytes.
fn write_outwards(rows: &mut Rows<'_>, reference: &ExplainedReference) -> io::Result<()> {
    for one in reference.layers.iter().rev() {
        if let Some(becomes) = &one.becomes {
            rows.row(one.layer, NEW, &short(becomes), "")?;
        }
    }
    match &reference.new_bytes {
        Some(new) => rows.row("bytes", Style::new(), &bytes(new), ""),
        None => Ok(()),
    }
}

/// What a person should know.
fn write_remarks(rows: &mut Rows<'_>, reference: &ExplainedReference) -> io::Result<()> {
    if let Some(why) = &reference.why {
        rows.row("stays", DOUBT, &shown(why), "")?;
    }
    if let Some(reason) = reference.reason {
        let said = reference.why.as_ref();
        let cure = reason.row().cure;
        if said.is_none_or(|why| !why.contains(cure)) {
            rows.row("to do", Style::new(), cure, reason.word())?;
        }
    }
    if let Some(notice) = reference.notice {
        rows.row("mind", DOUBT, notice.sentence(), "")?;
    }
    for one in &reference.suggestions {
        let remark = format!("({})", one.why);
        rows.row("right", Style::new(), &shown(&one.place), &remark)?;
    }
    Ok(())
}

fn target(target: Option<Target>) -> &'static str {
    match target {
        Some(Target::Live) => "exists",
        Some(Target::Dangling) => "does not exist",
        Some(Target::Unreachable) => "cannot be checked from here",
        None => "",
    }
}

fn short(text: &str) -> String {
    let text = shown(text);
    match text.char_indices().nth(MOST_LETTERS) {
        Some((end, _)) => format!("{}\u{2026}", &text[..end]),
        None => text,
    }
}

/// Hex digits, and how many bytes there are if that is not to be seen.
fn bytes(hex: &str) -> String {
    let number = hex.len().div_ceil(3);
    if number <= MOST_BYTES {
        return hex.to_owned();
    }
    format!("{} \u{2026} {number} bytes", &hex[..MOST_BYTES * 3 - 1])
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_long_is_cut() {
        assert_eq!(bytes("44 3a"), "44 3a");
        let long = vec!["00"; 30].join(" ");
        assert!(bytes(&long).ends_with("00 \u{2026} 30 bytes"));
        assert_eq!(
            short(&"\u{e9}".repeat(400)).chars().count(),
            MOST_LETTERS + 1
        );
    }
}
