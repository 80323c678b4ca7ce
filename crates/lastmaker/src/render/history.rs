//! The records on this machine.

use std::io::{self, Write};
use std::path::Path;

use lastmaker_core::record::{Kind, RecordState, Summary};
use lastmaker_core::report::SCHEMA;
use serde::Serialize;

use super::count;
use crate::ui::{DOUBT, FAINT, NAME, shown};

pub(crate) fn write(out: &mut dyn Write, records: &[Summary], folder: &Path) -> io::Result<()> {
    if records.is_empty() {
        return writeln!(
            out,
            "There are no records in {}",
            shown(&folder.to_string_lossy())
        );
    }
    for record in records {
        write!(out, "{NAME}{}{NAME:#}  ", record.id)?;
        if let Some(manifest) = &record.manifest {
            let what = match (manifest.header.kind, &manifest.header.undoes) {
                (Kind::Rewrite, _) => "rewrite".to_owned(),
                (Kind::Restore, Some(undoes)) => format!("restore of {undoes}"),
                (Kind::Restore, None) => "restore".to_owned(),
            };
            write!(out, "{what}, {}", count(manifest.done().count(), "file"))?;
        }
        let state = state(&record.state);
        if !state.is_empty() {
            write!(out, "  {DOUBT}{}{DOUBT:#}", shown(&state))?;
        }
        if !record.taken_back_by.is_empty() {
            write!(
                out,
                "  {FAINT}taken back by {}{FAINT:#}",
                record.taken_back_by.join(", ")
            )?;
        }
        writeln!(out)?;
        for one in record
            .manifest
            .iter()
            .flat_map(|manifest| &manifest.header.moves)
        {
            writeln!(out, "    {FAINT}{}{FAINT:#}", shown(one))?;
        }
    }
    writeln!(out, "\nThey are in {}", shown(&folder.to_string_lossy()))
}

fn state(state: &RecordState) -> String {
    match state {
        RecordState::Finished => String::new(),
        RecordState::Unfinished => "broken off".to_owned(),
        RecordState::BeingWritten => "being written".to_owned(),
        RecordState::ListOnly(version) => {
            format!("made by a newer build (version {version}), which must restore it")
        }
        RecordState::Damaged(why) => format!("damaged: {why}"),
    }
}

/// The records as machines read them.
#[derive(Serialize)]
pub(crate) struct Model<'a> {
    schema: u32,
    command: &'static str,
    records: Vec<Record<'a>>,
}

#[derive(Serialize)]
struct Record<'a> {
    id: &'a str,
    folder: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    created: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    kind: Option<Kind>,
    files: usize,
    #[serde(skip_serializing_if = "String::is_empty")]
    state: String,
    taken_back_by: &'a [String],
}

pub(crate) fn model(records: &[Summary]) -> Model<'_> {
    Model {
        schema: SCHEMA,
        command: "history",
        records: records
            .iter()
            .map(|record| Record {
                id: &record.id,
                folder: record.folder.to_string_lossy().into_owned(),
                created: record
                    .manifest
                    .as_ref()
                    .map(|manifest| manifest.header.created.as_str()),
                kind: record
                    .manifest
                    .as_ref()
                    .map(|manifest| manifest.header.kind),
                files: record
                    .manifest
                    .as_ref()
                    .map_or(0, |manifest| manifest.done().count()),
                state: state(&record.state),
                taken_back_by: &record.taken_back_by,
            })
            .collect(),
    }
}
