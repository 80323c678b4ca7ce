//! Back to the originals; what changed since is named, and dealt with as told.

use std::fs;
use std::path::{Path, PathBuf};

use super::change::{Change, Made, NewContent};
use super::manifest::{EditSpan, Entry, Manifest};
use super::{RecordError, RecordWriter, hash_file, target_from};

/// What to do with files that were saved again after the rewrite.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ChangedPolicy {
    /// Leave and name them.
    Leave,
    /// Put the original back.
    Original,
    /// Take back only what the rewrite did, where its bytes are still there.
    Edits,
}

/// The state of a file of a record.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum RestoreState {
    /// As the rewrite left it.
    AsLeft,
    /// It is its original already.
    Original,
    /// It was changed since.
    Changed,
    /// It is gone.
    Missing,
}

/// One file of a record and what is to be done with it.
#[derive(Clone, Debug)]
pub struct RestoreItem {
    /// Its entry in the manifest.
    pub entry: Entry,
    /// How it stands.
    pub state: RestoreState,
    /// Hash of what it holds now.
    pub now: Option<blake3::Hash>,
    /// What it will hold: none if it is left.
    pub content: Option<Vec<u8>>,
    /// Whether the original as a whole is put back.
    pub whole: bool,
    /// With edits taken back one by one: how many could be, of how many.
    pub edits: Option<(usize, usize)>,
}

/// Finds out in what state the files of a record are, and what can be done with them.
pub fn restore_plan(record: &Manifest, policy: ChangedPolicy) -> Vec<RestoreItem> {
    record
        .done()
        .map(|entry| plan_entry(record, entry, policy))
        .collect()
}

fn plan_entry(record: &Manifest, entry: &Entry, policy: ChangedPolicy) -> RestoreItem {
    let path = entry.path.to_path();
    let now = hash_file(&path).ok();
    let hex = now.map(|hash| hash.to_hex().to_string());
    let state = match hex.as_deref() {
        None if path.symlink_metadata().is_err() => RestoreState::Missing,
        Some(hash) if hash == entry.after => RestoreState::AsLeft,
        Some(hash) if hash == entry.before => RestoreState::Original,
        _ => RestoreState::Changed,
    };
    let mut item = RestoreItem {
        entry: entry.clone(),
        state,
        now,
        content: None,
        whole: false,
        edits: None,
    };
    match (&item.state, policy) {
        (RestoreState::AsLeft, _) => item.whole = entry.kept,
        (RestoreState::Changed | RestoreState::Missing, ChangedPolicy::Original) => {
            item.whole = entry.kept;
        }
        (RestoreState::Changed, ChangedPolicy::Edits) => {
            if let Some((content, count)) = take_back(record, entry, &path) {
                item.edits = Some((count, entry.edits.len()));
                item.content = (count > 0).then_some(content);
            }
        }
        _ => {}
    }
    item
}

/// Letters of the surroundings by which a changed place is known again, the most first.
const CONTEXTS: [usize; 3] = [32, 12, 4];

/// The present content with the rewrite's edits taken back where their bytes are still there,
/// in the order in which they were written, and how many those are.
fn take_back(record: &Manifest, entry: &Entry, path: &Path) -> Option<(Vec<u8>, usize)> {
    let original = fs::read(entry.original(&record.folder)).ok()?;
    let present = fs::read(path).ok()?;
    let mut content = Vec::with_capacity(present.len());
    let (mut at, mut count) = (0, 0);
    for edit in &entry.edits {
        let (start, gone) = (edit.start as usize, edit.gone as usize);
        let old = original.get(start..start + gone)?;
        let Some(found) = find_again(&original, edit, &present, at, entry) else {
            continue;
        };
        content.extend_from_slice(&present[at..found]);
        content.extend_from_slice(old);
        at = found + edit.with.as_bytes().len();
        count += 1;
    }
    content.extend_from_slice(&present[at..]);
    Some((content, count))
}

/// Where what the edit wrote is in the present version, at or after `from`: the same
/// bytes in the same surroundings, and only once.
fn find_again(
    original: &[u8],
    edit: &EditSpan,
    present: &[u8],
    from: usize,
    entry: &Entry,
) -> Option<usize> {
    let (start, gone) = (edit.start as usize, edit.gone as usize);
    // Neighbouring edits are no surroundings to go by: their bytes have changed.
    let others = || {
        entry
            .edits
            .iter()
            .filter(|other| other.start as usize != start)
    };
    let lowest = others()
        .map(|other| (other.start + other.gone) as usize)
        .filter(|end| *end <= start)
        .max()
        .unwrap_or(0);
    let highest = others()
        .map(|other| other.start as usize)
        .filter(|other| *other >= start + gone)
        .min()
        .unwrap_or(original.len());
    for reach in CONTEXTS {
        let before = &original[start.saturating_sub(reach).max(lowest)..start];
        let after = &original[start + gone..(start + gone + reach).min(highest)];
        // Other lines may have changed for reasons of their own.
        let before = before.rsplit(|b| *b == b'\n').next().unwrap_or(before);
        let after = after.split(|b| *b == b'\n').next().unwrap_or(after);
        if before.is_empty() && after.is_empty() {
            continue;
        }
        let needle = [before, edit.with.as_bytes(), after].concat();
        let search = from.saturating_sub(before.len());
        let finder = memchr::memmem::Finder::new(&needle);
        let mut places = finder
            .find_iter(&present[search..])
            .map(|at| search + at + before.len())
            .filter(|at| *at >= from);
        if let (Some(place), None) = (places.next(), places.next()) {
            return Some(place);
        }
    }
    None
}

/// Makes the restore that was planned. The versions that are replaced go into `writer`'s
/// record first. Outcomes are those of the items that have something to be done.
///
/// # Errors
/// Where the new record cannot be written.
pub fn put_back(
    record: &Manifest,
    items: &[RestoreItem],
    writer: &mut RecordWriter,
    made: &(dyn Fn(usize) + Sync),
) -> Result<Vec<(PathBuf, Made)>, RecordError> {
    let mut changes = Vec::new();
    for item in items {
        let content = match (&item.content, item.whole) {
            (Some(bytes), _) => NewContent::Bytes(bytes.clone()),
            (None, true) => {
                let original = item.entry.original(&record.folder);
                match item.entry.link {
                    None => NewContent::File(original),
                    Some(kind) => match fs::read(&original).and_then(|b| target_from(&b)) {
                        Ok(target) => NewContent::Link(kind, target),
                        Err(_) => continue,
                    },
                }
            }
            (None, false) => continue,
        };
        let after = match &content {
            NewContent::Bytes(bytes) => blake3::hash(bytes),
            _ => match blake3::Hash::from_hex(&item.entry.before) {
                Ok(hash) => hash,
                Err(_) => continue,
            },
        };
        changes.push(Change {
            path: item.entry.path.to_path(),
            links: item
                .entry
                .links
                .iter()
                .map(super::PathText::to_path)
                .collect(),
            before: item.now,
            after,
            modified: if item.whole {
                item.entry.modified
            } else {
                None
            },
            content,
            exclusive: false,
            // What a rewrite left is made again by rewriting the original.
            expendable: item.state == RestoreState::AsLeft,
            moves: Vec::new(),
        });
    }
    let outcomes = writer.commit(&changes, made)?;
    Ok(changes
        .into_iter()
        .map(|change| change.path)
        .zip(outcomes)
        .collect())
}
