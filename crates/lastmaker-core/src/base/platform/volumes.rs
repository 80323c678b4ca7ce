//! Disks by what is written on them: the folder at which a volume with a label or a serial number is
//! seen now, whatever letter or mount point it came up at.

use std::path::PathBuf;

/// What a volume is known by.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum VolumeName<'a> {
    /// Its label, as people give it.
    Label(&'a str),
    /// Its serial number, as the system shows it.
    Serial(&'a str),
}

/// Where the volume is seen; none if it is not here now.
pub(crate) fn find(volume: VolumeName<'_>) -> Option<PathBuf> {
    system::find(volume)
}

/// What the system calls the file system on which a folder lies.
#[cfg(target_os = "linux")]
pub(super) fn file_system(folder: &std::path::Path) -> Option<String> {
    system::file_system(folder)
}

#[cfg(target_os = "linux")]
mod system {
    use std::ffi::OsString;
    use std::fs;
    use std::os::unix::ffi::OsStringExt;
    use std::os::unix::fs::MetadataExt;
    use std::path::{Path, PathBuf};

    use super::VolumeName;

    pub(super) fn find(volume: VolumeName<'_>) -> Option<PathBuf> {
        let (folder, wanted) = match volume {
            VolumeName::Label(label) => ("/dev/disk/by-label", label),
            VolumeName::Serial(serial) => ("/dev/disk/by-uuid", serial),
        };
        let same = |name: &str| unescaped(name, "\\x", 16).eq_ignore_ascii_case(wanted.as_bytes());
        let mut entries = fs::read_dir(folder).ok()?.flatten();
        let entry = entries.find(|entry| entry.file_name().to_str().is_some_and(same))?;
        let device = fs::metadata(entry.path()).ok()?.rdev();
        mount_point(&mounts()?, &number(device))
    }

    pub(super) fn file_system(folder: &Path) -> Option<String> {
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
}

#[cfg(target_os = "macos")]
mod system {
    use std::path::{Path, PathBuf};

    use super::VolumeName;

    pub(super) fn find(volume: VolumeName<'_>) -> Option<PathBuf> {
        let VolumeName::Label(label) = volume else {
            return None;
        };
        let point = Path::new("/Volumes").join(label);
        point.is_dir().then_some(point)
    }
}

#[cfg(windows)]
#[allow(
    unsafe_code,
    reason = "the standard library does not tell the label of a volume; the two calls only fill buffers of ours"
)]
mod system {
    use std::path::PathBuf;

    use windows_sys::Win32::Storage::FileSystem::{GetDriveTypeW, GetVolumeInformationW};

    use super::VolumeName;

    /// DRIVE_REMOTE: a share is no disk, and asking one takes long.
    const REMOTE: u32 = 4;

    pub(super) fn find(volume: VolumeName<'_>) -> Option<PathBuf> {
        ('A'..='Z').find_map(|letter| {
            let root = format!("{letter}:\\");
            let wide: Vec<u16> = root.encode_utf16().chain([0]).collect();
            let (label, serial) = told(&wide)?;
            let same = match volume {
                VolumeName::Label(wanted) => label.eq_ignore_ascii_case(wanted),
                VolumeName::Serial(wanted) => {
                    let shown = format!("{:04X}-{:04X}", serial >> 16, serial & 0xffff);
                    shown.eq_ignore_ascii_case(wanted)
                }
            };
            same.then(|| PathBuf::from(root))
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
}

#[cfg(not(any(target_os = "linux", target_os = "macos", windows)))]
mod system {
    use std::path::PathBuf;

    use super::VolumeName;

    pub(super) fn find(_: VolumeName<'_>) -> Option<PathBuf> {
        None
    }
}
