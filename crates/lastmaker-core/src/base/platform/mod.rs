//! What differs between systems when files are looked at: each has a folder, which has all that only it has.

mod identity;
pub(crate) mod letters;
mod open_files;
#[cfg(unix)]
mod unix;
mod volumes;
#[cfg(windows)]
mod windows;

pub(crate) use identity::Identity;
pub(crate) use open_files::{OpenElsewhere, OpenFiles, is_open_elsewhere};
pub(crate) use volumes::{VolumeName, find as find_volume};

use std::fs::{File, Metadata, OpenOptions};
use std::io;
use std::path::{Path, PathBuf};

#[cfg(unix)]
use unix as system;
#[cfg(windows)]
use windows as system;

pub(crate) use system::{
    are_on_one_volume, identity, is_placeholder, may_change, most_descriptors, path_from,
    private_files, private_folders, thread_time,
};

/// Opens a file for reading without following a link at its end, and without waiting on
/// pipes.
///
/// # Errors
/// As the system says.
pub(crate) fn open_without_following(path: &Path) -> io::Result<File> {
    let mut options = OpenOptions::new();
    options.read(true);
    system::never_follow(&mut options);
    options.open(path)
}

/// Opens a regular file for reading, as [`open_without_following`] does.
///
/// # Errors
/// As the system says, or `InvalidInput` if it is no regular file any more.
pub(crate) fn open_regular(path: &Path) -> io::Result<(File, Metadata)> {
    only_regular(open_without_following(path)?)
}

/// A file that was opened, with what the system says of it.
///
/// # Errors
/// `InvalidInput` if it is no regular file.
pub(crate) fn only_regular(file: File) -> io::Result<(File, Metadata)> {
    let metadata = regular(&file)?;
    Ok((file, metadata))
}

/// What the system says of a file that was opened.
///
/// # Errors
/// `InvalidInput` if it is no regular file.
pub(crate) fn regular(file: &File) -> io::Result<Metadata> {
    let metadata = file.metadata()?;
    if metadata.is_file() {
        Ok(metadata)
    } else {
        Err(io::Error::new(
            io::ErrorKind::InvalidInput,
            "it is not a regular file any more",
        ))
    }
}

/// Whether the file system on which a folder lies has links; none if that is not known.
pub(crate) fn has_links(folder: &Path) -> Option<bool> {
    let kind = system::volumes::file_system(folder)?;
    // FAT in all its sizes and drivers: msdos, vfat, exfat, fuse.exfat, …
    (kind == "msdos" || kind.ends_with("fat")).then_some(false)
}

/// A canonical path as people know it: on Windows without the verbatim prefix before a drive.
pub(crate) fn familiar(path: &Path) -> PathBuf {
    let text = path.to_string_lossy();
    match text.strip_prefix(r"\\?\") {
        Some(rest) if cfg!(windows) && rest.as_bytes().get(1) == Some(&b':') => rest.into(),
        _ => path.to_owned(),
    }
}
