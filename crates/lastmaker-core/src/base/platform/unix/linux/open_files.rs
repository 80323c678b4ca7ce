//! Files that other programs have open, as Linux tells its users.

use std::collections::HashSet;
use std::ffi::{OsStr, OsString};
use std::fs::{self, DirEntry};
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::MetadataExt;

use crate::base::platform::Identity;

/// The files that other programs have open under one of these names, and those of them that are open for writing. The
/// links below `/proc/PID/fd` say which file each descriptor is of, and by their mode how it was opened
/// (`proc_pid_fd(5)`).
pub(crate) fn open_files(names: &HashSet<OsString>) -> (HashSet<Identity>, HashSet<Identity>) {
    let (mut open, mut written) = (HashSet::new(), HashSet::new());
    let own = std::process::id().to_string();
    for process in fs::read_dir("/proc").into_iter().flatten().flatten() {
        let name = process.file_name();
        let is_process = name.as_bytes().iter().all(u8::is_ascii_digit);
        if is_process && name.as_bytes() != own.as_bytes() {
            let files = fs::read_dir(process.path().join("fd"));
            for file in files.into_iter().flatten().flatten() {
                if let Some((identity, writes)) = opened(&file, names) {
                    open.insert(identity);
                    if writes {
                        written.insert(identity);
                    }
                }
            }
        }
    }
    (open, written)
}

/// Which file a descriptor is of, and whether it writes; none unless that is called by one of `names`.
fn opened(descriptor: &DirEntry, names: &HashSet<OsString>) -> Option<(Identity, bool)> {
    let link = descriptor.path();
    // What leads to another name is not asked for: a server that is gone would not answer.
    let target = fs::read_link(&link).ok()?;
    if !names.contains(target.file_name().unwrap_or(OsStr::new(""))) {
        return None;
    }
    let (file, how) = (fs::metadata(&link).ok()?, fs::symlink_metadata(&link).ok()?);
    Some(((file.dev(), file.ino()), how.mode() & 0o200 != 0))
}
