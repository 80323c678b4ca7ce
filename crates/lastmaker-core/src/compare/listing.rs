//! What a folder holds, as far as a comparison needs it.

use std::ffi::OsString;
use std::fs;
use std::io;
use std::path::Path;
use std::time::SystemTime;

/// What there is by a name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Kind {
    File,
    Folder,
    Link,
    /// A pipe, a socket, a device: it is named, never opened.
    Other,
}

impl Kind {
    pub(super) fn word(self) -> &'static str {
        match self {
            Self::File => "a file",
            Self::Folder => "a folder",
            Self::Link => "a link",
            Self::Other => "neither file nor folder",
        }
    }
}

/// One name of a folder.
#[derive(Clone, Debug)]
pub(super) struct Item {
    pub(super) name: OsString,
    pub(super) kind: Kind,
    pub(super) size: u64,
    /// When its content was last changed.
    pub(super) time: SystemTime,
}

impl Item {
    pub(super) fn is_file(&self) -> bool {
        self.kind == Kind::File
    }
}

/// What a folder holds, sorted by name; links are not followed.
///
/// # Errors
/// As the system says.
pub(super) fn list(folder: &Path) -> io::Result<Vec<Item>> {
    let mut items = Vec::new();
    for entry in fs::read_dir(folder)? {
        let entry = entry?;
        let metadata = match entry.metadata() {
            Ok(metadata) => metadata,
            // It went away while the folder was listed.
            Err(error) if error.kind() == io::ErrorKind::NotFound => continue,
            Err(error) => return Err(error),
        };
        let kind = metadata.file_type();
        items.push(Item {
            name: entry.file_name(),
            kind: match () {
                () if kind.is_symlink() => Kind::Link,
                () if kind.is_dir() => Kind::Folder,
                () if kind.is_file() => Kind::File,
                () => Kind::Other,
            },
            size: if kind.is_file() { metadata.len() } else { 0 },
            time: metadata.modified().unwrap_or(SystemTime::UNIX_EPOCH),
        });
    }
    items.sort_unstable_by(|a, b| a.name.cmp(&b.name));
    Ok(items)
}
