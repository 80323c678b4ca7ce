//! Keeping the original of a file in the record.

use std::fs::{self, File};
use std::io::{self, Read};
use std::path::Path;
use std::time::{SystemTime, UNIX_EPOCH};

use super::change::{Change, ChangeFault, NewContent};
use super::hash_file;
use super::link::{self, hash_link, link_target};
use super::manifest::{EditSpan, Entry, PathText};
use super::platform;
use super::replace::pump;

/// An original that is in the record.
pub(super) struct Kept {
    pub(super) entry: Entry,
    /// The copy, which is still to be synced; none if there is none.
    pub(super) copy: Option<File>,
}

/// Copies the original into the record, and checks that it is what was planned on.
pub(super) fn keep_original(
    folder: &Path,
    id: &str,
    number: usize,
    change: &Change<'_>,
) -> Result<Kept, ChangeFault> {
    let parent = change.path.parent().unwrap_or(Path::new("/"));
    if parent.canonicalize().ok().as_deref() != Some(parent) {
        return Err(ChangeFault::OtherFolder);
    }
    let name = format!(".lastmaker-{id}-{number}.tmp");
    let mut entry = Entry::new(number, change, &parent.join(name));
    let Some(before) = change.before else {
        return Ok(Kept { entry, copy: None });
    };
    if change.exclusive && crate::platform::is_open_elsewhere(&change.path) {
        return Err(crate::platform::OpenElsewhere.into());
    }
    let original = entry.original(folder);
    let kept = match link_target(&change.path) {
        Some(target) => keep_target(&mut entry, &target, &original, change),
        None => keep_content(&mut entry, &original, change),
    };
    let (hash, copy) = match kept {
        Ok(kept) => kept,
        Err(fault) => {
            let _ = fs::remove_file(&original);
            return Err(fault);
        }
    };
    if hash != before {
        let _ = fs::remove_file(&original);
        return Err(ChangeFault::Changed);
    }
    Ok(Kept { entry, copy })
}

/// Keeps where a link leads.
fn keep_target(
    entry: &mut Entry,
    target: &Path,
    original: &Path,
    change: &Change<'_>,
) -> Result<(blake3::Hash, Option<File>), ChangeFault> {
    let NewContent::Link(kind, _) = &change.content else {
        return Err(ChangeFault::BecameLink);
    };
    entry.link = Some(link::kind_of_link(&change.path).unwrap_or(*kind));
    let kept = copy_hashed(link::bytes_of(target), original);
    let (_, copy) = kept.map_err(ChangeFault::Unkept)?;
    Ok((hash_link(target), Some(copy)))
}

/// Keeps what a file holds.
fn keep_content(
    entry: &mut Entry,
    original: &Path,
    change: &Change<'_>,
) -> Result<(blake3::Hash, Option<File>), ChangeFault> {
    if let NewContent::Edits(edits) = &change.content {
        entry.edits = edits.as_slice().iter().map(EditSpan::from).collect();
    }
    let (file, metadata) =
        crate::platform::open_regular(&change.path).map_err(ChangeFault::Unread)?;
    entry.modified = metadata.modified().ok().map(nanoseconds);
    match copy_hashed(file, original) {
        Ok((hash, copy)) => Ok((hash, Some(copy))),
        Err(error) if error.kind() == io::ErrorKind::StorageFull && change.expendable => {
            let _ = fs::remove_file(original);
            entry.kept = false;
            let hash = hash_file(&change.path).map_err(ChangeFault::Unread)?;
            Ok((hash, None))
        }
        Err(error) => Err(ChangeFault::Unkept(error)),
    }
}

impl Entry {
    /// The entry of a change that has just begun.
    fn new(number: usize, change: &Change<'_>, temporary: &Path) -> Self {
        let links = change.links.iter();
        let before = change.before.map(|hash| hash.to_hex().to_string());
        Self {
            number,
            path: PathText::from(change.path.as_path()),
            links: links.map(|path| PathText::from(path.as_path())).collect(),
            temporary: PathText::from(temporary),
            before: before.unwrap_or_default(),
            after: change.after.to_hex().to_string(),
            created: change.before.is_none(),
            kept: change.before.is_some(),
            link: None,
            modified: None,
            edits: Vec::new(),
            moves: change.moves.clone(),
        }
    }
}

/// Copies `source` to a new file, which is still to be synced, and gives the hash of what was
/// copied.
fn copy_hashed(mut source: impl Read, to: &Path) -> io::Result<(blake3::Hash, File)> {
    let mut file = platform::create_new(to)?;
    let hash = pump(&mut source, &mut file)?;
    Ok((hash, file))
}

fn nanoseconds(time: SystemTime) -> i128 {
    match time.duration_since(UNIX_EPOCH) {
        Ok(since) => since.as_nanos() as i128,
        Err(before) => -(before.duration().as_nanos() as i128),
    }
}
