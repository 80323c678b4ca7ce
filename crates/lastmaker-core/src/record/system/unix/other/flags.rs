//! Where files have no such flags.

use std::fs::File;
use std::io;

/// Those of a file.
pub(in crate::record) fn flags(_file: &File) -> u32 {
    0
}

/// Gives them to a file.
///
/// # Errors
/// Where they cannot be kept.
pub(in crate::record) fn set_flags(_file: &File, _flags: u32) -> io::Result<()> {
    Ok(())
}
