//! Making what was written durable, many files at once.
//!
//! A sync of one new file costs its own turn of the file system's journal. Where the system can
//! make a whole file system durable and says what failed, one call does for a batch of files;
//! elsewhere each file is synced by itself.

use std::fs::File;
use std::io;

use rayon::prelude::*;

/// With fewer files than this, each is synced by itself: a call for the whole file system also
/// waits for what other programs have written.
#[cfg(target_os = "linux")]
const WORTH_IT: usize = 8;

/// Makes files, or folders' entries, durable; says of each whether it is.
pub(in crate::record) fn sync_together(files: &[File]) -> Vec<io::Result<()>> {
    #[cfg(target_os = "linux")]
    if files.len() >= WORTH_IT && linux::sync_file_systems(files) {
        return files.iter().map(|_| Ok(())).collect();
    }
    files.par_iter().map(File::sync_all).collect()
}

#[cfg(target_os = "linux")]
mod linux {
    use std::collections::BTreeMap;
    use std::fs::File;
    use std::os::unix::fs::MetadataExt;
    use std::sync::OnceLock;

    use rustix::fs::{fstatfs, syncfs};

    /// File systems of this machine for whose files `syncfs` is as good as `fsync`: ext2 to
    /// ext4, XFS, Btrfs, F2FS, and tmpfs, which keeps nothing anyway (`statfs(2)`).
    const LOCAL: [u32; 5] = [0xEF53, 0x5846_5342, 0x9123_683E, 0xF2F5_2010, 0x0102_1994];

    /// Syncs the file systems on which `files` lie; false if that cannot be relied on.
    pub(in crate::record) fn sync_file_systems(files: &[File]) -> bool {
        if !reports_failures() {
            return false;
        }
        let mut systems: BTreeMap<u64, &File> = BTreeMap::new();
        for file in files {
            let Ok(metadata) = file.metadata() else {
                return false;
            };
            systems.entry(metadata.dev()).or_insert(file);
        }
        let local = |file: &&File| {
            fstatfs(file).is_ok_and(|system| LOCAL.contains(&(system.f_type as u32)))
        };
        systems.values().all(local) && systems.values().all(|file| syncfs(file).is_ok())
    }

    /// Since Linux 5.8 `syncfs` tells of data that could not be written.
    fn reports_failures() -> bool {
        static KNOWN: OnceLock<bool> = OnceLock::new();
        *KNOWN.get_or_init(|| {
            let release = std::fs::read_to_string("/proc/sys/kernel/osrelease").unwrap_or_default();
            let mut parts = release
                .split(['.', '-'])
                .map(|part| part.parse().unwrap_or(0u32));
            (parts.next(), parts.next()) >= (Some(5), Some(8))
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn few_and_many_files_are_synced() {
        let folder = tempfile::tempdir().unwrap();
        for number in [1, 20] {
            let make = |index| File::create(folder.path().join(format!("{number}-{index}")));
            let files: Vec<File> = (0..number).map(|index| make(index).unwrap()).collect();
            let synced = sync_together(&files);
            assert_eq!(synced.len(), number);
            assert!(synced.iter().all(Result::is_ok));
        }
    }
}
