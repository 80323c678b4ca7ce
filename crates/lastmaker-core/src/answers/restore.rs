//! Putting the originals of a record back.
//!
//! First [`find_record`], then [`restore`]: whatever is replaced goes into a record of its own.

use std::path::Path;
use std::sync::atomic::{AtomicU64, Ordering};

use thiserror::Error;

use crate::record::{
    ChangedPolicy, Kind, Manifest, RecordError, RecordState, RestoreItem, RestoreState, Store,
    Timestamp, put_back, restore_plan, settle,
};
use crate::report::{LeftFile, RestoreReport, TakenBack};

/// Why there is nothing to restore.
#[derive(Debug, Error)]
pub enum RestoreRefusal {
    /// No rewrite is left to take back.
    #[error("there is no rewrite to take back")]
    Nothing,
    /// A record cannot be read or written.
    #[error(transparent)]
    Record(#[from] RecordError),
}

/// A record whose originals can be put back.
#[derive(Debug)]
pub struct FoundRecord {
    /// What it says.
    pub manifest: Manifest,
    /// Whether its run had been broken off, and is settled now.
    pub was_broken_off: bool,
}

/// The record named `id`, else the latest rewrite that was not taken back, settled if its run was
/// broken off.
///
/// # Errors
/// Where there is none, or it cannot be read.
pub fn find_record(store: &Store, id: Option<&str>) -> Result<FoundRecord, RestoreRefusal> {
    let manifest = match id {
        Some(id) => store.open(id)?,
        None => latest_rewrite(store).ok_or(RestoreRefusal::Nothing)?,
    };
    let was_broken_off = !manifest.finished;
    let manifest = match was_broken_off {
        true => settle(store, &manifest)?,
        false => manifest,
    };
    Ok(FoundRecord {
        manifest,
        was_broken_off,
    })
}

fn latest_rewrite(store: &Store) -> Option<Manifest> {
    let usable = [RecordState::Finished, RecordState::Unfinished];
    let records = store.list().into_iter().rev();
    records
        .filter(|summary| summary.taken_back_by.is_empty() && usable.contains(&summary.state))
        .filter_map(|summary| summary.manifest)
        .find(|manifest| manifest.header.kind == Kind::Rewrite)
}

/// Puts the originals of `record` back, as far as `policy` allows. The new record is named after
/// the time `now`; `counter` counts files as they are dealt with.
///
/// # Errors
/// Where the new record cannot be written.
pub fn restore(
    store: &Store,
    record: &Manifest,
    policy: ChangedPolicy,
    now: Timestamp,
    counter: &AtomicU64,
) -> Result<RestoreReport, RecordError> {
    let items = restore_plan(record, policy);
    let mut report = RestoreReport {
        record: record.header.id.clone(),
        ..RestoreReport::default()
    };
    sort_out(&items, policy, &mut report);
    let is_restored = |item: &RestoreItem| item.whole || item.content.is_some();
    if !items.iter().any(is_restored) {
        return Ok(report);
    }
    let undoes = Some(record.header.id.clone());
    let mut writer = store.begin(now, Kind::Restore, undoes, Vec::new())?;
    let outcomes = put_back(record, &items, &mut writer, &|made| {
        counter.fetch_add(made as u64, Ordering::Relaxed);
    })?;
    report.kept_in = Some(writer.id().to_owned());
    writer.finish(&[])?;
    for (path, outcome) in outcomes {
        match (outcome.fault(), edits_of(&items, &path)) {
            (Some(why), _) => report.left.push(left(&path, why)),
            (None, Some((taken_back, of))) => report.edits_taken_back.push(TakenBack {
                file: familiar(&path),
                taken_back,
                of,
            }),
            (None, None) => report.restored.push(familiar(&path)),
        }
    }
    Ok(report)
}

/// Names what is left as it is.
fn sort_out(items: &[RestoreItem], policy: ChangedPolicy, report: &mut RestoreReport) {
    for item in items {
        let why = match (&item.state, policy) {
            _ if item.whole || item.content.is_some() => continue,
            (RestoreState::Original, _) => {
                report.already_original += 1;
                continue;
            }
            (RestoreState::Changed, ChangedPolicy::Leave) => {
                "it was saved again since; --changed edits takes back only what the rewrite changed, --changed original \
                 puts the whole original back"
            }
            (RestoreState::Changed, _) => {
                "it was saved again since, and nothing that the rewrite wrote still stands in it"
            }
            (RestoreState::Missing, _) => "it is gone; --changed original puts the original back",
            _ if item.entry.created => "there was no such file before",
            (RestoreState::AsLeft, _) => {
                "for want of space the version before was not kept; run the rewrite again to make it"
            }
        };
        report.left.push(left(&item.entry.path.to_path(), why));
    }
}

fn left(path: &Path, why: impl Into<String>) -> LeftFile {
    let mut left = LeftFile::new(path, why);
    left.file.shown = familiar(path);
    left
}

fn edits_of(items: &[RestoreItem], path: &Path) -> Option<(usize, usize)> {
    let mut items = items.iter();
    items.find(|item| item.entry.path.to_path() == path)?.edits
}

/// A canonical path as people know it: on Windows without the verbatim prefix before a drive.
pub fn familiar(path: &Path) -> String {
    let text = path.to_string_lossy();
    match text.strip_prefix(r"\\?\") {
        Some(rest) if cfg!(windows) && rest.as_bytes().get(1) == Some(&b':') => rest.to_owned(),
        _ => text.into_owned(),
    }
}
