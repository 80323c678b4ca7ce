//! Disks by what is written on them: the folder at which a volume with a label or a serial number is
//! seen now, whatever letter or mount point it came up at.

use std::path::PathBuf;

use super::system::volumes as system;

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
    match volume {
        VolumeName::Label(label) => system::with_label(label),
        VolumeName::Serial(serial) => system::with_serial(serial),
    }
}
