//! How the references of one file are read, layer by layer.

use serde::Serialize;

use crate::job::{Job, file_name, name_in_folder};
use crate::place::{Found, Place};
use crate::report::SCHEMA;
use crate::resolve::Target;
use crate::rewrite::{ExplainedReference, Judge, PlanOptions, explain_references};
use crate::scan::{Content, Kind, LINK, Sieve, kind_of};
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
    /// Its encoding; empty for a container.
    #[serde(skip_serializing_if = "str::is_empty")]
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
        let shown = file_name(entry.path);
        let mut explained = Explanation {
            schema: SCHEMA,
            command: "explain",
            file: shown.shown,
            file_bytes: shown.bytes,
            mark: 0,
            encoding: "",
            format: "",
            broke: None,
            sealed: None,
            left: None,
            references: Vec::new(),
        };
        let name = name_in_folder(entry.path);
        let reading = job.reading(entry);
        match entry.content {
            Content::Whole(content) => match kind_of(content, &name, reading) {
                Kind::Container(container) => explained.format = container.name(),
                Kind::Document(document) => {
                    explained.mark = document.text.mark;
                    explained.encoding = document.text.encoding.name();
                    explained.format = document.format.name();
                    explained.broke = document.broke;
                    explained.sealed = document.sealed;
                }
            },
            Content::Link(_) => explained.format = LINK,
            Content::TooLarge => {}
        }
        let mut left = job.look_inside(entry, true, &mut |leaf| {
            let options = PlanOptions {
                sheet: job.sheet,
                reading: leaf.reading,
                repair: job.repair,
            };
            let (references, left) = explain_references(leaf, (options, line), job);
            explained.references.extend(references);
            explained.left = explained.left.take().or(left);
        })?;
        explained.left = explained.left.take().or(left.pop());
        Ok(Some(explained))
    });
    if let Some(fault) = walked.faults.into_iter().next() {
        return Err(fault.why);
    }
    let explained = walked.items.into_iter().next();
    explained.ok_or_else(|| "it is no file that can be read".to_owned())
}
