//! One file or link that a walk comes to, and what the system says of it.

use std::fs::File;
use std::io;
use std::path::{Path, PathBuf};

use super::in_use::{InUse, in_use, is_beside_database};
use crate::base::platform;
use crate::format::Format;

/// One file that may be of interest.
pub struct Entry<'a> {
    /// Its path, below the path that the technician gave.
    pub path: &'a Path,
    /// Its canonical path; of a link that of the link itself, not of what it leads to.
    pub canonical: PathBuf,
    /// Whether it keeps history: a log, a backup, something in a recycle bin.
    pub history: bool,
    /// The format that the technician says it is in.
    pub format: Option<&'static dyn Format>,
    /// What it holds.
    pub content: Content<'a>,
    /// The file as it was opened for reading; none for a link.
    pub opened: Option<&'a File>,
}

/// What there is at a path.
#[derive(Clone, Copy, Debug)]
pub enum Content<'a> {
    /// A file, and all its bytes.
    Whole(&'a [u8]),
    /// A file that is larger than a document may be.
    TooLarge,
    /// A link, and where it leads as it says it.
    Link(&'a Path),
}

/// What the system says of a file that is to be replaced.
#[derive(Clone, Debug)]
pub struct Facts {
    /// Its canonical path; of a link that of the link itself, not of what it leads to.
    pub canonical: PathBuf,
    /// Whether it is read-only.
    pub read_only: bool,
    /// Which file it is, and how many names it has, if it has several.
    pub names: Option<Names>,
}

/// A file with several names.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Names {
    /// Which file it is.
    pub file: (u64, u64),
    /// How many names it has.
    pub count: u64,
}

impl Entry<'_> {
    /// Its last name, by which a format may be known.
    pub fn name(&self) -> String {
        let name = self.path.file_name().unwrap_or_default();
        name.to_string_lossy().into_owned()
    }

    /// How much of it is in memory, in bytes.
    pub(crate) fn size(&self) -> u64 {
        match self.content {
            Content::Whole(bytes) => bytes.len() as u64,
            Content::TooLarge | Content::Link(_) => 0,
        }
    }

    /// What the system says of it.
    ///
    /// # Errors
    /// As the system says.
    pub fn facts(&self) -> io::Result<Facts> {
        let canonical = self.canonical.clone();
        let Some(opened) = self.opened else {
            return Ok(Facts {
                canonical,
                read_only: false,
                names: None,
            });
        };
        let metadata = platform::regular(opened)?;
        let names = platform::identity(opened, &metadata).ok();
        let names = names.filter(|(_, count)| *count > 1);
        Ok(Facts {
            canonical,
            read_only: metadata.permissions().readonly(),
            names: names.map(|(file, count)| Names { file, count }),
        })
    }

    /// Whether it is what a database beside it is written through; that is told with the
    /// database.
    pub fn is_beside_database(&self) -> bool {
        is_beside_database(self.path)
    }

    /// Why it must not be replaced now, if it is a file that programs write piece by piece.
    pub fn in_use(&self) -> Option<InUse> {
        in_use(self.path)
    }
}
