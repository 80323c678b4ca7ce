//! What belongs to a file besides its content: read from one, given to another.

use std::fs::{File, Metadata};
use std::io;
use std::os::windows::fs::MetadataExt;

use crate::record::system::belongings::Belongings;

/// The exchange itself keeps them; a file that is put back where none is gets its
/// attributes from here.
impl Belongings {
    /// Those of an open file.
    ///
    /// # Errors
    /// None here.
    pub(in crate::record) fn of(_file: &File, metadata: &Metadata) -> io::Result<Self> {
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
