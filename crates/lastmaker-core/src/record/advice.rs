//! What to do about what the system refuses.

use std::io;

/// What the system said, and what to do next.
pub(super) fn with_advice(error: &io::Error) -> String {
    match advice(error) {
        Some(advice) => format!("{error}; {advice}"),
        None => error.to_string(),
    }
}

fn advice(error: &io::Error) -> Option<&'static str> {
    use io::ErrorKind as Kind;
    if super::system::folder::is_out_of_descriptors(error) {
        return Some(
            "close other programs, or raise the limit of open files (ulimit -n), and run again",
        );
    }
    // EIO.
    if cfg!(unix) && error.raw_os_error() == Some(5) {
        return Some("the disk reports a fault: save what is on it first, then check it");
    }
    // EPERM, as opposed to EACCES.
    if cfg!(unix) && error.raw_os_error() == Some(1) {
        return Some(
            "the file or its folder is marked against changes (lsattr shows it), or is another user's; free it, and \
             run again",
        );
    }
    Some(match error.kind() {
        Kind::StorageFull | Kind::QuotaExceeded => {
            "no space is left there; free some, or choose another folder with --record-dir, and run again"
        }
        Kind::PermissionDenied => {
            "this user may not write to its folder; give that right or run as its owner, and run again"
        }
        Kind::ReadOnlyFilesystem => {
            "the disk is mounted read-only; mount it for writing, and run again"
        }
        Kind::CrossesDevices => {
            "its folder is put together from several disks there; run where that is not so, and run again"
        }
        Kind::ResourceBusy => "a program uses it; close that, and run again",
        _ => return None,
    })
}
