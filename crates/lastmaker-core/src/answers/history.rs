//! The records of one user.

use crate::record::{Kind, RecordState, Store, Summary};
use crate::report::{HistoryReport, RecordKind, RecordLine};

/// Lists the records of `store`, the oldest first.
pub fn history(store: &Store) -> HistoryReport {
    HistoryReport {
        records: store.list().into_iter().map(line).collect(),
        folder: store.folder().to_string_lossy().into_owned(),
    }
}

fn line(summary: Summary) -> RecordLine {
    let mut line = RecordLine {
        id: summary.id,
        folder: summary.folder.to_string_lossy().into_owned(),
        created: None,
        kind: None,
        files: 0,
        state: state(&summary.state),
        taken_back_by: summary.taken_back_by,
        undoes: None,
        moves: Vec::new(),
    };
    if let Some(manifest) = summary.manifest {
        line.files = manifest.done().count();
        line.created = Some(manifest.header.created);
        line.kind = Some(match manifest.header.kind {
            Kind::Rewrite => RecordKind::Rewrite,
            Kind::Restore => RecordKind::Restore,
        });
        line.undoes = manifest.header.undoes;
        line.moves = manifest.header.moves;
    }
    line
}

/// What is unusual about a record; empty if nothing is.
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
