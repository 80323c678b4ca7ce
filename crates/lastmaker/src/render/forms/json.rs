//! One JSON document for programs.

use std::io::{self, Write};

use serde::Serialize;
use serde_json::ser::{Formatter, PrettyFormatter, Serializer};

use super::Form;
use crate::render::{Page, Told};
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

    fn write(&self, answer: &dyn Told, page: &mut Page<'_>) -> io::Result<()> {
        answer.json(page.out)?;
        writeln!(page.out)
    }
}

/// Writes a document, indented. Characters that steer a terminal are escaped in it, too.
pub(in crate::render) fn write_json(
    out: &mut dyn Write,
    document: &impl Serialize,
) -> io::Result<()> {
    let mut serializer = Serializer::with_formatter(out, Safe(PrettyFormatter::new()));
    Ok(document.serialize(&mut serializer)?)
}

/// Indents, and escapes what JSON allows raw but a terminal would obey.
struct Safe(PrettyFormatter<'static>);

impl Formatter for Safe {
    fn write_string_fragment<W: ?Sized + Write>(
        &mut self,
        out: &mut W,
        text: &str,
    ) -> io::Result<()> {
        let mut from = 0;
        for (at, letter) in text.char_indices().filter(|(_, letter)| steers(*letter)) {
            out.write_all(&text.as_bytes()[from..at])?;
            for unit in letter.encode_utf16(&mut [0; 2]) {
                write!(out, "\\u{unit:04x}")?;
            }
            from = at + letter.len_utf8();
        }
        out.write_all(&text.as_bytes()[from..])
    }

    fn begin_array<W: ?Sized + Write>(&mut self, out: &mut W) -> io::Result<()> {
        self.0.begin_array(out)
    }

    fn end_array<W: ?Sized + Write>(&mut self, out: &mut W) -> io::Result<()> {
        self.0.end_array(out)
    }

    fn begin_array_value<W: ?Sized + Write>(&mut self, out: &mut W, first: bool) -> io::Result<()> {
        self.0.begin_array_value(out, first)
    }

    fn end_array_value<W: ?Sized + Write>(&mut self, out: &mut W) -> io::Result<()> {
        self.0.end_array_value(out)
    }

    fn begin_object<W: ?Sized + Write>(&mut self, out: &mut W) -> io::Result<()> {
        self.0.begin_object(out)
    }

    fn end_object<W: ?Sized + Write>(&mut self, out: &mut W) -> io::Result<()> {
        self.0.end_object(out)
    }

    fn begin_object_key<W: ?Sized + Write>(&mut self, out: &mut W, first: bool) -> io::Result<()> {
        self.0.begin_object_key(out, first)
    }

    fn begin_object_value<W: ?Sized + Write>(&mut self, out: &mut W) -> io::Result<()> {
        self.0.begin_object_value(out)
    }

    fn end_object_value<W: ?Sized + Write>(&mut self, out: &mut W) -> io::Result<()> {
        self.0.end_object_value(out)
    }
}
