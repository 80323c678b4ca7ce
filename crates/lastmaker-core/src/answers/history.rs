//! The records of one user.

use std::path::Path;

use crate::record::{
    Chain, Kind, Manifest, PathText, Record, RecordError, RecordState, Store, Timestamp,
    restore_items,
};
use crate::report::{ForgetReport, HistoryReport, LeftRecord, RecordKind, RecordLine};

use super::restore::familiar;

/// Lists the records of `store`, the oldest first.
pub fn history(store: &Store) -> HistoryReport {
    let chain = Chain::of(store);
    let mut records: Vec<RecordLine> = store
        .list()
        .into_iter()
        .map(|record| line(record, &chain))
        .collect();
    let restores = records.iter().filter_map(|record| {
        let of = record.undoes.clone().filter(|_| record.files > 0)?;
        Some((of, record.id.clone()))
    });
    let restores: Vec<(String, String)> = restores.collect();
    for record in &mut records {
        let own = restores.iter().filter(|(of, _)| *of == record.id);
        record.taken_back_by = own.map(|(_, by)| by.clone()).collect();
    }
    HistoryReport {
        records,
        folder: store.folder().to_string_lossy().into_owned(),
    }
}

fn line(record: Record, chain: &Chain) -> RecordLine {
    let manifest = match record.state {
        RecordState::Damaged(_) | RecordState::ListOnly(_) => None,
        _ => Some(record.manifest()),
    };
    let state = match &manifest {
        Some(Err(error)) => RecordState::Damaged(error.to_string()),
        _ => record.state.clone(),
    };
    let mut line = RecordLine {
        id: record.id,
        folder: record.folder.to_string_lossy().into_owned(),
        created: None,
        kind: None,
        moves: Vec::new(),
        paths: Vec::new(),
        files: record.files,
        taken_back: 0,
        taken_back_by: Vec::new(),
        bytes: size(&record.folder),
        unfinished: state == RecordState::Unfinished,
        state: words(&state),
        undoes: None,
    };
    if let Some(header) = record.header {
        line.created = Some(header.created);
        line.kind = Some(match header.kind {
            Kind::Rewrite => RecordKind::Rewrite,
            Kind::Restore => RecordKind::Restore,
            Kind::Bridge => RecordKind::Bridge,
        });
        line.undoes = header.undoes;
        line.moves = header.moves;
        let paths = header.scope.iter().map(PathText::to_path);
        line.paths = paths.map(|path| familiar(&path)).collect();
    }
    if let Some(Ok(manifest)) = manifest {
        let links = || manifest.steps_done().filter(|step| step.is_of_link());
        line.files = manifest.done().count() + links().count();
        line.taken_back =
            taken_back(&manifest, chain) + links().filter(|step| step.reverse().stands()).count();
    }
    line
}

fn taken_back(manifest: &Manifest, chain: &Chain) -> usize {
    let items = restore_items(manifest, chain, |_| true);
    items.iter().filter(|item| item.is_taken_back()).count()
}

/// What is unusual about a record; empty if nothing is.
fn words(state: &RecordState) -> String {
    match state {
        RecordState::Finished => String::new(),
        RecordState::Unfinished => "broken off".to_owned(),
        RecordState::BeingWritten => "being written".to_owned(),
        RecordState::ListOnly(version) => {
            format!("made by another build (version {version}), which must restore it")
        }
        RecordState::Damaged(why) => format!("damaged: {why}"),
    }
}

/// What a folder of ours takes on the disk, in bytes.
fn size(folder: &Path) -> u64 {
    let mut bytes = 0;
    for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
        bytes += match entry.metadata() {
            Ok(metadata) if metadata.is_dir() => size(&entry.path()),
            Ok(metadata) => metadata.len(),
            Err(_) => 0,
        };
    }
    bytes
}

/// Which records are to be forgotten.
#[derive(Clone, Debug)]
pub enum Forgotten {
    /// The one of this name.
    One(String),
    /// Those begun before this time.
    Before(Timestamp),
}

/// The records of `store` that `which` means, the oldest first, and their sizes in bytes.
///
/// # Errors
/// Where there is none of the name.
pub fn to_forget(store: &Store, which: &Forgotten) -> Result<Vec<(Record, u64)>, RecordError> {
    let is_meant = |record: &Record| match which {
        Forgotten::One(id) => record.id == *id,
        Forgotten::Before(time) => {
            let created = record.header.as_ref().map(|header| header.created.parse());
            matches!(created, Some(Ok(created)) if Timestamp::lt(&created, time))
        }
    };
    let all: Vec<Record> = store.list().into_iter().filter(is_meant).collect();
    match (all.is_empty(), which) {
        (true, Forgotten::One(id)) => Err(RecordError::Unknown {
            id: id.clone(),
            store: store.folder().to_owned(),
        }),
        _ => Ok(all
            .into_iter()
            .map(|record| {
                let bytes = size(&record.folder);
                (record, bytes)
            })
            .collect()),
    }
}

/// Removes records and their originals; those that did not come to their end are kept.
pub fn forget(store: &Store, records: &[(Record, u64)]) -> ForgetReport {
    let mut report = ForgetReport::default();
    for (record, bytes) in records {
        match store.forget(record) {
            Ok(()) => {
                report.forgotten.push(record.id.clone());
                report.bytes += bytes;
            }
            Err(why) => report.left.push(LeftRecord {
                id: record.id.clone(),
                why: why.to_string(),
            }),
        }
    }
    report
}
