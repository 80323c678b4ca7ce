//! A record while it is written: batches of changes, each safe before the next begins.

use std::collections::BTreeSet;
use std::fs::{self, File};
use std::io::Write;
use std::path::{Path, PathBuf};

use rayon::prelude::*;

use super::RecordError;
use super::change::{Change, ChangeFault, Made};
use super::durable::sync_together;
use super::keep::{Kept, keep_original};
use super::manifest::{Entry, EntryState, Header, Line, ManifestWriter};
use super::platform;
use super::replace::{replace, write_beside};

/// How many files are made safe together: each batch costs a few syncs.
const BATCH: usize = 256;

/// A batch with more bytes than this is ended, since its new copies lie beside the old files for
/// a moment.
const BATCH_BYTES: u64 = 256 << 20;

/// A record that is being written. It is locked until it is finished or dropped; dropped
/// unfinished, it is in the way of the next run until that settles it.
#[derive(Debug)]
#[must_use = "without `finish` the record counts as unfinished"]
pub struct RecordWriter {
    folder: PathBuf,
    id: String,
    manifest: ManifestWriter,
    written: usize,
    _lock: File,
}

impl RecordWriter {
    pub(super) fn begin(folder: PathBuf, header: Header, lock: File) -> Result<Self, RecordError> {
        let originals = folder.join("originals");
        platform::create_private(&originals)
            .map_err(RecordError::io(&originals, "cannot be made"))?;
        let mut manifest = ManifestWriter::open(&folder)?;
        let id = header.id.clone();
        manifest.add([Line::Begin(header)])?;
        Ok(Self {
            folder,
            id,
            manifest,
            written: 0,
            _lock: lock,
        })
    }

    /// The record's folder.
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// The record's name.
    pub fn id(&self) -> &str {
        &self.id
    }

    /// Makes the changes, and says of each what became of it, in the same order. `made` is
    /// called as files are dealt with, with how many.
    ///
    /// # Errors
    /// Where the record itself cannot be written: what was not begun yet is as it was.
    pub fn commit(
        &mut self,
        changes: &[Change<'_>],
        made: &(dyn Fn(usize) + Sync),
    ) -> Result<Vec<Made>, RecordError> {
        let mut outcomes = Vec::with_capacity(changes.len());
        let mut left = changes;
        while !left.is_empty() {
            let (batch, rest) = left.split_at(batch_length(left));
            outcomes.extend(self.commit_batch(batch)?);
            made(batch.len());
            left = rest;
        }
        Ok(outcomes)
    }

    fn commit_batch(&mut self, batch: &[Change<'_>]) -> Result<Vec<Made>, RecordError> {
        let mut steps = self.keep_originals(batch)?;
        let folder = &self.folder;
        steps.par_iter_mut().zip(batch).for_each(|(step, change)| {
            if let Some(entry) = &step.entry {
                match write_beside(folder, entry, change) {
                    Ok(file) => step.to_sync = file,
                    Err(fault) => step.fault = Some(fault),
                }
            }
        });
        sync_new_copies(&mut steps);
        let numbers: Vec<Option<usize>> = steps
            .iter()
            .map(|step| step.entry.as_ref().map(|entry| entry.number))
            .collect();
        let made: Vec<Made> = steps
            .into_par_iter()
            .zip(batch)
            .map(|(step, change)| step.end(change))
            .collect();
        sync_folders(batch);
        let states = numbers.into_iter().zip(&made).filter_map(|(number, made)| {
            let state = match made {
                Made::Done | Made::Partly(_) => EntryState::Done,
                Made::Left(why) => EntryState::Left(why.to_string()),
            };
            Some(Line::State(number?, state))
        });
        self.manifest.add(states.collect::<Vec<_>>())?;
        Ok(made)
    }

    /// Copies the originals of a batch into the record, and tells the manifest what is about to
    /// happen; both are on the disk then.
    fn keep_originals(&mut self, batch: &[Change<'_>]) -> Result<Vec<Step>, RecordError> {
        let first = self.written + 1;
        self.written += batch.len();
        let (folder, id) = (&self.folder, &self.id);
        let mut steps: Vec<Step> = batch
            .par_iter()
            .enumerate()
            .map(|(index, change)| Step::of(keep_original(folder, id, first + index, change)))
            .collect();
        let originals = folder.join("originals");
        let unsynced = |error| RecordError::io(&originals, "cannot be synced")(error);
        let mut files: Vec<File> = steps.iter_mut().filter_map(|s| s.to_sync.take()).collect();
        files.extend(platform::folder_to_sync(&originals).map_err(unsynced)?);
        for synced in sync_together(&files) {
            synced.map_err(unsynced)?;
        }
        let entries = steps.iter().filter_map(|step| step.entry.as_ref());
        let lines = entries.map(|entry| Line::Entry(Box::new(entry.clone())));
        self.manifest.add(lines.collect::<Vec<_>>())?;
        Ok(steps)
    }

    /// Ends the record; `report` is kept beside the manifest for whoever asks later.
    ///
    /// # Errors
    /// Where the record cannot be written; the changes are made all the same.
    pub fn finish(mut self, report: &[u8]) -> Result<(), RecordError> {
        if !report.is_empty() {
            let path = self.folder.join("report.json");
            let write = platform::create_new(&path).and_then(|mut file| {
                file.write_all(report)?;
                file.sync_all()
            });
            write.map_err(RecordError::io(&path, "cannot be written"))?;
        }
        self.manifest.add([Line::Finished])
    }
}

/// How many of the changes make the next batch: at least one.
fn batch_length(changes: &[Change<'_>]) -> usize {
    let size = |change: &Change<'_>| fs::metadata(&change.path).map_or(0, |data| data.len());
    let mut bytes = 0u64;
    let fits = changes.iter().take(BATCH).take_while(|change| {
        bytes = bytes.saturating_add(size(change));
        bytes <= BATCH_BYTES
    });
    fits.count().max(1)
}

/// How far a change of a batch has come.
struct Step {
    /// Its entry; none if its original could not be kept.
    entry: Option<Entry>,
    /// Why it goes no further.
    fault: Option<ChangeFault>,
    /// A file that was written for it and is not on the disk for certain.
    to_sync: Option<File>,
}

impl Step {
    fn of(kept: Result<Kept, ChangeFault>) -> Self {
        match kept {
            Ok(kept) => Self {
                entry: Some(kept.entry),
                fault: None,
                to_sync: kept.copy,
            },
            Err(fault) => Self {
                entry: None,
                fault: Some(fault),
                to_sync: None,
            },
        }
    }

    /// Puts the new copy in its place if all went well so far.
    fn end(self, change: &Change<'_>) -> Made {
        match (self.entry, self.fault) {
            (Some(entry), None) => replace(&entry, change).unwrap_or_else(Made::Left),
            (entry, Some(fault)) => {
                if let Some(entry) = entry {
                    let _ = platform::remove(&entry.temporary.to_path());
                }
                Made::Left(fault)
            }
            (None, None) => Made::Left(ChangeFault::Changed),
        }
    }
}

/// Makes the new copies durable. A link has no content to sync; its folder is synced after it.
fn sync_new_copies(steps: &mut [Step]) {
    let mut numbers = Vec::with_capacity(steps.len());
    let mut files = Vec::with_capacity(steps.len());
    for (number, step) in steps.iter_mut().enumerate() {
        if let Some(file) = step.to_sync.take() {
            numbers.push(number);
            files.push(file);
        }
    }
    for (number, synced) in numbers.into_iter().zip(sync_together(&files)) {
        steps[number].fault = synced.err().map(ChangeFault::Unwritten);
    }
}

/// Makes the exchanges durable. They are atomic, and a folder that cannot be synced costs no
/// data.
fn sync_folders(batch: &[Change<'_>]) {
    let parents: BTreeSet<&Path> = batch
        .iter()
        .filter_map(|change| change.path.parent())
        .collect();
    let open = |parent| platform::folder_to_sync(parent).ok().flatten();
    let folders: Vec<File> = parents.into_iter().filter_map(open).collect();
    let _ = sync_together(&folders);
}
