//! A small table: columns of text, then columns of numbers.

use std::io::{self, Write};

use unicode_width::UnicodeWidthStr;

use crate::ui::FAINT;

/// Writes a table whose first `texts` columns are text and whose others are numbers, its first row
/// a heading. Whatever is in the cells is shown as it is.
pub(super) fn table<const N: usize>(
    out: &mut dyn Write,
    texts: usize,
    rows: &[[String; N]],
) -> io::Result<()> {
    let widest = |column: usize| rows.iter().map(|row| row[column].width()).max();
    let widths: Vec<usize> = (0..N).map(|at| widest(at).unwrap_or(0)).collect();
    for (index, row) in rows.iter().enumerate() {
        let mut line = String::new();
        for (at, cell) in row.iter().enumerate() {
            let pad = " ".repeat(widths[at] - cell.width());
            line.push_str("  ");
            if at < texts {
                line.extend([cell.as_str(), &pad]);
            } else {
                line.extend([pad.as_str(), cell]);
            }
        }
        let line = line.trim_end();
        match index {
            0 => writeln!(out, "{FAINT}{line}{FAINT:#}")?,
            _ => writeln!(out, "{line}")?,
        }
    }
    Ok(())
}
