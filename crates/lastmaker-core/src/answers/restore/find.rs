//! Which record is meant.

use std::path::PathBuf;

use thiserror::Error;

use super::RestoreWish;
use crate::place::Place;
use crate::record::{
    Chain, EntryState, Kind, Manifest, Record, RecordError, RecordState, Step, Store,
    restore_items, settle, sweep,
};

/// Why there is nothing to restore.
#[derive(Debug, Error)]
pub enum RestoreRefusal {
    /// No rewrite of these files is left to take back.
    #[error("there is no rewrite to take back of what lies under {}", shown(.0))]
    Nothing(Vec<PathBuf>),
    /// Another run is writing a record.
    #[error("another run is writing the record {0}; wait until it has ended")]
    BeingWritten(String),
    /// The record does not have that move.
    #[error("record {record} has no move from {from}; its moves are: {}", moves.join("; "))]
    OtherMoves {
        /// The record.
        record: String,
        /// The move that was asked for.
        from: String,
        /// Those that it has.
        moves: Vec<String>,
    },
    /// A record cannot be read or written.
    #[error(transparent)]
    Record(#[from] RecordError),
}

fn shown(paths: &[PathBuf]) -> String {
    let shown: Vec<String> = paths.iter().map(|path| super::familiar(path)).collect();
    shown.join(", ")
}

/// A record whose originals can be put back.
#[derive(Debug)]
pub struct FoundRecord {
    /// What it says.
    pub manifest: Manifest,
    /// The records whose runs had been broken off, and are settled now.
    pub settled: Vec<String>,
    /// What all records did.
    pub(super) chain: Chain,
}

/// The record that `wish` names, else the latest rewrite that is not taken back of what it asks
/// for. Runs that were broken off there are settled first, unless it is only looked (`settles` is
/// false).
///
/// # Errors
/// Where there is none, or it cannot be read.
pub fn find_record(
    store: &Store,
    wish: &RestoreWish,
    settles: bool,
) -> Result<FoundRecord, RestoreRefusal> {
    let named = match &wish.record {
        Some(id) => Some(read(&store.find(id)?, wish)?),
        None => None,
    };
    let records = store.list();
    let (settled, undone) = if settles {
        settle_broken(&records, wish, named.as_ref())?
    } else {
        (Vec::new(), None)
    };
    let chain = Chain::of(store);
    let manifest = match named {
        Some(named) => {
            let folder = named.folder;
            let named = read(&folder, wish)?;
            match (named.finished, settles) {
                (false, true) => settle(named)?,
                (false, false) => as_if_done(named),
                (true, _) => named,
            }
        }
        None => match latest(&records, wish, &chain) {
            Some(manifest) => manifest,
            // All that a restore which was broken off had to do may have been done.
            None => match undone.and_then(|id| read(&store.find(&id).ok()?, wish).ok()) {
                Some(manifest) => manifest,
                None => return Err(RestoreRefusal::Nothing(wish.paths.clone())),
            },
        },
    };
    Ok(FoundRecord {
        manifest,
        settled,
        chain,
    })
}

/// Reads a manifest, its files where they are seen now.
fn read(folder: &std::path::Path, wish: &RestoreWish) -> Result<Manifest, RecordError> {
    let mut manifest = Manifest::read(folder)?;
    for (old, new) in &wish.from_dirs {
        manifest.seen_from(old, new);
    }
    Ok(manifest)
}

/// A record that was broken off, for looking: what may have been done counts as done.
fn as_if_done(mut manifest: Manifest) -> Manifest {
    let entries = manifest.entries.iter_mut().map(|(_, state)| state);
    let steps = manifest.steps.iter_mut().map(|(_, state)| state);
    for state in entries.chain(steps) {
        if *state == EntryState::Begun {
            *state = EntryState::Done;
        }
    }
    manifest
}

/// Settles the runs that were broken off and touch what is asked for, and removes what others left
/// beside files. Gives their names, and the record that the last one of them is about.
fn settle_broken(
    records: &[Record],
    wish: &RestoreWish,
    named: Option<&Manifest>,
) -> Result<(Vec<String>, Option<String>), RestoreRefusal> {
    let (mut settled, mut about) = (Vec::new(), None);
    for record in records {
        if record.state == RecordState::Finished && record.strays > 0 {
            // It is named again by the next run if that fails.
            if let Ok(mut manifest) = read(&record.folder, wish) {
                let _ = sweep(&mut manifest);
            }
        }
        let broken = [RecordState::Unfinished, RecordState::BeingWritten];
        if !broken.contains(&record.state) {
            continue;
        }
        let Ok(manifest) = read(&record.folder, wish) else {
            continue;
        };
        let manifest = as_if_done(manifest);
        let header = &manifest.header;
        let is_meant = match named {
            Some(named) => {
                let id = &named.header.id;
                header.id == *id || header.undoes.as_ref() == Some(id)
            }
            None => {
                let wanted = |path: PathBuf| wish.wants(&manifest, &path);
                let entries = manifest.entries.iter();
                manifest.entries.is_empty()
                    || entries.map(|(entry, _)| entry.path.to_path()).any(wanted)
            }
        };
        if !is_meant {
            continue;
        }
        if record.state == RecordState::BeingWritten {
            return Err(RestoreRefusal::BeingWritten(record.id.clone()));
        }
        about = Some(header.undoes.clone().unwrap_or_else(|| header.id.clone()));
        settle(read(&record.folder, wish)?)?;
        settled.push(record.id.clone());
    }
    Ok((settled, about))
}

/// The latest rewrite of what is asked for that is not taken back.
fn latest(records: &[Record], wish: &RestoreWish, chain: &Chain) -> Option<Manifest> {
    let is_rewrite = |record: &&Record| {
        let header = record.header.as_ref();
        header.is_some_and(|header| match header.kind {
            Kind::Rewrite => true,
            Kind::Bridge => header.undoes.is_none(),
            Kind::Restore => false,
        })
    };
    for record in records.iter().rev().filter(is_rewrite) {
        let Ok(manifest) = read(&record.folder, wish) else {
            continue;
        };
        let manifest = as_if_done(manifest);
        let items = restore_items(&manifest, chain, |path| wish.wants(&manifest, path));
        let stands =
            |step: &Step| step.stands() && step.is_of_link() && wish.wants(&manifest, &step.path());
        let done = items.iter().any(|item| !item.is_taken_back());
        if done || manifest.steps_done().any(stands) {
            return Some(manifest);
        }
    }
    None
}

/// Which of the moves of a record is that from a place.
pub(super) fn number_of_move(record: &Manifest, from: &Place) -> Result<usize, RestoreRefusal> {
    let moves = &record.header.moves;
    let is_from = |one: &String| {
        let old = one.split(" = ").next().unwrap_or(one);
        Place::parse(old).is_ok_and(|old| old.same(from))
    };
    let known = moves.iter().position(is_from);
    known.ok_or_else(|| RestoreRefusal::OtherMoves {
        record: record.header.id.clone(),
        from: from.to_string(),
        moves: moves.clone(),
    })
}
