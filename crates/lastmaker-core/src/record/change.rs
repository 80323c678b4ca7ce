//! One file that is to be replaced, and what became of it.

use std::io;
use std::path::PathBuf;

use thiserror::Error;

use super::LinkKind;
use crate::layer::ByteEdits;
use crate::platform::OpenElsewhere;

/// Where the new content comes from.
#[derive(Debug)]
pub enum NewContent<'a> {
    /// The original with edits.
    Edits(&'a ByteEdits),
    /// A file as it is.
    File(PathBuf),
    /// These bytes.
    Bytes(Vec<u8>),
    /// The original with edits that make sense only all together, as those of a container do:
    /// they are not taken back one by one.
    Container(&'a ByteEdits),
    /// A link of this sort that leads there.
    Link(LinkKind, PathBuf),
}

/// One file that is to be replaced.
#[derive(Debug)]
pub struct Change<'a> {
    /// The file, in canonical form.
    pub path: PathBuf,
    /// Its other names.
    pub links: Vec<PathBuf>,
    /// Hash of what it must hold now; none if there must be no file.
    pub before: Option<blake3::Hash>,
    /// Hash of what it will hold.
    pub after: blake3::Hash,
    /// What it will hold.
    pub content: NewContent<'a>,
    /// The moves that it will have been through.
    pub moves: Vec<String>,
    /// The time of last modification that it gets, in nanoseconds since 1970; else now.
    pub modified: Option<i128>,
    /// Whether it must be left while another program has it open.
    pub exclusive: bool,
    /// Whether what it holds now can be made again from elsewhere: then a full disk does not
    /// stand in the way of replacing it.
    pub expendable: bool,
}

/// What became of a change.
#[derive(Debug)]
pub enum Made {
    /// It is made.
    Done,
    /// It is made, but another name of the file still has the old content.
    Partly(OtherNameFault),
    /// The file is as it was, and why.
    Left(ChangeFault),
}

impl Made {
    /// Why the file, or another name of it, is left; none if all is done.
    pub fn fault(&self) -> Option<String> {
        match self {
            Self::Done => None,
            Self::Partly(why) => Some(why.to_string()),
            Self::Left(why) => Some(why.to_string()),
        }
    }
}

/// Why another name of a file still has the old content.
#[derive(Debug, Error)]
#[error("its other name {} is left as it is: {why}", name.display())]
pub struct OtherNameFault {
    /// The name.
    pub name: PathBuf,
    /// What was in the way.
    pub why: OtherNameReason,
}

/// What is in the way of another name.
#[derive(Debug, Error)]
pub enum OtherNameReason {
    /// It does not have the old content any more.
    #[error("it was changed by itself")]
    Changed,
    /// The system refused.
    #[error(transparent)]
    Io(#[from] io::Error),
}

/// Why a file is left as it was.
#[derive(Debug, Error)]
pub enum ChangeFault {
    /// The folder is not the one that was looked at.
    #[error("a folder above it has become a link or is gone; it is left as it is")]
    OtherFolder,
    /// A program has it open.
    #[error(transparent)]
    OpenElsewhere(#[from] OpenElsewhere),
    /// It was a file when it was read.
    #[error("it can no longer be read as a file: it has become a link")]
    BecameLink,
    /// It is not what was planned on.
    #[error("it was changed after it was read; run again to see it as it is now")]
    Changed,
    /// It cannot be read.
    #[error("it can no longer be read: {0}")]
    Unread(io::Error),
    /// The original cannot be kept.
    #[error("its original cannot be kept in the record (--record-dir chooses another folder): {}", or_full(.0))]
    Unkept(io::Error),
    /// The new copy cannot be written.
    #[error("the new copy cannot be written beside it: {}", or_full(.0))]
    Unwritten(io::Error),
    /// The new copy is another than was planned.
    #[error(
        "the new copy cannot be written beside it: it is not what was planned, so it is not used"
    )]
    NotAsPlanned,
    /// What belongs to the file besides its content cannot be kept.
    #[error(
        "the new copy cannot be written beside it: its owner, access list or attributes cannot be kept by this user; run as an administrator ({0})"
    )]
    Metadata(io::Error),
    /// The new link cannot be made.
    #[error("the new link cannot be made beside it: {0}")]
    LinkUnmade(io::Error),
    /// There is something where nothing was, or it cannot be made.
    #[error("it cannot be put back: {0}")]
    NotPutBack(io::Error),
    /// The system does not let it be replaced now.
    #[error("a program has it open, or it may not be replaced; close the program and run again")]
    InUse,
    /// It cannot be replaced.
    #[error("it cannot be replaced: {0}")]
    Unreplaced(io::Error),
    /// Somebody saved in the instant of the exchange.
    #[error("it was saved by somebody while it was replaced; what they saved is in its place")]
    SavedMeanwhile,
    /// Somebody saved in the instant of the exchange, and that could not be put back.
    #[error("it was saved by somebody while it was replaced; what they saved lies in {}", .0.display())]
    SavedAside(PathBuf),
}

/// What the system said, or what to do about a full disk.
fn or_full(error: &io::Error) -> String {
    if error.kind() == io::ErrorKind::StorageFull {
        "no space is left there; free some, or choose another folder with --record-dir".to_owned()
    } else {
        error.to_string()
    }
}
