//! What belongs to a file besides its content: mode, owner, access list, attributes.

use std::fs::{File, Metadata};
use std::io;

use serde::{Deserialize, Serialize};

use crate::record::written::RawText;

/// What belongs to a file besides its content, as far as the system has it.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Belongings {
    /// The mode's permissions (POSIX), or the attributes (Windows).
    pub mode: u32,
    /// Number of the owner.
    #[serde(default)]
    pub owner: u32,
    /// Number of the group.
    #[serde(default)]
    pub group: u32,
    /// The flags that `chattr` sets, those of them that a user may set.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub flags: u32,
    /// Extended attributes, access lists among them.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub attributes: Vec<(RawText, RawText)>,
}

fn is_zero(flags: &u32) -> bool {
    *flags == 0
}

#[cfg(unix)]
impl Belongings {
    /// Those of an open file.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn of(file: &File, metadata: &Metadata) -> io::Result<Self> {
        use std::os::unix::fs::MetadataExt;
        Ok(Self {
            mode: metadata.mode() & 0o7777,
            owner: metadata.uid(),
            group: metadata.gid(),
            flags: flags(file),
            attributes: attributes(file)?,
        })
    }

    /// Gives them to a new file that is written already.
    ///
    /// # Errors
    /// Where one of them cannot be kept.
    pub(in crate::record) fn give_to(&self, copy: &File) -> io::Result<()> {
        use rustix::fs::{XattrFlags, fsetxattr};
        use rustix::io::retry_on_intr;
        use std::os::unix::fs::{MetadataExt, PermissionsExt, fchown};

        let new = copy.metadata()?;
        if (new.uid(), new.gid()) != (self.owner, self.group) {
            fchown(copy, Some(self.owner), Some(self.group))?;
        }
        for (name, value) in &self.attributes {
            let (name, value) = (name.as_bytes(), value.as_bytes());
            match retry_on_intr(|| fsetxattr(copy, name, value, XattrFlags::empty())) {
                Ok(()) => {}
                // The system sets its own security labels on new files.
                Err(_) if name.starts_with(b"security.") => {}
                Err(error) => return Err(error.into()),
            }
        }
        // After the owner, because a change of that clears some bits of the mode.
        copy.set_permissions(std::fs::Permissions::from_mode(self.mode))?;
        set_flags(copy, self.flags)
    }
}

#[cfg(unix)]
fn attributes(file: &File) -> io::Result<Vec<(RawText, RawText)>> {
    use rustix::fs::{fgetxattr, flistxattr};
    use rustix::io::{Errno, retry_on_intr};

    const LARGEST: usize = 64 * 1024;
    let mut names = vec![0u8; LARGEST];
    let length = match retry_on_intr(|| flistxattr(file, &mut names)) {
        Ok(length) => length,
        Err(Errno::OPNOTSUPP | Errno::NOSYS) => return Ok(Vec::new()),
        Err(error) => return Err(error.into()),
    };
    let mut all = Vec::new();
    let mut value = match length {
        0 => Vec::new(),
        _ => vec![0u8; LARGEST],
    };
    for name in names[..length].split(|b| *b == 0) {
        if name.is_empty() {
            continue;
        }
        match retry_on_intr(|| fgetxattr(file, name, &mut value)) {
            Ok(size) => all.push((name.into(), value[..size].into())),
            Err(Errno::NODATA) => {}
            Err(error) => return Err(error.into()),
        }
    }
    Ok(all)
}

/// The flags that users set with `chattr`; those of the system stay its own.
#[cfg(target_os = "linux")]
fn settable() -> rustix::fs::IFlags {
    use rustix::fs::IFlags;
    IFlags::NOATIME | IFlags::NODUMP | IFlags::SYNC | IFlags::NOCOW | IFlags::COMPRESSED
}

#[cfg(target_os = "linux")]
fn flags(file: &File) -> u32 {
    rustix::fs::ioctl_getflags(file).map_or(0, |flags| (flags & settable()).bits())
}

#[cfg(target_os = "linux")]
fn set_flags(file: &File, flags: u32) -> io::Result<()> {
    use rustix::fs::{IFlags, ioctl_getflags, ioctl_setflags};
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

#[cfg(all(unix, not(target_os = "linux")))]
fn flags(_file: &File) -> u32 {
    0
}

#[cfg(all(unix, not(target_os = "linux")))]
fn set_flags(_file: &File, _flags: u32) -> io::Result<()> {
    Ok(())
}

/// On Windows the exchange itself keeps them; a file that is put back where none is gets its
/// attributes from here.
#[cfg(windows)]
impl Belongings {
    /// Those of an open file.
    ///
    /// # Errors
    /// None here.
    pub(in crate::record) fn of(_file: &File, metadata: &Metadata) -> io::Result<Self> {
        use std::os::windows::fs::MetadataExt;
        Ok(Self {
            mode: metadata.file_attributes(),
            ..Self::default()
        })
    }

    /// Gives what can be given without the exchange: whether it is read-only.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn give_to(&self, copy: &File) -> io::Result<()> {
        let mut permissions = copy.metadata()?.permissions();
        permissions.set_readonly(self.mode & 1 != 0);
        copy.set_permissions(permissions)
    }
}
