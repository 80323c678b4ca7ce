//! Why a file could not be looked at, or planned.

use std::io;
use std::path::PathBuf;

use thiserror::Error;

/// What is wrong with one file or folder, and what to do. The rest goes on.
#[derive(Debug, Error)]
pub enum FileFault {
    /// The system refused something.
    #[error("{}", advice(.0))]
    Io(#[from] io::Error),
    /// It is a pipe, a socket or a device.
    #[error("it is neither a file nor a folder, so it is not opened")]
    NotOpened,
    /// It lies in a record.
    #[error("it belongs to the record {}, which is never looked at or changed", .0.display())]
    InRecord(PathBuf),
    /// Reading it brought a defect to light.
    #[error("reading it ran into a defect of this program; it is left as it is")]
    Defect,
    /// What was to be done with it failed.
    #[error(transparent)]
    Visit(Box<dyn std::error::Error + Send + Sync>),
}

/// What a technician can do about an error of the system.
fn advice(error: &io::Error) -> String {
    match error.kind() {
        io::ErrorKind::NotFound => "it does not exist; check the path".to_owned(),
        io::ErrorKind::PermissionDenied => {
            "it may not be read; run as the user that owns it, or leave it out with --skip"
                .to_owned()
        }
        _ => format!("the system says: {error}"),
    }
}

/// Why a file or folder could not be looked at.
#[derive(Debug, Error)]
#[error("{}: {fault}", path.display())]
pub struct ScanFault {
    /// The file or folder.
    pub path: PathBuf,
    /// What is wrong, and what to do.
    pub fault: FileFault,
}
