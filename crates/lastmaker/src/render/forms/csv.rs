//! A table for spreadsheets (RFC 4180).

use std::io::{self, Write};

use super::Form;
use crate::exit::Failure;
use crate::render::{Cells, Page, Renderable};
use crate::ui::shown;

/// A table for spreadsheets.
pub(super) struct Csv;

/// By this spreadsheets know that letters are in UTF-8.
const MARK: &str = "\u{feff}";

impl Form for Csv {
    fn name(&self) -> &'static str {
        "csv"
    }

    fn about(&self) -> &'static str {
        "For spreadsheets: a row for each reference, place or difference"
    }

    fn write(&self, answer: &dyn Renderable, page: &mut Page<'_>) -> Result<(), Failure> {
        let Cells { heading, rows } = answer.table().map_err(|command| {
            Failure::with_help(
                format!("the answer of {command} is no table"),
                "csv is for survey, compare, preview, rewrite and check; --format json writes any answer",
            )
        })?;
        write!(page.out, "{MARK}")?;
        write_row(page.out, heading.iter().copied())?;
        for row in rows {
            write_row(page.out, row.iter().map(String::as_str))?;
        }
        Ok(())
    }
}

fn write_row<'c>(out: &mut dyn Write, cells: impl Iterator<Item = &'c str>) -> io::Result<()> {
    for (number, cell) in cells.enumerate() {
        let comma = if number > 0 { "," } else { "" };
        write!(out, "{comma}{}", quoted(cell))?;
    }
    write!(out, "\r\n")
}

/// A cell as it is written. What a spreadsheet would take for a formula gets an apostrophe, by which it is text.
fn quoted(cell: &str) -> String {
    let cell = shown(cell);
    let formula = cell.starts_with(['=', '+', '-', '@', '\t']);
    let defused = if formula { format!("'{cell}") } else { cell };
    if defused.contains([',', '"', ';', '\'']) || defused.starts_with(' ') {
        format!("\"{}\"", defused.replace('"', "\"\""))
    } else {
        defused
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn cells_are_quoted_and_formulas_defused() {
        let cases = [
            ("plain", "plain"),
            (r"D:\a, b", "\"D:\\a, b\""),
            ("say \"x\"", "\"say \"\"x\"\"\""),
            ("=1+1", "\"'=1+1\""),
            ("@SUM(A1)", "\"'@SUM(A1)\""),
            ("-1", "\"'-1\""),
            ("a\nb", "a\\u{a}b"),
        ];
        for (cell, expected) in cases {
            assert_eq!(quoted(cell), expected);
        }
    }
}
