//! Volumes as Linux names and mounts them.

use std::ffi::OsString;
use std::fs;
use std::os::unix::ffi::OsStringExt;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};

/// Where the volume with this label is seen.
pub(crate) fn with_label(label: &str) -> Option<PathBuf> {
    named("/dev/disk/by-label", label)
}

/// Where the volume with this serial number is seen.
pub(crate) fn with_serial(serial: &str) -> Option<PathBuf> {
    named("/dev/disk/by-uuid", serial)
}

fn named(folder: &str, wanted: &str) -> Option<PathBuf> {
    let same = |name: &str| unescaped(name, "\\x", 16).eq_ignore_ascii_case(wanted.as_bytes());
    let mut entries = fs::read_dir(folder).ok()?.flatten();
    let entry = entries.find(|entry| entry.file_name().to_str().is_some_and(same))?;
    let device = fs::metadata(entry.path()).ok()?.rdev();
    mount_point(&mounts()?, &number(device))
}

/// What the system calls the file system on which a folder lies.
pub(crate) fn file_system(folder: &Path) -> Option<String> {
    let device = fs::metadata(folder).ok()?.dev();
    kind_of(&mounts()?, &number(device))
}

/// What is mounted where (proc_pid_mountinfo(5)).
fn mounts() -> Option<String> {
    fs::read_to_string("/proc/self/mountinfo").ok()
}

/// A device as mounts name it.
fn number(device: u64) -> String {
    format!(
        "{}:{}",
        rustix::fs::major(device),
        rustix::fs::minor(device)
    )
}

/// What stands behind the dash: the type of the file system on the device.
fn kind_of(mounts: &str, device: &str) -> Option<String> {
    mounts.lines().find_map(|line| {
        let number = line.split(' ').nth(2)?;
        let (_, kind) = line.split_once(" - ")?;
        let kind = kind.split(' ').next()?;
        (number == device).then(|| kind.to_owned())
    })
}

/// The first place at which the device is mounted as a whole.
fn mount_point(mounts: &str, device: &str) -> Option<PathBuf> {
    mounts.lines().find_map(|line| {
        let mut fields = line.split(' ').skip(2);
        let (number, root, point) = (fields.next()?, fields.next()?, fields.next()?);
        (number == device && root == "/")
            .then(|| PathBuf::from(OsString::from_vec(unescaped(point, "\\", 8))))
    })
}

/// A name whose odd letters are written as numbers: `\x20` by udev, `\040` by the kernel.
fn unescaped(name: &str, sign: &str, base: u32) -> Vec<u8> {
    let digits = if base == 16 { 2 } else { 3 };
    let mut bytes = Vec::new();
    let mut rest = name;
    while let Some(at) = rest.find(sign) {
        let after = &rest[at + sign.len()..];
        let number = after.get(..digits);
        match number.and_then(|number| u8::from_str_radix(number, base).ok()) {
            Some(byte) => {
                bytes.extend(rest[..at].bytes().chain([byte]));
                rest = &after[digits..];
            }
            None => {
                bytes.extend(rest[..at + sign.len()].bytes());
                rest = after;
            }
        }
    }
    bytes.extend(rest.bytes());
    bytes
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn where_a_device_is_mounted() {
        let mounts = "22 27 0:21 / /proc rw - proc proc rw\n\
                      40 27 8:17 /sub /srv/part rw - ext4 /dev/sdb1 rw\n\
                      41 27 8:17 / /media/ines/OLD\\040DISK rw - vfat /dev/sdb1 rw\n";
        let point = mount_point(mounts, "8:17").unwrap();
        assert_eq!(point, PathBuf::from("/media/ines/OLD DISK"));
        assert_eq!(mount_point(mounts, "8:1"), None);
        assert_eq!(kind_of(mounts, "8:17").as_deref(), Some("ext4"));
        assert_eq!(kind_of(mounts, "8:18"), None);
        assert_eq!(unescaped("OLD\\x20DISK\\", "\\x", 16), b"OLD DISK\\");
    }
}
