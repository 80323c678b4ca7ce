//! What no record says of itself: a manifest that was tampered with, or cut, is refused.

use std::collections::HashSet;
use std::ffi::OsString;
use std::fs;
use std::path::{Component, Path};

use super::{BATCH, Damage, End, Entry, EntryState, Header, Manifest, ORIGINALS_NAME, REPORT_NAME};
use crate::record::written::PathText;
use crate::record::{RecordError, Roots, Step};

/// Whether a header is one that a record may have, else what is wrong with it.
pub(super) fn header(header: &Header) -> Result<(), &'static str> {
    let plain = |id: &str| {
        let letter = |b: u8| b.is_ascii_alphanumeric() || b == b'-';
        !id.is_empty() && id.len() <= 64 && id.bytes().all(letter)
    };
    if !plain(&header.id) || !header.undoes.as_deref().is_none_or(plain) {
        return Err("it holds a name that no record has");
    }
    let scope = header.scope.iter().map(PathText::to_path);
    if !scope.into_iter().all(|path| is_plain(&path)) {
        return Err("it names a folder by a path that no record has");
    }
    Ok(())
}

/// Whether an entry is one that a record with these roots may have, else what is wrong with it.
pub(super) fn entry(entry: &Entry, roots: &Roots) -> Result<(), &'static str> {
    for path in entry.paths() {
        if !is_plain(&path) || path.file_name().is_none() {
            return Err("it names a file by a path that no record has");
        }
        if !roots.hold(&path) {
            return Err("it names a file outside of what the run was told to look at");
        }
    }
    let mut parts = Path::new(&entry.original).components();
    let one_name = matches!(
        (parts.next(), parts.next()),
        (Some(Component::Normal(_)), None)
    );
    if !one_name || !entry.original.starts_with(&format!("{:06} ", entry.number)) {
        return Err("it names an original by a name that none has");
    }
    Ok(())
}

/// Whether a step is one that a record may have, else what is wrong with it.
pub(super) fn step(step: &Step) -> Result<(), &'static str> {
    if step
        .paths()
        .iter()
        .all(|path| is_plain(path) && path.file_name().is_some())
    {
        Ok(())
    } else {
        Err("it names a link or folder by a path that no record has")
    }
}

/// Whether a path is absolute and goes neither up nor nowhere.
fn is_plain(path: &Path) -> bool {
    let up = |part: Component<'_>| matches!(part, Component::ParentDir | Component::CurDir);
    path.is_absolute() && !path.components().any(up)
}

impl Manifest {
    /// Refuses a manifest of which a part is missing.
    pub(super) fn check(&self, end: Option<End>, damage: &Damage<'_>) -> Result<(), RecordError> {
        let last = self.entries.len() + self.steps.len() + 1;
        let missing = || damage.at(last, "lines are missing before it");
        if let Some(end) = end {
            let entries = self.entries.iter().map(|(_, state)| state);
            let mut states = entries.chain(self.steps.iter().map(|(_, state)| state));
            let told = states.all(|state| *state != EntryState::Begun);
            return if end.entries + 1 == last && told {
                Ok(())
            } else {
                Err(missing())
            };
        }
        // Originals come into the record one batch before the manifest speaks of them. Their
        // report comes when all is done.
        let named: HashSet<OsString> = self
            .entries
            .iter()
            .map(|(entry, _)| OsString::from(&entry.original))
            .collect();
        let originals = fs::read_dir(self.folder.join(ORIGINALS_NAME));
        let unnamed = originals
            .into_iter()
            .flatten()
            .flatten()
            .filter(|original| !named.contains(&original.file_name()))
            .count();
        let ended = self.folder.join(REPORT_NAME).exists();
        if unnamed > if ended { 0 } else { BATCH } {
            Err(damage.at(last, "the lines after it are missing"))
        } else {
            Ok(())
        }
    }
}
