//! One file that is to be replaced, and what became of it.

use std::io;
use std::path::PathBuf;

use thiserror::Error;

use super::advice::with_advice;
use super::{Belongings, LinkKind, SiteChange};
use crate::base::compact::CompactList;
use crate::base::platform::OpenElsewhere;
use crate::layer::ByteEdits;

/// Where the new content comes from.
#[derive(Debug)]
pub enum NewContent<'a> {
    /// The original with edits.
    Edits(&'a ByteEdits),
    /// An original of a record as it is.
    Original(PathBuf),
    /// These bytes.
    Bytes(Vec<u8>),
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
    /// The moves that it will have been through, if they are not those of the record.
    pub moves: Option<Vec<String>>,
    /// What changes in it, as far as that is known piece by piece.
    pub sites: Option<&'a CompactList<SiteChange>>,
    /// What is to belong to it besides its content, if there is no file now.
    pub belongings: Option<Belongings>,
    /// The time of last modification that it gets, in nanoseconds since 1970; else now.
    pub modified: Option<i128>,
    /// Whether it must be left while another program has it open at all, not only for writing.
    pub exclusive: bool,
    /// Whether what it holds now can be made again from elsewhere: then a full disk does not
    /// stand in the way of replacing it.
    pub expendable: bool,
}

/// What became of a change.
#[derive(Debug)]
pub struct Outcome {
    /// Whether it is made.
    pub made: Made,
    /// What of ours could not be removed from beside the file, and why.
    pub stray: Option<(PathBuf, io::Error)>,
}

/// Whether a change is made.
#[derive(Debug)]
pub enum Made {
    /// It is made.
    Done,
    /// It is made, but another name of the file still has the old content.
    Partly(OtherNameFault),
    /// The file is as it was, and why.
    Left(ChangeFault),
}

impl Outcome {
    /// Why the file, or another name of it, is left, or what lies beside it; none if all is done.
    pub fn fault(&self) -> Option<String> {
        let why = match &self.made {
            Made::Done => None,
            Made::Partly(why) => Some(why.to_string()),
            Made::Left(why) => Some(why.to_string()),
        };
        let stray = self.stray.as_ref().map(|(path, error)| {
            format!(
                "{} beside it is no longer needed and cannot be removed ({error}); the next run removes it",
                path.file_name().unwrap_or_default().display()
            )
        });
        match (why, stray) {
            (Some(why), Some(stray)) => Some(format!("{why}; {stray}")),
            (why, stray) => why.or(stray),
        }
    }

    /// Whether the file was not come to, because the run was told to stop.
    pub fn was_stopped(&self) -> bool {
        matches!(self.made, Made::Left(ChangeFault::Stopped))
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
    #[error("{}", with_advice(.0))]
    Io(#[from] io::Error),
}

/// Why a file is left as it was.
#[derive(Debug, Error)]
pub enum ChangeFault {
    /// The folder is not the one that was looked at.
    #[error("a folder above it has become a link or is gone; it is left as it is")]
    OtherFolder,
    /// The run was told to stop before it came to it.
    #[error("the run was stopped before it came to it")]
    Stopped,
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
    #[error("it can no longer be read: {}", with_advice(.0))]
    Unread(io::Error),
    /// The original cannot be kept.
    #[error("its original cannot be kept in the record (--record-dir chooses another folder): {}", with_advice(.0))]
    Unkept(io::Error),
    /// The new copy cannot be written.
    #[error("the new copy cannot be written beside it: {}", with_advice(.0))]
    Unwritten(io::Error),
    /// The original in the record cannot be read.
    #[error("its original in the record cannot be read: {}", with_advice(.0))]
    OriginalUnread(io::Error),
    /// The original in the record is not what it was.
    #[error("its original in the record is not what was kept, so it is not used; it lies in {}", .0.display())]
    OriginalChanged(PathBuf),
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
    #[error("the new link cannot be made beside it: {}", with_advice(.0))]
    LinkUnmade(io::Error),
    /// There is something where nothing was, or it cannot be made.
    #[error("it cannot be put back: {}", with_advice(.0))]
    NotPutBack(io::Error),
    /// The system does not let it be replaced now.
    #[error("a program has it open, or it may not be replaced; close the program and run again")]
    InUse,
    /// It cannot be replaced.
    #[error("it cannot be replaced: {}", with_advice(.0))]
    Unreplaced(io::Error),
    /// Somebody saved in the instant of the exchange.
    #[error("it was saved by somebody while it was replaced; what they saved is in its place")]
    SavedMeanwhile,
    /// Somebody saved in the instant of the exchange, and that could not be put back.
    #[error("it was saved by somebody while it was replaced; what they saved lies in {}", .0.display())]
    SavedAside(PathBuf),
}

impl ChangeFault {
    /// Whether it may go better with fewer files at a time.
    pub(super) fn is_of_crowding(&self) -> bool {
        match self {
            Self::Unread(error)
            | Self::Unkept(error)
            | Self::Unwritten(error)
            | Self::Metadata(error)
            | Self::Unreplaced(error) => super::system::folder::is_out_of_descriptors(error),
            _ => false,
        }
    }
}
