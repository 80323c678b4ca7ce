//! What a broken run left, and putting it in order.

use std::path::Path;

use super::manifest::{Entry, EntryState, Line, Manifest, ManifestWriter};
use super::platform;
use super::replace::relink;
use super::{RecordError, Store, hash_file};

/// Settles an unfinished record: every file turns out to be its old self or its new self,
/// what lies beside them is removed, and the record is finished. Returns it as it is then.
///
/// # Errors
/// Where another run is writing it, or it cannot be read or written.
pub fn settle(store: &Store, manifest: &Manifest) -> Result<Manifest, RecordError> {
    let _lock = store.lock(&manifest.header.id)?;
    let mut writer = ManifestWriter::open(&manifest.folder)?;
    writer.end_line()?;
    let states = manifest
        .entries
        .iter()
        .filter(|(_, state)| *state == EntryState::Begun)
        .map(|(entry, _)| Line::State(entry.number, settle_entry(entry)));
    writer.add(states.collect::<Vec<_>>())?;
    writer.add([Line::Finished])?;
    Manifest::read(&manifest.folder)
}

fn settle_entry(entry: &Entry) -> EntryState {
    let path = entry.path.to_path();
    let temporary = entry.temporary.to_path();
    let mut now = hex(&path);
    let aside = platform::aside(&temporary);
    if now.is_none()
        && !entry.created
        && aside != temporary
        && hex(&aside).as_deref() == Some(&entry.before)
    {
        // The old one had been moved aside, and nothing was in its place yet.
        if std::fs::rename(&aside, &path).is_ok() {
            now = hex(&path);
        }
    }
    if now.as_deref() == Some(&entry.after) {
        let out = aside;
        let lies_there = hex(&out);
        let known = lies_there.is_none()
            || lies_there.as_deref() == Some(&entry.before)
            || lies_there.as_deref() == Some(&entry.after);
        if !known {
            // Somebody saved in the instant of the exchange, and the run ended before it
            // could put that back.
            if let Ok(ours) = platform::swap_in(&out, &path) {
                let _ = platform::remove(&ours);
            }
            return EntryState::Left("it was saved by somebody while it was replaced".to_owned());
        }
        discard(&temporary);
        discard(&out);
        for link in &entry.links {
            let link = link.to_path();
            if hex(&link).as_deref() == Some(&entry.before)
                && relink(&path, &link, &temporary).is_err()
            {
                return EntryState::Left(format!(
                    "its other name {} has the old content",
                    link.display()
                ));
            }
        }
        return EntryState::Done;
    }
    discard(&temporary);
    EntryState::Left(
        if now.as_deref() == Some(&entry.before) || (entry.created && now.is_none()) {
            "the run ended before it was replaced".to_owned()
        } else {
            "the run ended before it was replaced, and it has changed since".to_owned()
        },
    )
}

fn hex(path: &Path) -> Option<String> {
    hash_file(path).ok().map(|hash| hash.to_hex().to_string())
}

fn discard(path: &Path) {
    if path.symlink_metadata().is_ok() {
        let _ = platform::remove(path);
    }
}
