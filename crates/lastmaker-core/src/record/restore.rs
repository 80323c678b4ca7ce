//! Back to the originals: how the files of a record stand, and the changes that put originals in
//! their places again.

use std::fs::{File, Metadata};
use std::io::Read;
use std::path::{Path, PathBuf};

use rayon::prelude::*;

use super::chain::{Chain, FileState};
use super::change::{Change, NewContent};
use super::manifest::{Entry, Manifest};
use super::system::folder::open_parent;
use super::system::link::{hash_link, target_from};
use super::written::PathText;

/// What to do with files that were saved again after the rewrite.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ChangedPolicy {
    /// Leave and name them.
    Leave,
    /// Put the original back.
    Original,
    /// Take back only what the rewrite did, where that still stands.
    Edits,
}

/// One file of a record, and how it stands.
#[derive(Clone, Debug)]
pub struct RestoreItem {
    /// Its entry in the manifest.
    pub entry: Entry,
    /// How it stands.
    pub state: FileState,
    /// Hash of what it holds now.
    pub now: Option<blake3::Hash>,
}

/// How the files of a record stand that `wanted` wants; `chain` knows what other records did.
pub fn restore_items(
    record: &Manifest,
    chain: &Chain,
    wanted: impl Fn(&Path) -> bool + Sync,
) -> Vec<RestoreItem> {
    let entries: Vec<&Entry> = record.done().collect();
    let items = entries.into_par_iter().filter_map(|entry| {
        let is_wanted = entry.paths().any(|path| wanted(&path));
        is_wanted.then(|| item(record, chain, entry))
    });
    items.collect()
}

impl RestoreItem {
    /// Whether nothing of what the record's run did is in the file.
    pub fn is_taken_back(&self) -> bool {
        matches!(self.state, FileState::Original | FileState::Undone)
    }
}

fn item(record: &Manifest, chain: &Chain, entry: &Entry) -> RestoreItem {
    let path = entry.path.to_path();
    let id = &record.header.id;
    let state_of = |path: &Path| {
        let now = open_parent(path).and_then(|(folder, name)| folder.hash(&name));
        let now = now.ok();
        let hex = now.map(|hash| hash.to_hex().to_string());
        (chain.state(path, entry, id, hex.as_deref()), now)
    };
    let (mut state, now) = state_of(&path);
    // What a kill between two names of a file left is put right by putting the original back.
    let is_left = |link: &PathText| state_of(&link.to_path()).0 == FileState::AsLeft;
    if state == FileState::Original && entry.links.iter().any(is_left) {
        state = FileState::InPart;
    }
    RestoreItem {
        entry: entry.clone(),
        state,
        now,
    }
}

/// The change that puts the original of `item` back as a whole; none if the original in the record
/// is not one that can be.
pub fn original_change<'a>(record: &Manifest, item: &RestoreItem) -> Option<Change<'a>> {
    let original = item.entry.original(&record.folder);
    let after = blake3::Hash::from_hex(&item.entry.before).ok()?;
    let content = match item.entry.link {
        None => NewContent::Original(original),
        Some(kind) => {
            let target = target_of(&original)?;
            if hash_link(&target) != after {
                return None;
            }
            NewContent::Link(kind, target)
        }
    };
    Some(Change {
        modified: item.entry.modified,
        belongings: item.entry.belongings.clone(),
        // What a rewrite left is made again by rewriting the original.
        expendable: item.state == FileState::AsLeft,
        ..change(item, content, after)
    })
}

/// The change by which the file of `item` comes to hold `content`, which is a part of the way
/// back.
pub fn part_change<'a>(item: &RestoreItem, content: Vec<u8>) -> Change<'a> {
    let after = blake3::hash(&content);
    change(item, NewContent::Bytes(content), after)
}

fn change<'a>(item: &RestoreItem, content: NewContent<'a>, after: blake3::Hash) -> Change<'a> {
    Change {
        path: item.entry.path.to_path(),
        links: item.entry.links.iter().map(PathText::to_path).collect(),
        before: item.now,
        after,
        modified: None,
        content,
        exclusive: false,
        expendable: false,
        moves: None,
        sites: None,
        belongings: None,
    }
}

fn target_of(original: &Path) -> Option<PathBuf> {
    let (file, _) = crate::base::platform::open_regular(original).ok()?;
    let mut bytes = Vec::new();
    file.take(1 << 20).read_to_end(&mut bytes).ok()?;
    target_from(&bytes).ok()
}

/// The original of `item`, if it is what was kept, up to `most` bytes.
///
/// # Errors
/// As reading does, or `FileTooLarge`, or `InvalidData` where it is another.
pub fn original_content(
    record: &Manifest,
    item: &RestoreItem,
    most: u64,
) -> std::io::Result<Vec<u8>> {
    let original = item.entry.original(&record.folder);
    let bytes = read_up_to(most, crate::base::platform::open_regular(&original)?)?;
    if blake3::hash(&bytes).to_hex().as_str() == item.entry.before {
        Ok(bytes)
    } else {
        Err(std::io::ErrorKind::InvalidData.into())
    }
}

/// What the file of `item` holds now, up to `most` bytes.
///
/// # Errors
/// As reading does, or `FileTooLarge`.
pub fn present_content(item: &RestoreItem, most: u64) -> std::io::Result<Vec<u8>> {
    let (folder, name) = open_parent(&item.entry.path.to_path())?;
    read_up_to(most, folder.open_regular(&name)?)
}

fn read_up_to(most: u64, (file, metadata): (File, Metadata)) -> std::io::Result<Vec<u8>> {
    if metadata.len() > most {
        return Err(std::io::ErrorKind::FileTooLarge.into());
    }
    let mut bytes = Vec::new();
    file.take(most).read_to_end(&mut bytes)?;
    Ok(bytes)
}
