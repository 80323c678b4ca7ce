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

/// Whether a letter is given to a folder at each sign-in of this user.
pub(crate) fn is_remembered(letter: char, folder: &Path) -> bool {
    system::remembered(letter).is_some_and(|text| text == at_sign_in(letter, folder))
}

/// Has a letter given to a folder at each sign-in of this user.
///
/// # Errors
/// `AlreadyExists` where that is said of another folder, else as the system says.
pub(crate) fn remember(letter: char, folder: &Path) -> io::Result<()> {
    match system::remembered(letter) {
        Some(_) if !is_remembered(letter, folder) => Err(io::ErrorKind::AlreadyExists.into()),
        _ => system::remember(letter, &at_sign_in(letter, folder)),
    }
}

/// Has a letter not given to a folder any more when this user signs in.
///
/// # Errors
/// `InvalidData` where that is said of another folder, or of none, else as the system says.
pub(crate) fn forget(letter: char, folder: &Path) -> io::Result<()> {
    if is_remembered(letter, folder) {
        system::forget(letter)
    } else {
        Err(io::Error::new(
            io::ErrorKind::InvalidData,
            "the letter is not given to that folder at sign-in",
        ))
    }
}

/// The command that gives the letter. A backslash at the end would escape the quote behind it.
fn at_sign_in(letter: char, folder: &Path) -> String {
    let folder = super::familiar(folder);
    let folder = folder.to_string_lossy();
    let dot = if folder.ends_with('\\') { "." } else { "" };
    format!("subst {letter}: \"{folder}{dot}\"")
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
    use windows_sys::Win32::System::Registry::{
        HKEY_CURRENT_USER, REG_SZ, RRF_RT_REG_SZ, RegDeleteKeyValueW, RegGetValueW, RegSetKeyValueW,
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

    /// Where programs are named that start when this user signs in.
    const RUN: &str = r"Software\Microsoft\Windows\CurrentVersion\Run";

    fn wide(text: &str) -> Vec<u16> {
        text.encode_utf16().chain([0]).collect()
    }

    fn value(letter: char) -> Vec<u16> {
        wide(&format!("Letter {letter}"))
    }

    fn done(code: u32) -> io::Result<()> {
        match code {
            0 => Ok(()),
            code => Err(io::Error::from_raw_os_error(code as i32)),
        }
    }

    pub(super) fn remembered(letter: char) -> Option<String> {
        const LONGEST: usize = 1 << 12;
        let mut text = vec![0_u16; LONGEST];
        let mut bytes = (LONGEST * 2) as u32;
        // SAFETY: both names end with a zero, and the buffer is as long as is said.
        let code = unsafe {
            RegGetValueW(
                HKEY_CURRENT_USER,
                wide(RUN).as_ptr(),
                value(letter).as_ptr(),
                RRF_RT_REG_SZ,
                std::ptr::null_mut(),
                text.as_mut_ptr().cast(),
                &mut bytes,
            )
        };
        done(code).ok()?;
        let end = text.iter().position(|unit| *unit == 0)?;
        String::from_utf16(&text[..end]).ok()
    }

    pub(super) fn remember(letter: char, command: &str) -> io::Result<()> {
        let text = wide(command);
        // SAFETY: the names and the text end with a zero, and the text is as long as is said.
        done(unsafe {
            RegSetKeyValueW(
                HKEY_CURRENT_USER,
                wide(RUN).as_ptr(),
                value(letter).as_ptr(),
                REG_SZ,
                text.as_ptr().cast(),
                (text.len() * 2) as u32,
            )
        })
    }

    pub(super) fn forget(letter: char) -> io::Result<()> {
        // SAFETY: both names end with a zero.
        done(unsafe {
            RegDeleteKeyValueW(
                HKEY_CURRENT_USER,
                wide(RUN).as_ptr(),
                value(letter).as_ptr(),
            )
        })
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

    pub(super) fn remembered(_: char) -> Option<String> {
        None
    }

    pub(super) fn remember(_: char, _: &str) -> io::Result<()> {
        Err(io::ErrorKind::Unsupported.into())
    }

    pub(super) fn forget(_: char) -> io::Result<()> {
        Err(io::ErrorKind::Unsupported.into())
    }
}
