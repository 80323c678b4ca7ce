//! Volumes by their labels, where macOS shows them.

use std::path::{Path, PathBuf};

/// Where the volume with this label is seen.
pub(crate) fn with_label(label: &str) -> Option<PathBuf> {
    let point = Path::new("/Volumes").join(label);
    (cfg!(target_os = "macos") && point.is_dir()).then_some(point)
}

/// Where the volume with this serial number is seen; that is not known here.
pub(crate) fn with_serial(_: &str) -> Option<PathBuf> {
    None
}

/// What the system calls the file system on which a folder lies; that is not known here.
pub(crate) fn file_system(_: &Path) -> Option<String> {
    None
}
