//! Volumes by their labels and serial numbers.

#![allow(
    unsafe_code,
    reason = "the standard library does not tell the label of a volume; the two calls only fill buffers of ours"
)]

use std::path::PathBuf;

use windows_sys::Win32::Storage::FileSystem::{GetDriveTypeW, GetVolumeInformationW};

use super::wide;

/// DRIVE_REMOTE: a share is no disk, and asking one takes long.
const REMOTE: u32 = 4;

/// Where the volume with this label is seen.
pub(crate) fn with_label(wanted: &str) -> Option<PathBuf> {
    root_where(|label, _| label.eq_ignore_ascii_case(wanted))
}

/// Where the volume with this serial number is seen.
pub(crate) fn with_serial(wanted: &str) -> Option<PathBuf> {
    root_where(|_, serial| {
        let shown = format!("{:04X}-{:04X}", serial >> 16, serial & 0xffff);
        shown.eq_ignore_ascii_case(wanted)
    })
}

/// The first root of a volume whose label and serial number are such.
fn root_where(is_meant: impl Fn(&str, u32) -> bool) -> Option<PathBuf> {
    ('A'..='Z').find_map(|letter| {
        let root = format!("{letter}:\\");
        let (label, serial) = told(&wide(&root))?;
        is_meant(&label, serial).then(|| PathBuf::from(root))
    })
}

/// Label and serial number of the volume at a root, which ends with a zero.
fn told(root: &[u16]) -> Option<(String, u32)> {
    let mut label = [0_u16; 261];
    let mut serial = 0;
    // SAFETY: `root` ends with a zero, the buffer is as long as is said, and what is not wanted
    // is null with a length of zero, as the calls allow.
    let known = unsafe {
        GetDriveTypeW(root.as_ptr()) != REMOTE
            && GetVolumeInformationW(
                root.as_ptr(),
                label.as_mut_ptr(),
                label.len() as u32,
                &mut serial,
                std::ptr::null_mut(),
                std::ptr::null_mut(),
                std::ptr::null_mut(),
                0,
            ) != 0
    };
    let length = label.iter().position(|unit| *unit == 0)?;
    known.then(|| (String::from_utf16_lossy(&label[..length]), serial))
}

/// What the system calls the file system on which a folder lies; that is not asked here.
pub(crate) fn file_system(_: &std::path::Path) -> Option<String> {
    None
}
