//! The answers as people and machines read them.
//!
//! One file a question under this folder says how people read its answer; one file a form under
//! [`forms`] says how any answer is written. [`answer`] is the one place that brings them together.

mod bridge;
mod check;
mod common;
mod compare;
pub(crate) mod evidence;
mod explain;
mod formats;
pub(crate) mod forms;
mod history;
mod page;
pub(crate) mod plan;
mod references;
mod restore;
mod rewrite;
pub(crate) mod sheet;
mod survey;
mod table;
mod trace;
mod words;
mod wrap;

use std::io::{self, Write};

use lastmaker_core::record::Record;
use lastmaker_core::report::{Answer, Document, Reference};

pub(crate) use words::{are, bytes, count, grouped, left, verb};

use crate::exit::{CommandResult, Failure, Outcome};

/// What a text for people is written to, and what it needs beside the answer.
pub(crate) struct Page<'o> {
    pub(crate) out: &'o mut dyn Write,
    /// The option with which later commands find the same records, with a blank before it; empty
    /// if they need none.
    pub(crate) records: String,
    /// Whether everything is listed.
    pub(crate) verbose: bool,
    /// How much of it is told.
    pub(crate) extent: Extent,
    /// How many letters fit on a line, if that is known.
    pub(crate) width: Option<usize>,
    /// Whether something was written already.
    pub(crate) begun: bool,
}

impl<'o> Page<'o> {
    /// A page of which as much is told as can be read, and which needs no records.
    pub(crate) fn usual(out: &'o mut dyn Write, width: Option<usize>) -> Self {
        Page {
            out,
            records: String::new(),
            verbose: false,
            extent: Extent::Usual,
            width,
            begun: false,
        }
    }

    /// An empty line between what was written and what comes.
    pub(crate) fn gap(&mut self) -> io::Result<()> {
        if std::mem::replace(&mut self.begun, true) {
            writeln!(self.out)
        } else {
            Ok(())
        }
    }
}

/// How much of an answer is told to people.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Extent {
    /// As much as can be read.
    Usual,
    /// Tables and totals.
    Summary,
    /// One list, in full.
    Only(Listed),
}

/// A list of an answer.
#[derive(Clone, Copy, Debug, PartialEq, Eq, clap::ValueEnum)]
pub(crate) enum Listed {
    /// What changes, before and after
    Changed,
    /// What is left because it could be read two ways, is mistyped or would collide
    Doubts,
    /// What names a place that is not there
    Missing,
    /// What cannot be rewritten
    Sealed,
}

/// How an answer is wanted.
#[derive(Clone, Copy, Debug)]
pub(crate) struct How {
    /// In which form.
    pub(crate) form: forms::Asked,
    /// Whether everything is listed.
    pub(crate) verbose: bool,
    /// How much of it is told to people.
    pub(crate) extent: Extent,
    /// How many letters fit on a line, if that is known.
    pub(crate) width: Option<usize>,
}

/// An answer that people can read.
pub(crate) trait ForPeople: Answer {
    /// Writes it in words.
    fn write(&self, page: &mut Page<'_>) -> io::Result<()>;

    /// What of it is a table with a row for each reference, or whatever it is about; none if nothing is.
    fn cells(&self) -> Option<Cells<'_>> {
        None
    }

    /// Its references, which may be very many, and the document without them; none if it is small.
    fn apart(&self) -> Option<Apart<'_>> {
        None
    }
}

/// A table as a spreadsheet takes it.
pub(crate) struct Cells<'a> {
    pub(crate) heading: &'static [&'static str],
    pub(crate) rows: Box<dyn Iterator<Item = Vec<String>> + 'a>,
}

/// An answer whose references are told one by one.
pub(crate) struct Apart<'a> {
    pub(crate) references: Box<dyn Iterator<Item = Reference> + 'a>,
    /// The document, without references.
    pub(crate) rest: serde_json::Value,
}

/// An answer in whatever form it is wanted.
pub(crate) trait Renderable {
    /// Writes it in words.
    fn text(&self, page: &mut Page<'_>) -> io::Result<()>;

    /// Writes it as one JSON document, indented.
    fn json(&self, out: &mut dyn Write) -> io::Result<()>;

    /// Writes it as JSON documents, one on each line.
    fn json_lines(&self, out: &mut dyn Write) -> io::Result<()>;

    /// The document as a value.
    fn document(&self) -> io::Result<serde_json::Value>;

    /// What of it is a table; else the command whose answer it is.
    fn table(&self) -> Result<Cells<'_>, &'static str>;
}

impl<A: ForPeople> Renderable for A {
    fn text(&self, page: &mut Page<'_>) -> io::Result<()> {
        self.write(page)
    }

    fn json(&self, out: &mut dyn Write) -> io::Result<()> {
        forms::write_json(out, &Document::of(self))
    }

    fn json_lines(&self, out: &mut dyn Write) -> io::Result<()> {
        match self.apart() {
            Some(apart) => forms::write_json_lines(out, apart.rest, apart.references),
            None => forms::write_json_lines(out, self.document()?, std::iter::empty()),
        }
    }

    fn document(&self) -> io::Result<serde_json::Value> {
        Ok(serde_json::to_value(Document::of(self))?)
    }

    fn table(&self) -> Result<Cells<'_>, &'static str> {
        self.cells().ok_or(self.command())
    }
}

/// The page of what a record's run answered; `records` is the option with which it is found again.
pub(crate) fn page_of_record(
    record: &Record,
    report: &[u8],
    records: String,
) -> Result<String, Failure> {
    let document = serde_json::from_slice(report).map_err(|fault| {
        Failure::new(format!(
            "what record {} tells cannot be read: {fault}",
            record.id
        ))
    })?;
    let created = record.header.as_ref();
    let about = page::About {
        records,
        record: Some(page::Recorded {
            id: record.id.clone(),
            folder: record.folder.to_string_lossy().into_owned(),
            when: created
                .and_then(|header| history::local(&header.created))
                .unwrap_or_default(),
        }),
    };
    page::page(&document, &about)
}

/// Writes an answer in words, whatever form was asked for.
pub(crate) fn written<A: ForPeople>(answer: &A, page: &mut Page<'_>) -> io::Result<()> {
    answer.write(page)
}

/// Writes an answer in the form that was asked for, and says how the command came out.
pub(crate) fn answer<A: ForPeople>(
    how: How,
    out: &mut dyn Write,
    records: String,
    answer: &A,
) -> CommandResult {
    let mut page = Page {
        records,
        verbose: how.verbose,
        extent: how.extent,
        ..Page::usual(out, how.width)
    };
    let written = how.form.0.write(answer, &mut page);
    match written.and_then(|()| Ok(page.out.flush()?)) {
        // Who has read enough still learns how it came out.
        Ok(()) | Err(Failure::ReaderGone) => Ok(Outcome::of(answer.has_findings())),
        Err(failure) => Err(failure),
    }
}
