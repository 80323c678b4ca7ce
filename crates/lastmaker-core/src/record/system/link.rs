//! Links of the file system: what they hold is where they lead.

use std::fs;
use std::io;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};

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
    #[cfg(unix)]
    {
        use std::os::unix::ffi::OsStrExt;
        Ok(PathBuf::from(std::ffi::OsStr::from_bytes(bytes)))
    }
    #[cfg(not(unix))]
    {
        let text = std::str::from_utf8(bytes);
        text.map(PathBuf::from)
            .map_err(|_| io::Error::new(io::ErrorKind::InvalidData, "the target is no Unicode"))
    }
}

/// What sort of link is at `path`.
///
/// # Errors
/// As the system says.
pub fn kind_of_link(path: &Path) -> io::Result<LinkKind> {
    #[cfg(windows)]
    {
        use std::os::windows::fs::FileTypeExt;
        let kind = fs::symlink_metadata(path)?.file_type();
        if junction::exists(path).unwrap_or(false) {
            return Ok(LinkKind::Junction);
        }
        Ok(if kind.is_symlink_dir() {
            LinkKind::Folder
        } else {
            LinkKind::Symbolic
        })
    }
    #[cfg(not(windows))]
    {
        let _ = path;
        Ok(LinkKind::Symbolic)
    }
}

/// Makes a new link at `path`.
///
/// # Errors
/// As the system says; symbolic links need a right that users often lack.
#[cfg(not(windows))]
pub(in crate::record) fn new_link(_: LinkKind, target: &Path, path: &Path) -> io::Result<()> {
    std::os::unix::fs::symlink(target, path)
}

/// Takes a link away, whatever it leads to.
///
/// # Errors
/// As the system says.
#[cfg(not(windows))]
pub(in crate::record) fn remove_link(_: LinkKind, path: &Path) -> io::Result<()> {
    fs::remove_file(path)
}

/// Takes a link away, whatever it leads to.
///
/// # Errors
/// As the system says.
#[cfg(windows)]
pub(in crate::record) fn remove_link(kind: LinkKind, path: &Path) -> io::Result<()> {
    match kind {
        LinkKind::Symbolic => fs::remove_file(path),
        LinkKind::Folder | LinkKind::Junction => fs::remove_dir(path),
    }
}

/// Makes a new link at `path`.
///
/// # Errors
/// As the system says; symbolic links need a right that users often lack.
#[cfg(windows)]
pub(in crate::record) fn new_link(kind: LinkKind, target: &Path, path: &Path) -> io::Result<()> {
    use std::os::windows::fs::{symlink_dir, symlink_file};
    match kind {
        LinkKind::Symbolic => symlink_file(target, path),
        LinkKind::Folder => symlink_dir(target, path),
        LinkKind::Junction => {
            let there = fs::symlink_metadata(path).is_ok();
            junction::create(target, path).inspect_err(|_| {
                // Where it cannot become a junction, the folder that was made for it stays.
                if !there {
                    let _ = fs::remove_dir(path);
                }
            })
        }
    }
}
