//! One JSON document for programs.

use std::io::{self, Write};

use serde::Serialize;

use super::Form;
use crate::exit::Failure;
use crate::render::{Page, Renderable};
use crate::ui::steers;

/// One JSON document for programs.
pub(super) struct Json;

impl Form for Json {
    fn name(&self) -> &'static str {
        "json"
    }

    fn about(&self) -> &'static str {
        "For programs: one JSON document"
    }

    fn write(&self, answer: &dyn Renderable, page: &mut Page<'_>) -> Result<(), Failure> {
        answer.json(page.out)?;
        Ok(writeln!(page.out)?)
    }
}

/// Writes a document, indented. Characters that steer a terminal are escaped in it, too.
pub(in crate::render) fn write_json(
    out: &mut dyn Write,
    document: &impl Serialize,
) -> io::Result<()> {
    Ok(serde_json::to_writer_pretty(Safe(out), document)?)
}

/// Escapes what JSON allows raw in its strings but a terminal would obey; there is no such thing
/// outside of them but the line ends.
pub(super) struct Safe<'o>(pub(super) &'o mut dyn Write);

impl Write for Safe<'_> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let Ok(text) = std::str::from_utf8(bytes) else {
            return self.0.write(bytes);
        };
        let mut from = 0;
        let steering = |(_, letter): &(usize, char)| *letter != '\n' && steers(*letter);
        for (at, letter) in text.char_indices().filter(steering) {
            self.0.write_all(&bytes[from..at])?;
            for unit in letter.encode_utf16(&mut [0; 2]) {
                write!(self.0, "\\u{unit:04x}")?;
            }
            from = at + letter.len_utf8();
        }
        self.0.write_all(&bytes[from..])?;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.0.flush()
    }
}
