//! Letters of drives that stand in for folders. Only Windows has them, and forgets them when the user signs
//! out.

use std::io;
use std::path::{Path, PathBuf};

/// The folder that a letter stands in for; none if it is a drive, or nothing.
pub(crate) fn stands_in_for(letter: char) -> Option<PathBuf> {
    system::stands_in_for(letter)
}

/// Has a letter stand in for a folder.
///
/// # Errors
/// `AlreadyExists` where the letter is in use, `Unsupported` where there are no letters, else as the system
/// says.
pub(crate) fn give(letter: char, folder: &Path) -> io::Result<()> {
    system::give(letter, folder)
}

/// Takes a letter away from a folder.
///
/// # Errors
/// `InvalidData` where it stands in for another, or for none, else as the system says.
pub(crate) fn take(letter: char, folder: &Path) -> io::Result<()> {
    if stands_in_for(letter).as_deref() != Some(folder) {
        return Err(io::Error::new(
            io::ErrorKind::InvalidData,
            "the letter does not stand in for that folder",
        ));
    }
    system::take(letter, folder)
}

#[cfg(windows)]
#[allow(
    unsafe_code,
    reason = "the standard library knows nothing of letters; the calls read strings of ours and fill a buffer of ours"
)]
mod system {
    use std::io;
    use std::os::windows::ffi::OsStrExt;
    use std::path::{Path, PathBuf};

    use windows_sys::Win32::Storage::FileSystem::{
        DDD_EXACT_MATCH_ON_REMOVE, DDD_RAW_TARGET_PATH, DDD_REMOVE_DEFINITION, DefineDosDeviceW,
        QueryDosDeviceW,
    };

    /// What the name of a folder begins with where the object manager says it.
    const OBJECT: &str = r"\??\";

    fn device(letter: char) -> Vec<u16> {
        format!("{letter}:").encode_utf16().chain([0]).collect()
    }

    pub(super) fn stands_in_for(letter: char) -> Option<PathBuf> {
        const LONGEST: usize = 1 << 12;
        let mut target = vec![0_u16; LONGEST];
        // SAFETY: the name ends with a zero, and the buffer is as long as is said.
        let length = unsafe {
            QueryDosDeviceW(device(letter).as_ptr(), target.as_mut_ptr(), LONGEST as u32)
        };
        let end = target
            .iter()
            .position(|unit| *unit == 0)
            .filter(|_| length > 0)?;
        let target = String::from_utf16(&target[..end]).ok()?;
        Some(PathBuf::from(target.strip_prefix(OBJECT)?))
    }

    pub(super) fn give(letter: char, folder: &Path) -> io::Result<()> {
        if stands_in_for(letter).is_some() || Path::new(&format!("{letter}:\\")).exists() {
            return Err(io::ErrorKind::AlreadyExists.into());
        }
        define(DDD_RAW_TARGET_PATH, letter, folder)
    }

    pub(super) fn take(letter: char, folder: &Path) -> io::Result<()> {
        let exactly = DDD_REMOVE_DEFINITION | DDD_EXACT_MATCH_ON_REMOVE | DDD_RAW_TARGET_PATH;
        define(exactly, letter, folder)
    }

    fn define(flags: u32, letter: char, folder: &Path) -> io::Result<()> {
        let object = OBJECT.encode_utf16();
        let target: Vec<u16> = object
            .chain(folder.as_os_str().encode_wide())
            .chain([0])
            .collect();
        // SAFETY: both strings end with a zero.
        let done = unsafe { DefineDosDeviceW(flags, device(letter).as_ptr(), target.as_ptr()) };
        match done {
            0 => Err(io::Error::last_os_error()),
            _ => Ok(()),
        }
    }
}

#[cfg(not(windows))]
mod system {
    use std::io;
    use std::path::{Path, PathBuf};

    pub(super) fn stands_in_for(_: char) -> Option<PathBuf> {
        None
    }

    pub(super) fn give(_: char, _: &Path) -> io::Result<()> {
        Err(io::ErrorKind::Unsupported.into())
    }

    pub(super) fn take(_: char, _: &Path) -> io::Result<()> {
        Err(io::ErrorKind::Unsupported.into())
    }
}
