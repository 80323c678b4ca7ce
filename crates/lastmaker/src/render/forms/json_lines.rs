//! JSON documents for programs, one on each line: what the document says beside its lists, and then each item of
//! a list with the list's name. So nobody needs to hold an answer as a whole.

use std::io::{self, Write};

use lastmaker_core::report::Reference;
use serde::Serialize;
use serde_json::{Map, Value};

use super::Form;
use super::json::Safe;
use crate::exit::Failure;
use crate::render::{Page, Renderable};

/// JSON documents for programs, one on each line.
pub(super) struct JsonLines;

impl Form for JsonLines {
    fn name(&self) -> &'static str {
        "jsonl"
    }

    fn about(&self) -> &'static str {
        "For programs: JSON, a line for each item of a list"
    }

    fn write(&self, answer: &dyn Renderable, page: &mut Page<'_>) -> Result<(), Failure> {
        Ok(answer.json_lines(page.out)?)
    }
}

/// One item of a list, with the name of that.
#[derive(Serialize)]
struct Item<'i, T> {
    list: &'i str,
    #[serde(flatten)]
    item: T,
}

/// Writes a document as lines, and `references` among its lists.
pub(in crate::render) fn write_json_lines(
    out: &mut dyn Write,
    document: Value,
    references: impl Iterator<Item = Reference>,
) -> io::Result<()> {
    let Value::Object(fields) = document else {
        return line(out, &document);
    };
    let is_list = |value: &Value| {
        let items = value.as_array();
        items.is_some_and(|items| items.iter().all(Value::is_object))
    };
    let (lists, around): (Map<_, _>, Map<_, _>) =
        fields.into_iter().partition(|(_, value)| is_list(value));
    line(out, &around)?;
    for item in references {
        let list = "references";
        line(out, &Item { list, item })?;
    }
    for (list, items) in &lists {
        for item in items.as_array().into_iter().flatten() {
            line(out, &Item { list, item })?;
        }
    }
    Ok(())
}

fn line(out: &mut dyn Write, value: &impl Serialize) -> io::Result<()> {
    serde_json::to_writer(Safe(out), value)?;
    writeln!(out)
}
