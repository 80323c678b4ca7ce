//! What differs between systems when files are looked at.

pub(crate) mod letters;
mod open_files;
mod volumes;

pub(crate) use volumes::{VolumeName, find as find_volume};

pub(crate) use open_files::{OpenElsewhere, OpenFiles, is_open_elsewhere};

use std::fs::{DirBuilder, DirEntry, File, Metadata, OpenOptions};
use std::io;
use std::path::{Path, PathBuf};

/// Opens a file for reading without following a link at its end, and without waiting on
/// pipes.
///
/// # Errors
/// As the system says.
pub(crate) fn open_without_following(path: &Path) -> io::Result<File> {
    let mut options = OpenOptions::new();
    options.read(true);
    #[cfg(unix)]
    {
        use rustix::fs::OFlags;
        use std::os::unix::fs::OpenOptionsExt;
        let flags = OFlags::NOFOLLOW | OFlags::NONBLOCK | OFlags::NOCTTY;
        options.custom_flags(flags.bits() as i32);
    }
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

/// Whether two files or folders are on one volume, where the system tells.
pub(crate) fn are_on_one_volume(one: &Path, other: &Path) -> Option<bool> {
    #[cfg(unix)]
    {
        use std::os::unix::fs::MetadataExt;
        Some(one.metadata().ok()?.dev() == other.metadata().ok()?.dev())
    }
    #[cfg(not(unix))]
    {
        let _ = (one, other);
        None
    }
}

/// Whether this user may make and remove names in a folder, where the system tells.
pub(crate) fn may_change(folder: &Path) -> Option<bool> {
    #[cfg(unix)]
    {
        use rustix::fs::{Access, access};
        Some(access(folder, Access::WRITE_OK | Access::EXEC_OK).is_ok())
    }
    #[cfg(not(unix))]
    {
        let _ = folder;
        None
    }
}

/// Whether the file system on which a folder lies has links; none if that is not known.
pub(crate) fn has_links(folder: &Path) -> Option<bool> {
    #[cfg(target_os = "linux")]
    {
        let kind = volumes::file_system(folder)?;
        // FAT in all its sizes and drivers: msdos, vfat, exfat, fuse.exfat, …
        (kind == "msdos" || kind.ends_with("fat")).then_some(false)
    }
    #[cfg(not(target_os = "linux"))]
    {
        let _ = folder;
        None
    }
}

/// Makes folders that only their owner may enter.
pub(crate) fn private_folders() -> DirBuilder {
    #[cfg(unix)]
    {
        use std::os::unix::fs::DirBuilderExt;
        let mut builder = DirBuilder::new();
        builder.mode(0o700);
        builder
    }
    #[cfg(not(unix))]
    DirBuilder::new()
}

/// A canonical path as people know it: on Windows without the verbatim prefix before a drive.
pub(crate) fn familiar(path: &Path) -> PathBuf {
    let text = path.to_string_lossy();
    match text.strip_prefix(r"\\?\") {
        Some(rest) if cfg!(windows) && rest.as_bytes().get(1) == Some(&b':') => rest.into(),
        _ => path.to_owned(),
    }
}

/// Whether reading the file would fetch it from somewhere else first.
pub(crate) fn is_placeholder(entry: &DirEntry) -> bool {
    #[cfg(windows)]
    {
        use std::os::windows::fs::MetadataExt;
        // On Windows the listing has brought this along already.
        let Ok(metadata) = entry.metadata() else {
            return false;
        };
        const OFFLINE: u32 = 0x1000;
        const RECALL_ON_OPEN: u32 = 0x4_0000;
        const RECALL_ON_DATA_ACCESS: u32 = 0x40_0000;
        metadata.file_attributes() & (OFFLINE | RECALL_ON_OPEN | RECALL_ON_DATA_ACCESS) != 0
    }
    #[cfg(not(windows))]
    {
        let _ = entry;
        false
    }
}

/// Which file this is, so that its other names can be told, and how many names it has; `metadata` is what
/// the system says of it.
///
/// # Errors
/// As the system says.
pub(crate) fn identity(file: &File, metadata: &Metadata) -> io::Result<((u64, u64), u64)> {
    #[cfg(unix)]
    {
        use std::os::unix::fs::MetadataExt;
        let _ = file;
        Ok(((metadata.dev(), metadata.ino()), metadata.nlink()))
    }
    #[cfg(windows)]
    {
        let _ = metadata;
        let information = winapi_util::file::information(file)?;
        Ok((
            (information.volume_serial_number(), information.file_index()),
            information.number_of_links(),
        ))
    }
    #[cfg(not(any(unix, windows)))]
    {
        let _ = (file, metadata);
        Ok(((0, 0), 1))
    }
}

/// How many files this process may have open, as far as there is a limit that is known.
pub(crate) fn most_descriptors() -> Option<usize> {
    #[cfg(unix)]
    {
        use rustix::process::{Resource, getrlimit};
        let limit = getrlimit(Resource::Nofile).current;
        limit.and_then(|limit| usize::try_from(limit).ok())
    }
    #[cfg(not(unix))]
    None
}

/// How long the present thread has worked, where the system tells that; else how long the program
/// has run.
pub(crate) fn thread_time() -> std::time::Duration {
    #[cfg(unix)]
    {
        use rustix::time::{ClockId, clock_gettime};
        let time = clock_gettime(ClockId::ThreadCPUTime);
        let (seconds, nanoseconds) = (time.tv_sec.unsigned_abs(), time.tv_nsec.unsigned_abs());
        std::time::Duration::new(seconds, u32::try_from(nanoseconds).unwrap_or(0))
    }
    #[cfg(not(unix))]
    {
        static START: std::sync::LazyLock<std::time::Instant> =
            std::sync::LazyLock::new(std::time::Instant::now);
        START.elapsed()
    }
}
