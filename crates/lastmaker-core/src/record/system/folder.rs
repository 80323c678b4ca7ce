//! A folder that is held while something in it is replaced, so that nothing put in its place
//! later, a link above all, is taken for it.
//!
//! Everything that makes, exchanges, joins or removes a user's file goes through one. The path
//! that it is opened by is canonical: where a link stands on the way now, it is another folder.

use std::ffi::{OsStr, OsString};
use std::io;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use super::link::hash_link;
pub(in crate::record) use super::this::folder::{Folder, aside, is_in_use};
use super::this::folder::{LOOP, NAMES_ARE_SYNCED, NO_MORE_FILES};
use crate::base::platform::{private_files, private_folders};

impl Folder {
    /// The hash of a file's content, or of where a link leads.
    ///
    /// # Errors
    /// As reading does.
    pub(in crate::record) fn hash(&self, name: &OsStr) -> io::Result<blake3::Hash> {
        if let Some(target) = self.link_target(name) {
            return Ok(hash_link(&target));
        }
        let (mut file, _) = self.open_regular(name)?;
        let mut hasher = blake3::Hasher::new();
        io::copy(&mut file, &mut hasher)?;
        Ok(hasher.finalize())
    }

    /// The same as hexadecimal digits; none if there is nothing that can be read.
    pub(in crate::record) fn hex(&self, name: &OsStr) -> Option<String> {
        self.hash(name).ok().map(|hash| hash.to_hex().to_string())
    }

    /// Puts a file where there must be none.
    ///
    /// # Errors
    /// As the system says, or `AlreadyExists`.
    pub(in crate::record) fn create_from(&self, temporary: &OsStr, name: &OsStr) -> io::Result<()> {
        // A second name is refused if something is there; where there are no second names, the
        // look before the rename has to do.
        match self.join(name, self, temporary) {
            // Where links can have second names, a link keeps being one. The first name is removed
            // with what else is no longer needed.
            Ok(()) => Ok(()),
            Err(_) if self.has(name)? => Err(io::ErrorKind::AlreadyExists.into()),
            Err(_) => self.rename(temporary, name),
        }
    }

    /// Makes `name` another name of `file` in the folder `of`, in one step.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn relink(
        &self,
        name: &OsStr,
        of: &Self,
        file: &OsStr,
        temporary: &OsStr,
    ) -> io::Result<()> {
        self.join(temporary, of, file)?;
        self.rename(temporary, name).inspect_err(|_| {
            let _ = self.remove(temporary);
        })
    }
}

/// Where a change is made: the file's folder, held, and its name there.
pub(in crate::record) struct Spot {
    pub(in crate::record) folder: Arc<Folder>,
    pub(in crate::record) name: OsString,
}

/// The folder of a path and its last name; none for a root.
pub(in crate::record) fn parted(path: &Path) -> Option<(&Path, &OsStr)> {
    Some((path.parent()?, path.file_name()?))
}

/// The folder of a path, held, and the last name.
///
/// # Errors
/// As [`Folder::open`].
pub(in crate::record) fn open_parent(path: &Path) -> io::Result<(Folder, OsString)> {
    let (parent, name) = parted(path).ok_or(io::ErrorKind::InvalidInput)?;
    Ok((Folder::open(parent)?, name.to_owned()))
}

/// Whether a failure to open a folder, or what is in it, means that it is not there any more, or
/// that something else is in its place.
pub(in crate::record) fn is_other_folder(error: &io::Error) -> bool {
    use io::ErrorKind::{NotADirectory, NotFound};
    let is_link = LOOP.is_some_and(|code| error.raw_os_error() == Some(code));
    matches!(error.kind(), NotFound | NotADirectory) || is_link
}

/// Whether a failure means that this process, or the system, can open no more files now.
pub(in crate::record) fn is_out_of_descriptors(error: &io::Error) -> bool {
    error
        .raw_os_error()
        .is_some_and(|code| NO_MORE_FILES.contains(&code))
}

/// Makes a folder that only its owner may enter, and those above it that are missing; what they
/// are called is on the disk then.
///
/// # Errors
/// As the system says.
pub(in crate::record) fn create_private(folder: &Path) -> io::Result<()> {
    let missing: Vec<&Path> = folder
        .ancestors()
        .take_while(|above| !above.as_os_str().is_empty() && !above.exists())
        .collect();
    private_folders().recursive(true).create(folder)?;
    for made in missing {
        sync_names(made.parent().unwrap_or(Path::new("")))?;
    }
    Ok(())
}

/// Makes durable what the things in a folder of ours are called.
///
/// # Errors
/// As the system says.
pub(in crate::record) fn sync_names(folder: &Path) -> io::Result<()> {
    let here = Path::new(".");
    let folder = if folder.as_os_str().is_empty() {
        here
    } else {
        folder
    };
    match names_to_sync(folder)? {
        Some(opened) => opened.sync_all(),
        None => Ok(()),
    }
}

/// A folder of ours, to be synced so that its names are on the disk; none where that is not
/// needed.
///
/// # Errors
/// As the system says.
pub(in crate::record) fn names_to_sync(folder: &Path) -> io::Result<Option<std::fs::File>> {
    NAMES_ARE_SYNCED
        .then(|| std::fs::File::open(folder))
        .transpose()
}

/// Makes a new file in a folder of ours that only its owner may read, for writing.
///
/// # Errors
/// As the system says.
pub(in crate::record) fn create_own(path: &Path) -> io::Result<std::fs::File> {
    private_files().write(true).create_new(true).open(path)
}

/// The path of `name` in `folder`, as people are told it.
pub(in crate::record) fn beside(path: &Path, name: &OsStr) -> PathBuf {
    path.with_file_name(name)
}
