//! What a broken run left, and putting it in order.

use std::collections::HashSet;
use std::ffi::{OsStr, OsString};
use std::path::Path;

use rayon::prelude::*;

use super::RecordError;
use super::change::{Made, OtherNameReason};
use super::manifest::{End, Entry, EntryState, Line, Manifest, ManifestWriter};
use super::replace::{discard, join_names};
use super::store::lock;
use super::system::folder::{self, Folder, Spot, open_parent};
use super::written::PathText;
use crate::base::platform::OpenFiles;

/// Settles an unfinished record: every file turns out to be its old self or its new self,
/// what lies beside them is removed, and the record is finished. Gives it as it is then.
///
/// # Errors
/// Where another run is writing it, or it cannot be written.
pub fn settle(mut manifest: Manifest) -> Result<Manifest, RecordError> {
    let _lock = lock(&manifest.folder, &manifest.header.id)?;
    let mut writer = ManifestWriter::go_on(&manifest.folder)?;
    let id = manifest.header.id.clone();
    let begun = |state: &EntryState| *state == EntryState::Begun;
    let temporaries: HashSet<OsString> = manifest
        .entries
        .iter()
        .filter(|(_, state)| begun(state))
        .map(|(entry, _)| folder::aside(&entry.temporary(&id)))
        .collect();
    let open = OpenFiles::look(&temporaries);
    let settled: Vec<(usize, EntryState, bool)> = manifest
        .entries
        .par_iter_mut()
        .filter(|(_, state)| begun(state))
        .map(|(entry, state)| {
            let is_clean;
            (*state, is_clean) = settle_entry(entry, &id, &open);
            (entry.number, state.clone(), is_clean)
        })
        .collect();
    let mut lines = Vec::with_capacity(settled.len());
    for (at, (step, state)) in manifest.steps.iter_mut().enumerate() {
        if begun(state) {
            *state = if step.stands() {
                EntryState::Done
            } else {
                left("the run ended before it was done")
            };
            lines.push(Line::State(at + 1, state.clone()));
        }
    }
    for (number, state, is_clean) in settled {
        if !is_clean {
            manifest.strays.insert(number);
            lines.push(Line::Stray(number));
        }
        lines.push(Line::State(number, state));
    }
    lines.push(Line::Ended(manifest.end()));
    writer.add(lines)?;
    manifest.finished = true;
    Ok(manifest)
}

/// Puts in order what the run of a finished record could not: removes what still lies beside its
/// files, as far as it is what the record knows, and joins their other names. Gives how many files
/// are not in order yet.
///
/// # Errors
/// Where another run is writing it, or it cannot be written.
pub fn sweep(manifest: &mut Manifest) -> Result<usize, RecordError> {
    let _lock = lock(&manifest.folder, &manifest.header.id)?;
    let id = &manifest.header.id;
    let is_swept = |entry: &Entry| {
        let broken = Broken::of(entry, id);
        broken.is_none_or(|broken| broken.sweep(false) && broken.joins_names())
    };
    let strays = manifest.strays.iter().copied().filter(|number| {
        let entry = manifest.entry(*number);
        entry.is_some_and(|entry| !is_swept(entry))
    });
    manifest.strays = strays.collect();
    if manifest.strays.is_empty() {
        let mut writer = ManifestWriter::go_on(&manifest.folder)?;
        writer.add([Line::Ended(manifest.end())])?;
    }
    Ok(manifest.strays.len())
}

impl Manifest {
    /// What its last line says when all is told.
    fn end(&self) -> End {
        End {
            entries: self.entries.len() + self.steps.len(),
            done: self.done().count() + self.steps_done().count(),
            strays: self.strays.len(),
        }
    }

    fn entry(&self, number: usize) -> Option<&Entry> {
        let at = self
            .entries
            .binary_search_by_key(&number, |(entry, _)| entry.number);
        Some(&self.entries[at.ok()?].0)
    }
}

/// Settles one file: what became of it, and whether all is in order beside it.
fn settle_entry(entry: &Entry, id: &str, open: &OpenFiles) -> (EntryState, bool) {
    let Some(broken) = Broken::of(entry, id) else {
        // Where its folder went nobody knows; with its original it can be put back.
        return (EntryState::Done, true);
    };
    let state = broken.settle(open);
    let is_done = state == EntryState::Done;
    let is_swept = broken.sweep(!is_done);
    let is_joined = !is_done || broken.joins_names();
    (state, is_swept && is_joined)
}

/// A file that a run may have been broken off at.
struct Broken<'a> {
    entry: &'a Entry,
    temporary: OsString,
    /// What the old file is called once it has been exchanged.
    aside: OsString,
    spot: Spot,
}

impl<'a> Broken<'a> {
    /// None if the folder is not there any more.
    fn of(entry: &'a Entry, id: &str) -> Option<Self> {
        let (folder, name) = open_parent(&entry.path.to_path()).ok()?;
        let temporary = entry.temporary(id);
        Some(Self {
            entry,
            aside: folder::aside(&temporary),
            temporary,
            spot: Spot {
                folder: folder.into(),
                name,
            },
        })
    }

    fn settle(&self, open: &OpenFiles) -> EntryState {
        let (entry, folder, name) = (self.entry, &*self.spot.folder, self.spot.name.as_os_str());
        let mut now = folder.hex(name);
        let beside = folder.hex(&self.aside);
        let is_before = |hex: &Option<String>| hex.as_deref() == Some(&entry.before);
        let is_after = |hex: &Option<String>| hex.as_deref() == Some(&entry.after);
        if now.is_none() && is_before(&beside) && self.aside != self.temporary {
            // The old one had been moved aside, and nothing was in its place yet.
            if folder.rename(&self.aside, name).is_ok() {
                now = folder.hex(name);
            }
        }
        if is_after(&now) {
            // Somebody saved in the instant of the exchange, or writes to the old file still, and
            // the run ended before it could put that back.
            let is_theirs = beside.is_some() && !is_before(&beside) && !is_after(&beside);
            if is_theirs || (is_before(&beside) && self.is_written(folder, open)) {
                return match folder.exchange(&self.aside, name) {
                    Ok(ours) => {
                        if ours != self.aside {
                            let _ = folder.rename(&ours, &self.aside);
                        }
                        left("it was saved by somebody while it was replaced")
                    }
                    Err(_) => EntryState::Done,
                };
            }
            return EntryState::Done;
        }
        if is_before(&now) || (entry.created && now.is_none()) {
            return left("the run ended before it was replaced");
        }
        if is_after(&beside) {
            left("the run ended before it was replaced, and it has changed since")
        } else {
            // It may have been replaced, and has been saved since: as its original is kept, what
            // the run did can still be taken back.
            EntryState::Done
        }
    }

    fn is_written(&self, folder: &Folder, open: &OpenFiles) -> bool {
        let file = folder.open_regular(&self.aside);
        file.is_ok_and(|(file, _)| open.has(&file, false))
    }

    /// Gives the new content to the other names, if the file has it; false if the system refuses.
    fn joins_names(&self) -> bool {
        if self.spot.folder.hex(&self.spot.name).as_ref() != Some(&self.entry.after) {
            return true;
        }
        let hashes = [&self.entry.before, &self.entry.after];
        let known = hashes
            .iter()
            .filter_map(|hex| blake3::Hash::from_hex(hex).ok());
        let known: Vec<blake3::Hash> = known.collect();
        let links: Vec<_> = self.entry.links.iter().map(PathText::to_path).collect();
        let made = join_names(&links, &self.spot, &known, &self.temporary);
        !matches!(made, Made::Partly(fault) if matches!(fault.why, OtherNameReason::Io(_)))
    }

    /// Removes what is ours from beside the file and its other names; says whether nothing is
    /// left. Beside a file that is `at_rest`, because it was not replaced, that may be a copy cut
    /// short; beside another one it may be what somebody saved.
    fn sweep(&self, at_rest: bool) -> bool {
        let (entry, folder) = (self.entry, &*self.spot.folder);
        let is_known = |hex: &String| *hex == entry.before || *hex == entry.after;
        let at_rest = at_rest || folder.hex(&self.spot.name).as_ref().is_none_or(is_known);
        let may_go = |name: &OsStr| at_rest || folder.hex(name).as_ref().is_none_or(is_known);
        let own = [&self.temporary, &self.aside];
        let own = own
            .iter()
            .all(|name| may_go(name) && discard(folder, name).is_ok());
        let mut links = entry.links.iter().map(PathText::to_path);
        own && links.all(|link| is_swept(&link, &self.temporary))
    }
}

fn is_swept(link: &Path, temporary: &OsStr) -> bool {
    let Ok((folder, _)) = open_parent(link) else {
        return true;
    };
    discard(&folder, temporary).is_ok()
}

fn left(why: &str) -> EntryState {
    EntryState::Left(why.to_owned())
}
