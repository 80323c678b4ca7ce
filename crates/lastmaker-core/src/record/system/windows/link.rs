//! Links are made and taken away: symbolic ones to files and to folders, and junctions.

use std::fs;
use std::io;
use std::os::windows::fs::{FileTypeExt, symlink_dir, symlink_file};
use std::path::Path;

use crate::record::LinkKind;

/// What sort of link is at `path`.
///
/// # Errors
/// As the system says.
pub fn kind_of_link(path: &Path) -> io::Result<LinkKind> {
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

/// Takes a link away, whatever it leads to.
///
/// # Errors
/// As the system says.
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
pub(in crate::record) fn new_link(kind: LinkKind, target: &Path, path: &Path) -> io::Result<()> {
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
