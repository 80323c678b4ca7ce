//! Whole file systems made durable.

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
    let local =
        |file: &&File| fstatfs(file).is_ok_and(|system| LOCAL.contains(&(system.f_type as u32)));
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
