//! Which files other programs have open: what is replaced while a program writes to it would lose
//! what that writes afterwards.

use std::collections::HashSet;
use std::ffi::OsString;
use std::fs::File;
use std::path::Path;

use super::{Identity, system};

/// Another program has the file open, so it is left.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("a program has it open; close the program that has it open, and run again")]
pub struct OpenElsewhere;

/// The files that other programs had open at one moment, as far as the system tells this user: on
/// Linux those of this user's other programs. On Windows opening a file tells it; elsewhere it
/// is not known.
#[derive(Debug, Default)]
pub(crate) struct OpenFiles {
    open: HashSet<Identity>,
    written: HashSet<Identity>,
}

impl OpenFiles {
    /// Looks for open files that are called by one of `names`.
    pub(crate) fn look(names: &HashSet<OsString>) -> Self {
        let (open, written) = system::open_files(names);
        Self { open, written }
    }

    /// Whether another program had `file` open for writing, or if it is to be `exclusive` at all.
    pub(crate) fn has(&self, file: &File, exclusive: bool) -> bool {
        let among = if exclusive { &self.open } else { &self.written };
        let identity = || super::identity(file, &file.metadata()?);
        !among.is_empty() && identity().is_ok_and(|(identity, _)| among.contains(&identity))
    }
}

/// Whether another program has the file at `path` open at all, as far as the system tells.
pub(crate) fn is_open_elsewhere(path: &Path) -> bool {
    let Some(name) = path.file_name() else {
        return false;
    };
    let open = OpenFiles::look(&HashSet::from([name.to_owned()]));
    super::open_regular(path).is_ok_and(|(file, _)| open.has(&file, true))
}
