//! How the references of one file are read, layer by layer.

use serde::Serialize;

use crate::job::{Job, file_name, name_in_folder, open_document};
use crate::place::{Found, Place};
use crate::report::SCHEMA;
use crate::resolve::Target;
use crate::rewrite::{ExplainedReference, Judge, PlanOptions, explain_references};
use crate::scan::Sieve;
use crate::sheet::Sheet;

/// How one file is read.
#[derive(Debug, Serialize)]
pub struct Explanation {
    /// Version of this document.
    pub schema: u32,
    /// The question.
    pub command: &'static str,
    /// The file.
    pub file: String,
    /// The file name's bytes where it is not Unicode.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub file_bytes: Option<Vec<u8>>,
    /// Length of its byte-order mark in bytes; 0 without one.
    pub mark: usize,
    /// Its encoding.
    pub encoding: &'static str,
    /// The format that reads it.
    pub format: &'static str,
    /// The format that it claims to be of, and whose grammar it breaks.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub broke: Option<&'static str>,
    /// Why nothing in it may be changed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub sealed: Option<&'static str>,
    /// Why it is left as a whole, although references would move.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub left: Option<String>,
    /// Its references in order.
    pub references: Vec<ExplainedReference>,
}

impl Judge for Job<'_> {
    fn counts(&self, found: &Found, place: &Place) -> bool {
        Job::counts(self, found, place)
    }

    fn target(&self, place: &Place) -> Target {
        self.resolver.target(place)
    }
}

/// Explains the file that is the job's scope, or one line of it.
///
/// # Errors
/// A sentence that says why the file cannot be explained.
pub fn explain(job: &Job<'_>, line: Option<usize>) -> Result<Explanation, String> {
    let everything = Sieve::new(&Sheet::default(), true);
    let walked = job.walk(&everything, |entry| {
        let Some(content) = entry.content else {
            return Err(
                "it is larger than a document may be; raise --max-document to explain it"
                    .to_owned(),
            );
        };
        let reading = job.reading(entry);
        let Some(document) = open_document(content, entry.path, reading) else {
            return Err("it is no text, so nothing in it is read".to_owned());
        };
        let options = PlanOptions {
            sheet: job.sheet,
            reading,
            repair: job.repair,
        };
        let name = name_in_folder(entry.path);
        let (references, left) =
            explain_references(&document, content, &name, (options, line), job);
        let name = file_name(entry.path);
        Ok(Some(Explanation {
            schema: SCHEMA,
            command: "explain",
            file: name.shown,
            file_bytes: name.bytes,
            mark: document.text.mark,
            encoding: document.text.encoding.name(),
            format: document.format.name(),
            broke: document.broke,
            sealed: document.sealed,
            left,
            references,
        }))
    });
    if let Some(fault) = walked.faults.into_iter().next() {
        return Err(fault.why);
    }
    let explained = walked.items.into_iter().next();
    explained.ok_or_else(|| "it is no file that can be read".to_owned())
}
