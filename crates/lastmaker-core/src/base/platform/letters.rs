//! Letters of drives that stand in for folders. Only Windows has them, and forgets them when the user signs
//! out.

use std::io;
use std::path::{Path, PathBuf};

use super::system::letters as system;

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
