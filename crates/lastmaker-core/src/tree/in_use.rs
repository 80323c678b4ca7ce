//! Files that programs write piece by piece, and what lies beside them while they do.

use std::path::{Path, PathBuf};

use thiserror::Error;

use crate::base::platform;

/// The ends of names of what lies beside a database: its journal, of either kind, and the index
/// of one kind.
const ENDS: [&str; 3] = ["-journal", "-wal", "-shm"];

/// Whether a file is what a database beside it is written through; that is told with the
/// database.
pub(super) fn is_beside_database(path: &Path) -> bool {
    let Some(name) = path.file_name().and_then(|name| name.to_str()) else {
        return false;
    };
    ENDS.iter()
        .filter_map(|end| name.strip_suffix(end))
        .any(|name| !name.is_empty() && is_database(&path.with_file_name(name)))
}

fn is_database(path: &Path) -> bool {
    use std::io::Read;
    let mut start = [0; 16];
    let read = platform::open_regular(path).and_then(|(mut file, _)| file.read_exact(&mut start));
    read.is_ok() && start == *b"SQLite format 3\0"
}

/// Why a file that programs write piece by piece may not be replaced now.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum InUse {
    /// Not all of what was written is in it yet.
    #[error(
        "there is a journal beside it (…{0}) that is not merged yet; close the program that has it open, \
         and if none has, open and close it there once"
    )]
    Journal(&'static str),
    /// A program has it open.
    #[error(transparent)]
    Open(platform::OpenElsewhere),
}

/// Why a database may not be replaced now, if so.
pub(super) fn in_use(path: &Path) -> Option<InUse> {
    let beside = |end: &str| {
        let mut name = path.as_os_str().to_owned();
        name.push(end);
        PathBuf::from(name)
    };
    let unmerged = ENDS[..2].iter().find(|end| {
        let journal = beside(end);
        journal.metadata().is_ok_and(|journal| journal.len() > 0)
    });
    if let Some(end) = unmerged {
        return Some(InUse::Journal(end));
    }
    platform::is_open_elsewhere(path).then_some(InUse::Open(platform::OpenElsewhere))
}
