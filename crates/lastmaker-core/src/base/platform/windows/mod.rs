//! What is asked of Windows.

pub(crate) mod letters;
pub(crate) mod volumes;

use std::collections::HashSet;
use std::ffi::OsString;
use std::fs::{DirBuilder, DirEntry, File, Metadata, OpenOptions};
use std::io;
use std::os::windows::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::sync::LazyLock;
use std::time::{Duration, Instant};

use super::Identity;

/// Text as calls of the system take it, with a zero at its end.
fn wide(text: &str) -> Vec<u16> {
    text.encode_utf16().chain([0]).collect()
}

/// Opens no link at the end of a path; here a folder that is held sees to that.
pub(super) fn never_follow(_: &mut OpenOptions) {}

/// Whether two files or folders are on one volume; that is not asked here.
pub(crate) fn are_on_one_volume(_: &Path, _: &Path) -> Option<bool> {
    None
}

/// Whether this user may make and remove names in a folder; that is not asked here.
pub(crate) fn may_change(_: &Path) -> Option<bool> {
    None
}

/// Makes folders; whose they are follows from the folder above.
pub(crate) fn private_folders() -> DirBuilder {
    DirBuilder::new()
}

/// Opens files; whose they are follows from the folder above.
pub(crate) fn private_files() -> OpenOptions {
    OpenOptions::new()
}

/// The path of these bytes; none where they are none.
pub(crate) fn path_from(bytes: &[u8]) -> Option<PathBuf> {
    std::str::from_utf8(bytes).ok().map(PathBuf::from)
}

/// Whether reading the file would fetch it from somewhere else first.
pub(crate) fn is_placeholder(entry: &DirEntry) -> bool {
    const OFFLINE: u32 = 0x1000;
    const RECALL_ON_OPEN: u32 = 0x4_0000;
    const RECALL_ON_DATA_ACCESS: u32 = 0x40_0000;
    // The listing has brought this along already.
    let Ok(metadata) = entry.metadata() else {
        return false;
    };
    metadata.file_attributes() & (OFFLINE | RECALL_ON_OPEN | RECALL_ON_DATA_ACCESS) != 0
}

/// Which file this is, so that its other names can be told, and how many names it has.
///
/// # Errors
/// As the system says.
pub(crate) fn identity(file: &File, _: &Metadata) -> io::Result<(Identity, u64)> {
    let information = winapi_util::file::information(file)?;
    Ok((
        (information.volume_serial_number(), information.file_index()),
        information.number_of_links(),
    ))
}

/// How many files this process may have open; there is no limit that is known.
pub(crate) fn most_descriptors() -> Option<usize> {
    None
}

/// How long the program has run: what a thread has worked is not told.
pub(crate) fn thread_time() -> Duration {
    static START: LazyLock<Instant> = LazyLock::new(Instant::now);
    START.elapsed()
}

/// The files that other programs have open, and those that they write: opening a file tells that here.
pub(crate) fn open_files(_: &HashSet<OsString>) -> (HashSet<Identity>, HashSet<Identity>) {
    Default::default()
}
