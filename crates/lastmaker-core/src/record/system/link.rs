//! Links of the file system: what they hold is where they lead.

use std::fs;
use std::io;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};

use crate::base::platform::path_from;

/// What sort of link it is. Only Windows has more than one.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum LinkKind {
    /// A symbolic link, on Windows one to a file.
    Symbolic,
    /// A symbolic link to a folder, on Windows.
    Folder,
    /// A junction.
    Junction,
}

/// Where a link leads, as it says it; none if there is no link at `path`.
pub fn link_target(path: &Path) -> Option<PathBuf> {
    fs::read_link(path).ok()
}

/// The hash of a link that leads to `target`; no file has the same.
pub fn hash_link(target: &Path) -> blake3::Hash {
    let mut hasher = blake3::Hasher::new_derive_key("lastmaker 2026-11-26 target of a link");
    hasher.update(target.as_os_str().as_encoded_bytes());
    hasher.finalize()
}

/// The bytes by which a target is kept in a record.
pub(in crate::record) fn bytes_of(target: &Path) -> &[u8] {
    target.as_os_str().as_encoded_bytes()
}

/// The target that `bytes` of a record, or the edits of a plan, make.
///
/// # Errors
/// Where they are no path on this system.
pub fn target_from(bytes: &[u8]) -> io::Result<PathBuf> {
    let not_unicode = || io::Error::new(io::ErrorKind::InvalidData, "the target is no Unicode");
    path_from(bytes).ok_or_else(not_unicode)
}
