//! What a rewrite did, kept so that it can be taken back: the only place that writes a
//! user's files.
//!
//! A record is a folder: `manifest.jsonl`, which only grows, `originals/`, a `lock` that is
//! held while the record is written, and `report.json`. Order of events for each file:
//!
//! 1. the original is copied into the record and synced;
//! 2. the manifest says what is about to happen, and is synced;
//! 3. the new copy is written beside the file, checked by its hash, and synced;
//! 4. old and new are exchanged in one step, and what came out is hashed: if somebody saved
//!    meanwhile, or writes to it still, they are exchanged back;
//! 5. the manifest says that it is done.
//!
//! Whatever is done beside a user's file goes through a handle of its folder, so that a folder
//! which is swapped for a link leads nowhere else.
//!
//! A kill at any instant leaves the file as its old self or its new self, and a manifest
//! that says which it may be.

#![expect(
    clippy::disallowed_methods,
    reason = "this is the one place that replaces files"
)]

mod advice;
mod chain;
mod change;
mod keep;
mod manifest;
mod replace;
mod restore;
mod roots;
mod settle;
mod step;
mod store;
mod system;
mod writer;
mod written;

pub use chain::{Chain, FileState};
pub use change::{Change, ChangeFault, Made, NewContent, OtherNameFault, OtherNameReason, Outcome};
pub use jiff::Timestamp;
pub use manifest::{
    Entry, EntryState, Header, Kind, MANIFEST, Manifest, SiteChange, SiteEdit, is_temporary,
};
pub use restore::{
    ChangedPolicy, RestoreItem, original_change, original_content, part_change, present_content,
    restore_items,
};
pub use roots::Roots;
pub use settle::{settle, sweep};
pub use step::Step;
pub use store::{Beginning, Record, RecordState, Rewrites, Store, is_name, is_record};
pub use system::belongings::Belongings;
pub use system::kind_of_link;
pub use system::link::{LinkKind, hash_link, link_target, target_from};
pub use writer::{RecordWriter, Watch};
pub use written::{PathText, RawText};

use std::io;
use std::path::{Path, PathBuf};

use thiserror::Error;

/// Why a record could not be made, read or used.
#[derive(Debug, Error)]
pub enum RecordError {
    /// The system refused something.
    #[error("{}: {what}: {}", path.display(), advice::with_advice(source))]
    Io {
        /// The file or folder.
        path: PathBuf,
        /// What was being done.
        what: &'static str,
        /// What the system said.
        source: io::Error,
    },
    /// A line of the manifest, or the report, cannot be written as JSON.
    #[error("what is to be recorded cannot be written: {0}")]
    Unwritable(serde_json::Error),
    /// The manifest cannot be read.
    #[error(
        "{}: line {line} of the manifest is damaged: {what}; nothing was changed, and the originals beside it can be \
         copied back by hand",
        path.display()
    )]
    Damaged {
        /// The manifest.
        path: PathBuf,
        /// Line, counted from 1.
        line: usize,
        /// What is wrong with it.
        what: String,
    },
    /// Its run ended before it had begun it.
    #[error("{}: the run ended before it had begun this record; no file was changed", folder.display())]
    NeverBegun {
        /// The folder.
        folder: PathBuf,
    },
    /// It has not come to its end.
    #[error(
        "record {id} was broken off; `lastmaker restore {id}` takes back what it did, before it can be forgotten"
    )]
    Unfinished {
        /// The record.
        id: String,
    },
    /// It was written by another build.
    #[error(
        "record {id} is of version {found}, and this build knows version {MANIFEST}; use the build that wrote it"
    )]
    OtherVersion {
        /// The record.
        id: String,
        /// Its version.
        found: u32,
    },
    /// Another run is writing it.
    #[error("record {id} is being written by another run; wait until that has ended")]
    Locked {
        /// The record.
        id: String,
    },
    /// There is no such record.
    #[error("there is no record {id:?} in {}; `lastmaker history` lists those that there are", store.display())]
    Unknown {
        /// What was asked for.
        id: String,
        /// Where it was looked for.
        store: PathBuf,
    },
}

impl RecordError {
    /// Why a report cannot be kept.
    pub(crate) fn report(error: serde_json::Error) -> Self {
        Self::Unwritable(error)
    }

    fn io(path: &Path, what: &'static str) -> impl FnOnce(io::Error) -> Self {
        let path = path.to_owned();
        move |source| Self::Io { path, what, source }
    }
}

/// The hash of content.
pub fn hash_bytes(bytes: &[u8]) -> blake3::Hash {
    blake3::hash(bytes)
}

/// The hash of a file's content, read piece by piece, or of a link's target.
///
/// # Errors
/// As reading does.
pub fn hash_file(path: &Path) -> io::Result<blake3::Hash> {
    if let Some(target) = link_target(path) {
        return Ok(hash_link(&target));
    }
    let (mut file, _) = crate::base::platform::open_regular(path)?;
    let mut hasher = blake3::Hasher::new();
    io::copy(&mut file, &mut hasher)?;
    Ok(hasher.finalize())
}

#[cfg(test)]
mod tests;
