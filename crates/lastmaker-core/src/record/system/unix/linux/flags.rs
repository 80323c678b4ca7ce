//! The flags that users set with `chattr`.

use std::fs::File;
use std::io;

use rustix::fs::{IFlags, ioctl_getflags, ioctl_setflags};

/// The flags that users set with `chattr`; those of the system stay its own.
fn settable() -> rustix::fs::IFlags {
    IFlags::NOATIME | IFlags::NODUMP | IFlags::SYNC | IFlags::NOCOW | IFlags::COMPRESSED
}

/// Those of a file.
pub(in crate::record) fn flags(file: &File) -> u32 {
    ioctl_getflags(file).map_or(0, |flags| (flags & settable()).bits())
}

/// Gives them to a file.
///
/// # Errors
/// Where they cannot be kept.
pub(in crate::record) fn set_flags(file: &File, flags: u32) -> io::Result<()> {
    let wanted = IFlags::from_bits_truncate(flags) & settable();
    let Ok(now) = ioctl_getflags(file) else {
        // A file system without flags: there were none to keep.
        return Ok(());
    };
    if now & settable() == wanted {
        return Ok(());
    }
    ioctl_setflags(file, (now - settable()) | wanted)?;
    // Some file systems pass over what they cannot keep.
    if ioctl_getflags(file)? & settable() == wanted {
        Ok(())
    } else {
        Err(io::ErrorKind::Unsupported.into())
    }
}
