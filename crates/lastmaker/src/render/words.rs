//! Words that several answers use.

use std::io::{self, Write};

use lastmaker_core::report::LeftFile;

use crate::ui::{DOUBT, NAME, shown};

/// A number with its noun: `1 file`, `2 files`.
pub(crate) fn count(number: usize, noun: &str) -> String {
    let s = if number == 1 { "" } else { "s" };
    format!("{} {noun}{s}", grouped(number))
}

/// A number with its noun and what they are: `1 file is read-only`, `2 files are read-only`.
pub(crate) fn are(number: usize, noun: &str, one: &str, many: &str) -> String {
    if number == 1 {
        format!("{} is {one}", count(number, noun))
    } else {
        format!("{} are {many}", count(number, noun))
    }
}

/// A number with its verb: `1 exists`, `2 exist`.
pub(crate) fn verb(number: usize, one: &str, many: &str) -> String {
    let verb = if number == 1 { one } else { many };
    format!("{} {verb}", grouped(number))
}

/// Digits in groups of three.
pub(crate) fn grouped(number: usize) -> String {
    let digits = number.to_string();
    let mut text = String::new();
    for (index, digit) in digits.chars().enumerate() {
        if index > 0 && (digits.len() - index).is_multiple_of(3) {
            text.push(',');
        }
        text.push(digit);
    }
    text
}

/// A size, in the unit that suits it.
pub(crate) fn bytes(size: u64) -> String {
    const UNITS: [&str; 4] = ["KB", "MB", "GB", "TB"];
    let mut amount = size as f64;
    let mut unit = "bytes";
    for next in UNITS {
        if amount < 1000.0 {
            break;
        }
        amount /= 1000.0;
        unit = next;
    }
    match (unit, size) {
        ("bytes", 1) => "1 byte".to_owned(),
        ("bytes", _) => format!("{size} bytes"),
        _ => format!("{amount:.2} {unit}"),
    }
}

/// Files that are left, and why.
pub(crate) fn left(out: &mut dyn Write, left: &[LeftFile], heading: &str) -> io::Result<()> {
    if left.is_empty() {
        return Ok(());
    }
    writeln!(out, "\n{DOUBT}{heading}:{DOUBT:#}")?;
    for file in left {
        writeln!(out, "  {NAME}{}{NAME:#}", shown(&file.file.shown))?;
        writeln!(out, "    {}", shown(&file.why))?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_read_well() {
        assert_eq!(count(1, "file"), "1 file");
        assert_eq!(count(1_234_567, "file"), "1,234,567 files");
        for (size, text) in [
            (1, "1 byte"),
            (999, "999 bytes"),
            (1500, "1.50 KB"),
            (3_110_000_000, "3.11 GB"),
        ] {
            assert_eq!(bytes(size), text);
        }
        assert_eq!(are(1, "file", "old", "old"), "1 file is old");
        assert_eq!(are(100, "file", "old", "old"), "100 files are old");
    }
}
