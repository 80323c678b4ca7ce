//! What belongs to a file besides its content: read from one, given to another.

use std::fs::{File, Metadata};
use std::io;
use std::os::unix::fs::{MetadataExt, PermissionsExt, fchown};

use rustix::fs::{XattrFlags, fgetxattr, flistxattr, fsetxattr};
use rustix::io::{Errno, retry_on_intr};

use super::flags;
use crate::record::system::belongings::Belongings;
use crate::record::written::RawText;

impl Belongings {
    /// Those of an open file.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn of(file: &File, metadata: &Metadata) -> io::Result<Self> {
        Ok(Self {
            mode: metadata.mode() & 0o7777,
            owner: metadata.uid(),
            group: metadata.gid(),
            flags: flags::flags(file),
            attributes: attributes(file)?,
        })
    }

    /// Gives them to a new file that is written already.
    ///
    /// # Errors
    /// Where one of them cannot be kept.
    pub(in crate::record) fn give_to(&self, copy: &File) -> io::Result<()> {
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
        flags::set_flags(copy, self.flags)
    }
}

fn attributes(file: &File) -> io::Result<Vec<(RawText, RawText)>> {
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
