//! Letters of drives that stand in for folders.

#![allow(
    unsafe_code,
    reason = "the standard library knows nothing of letters; the calls read strings of ours and fill a buffer of ours"
)]

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

use super::wide;

/// What the name of a folder begins with where the object manager says it.
const OBJECT: &str = r"\??\";

fn device(letter: char) -> Vec<u16> {
    wide(&format!("{letter}:"))
}

pub(crate) fn stands_in_for(letter: char) -> Option<PathBuf> {
    const LONGEST: usize = 1 << 12;
    let mut target = vec![0_u16; LONGEST];
    // SAFETY: the name ends with a zero, and the buffer is as long as is said.
    let length =
        unsafe { QueryDosDeviceW(device(letter).as_ptr(), target.as_mut_ptr(), LONGEST as u32) };
    let end = target
        .iter()
        .position(|unit| *unit == 0)
        .filter(|_| length > 0)?;
    let target = String::from_utf16(&target[..end]).ok()?;
    Some(PathBuf::from(target.strip_prefix(OBJECT)?))
}

pub(crate) fn give(letter: char, folder: &Path) -> io::Result<()> {
    if stands_in_for(letter).is_some() || Path::new(&format!("{letter}:\\")).exists() {
        return Err(io::ErrorKind::AlreadyExists.into());
    }
    define(DDD_RAW_TARGET_PATH, letter, folder)
}

pub(crate) fn take(letter: char, folder: &Path) -> io::Result<()> {
    let exactly = DDD_REMOVE_DEFINITION | DDD_EXACT_MATCH_ON_REMOVE | DDD_RAW_TARGET_PATH;
    define(exactly, letter, folder)
}

/// Where programs are named that start when this user signs in.
const RUN: &str = r"Software\Microsoft\Windows\CurrentVersion\Run";

fn value(letter: char) -> Vec<u16> {
    wide(&format!("Letter {letter}"))
}

fn done(code: u32) -> io::Result<()> {
    match code {
        0 => Ok(()),
        code => Err(io::Error::from_raw_os_error(code as i32)),
    }
}

pub(crate) fn remembered(letter: char) -> Option<String> {
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

pub(crate) fn remember(letter: char, command: &str) -> io::Result<()> {
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

pub(crate) fn forget(letter: char) -> io::Result<()> {
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
