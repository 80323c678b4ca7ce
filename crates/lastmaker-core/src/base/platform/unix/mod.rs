//! What is asked of systems like POSIX.

pub(crate) mod letters;
#[cfg(target_os = "linux")]
mod linux;
#[cfg(not(target_os = "linux"))]
mod other;

use std::ffi::OsStr;
use std::fs::{DirBuilder, DirEntry, File, Metadata, OpenOptions};
use std::io;
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::{DirBuilderExt, MetadataExt, OpenOptionsExt};
use std::path::{Path, PathBuf};
use std::time::Duration;

#[cfg(target_os = "linux")]
pub(crate) use linux::{open_files, volumes};
#[cfg(not(target_os = "linux"))]
pub(crate) use other::{open_files, volumes};
use rustix::fs::{Access, OFlags, access};
use rustix::process::{Resource, getrlimit};
use rustix::time::{ClockId, clock_gettime};

use super::Identity;

/// Opens no link at the end of a path, and does not wait on pipes.
pub(super) fn never_follow(options: &mut OpenOptions) {
    let flags = OFlags::NOFOLLOW | OFlags::NONBLOCK | OFlags::NOCTTY;
    options.custom_flags(flags.bits() as i32);
}

/// Whether two files or folders are on one volume, where the system tells.
pub(crate) fn are_on_one_volume(one: &Path, other: &Path) -> Option<bool> {
    Some(one.metadata().ok()?.dev() == other.metadata().ok()?.dev())
}

/// Whether this user may make and remove names in a folder, where the system tells.
pub(crate) fn may_change(folder: &Path) -> Option<bool> {
    Some(access(folder, Access::WRITE_OK | Access::EXEC_OK).is_ok())
}

/// Makes folders that only their owner may enter.
pub(crate) fn private_folders() -> DirBuilder {
    let mut builder = DirBuilder::new();
    builder.mode(0o700);
    builder
}

/// Opens files; those that it makes only their owner may read.
pub(crate) fn private_files() -> OpenOptions {
    let mut options = OpenOptions::new();
    options.mode(0o600);
    options
}

/// The path of these bytes; none where they are none.
pub(crate) fn path_from(bytes: &[u8]) -> Option<PathBuf> {
    Some(PathBuf::from(OsStr::from_bytes(bytes)))
}

/// Whether reading the file would fetch it from somewhere else first; that is not told here.
pub(crate) fn is_placeholder(_: &DirEntry) -> bool {
    false
}

/// Which file this is, so that its other names can be told, and how many names it has; `metadata` is what
/// the system says of it.
///
/// # Errors
/// None here.
pub(crate) fn identity(_: &File, metadata: &Metadata) -> io::Result<(Identity, u64)> {
    Ok(((metadata.dev(), metadata.ino()), metadata.nlink()))
}

/// How many files this process may have open, as far as there is a limit that is known.
pub(crate) fn most_descriptors() -> Option<usize> {
    let limit = getrlimit(Resource::Nofile).current;
    limit.and_then(|limit| usize::try_from(limit).ok())
}

/// How long the present thread has worked.
pub(crate) fn thread_time() -> Duration {
    let time = clock_gettime(ClockId::ThreadCPUTime);
    let (seconds, nanoseconds) = (time.tv_sec.unsigned_abs(), time.tv_nsec.unsigned_abs());
    Duration::new(seconds, u32::try_from(nanoseconds).unwrap_or(0))
}
