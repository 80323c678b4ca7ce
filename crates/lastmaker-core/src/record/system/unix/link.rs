//! Links are made and taken away. There is one sort of them.

use std::fs;
use std::io;
use std::path::Path;

use crate::record::LinkKind;

/// What sort of link is at `path`.
///
/// # Errors
/// None here.
pub fn kind_of_link(_: &Path) -> io::Result<LinkKind> {
    Ok(LinkKind::Symbolic)
}

/// Makes a new link at `path`.
///
/// # Errors
/// As the system says.
pub(in crate::record) fn new_link(_: LinkKind, target: &Path, path: &Path) -> io::Result<()> {
    std::os::unix::fs::symlink(target, path)
}

/// Takes a link away, whatever it leads to.
///
/// # Errors
/// As the system says.
pub(in crate::record) fn remove_link(_: LinkKind, path: &Path) -> io::Result<()> {
    fs::remove_file(path)
}
