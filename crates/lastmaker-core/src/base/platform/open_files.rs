//! Which files other programs have open: what is replaced while a program writes to it would lose
//! what that writes afterwards.

use std::collections::HashSet;
use std::ffi::OsString;
use std::fs::File;
use std::path::Path;

/// Another program has the file open, so it is left.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("a program has it open; close the program that has it open, and run again")]
pub struct OpenElsewhere;

/// Which file of the machine it is: file system and number.
type Identity = (u64, u64);

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
        #[cfg(target_os = "linux")]
        return linux::look(names);
        #[cfg(not(target_os = "linux"))]
        {
            let _ = names;
            Self::default()
        }
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

#[cfg(target_os = "linux")]
mod linux {
    use std::collections::HashSet;
    use std::ffi::{OsStr, OsString};
    use std::fs::{self, DirEntry};
    use std::os::unix::ffi::OsStrExt;
    use std::os::unix::fs::MetadataExt;

    use super::OpenFiles;

    /// The links below `/proc/PID/fd` say which file each descriptor is of, and by their mode how
    /// it was opened (`proc_pid_fd(5)`).
    pub(super) fn look(names: &HashSet<OsString>) -> OpenFiles {
        let mut found = OpenFiles::default();
        let own = std::process::id().to_string();
        for process in fs::read_dir("/proc").into_iter().flatten().flatten() {
            let name = process.file_name();
            let is_process = name.as_bytes().iter().all(u8::is_ascii_digit);
            if is_process && name.as_bytes() != own.as_bytes() {
                let files = fs::read_dir(process.path().join("fd"));
                for file in files.into_iter().flatten().flatten() {
                    add(&mut found, &file, names);
                }
            }
        }
        found
    }

    fn add(found: &mut OpenFiles, descriptor: &DirEntry, names: &HashSet<OsString>) {
        let link = descriptor.path();
        // What leads to another name is not asked for: a server that is gone would not answer.
        let Ok(target) = fs::read_link(&link) else {
            return;
        };
        let name = target.file_name().unwrap_or(OsStr::new(""));
        if !names.contains(name) {
            return;
        }
        let (Ok(file), Ok(how)) = (fs::metadata(&link), fs::symlink_metadata(&link)) else {
            return;
        };
        let identity = (file.dev(), file.ino());
        found.open.insert(identity);
        if how.mode() & 0o200 != 0 {
            found.written.insert(identity);
        }
    }
}
