//! Changes that are made safe together.

use std::collections::{BTreeMap, HashSet};
use std::ffi::OsString;
use std::fs::File;
use std::io;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use rayon::prelude::*;

use super::Watch;
use crate::base::platform::OpenFiles;
use crate::record::RecordError;
use crate::record::change::{Change, ChangeFault, Made, Outcome};
use crate::record::keep::{Kept, keep_original};
use crate::record::manifest::{Entry, ORIGINALS_NAME};
use crate::record::replace::{
    Exchanged, discard, exchange, join_names, settle_exchange, write_beside,
};
use crate::record::system::durable::sync_together;
use crate::record::system::folder::{Folder, Spot, beside, is_other_folder, names_to_sync, parted};

/// Changes that are made safe together, and how far each has come.
pub(super) struct Batch<'c> {
    steps: Vec<Step<'c>>,
    folders: Vec<Arc<Folder>>,
    id: &'c str,
}

/// How far a change of a batch has come.
struct Step<'c> {
    change: &'c Change<'c>,
    /// Where it is made; none if its folder cannot be held.
    spot: Option<Spot>,
    /// Its entry; none if its original could not be kept.
    entry: Option<Entry>,
    /// Why it goes no further.
    fault: Option<ChangeFault>,
    /// A file that was written for it and is not on the disk for certain.
    to_sync: Option<File>,
    /// What the old file is called now, once it has been exchanged.
    out: Option<OsString>,
}

impl<'c> Batch<'c> {
    /// Copies the originals into the record; they are on the disk then.
    pub(super) fn keep_originals(
        record: &Path,
        id: &'c str,
        first: usize,
        changes: &'c [Change<'c>],
    ) -> Result<Self, RecordError> {
        let (spots, folders) = hold_folders(changes);
        let open = OpenFiles::look(&names_of(changes));
        let mut steps: Vec<Step<'c>> = changes
            .par_iter()
            .zip(spots)
            .enumerate()
            .map(|(index, (change, spot))| Step::keep(record, first + index, change, spot, &open))
            .collect();
        let originals = record.join(ORIGINALS_NAME);
        let unsynced = |error| RecordError::io(&originals, "cannot be synced")(error);
        let mut files: Vec<File> = steps.iter_mut().filter_map(|s| s.to_sync.take()).collect();
        files.extend(names_to_sync(&originals).map_err(unsynced)?);
        for synced in sync_together(&files) {
            synced.map_err(unsynced)?;
        }
        Ok(Self { steps, folders, id })
    }

    /// The entries of those whose originals are kept.
    pub(super) fn entries(&self) -> impl Iterator<Item = Box<Entry>> + '_ {
        let kept = self.steps.iter().filter_map(|step| step.entry.as_ref());
        kept.map(|entry| Box::new(entry.clone()))
    }

    /// Writes the new copies beside the files; those that could be written are on the disk then.
    pub(super) fn write_copies(&mut self, record: &Path) {
        let id = self.id;
        self.steps.par_iter_mut().for_each(|step| {
            if let (Some(entry), Some(spot)) = (&step.entry, &step.spot) {
                let temporary = entry.temporary(id);
                match write_beside(record, entry, step.change, spot, &temporary) {
                    Ok(file) => step.to_sync = file,
                    Err(fault) => step.fault = Some(fault),
                }
            }
        });
        // A link has no content to sync; its folder is synced after it.
        let (numbers, files): (Vec<usize>, Vec<File>) = self
            .steps
            .iter_mut()
            .enumerate()
            .filter_map(|(number, step)| Some((number, step.to_sync.take()?)))
            .unzip();
        for (number, synced) in numbers.into_iter().zip(sync_together(&files)) {
            self.steps[number].fault = synced.err().map(ChangeFault::Unwritten);
        }
    }

    /// Puts the new copies in the files' places, until the run is told to stop.
    pub(super) fn exchange(&mut self, watch: &Watch<'_>) {
        let id = self.id;
        self.steps.par_iter_mut().for_each(|step| {
            let (Some(entry), Some(spot), None) = (&step.entry, &step.spot, &step.fault) else {
                return;
            };
            if watch.is_stopped() {
                step.fault = Some(ChangeFault::Stopped);
                return;
            }
            match exchange(step.change, spot, &entry.temporary(id)) {
                Ok(Exchanged::Out(out)) => step.out = Some(out),
                Ok(Exchanged::Final) => {}
                Err(fault) => step.fault = Some(fault),
            }
        });
    }

    /// Looks at what came out, removes it, and joins the other names. Gives the numbers of the
    /// entries, and what became of the changes, in their order.
    pub(super) fn finish(self) -> (Vec<Option<usize>>, Vec<Outcome>) {
        let outs = self.steps.iter().filter_map(|step| step.out.clone());
        let open = OpenFiles::look(&outs.collect());
        let numbers = self.steps.iter();
        let numbers = numbers.map(|step| step.entry.as_ref().map(|entry| entry.number));
        let numbers = numbers.collect();
        let id = self.id;
        let outcomes = self.steps.into_par_iter().map(|step| step.end(id, &open));
        let outcomes = outcomes.collect();
        // The exchanges are atomic, and a folder that cannot be synced costs no data.
        let to_sync = |folder: &Arc<Folder>| folder.to_sync().ok().flatten();
        let folders: Vec<File> = self.folders.iter().filter_map(to_sync).collect();
        let _ = sync_together(&folders);
        (numbers, outcomes)
    }
}

/// The folder of each change, held, and all folders that are.
fn hold_folders(changes: &[Change<'_>]) -> (Vec<io::Result<Spot>>, Vec<Arc<Folder>>) {
    let mut held: BTreeMap<&Path, Arc<Folder>> = BTreeMap::new();
    let mut spots = Vec::with_capacity(changes.len());
    for change in changes {
        spots.push(hold(&change.path, &mut held));
    }
    (spots, held.into_values().collect())
}

fn hold<'p>(path: &'p Path, held: &mut BTreeMap<&'p Path, Arc<Folder>>) -> io::Result<Spot> {
    let (parent, name) = parted(path).ok_or(io::ErrorKind::InvalidInput)?;
    let folder = match held.get(parent) {
        Some(folder) => folder.clone(),
        None => Arc::new(Folder::open(parent)?),
    };
    held.insert(parent, folder.clone());
    Ok(Spot {
        folder,
        name: name.to_owned(),
    })
}

/// What the files of the changes are called.
fn names_of(changes: &[Change<'_>]) -> HashSet<OsString> {
    let paths = changes
        .iter()
        .flat_map(|change| std::iter::once(&change.path).chain(&change.links));
    paths
        .filter_map(|path: &PathBuf| path.file_name().map(ToOwned::to_owned))
        .collect()
}

impl<'c> Step<'c> {
    fn keep(
        record: &Path,
        number: usize,
        change: &'c Change<'c>,
        spot: io::Result<Spot>,
        open: &OpenFiles,
    ) -> Self {
        let mut step = Self {
            change,
            spot: None,
            entry: None,
            fault: None,
            to_sync: None,
            out: None,
        };
        let kept = match &spot {
            Ok(spot) => keep_original(record, number, change, spot, open),
            Err(error) if is_other_folder(error) => Err(ChangeFault::OtherFolder),
            Err(error) => Err(ChangeFault::Unread(copy_of(error))),
        };
        step.spot = spot.ok();
        match kept {
            Ok(Kept { entry, copy }) => {
                step.entry = Some(entry);
                step.to_sync = copy;
            }
            Err(fault) => step.fault = Some(fault),
        }
        step
    }

    /// Says what became of the change, and removes what is no longer needed.
    fn end(mut self, id: &str, open: &OpenFiles) -> Outcome {
        let (Some(entry), Some(spot)) = (&self.entry, &self.spot) else {
            return Outcome::left(self.fault.unwrap_or(ChangeFault::Changed));
        };
        if let (Some(out), None) = (&self.out, &self.fault) {
            self.fault = settle_exchange(self.change, spot, out, open).err();
        }
        let temporary = entry.temporary(id);
        let outs = [Some(&temporary), self.out.as_ref()];
        let mut stray = None;
        if !matches!(self.fault, Some(ChangeFault::SavedAside(_))) {
            for name in outs.into_iter().flatten() {
                if let Err(error) = discard(&spot.folder, name) {
                    stray = Some((beside(&self.change.path, name), error));
                }
            }
        }
        let made = match self.fault {
            Some(fault) => Made::Left(fault),
            None => {
                let known: Vec<blake3::Hash> = self
                    .change
                    .before
                    .into_iter()
                    .chain([self.change.after])
                    .collect();
                join_names(&self.change.links, spot, &known, &temporary)
            }
        };
        Outcome { made, stray }
    }
}

/// An error as it was; what a program added to it is lost.
fn copy_of(error: &io::Error) -> io::Error {
    match error.raw_os_error() {
        Some(code) => io::Error::from_raw_os_error(code),
        None => error.kind().into(),
    }
}

impl Outcome {
    fn left(fault: ChangeFault) -> Self {
        Self {
            made: Made::Left(fault),
            stray: None,
        }
    }

    /// That of a change that the run was stopped before.
    pub(super) fn not_begun() -> Self {
        Self::left(ChangeFault::Stopped)
    }
}
