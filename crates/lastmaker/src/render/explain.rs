//! References from their bytes to their places and back.

use std::io::{self, Write};

use anstyle::Style;
use lastmaker_core::explain::Explanation;
use lastmaker_core::report::Standing;
use lastmaker_core::resolve::Target;
use lastmaker_core::rewrite::ExplainedReference;

use super::count;
use super::plan::format_and_encoding;
use crate::ui::{DOUBT, FAINT, NAME, NEW, OLD, shown};

/// Letters of a text, and bytes, that are shown at most.
const MOST_LETTERS: usize = 300;
const MOST_BYTES: usize = 24;

/// The file, and each of its references.
pub(crate) fn write(
    out: &mut dyn Write,
    explained: &Explanation,
    line: Option<usize>,
    with_moves: bool,
) -> io::Result<()> {
    let mut remarks = format_and_encoding(explained.format, explained.encoding);
    if explained.mark > 0 {
        remarks.push_str(" with a byte-order mark");
    }
    if let Some(broke) = explained.broke {
        remarks.push_str(&format!(", breaks the grammar of {broke}"));
    }
    writeln!(
        out,
        "{NAME}{}{NAME:#}  {FAINT}{remarks}{FAINT:#}",
        shown(&explained.file)
    )?;
    for why in explained
        .sealed
        .into_iter()
        .chain(explained.left.as_deref())
    {
        writeln!(out, "{DOUBT}Left as it is:{DOUBT:#} {}", shown(why))?;
    }
    for reference in &explained.references {
        writeln!(out)?;
        write_reference(out, reference, with_moves)?;
    }
    let in_line = line.map_or_else(String::new, |line| format!(" in line {line}"));
    if explained.references.is_empty() {
        writeln!(out, "No place is named{in_line}.")
    } else {
        writeln!(
            out,
            "\n{}{in_line}.",
            count(explained.references.len(), "reference")
        )
    }
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
    let site = match reference.site.as_str() {
        "" => reference.part.to_owned(),
        site => format!("{}, {}", shown(site), reference.part),
    };
    let style = match reference.standing {
        Standing::Doubtful | Standing::Malformed | Standing::Sealed | Standing::Collision => DOUBT,
        _ => NAME,
    };
    let at = match reference.line {
        0 => String::new(),
        line => format!("{NAME}{line}:{}{NAME:#}  ", reference.column),
    };
    write!(out, "  {at}{site}")?;
    if with_moves {
        write!(out, "  {style}{}{style:#}", reference.standing.word())?;
    }
    writeln!(out)?;
    let plain = Style::new();
    let widest = reference.layers.iter().map(|one| one.layer.chars().count());
    let width = widest.chain(["new place".len()]).max().unwrap_or_default();
    let mut rows = Rows { out, width };
    rows.row(
        "bytes",
        plain,
        &bytes(&reference.bytes),
        &format!("at {}", reference.offset),
    )?;
    for one in &reference.layers {
        let style = if one.becomes.is_some() { OLD } else { plain };
        rows.row(one.layer, style, &short(&one.text), "")?;
    }
    rows.row("spelling", plain, &reference.spelling, "")?;
    rows.row(
        "place",
        NAME,
        &shown(&reference.place),
        target(reference.target),
    )?;
    match &reference.by {
        Some(by) => {
            let by = format!("{} becomes {}", by.from, by.to);
            rows.row("move", plain, &shown(&by), "")?;
        }
        None if with_moves && reference.standing == Standing::Elsewhere => {
            rows.row("move", FAINT, "none touches it", "")?;
        }
        None if reference.standing == Standing::Moved => {
            rows.row("move", FAINT, "it names a new place already", "")?;
        }
        None => {}
    }
    if let Some(place) = &reference.new_place {
        rows.row(
            "new place",
            NAME,
            &shown(place),
            target(reference.new_target),
        )?;
    }
    for one in reference.layers.iter().rev() {
        if let Some(becomes) = &one.becomes {
            rows.row(one.layer, NEW, &short(becomes), "")?;
        }
    }
    if let Some(new) = &reference.new_bytes {
        rows.row("bytes", plain, &bytes(new), "")?;
    }
    if let Some(why) = &reference.why {
        rows.row("stays", DOUBT, &shown(why), "")?;
    }
    if let Some(notice) = reference.notice {
        rows.row("mind", DOUBT, notice.sentence(), "")?;
    }
    for one in &reference.suggestions {
        rows.row(
            "right",
            plain,
            &shown(&one.place),
            &format!("({})", one.why),
        )?;
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
