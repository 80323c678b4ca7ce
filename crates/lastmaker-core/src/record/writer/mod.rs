//! A record while it is written: batches of changes, each safe before the next begins.

mod batch;
mod steps;

use std::fs::File;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};

use super::RecordError;
use super::change::{Change, Made, Outcome};
use super::manifest::{
    BATCH, End, EntryState, Header, Line, ManifestWriter, ORIGINALS_NAME, REPORT_NAME,
};
use super::system::folder::{create_own, create_private, sync_names};
use crate::base::phase::Phase;
use batch::Batch;

/// A batch with more bytes than this is ended, since its new copies lie beside the old files for
/// a moment.
const BATCH_BYTES: u64 = 256 << 20;

/// Descriptors that a run needs besides those of a batch.
const SPARE_DESCRIPTORS: usize = 32;

/// How a run is watched, and told to stop.
pub struct Watch<'a> {
    /// Is called as files are dealt with, with how many.
    pub made: &'a (dyn Fn(usize) + Sync),
    /// Once it is true, what is not begun yet is left: the file in hand is finished.
    pub stop: &'a AtomicBool,
}

impl Watch<'_> {
    fn is_stopped(&self) -> bool {
        self.stop.load(Ordering::Relaxed)
    }
}

/// A record that is being written. It is locked until it is finished or dropped; dropped
/// unfinished, it is in the way of the next run until that settles it.
#[derive(Debug)]
#[must_use = "without `finish` the record counts as unfinished"]
pub struct RecordWriter {
    folder: PathBuf,
    id: String,
    manifest: ManifestWriter,
    /// The last number given to an entry.
    last: usize,
    end: End,
    _lock: File,
}

impl RecordWriter {
    /// Begins the record in the new folder `folder`. Its name and its manifest's first line are on
    /// the disk then.
    pub(super) fn begin(folder: PathBuf, header: Header, lock: File) -> Result<Self, RecordError> {
        let originals = folder.join(ORIGINALS_NAME);
        create_private(&originals).map_err(RecordError::io(&originals, "cannot be made"))?;
        let mut manifest = ManifestWriter::begin(&folder)?;
        let id = header.id.clone();
        manifest.add([Line::Begin(header)])?;
        for names in [Some(folder.as_path()), folder.parent()]
            .into_iter()
            .flatten()
        {
            sync_names(names).map_err(RecordError::io(names, "cannot be synced"))?;
        }
        Ok(Self {
            folder,
            id,
            manifest,
            last: 0,
            end: End {
                entries: 0,
                done: 0,
                strays: 0,
            },
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

    /// How many files have been replaced so far.
    pub fn done(&self) -> usize {
        self.end.done
    }

    /// Makes the changes, and says of each what became of it, in the same order.
    ///
    /// # Errors
    /// Where the record itself cannot be written: what was not begun yet is as it was.
    pub fn commit(
        &mut self,
        changes: &[Change<'_>],
        watch: &Watch<'_>,
    ) -> Result<Vec<Outcome>, RecordError> {
        let _phase = Phase::Commit.span().entered();
        let most = files_at_once();
        let mut outcomes = Vec::with_capacity(changes.len());
        let mut left = changes;
        while !left.is_empty() {
            let (batch, rest) = left.split_at(batch_length(left, most));
            let first = outcomes.len();
            outcomes.extend(self.commit_batch(batch, watch)?);
            for (outcome, change) in outcomes[first..].iter_mut().zip(batch) {
                if is_crowded_out(outcome) && batch.len() > 1 {
                    let again = self.commit_batch(std::slice::from_ref(change), watch)?;
                    *outcome = again.into_iter().next().unwrap_or_else(Outcome::not_begun);
                }
            }
            (watch.made)(batch.len());
            left = rest;
        }
        Ok(outcomes)
    }

    fn commit_batch(
        &mut self,
        changes: &[Change<'_>],
        watch: &Watch<'_>,
    ) -> Result<Vec<Outcome>, RecordError> {
        if watch.is_stopped() {
            return Ok(changes.iter().map(|_| Outcome::not_begun()).collect());
        }
        let first = self.last + 1;
        self.last += changes.len();
        let mut batch = Batch::keep_originals(&self.folder, &self.id, first, changes)?;
        let entries: Vec<Line> = batch.entries().map(Line::Entry).collect();
        self.end.entries += entries.len();
        self.manifest.add(entries)?;
        batch.write_copies(&self.folder);
        batch.exchange(watch);
        let (numbers, outcomes) = batch.finish();
        let mut lines = Vec::with_capacity(numbers.len());
        for (number, outcome) in numbers.into_iter().zip(&outcomes) {
            let Some(number) = number else { continue };
            if outcome.stray.is_some() || matches!(outcome.made, Made::Partly(_)) {
                self.end.strays += 1;
                lines.push(Line::Stray(number));
            }
            let state = match &outcome.made {
                Made::Done | Made::Partly(_) => EntryState::Done,
                Made::Left(why) => EntryState::Left(why.to_string()),
            };
            self.end.done += usize::from(state == EntryState::Done);
            lines.push(Line::State(number, state));
        }
        self.manifest.add(lines)?;
        Ok(outcomes)
    }

    /// Ends the record; `report` is kept beside the manifest for whoever asks later. A report that
    /// cannot be written is done without: nothing rests on it.
    ///
    /// # Errors
    /// Where the record cannot be written; the changes are made all the same.
    pub fn finish(mut self, report: &[u8]) -> Result<(), RecordError> {
        let path = self.folder.join(REPORT_NAME);
        let written = create_own(&path).and_then(|mut file| {
            file.write_all(report)?;
            file.sync_all()
        });
        if written.is_err() {
            let _ = std::fs::remove_file(&path);
        }
        self.manifest.add([Line::Ended(self.end)])
    }
}

fn is_crowded_out(outcome: &Outcome) -> bool {
    matches!(&outcome.made, Made::Left(fault) if fault.is_of_crowding())
}

/// How many of the changes make the next batch: at least one, `most` at the most.
fn batch_length(changes: &[Change<'_>], most: usize) -> usize {
    let size =
        |change: &Change<'_>| std::fs::symlink_metadata(&change.path).map_or(0, |data| data.len());
    let mut bytes = 0u64;
    let fits = changes.iter().take(most).take_while(|change| {
        bytes = bytes.saturating_add(size(change));
        bytes <= BATCH_BYTES
    });
    fits.count().max(1)
}

/// How many files may be dealt with together: each needs a descriptor for its copy, and one for
/// its folder.
fn files_at_once() -> usize {
    match crate::base::platform::most_descriptors() {
        Some(most) => (most.saturating_sub(SPARE_DESCRIPTORS) / 3).clamp(1, BATCH),
        None => BATCH,
    }
}
