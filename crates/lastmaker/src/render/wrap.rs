//! Text that fits the terminal's width, with what does not fit indented on further lines.

use std::io::{self, Write};

use anstyle::Style;
use unicode_width::UnicodeWidthChar;

use crate::ui::shown;

/// Lines are not broken for terminals that are narrower than this.
const NARROWEST: usize = 40;

/// A part of a line that is written in one style. What is in it is made safe to show.
pub(super) struct Piece {
    text: String,
    style: Style,
}

impl Piece {
    pub(super) fn plain(text: &str) -> Self {
        Self::styled(text, Style::new())
    }

    pub(super) fn styled(text: &str, style: Style) -> Self {
        Self {
            text: shown(text),
            style,
        }
    }
}

/// Writes a line of which `indent` columns are written already, broken wherever it is full.
pub(super) fn write_wrapped(
    out: &mut dyn Write,
    pieces: &[Piece],
    indent: usize,
    width: Option<usize>,
) -> io::Result<()> {
    let width = width.filter(|width| *width >= NARROWEST);
    let mut column = indent;
    for Piece { text, style } in pieces.iter().filter(|piece| !piece.text.is_empty()) {
        write!(out, "{style}")?;
        let mut from = 0;
        for (at, letter) in text.char_indices() {
            let wide = letter.width().unwrap_or(0);
            if width.is_some_and(|width| column + wide > width) {
                write!(out, "{}{style:#}\n{:indent$}{style}", &text[from..at], "")?;
                (from, column) = (at, indent);
            }
            column += wide;
        }
        write!(out, "{}{style:#}", &text[from..])?;
    }
    writeln!(out)
}

/// Writes a sentence of which some columns are written already, broken between words where it is full;
/// further lines are indented by `indent`.
pub(super) fn write_indented(
    out: &mut dyn Write,
    text: &str,
    indent: usize,
    width: Option<usize>,
) -> io::Result<()> {
    let Some(width) = width.filter(|width| *width >= NARROWEST) else {
        return writeln!(out, "{text}");
    };
    let wide = |text: &str| {
        text.chars()
            .filter_map(UnicodeWidthChar::width)
            .sum::<usize>()
    };
    let mut column = indent;
    for (number, word) in text.split(' ').enumerate() {
        let next = column + usize::from(number > 0) + wide(word);
        if number > 0 && next > width && column > indent {
            write!(out, "\n{:indent$}{word}", "")?;
            column = indent + wide(word);
        } else {
            write!(out, "{}{word}", if number > 0 { " " } else { "" })?;
            column = next;
        }
    }
    writeln!(out)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_does_not_fit_goes_on_indented() {
        let words = "one two three four five six seven eight nine ten eleven";
        let mut out = Vec::new();
        write_indented(&mut out, words, 4, Some(40)).unwrap();
        let text = String::from_utf8(out).unwrap();
        assert_eq!(
            text,
            "one two three four five six seven\n    eight nine ten eleven\n"
        );
        let pieces = [Piece::plain(&"a".repeat(50)), Piece::plain("b")];
        let mut out = Vec::new();
        write_wrapped(&mut out, &pieces, 6, Some(40)).unwrap();
        let text = String::from_utf8(out).unwrap();
        let expected = format!("{}\n      {}b\n", "a".repeat(34), "a".repeat(16));
        assert_eq!(text, expected);
        // Neither a terminal of unknown width nor a very narrow one breaks anything.
        for width in [None, Some(10)] {
            let mut out = Vec::new();
            write_indented(&mut out, words, 4, width).unwrap();
            assert_eq!(String::from_utf8(out).unwrap(), format!("{words}\n"));
        }
    }
}
