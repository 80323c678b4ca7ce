//! Keeping the original of a file in the record.

use std::fs::{self, File};
use std::io::{self, Read};
use std::path::Path;
use std::time::{SystemTime, UNIX_EPOCH};

use super::Belongings;
use super::change::{Change, ChangeFault, NewContent};
use super::manifest::{Entry, name_of_original};
use super::replace::pump;
use super::system::folder::{Spot, create_own};
use super::system::link::{self, hash_link};
use super::written::PathText;
use crate::base::compact::CompactList;
use crate::base::platform::{OpenElsewhere, OpenFiles};

/// An original that is in the record.
pub(super) struct Kept {
    pub(super) entry: Entry,
    /// The copy, which is still to be synced; none if there is none.
    pub(super) copy: Option<File>,
}

/// Copies the original into the record, and checks that it is what was planned on. `open` is what
/// other programs have open.
pub(super) fn keep_original(
    record: &Path,
    number: usize,
    change: &Change<'_>,
    spot: &Spot,
    open: &OpenFiles,
) -> Result<Kept, ChangeFault> {
    let mut entry = Entry::new(number, change);
    let Some(before) = change.before else {
        entry.belongings = change.belongings.clone();
        return Ok(Kept { entry, copy: None });
    };
    let original = entry.original(record);
    let kept = match spot.folder.link_target(&spot.name) {
        Some(target) => keep_target(&mut entry, &target, &original, change, spot),
        None => keep_content(&mut entry, &original, change, spot, open),
    };
    match kept {
        Ok((hash, copy)) if hash == before => Ok(Kept { entry, copy }),
        Ok(_) => {
            let _ = fs::remove_file(&original);
            Err(ChangeFault::Changed)
        }
        Err(fault) => {
            let _ = fs::remove_file(&original);
            Err(fault)
        }
    }
}

/// Keeps where a link leads.
fn keep_target(
    entry: &mut Entry,
    target: &Path,
    original: &Path,
    change: &Change<'_>,
    spot: &Spot,
) -> Result<(blake3::Hash, Option<File>), ChangeFault> {
    let NewContent::Link(kind, _) = &change.content else {
        return Err(ChangeFault::BecameLink);
    };
    entry.link = Some(spot.folder.kind_of_link(&spot.name).unwrap_or(*kind));
    let kept = copy_hashed(link::bytes_of(target), original);
    let (_, copy) = kept.map_err(ChangeFault::Unkept)?;
    Ok((hash_link(target), Some(copy)))
}

/// Keeps what a file holds.
fn keep_content(
    entry: &mut Entry,
    original: &Path,
    change: &Change<'_>,
    spot: &Spot,
    open: &OpenFiles,
) -> Result<(blake3::Hash, Option<File>), ChangeFault> {
    entry.sites = change.sites.cloned().unwrap_or_default();
    let opened = spot.folder.open_to_replace(&spot.name, change.exclusive);
    let (file, metadata) = opened.map_err(|error| match error.kind() {
        io::ErrorKind::ResourceBusy => OpenElsewhere.into(),
        _ => ChangeFault::Unread(error),
    })?;
    if open.has(&file, change.exclusive) {
        return Err(OpenElsewhere.into());
    }
    entry.modified = metadata.modified().ok().map(nanoseconds);
    let belongings = Belongings::of(&file, &metadata).map_err(ChangeFault::Metadata)?;
    entry.belongings = Some(belongings);
    match copy_hashed(&file, original) {
        Ok((hash, copy)) => Ok((hash, Some(copy))),
        Err(error) if error.kind() == io::ErrorKind::StorageFull && change.expendable => {
            let _ = fs::remove_file(original);
            entry.kept = false;
            let hash = spot.folder.hash(&spot.name).map_err(ChangeFault::Unread)?;
            Ok((hash, None))
        }
        Err(error) => Err(ChangeFault::Unkept(error)),
    }
}

impl Entry {
    /// The entry of a change that has just begun.
    fn new(number: usize, change: &Change<'_>) -> Self {
        let links = change.links.iter();
        let before = change.before.map(|hash| hash.to_hex().to_string());
        Self {
            number,
            path: PathText::from(change.path.as_path()),
            links: links.map(|path| PathText::from(path.as_path())).collect(),
            original: name_of_original(number, &change.path),
            before: before.unwrap_or_default(),
            after: change.after.to_hex().to_string(),
            created: change.before.is_none(),
            kept: change.before.is_some(),
            link: None,
            modified: None,
            belongings: None,
            sites: CompactList::default(),
            moves: change.moves.clone(),
        }
    }
}

/// Copies `source` to a new file, which is still to be synced, and gives the hash of what was
/// copied.
fn copy_hashed(mut source: impl Read, to: &Path) -> io::Result<(blake3::Hash, File)> {
    let mut file = create_own(to)?;
    let hash = pump(&mut source, &mut file)?;
    Ok((hash, file))
}

fn nanoseconds(time: SystemTime) -> i128 {
    match time.duration_since(UNIX_EPOCH) {
        Ok(since) => since.as_nanos() as i128,
        Err(before) => -(before.duration().as_nanos() as i128),
    }
}
