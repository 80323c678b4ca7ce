//! What stands where a link is to be made.

use std::fs;
use std::path::{Path, PathBuf};

use crate::record::link_target;

/// What stands at a path.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Ground {
    /// Nothing; these folders on the way are missing, outermost first.
    Free(Vec<PathBuf>),
    /// A link, and where it leads.
    Link(PathBuf),
    /// A folder with so many entries, or one that may not be looked into.
    Folder(Option<usize>),
    /// A file.
    File,
    /// On the way there stands what is no folder.
    Barred(PathBuf),
}

impl Ground {
    pub(super) fn of(path: &Path) -> Self {
        if let Some(target) = link_target(path) {
            return Self::Link(target);
        }
        match fs::symlink_metadata(path) {
            Ok(metadata) if metadata.is_dir() => {
                return Self::Folder(fs::read_dir(path).ok().map(Iterator::count));
            }
            Ok(_) => return Self::File,
            Err(_) => {}
        }
        let mut missing = Vec::new();
        for above in path.ancestors().skip(1) {
            match fs::metadata(above) {
                Ok(metadata) if metadata.is_dir() => break,
                Ok(_) => return Self::Barred(above.to_owned()),
                // A link that leads nowhere.
                Err(_) if fs::symlink_metadata(above).is_ok() => {
                    return Self::Barred(above.to_owned());
                }
                Err(_) => missing.push(above.to_owned()),
            }
        }
        missing.reverse();
        Self::Free(missing)
    }
}
