//! The models that machines read. Field names and words are part of the contract.

use std::ops::Range;
use std::path::Path;

use serde::Serialize;

use crate::resolve::{Suggestion, Target};

/// Version of the JSON documents that this build writes.
///
/// 1: first.
pub const SCHEMA: u32 = 1;

/// How a reference stands towards the sheet.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Standing {
    /// No move touches it.
    Elsewhere,
    /// A rewrite changes it.
    ToMove,
    /// It names a new place.
    Moved,
    /// An exception of the sheet keeps it.
    Kept,
    /// It names the old place after a rewrite.
    Leftover,
    /// It could be read two ways.
    Doubtful,
    /// It is evidently mistyped.
    Malformed,
    /// It stands where nothing can be rewritten safely.
    Sealed,
    /// Entries that must differ would become the same.
    Collision,
}

impl Standing {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Elsewhere => "elsewhere",
            Self::ToMove => "to-move",
            Self::Moved => "moved",
            Self::Kept => "kept",
            Self::Leftover => "leftover",
            Self::Doubtful => "doubtful",
            Self::Malformed => "malformed",
            Self::Sealed => "sealed",
            Self::Collision => "collision",
        }
    }
}

/// A file's name, shown lossily where it is not Unicode.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct FileName {
    /// The name as far as it is Unicode.
    pub shown: String,
    /// The name's bytes, if it is not Unicode.
    pub bytes: Option<Vec<u8>>,
}

impl From<&Path> for FileName {
    fn from(path: &Path) -> Self {
        Self {
            shown: path.to_string_lossy().into_owned(),
            bytes: path
                .to_str()
                .is_none()
                .then(|| path.as_os_str().as_encoded_bytes().to_vec()),
        }
    }
}

/// Byte ranges of changes: before, and after.
pub type Marks = Vec<(Range<usize>, Range<usize>)>;

/// One reference, as the contract has it.
#[derive(Clone, Debug, Serialize)]
pub struct Reference {
    /// The file.
    pub file: String,
    /// The file name's bytes where it is not Unicode.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub file_bytes: Option<Vec<u8>>,
    /// The way to the string inside the file.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub site: String,
    /// The line it begins in, counted from 1; 0 where the site says all.
    #[serde(skip_serializing_if = "is_zero")]
    pub line: usize,
    /// The column it begins in, in letters, counted from 1; 0 where the site says all.
    #[serde(skip_serializing_if = "is_zero")]
    pub column: usize,
    /// The reference as it is written, its layers taken off.
    pub written: String,
    /// The place it names.
    pub place: String,
    /// Whether that place exists.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub target: Option<Target>,
    /// How it stands towards the sheet.
    pub standing: Standing,
    /// The place it names after a rewrite.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub new_place: Option<String>,
    /// Whether that place exists.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub new_target: Option<Target>,
    /// The format that read it.
    pub format: &'static str,
    /// The format that the file claims to be of, and whose grammar it breaks.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub broke: Option<&'static str>,
    /// Why it stands as it does, where that wants a word.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub why: Option<String>,
    /// What follows from changing it, where that wants a word.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub notice: Option<Notice>,
    /// Its surroundings in the file's own escaping.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub before: Option<String>,
    /// The same after a rewrite.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub after: Option<String>,
    /// Where each change stands in `before`, and where in `after`, in bytes.
    #[serde(skip)]
    pub marks: Marks,
    /// Whether the surroundings of an earlier reference show this one too.
    #[serde(skip)]
    pub shown_before: bool,
    /// What may be meant, the likeliest first.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub suggestions: Vec<Suggestion>,
}

pub(crate) fn is_zero(number: &usize) -> bool {
    *number == 0
}

/// A consequence of a change that is made all the same.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Notice {
    /// Importing the document makes the new name and leaves the old one behind.
    OldNameStays,
    /// The new place is longer than many Windows programs can open.
    LongPlace,
}

impl Notice {
    /// A sentence for people.
    pub fn sentence(self) -> &'static str {
        match self {
            Self::OldNameStays => {
                "this renames a registry entry; importing the export leaves the old name behind, the files of `rewrite --change-files` do not"
            }
            Self::LongPlace => {
                "the new place is longer than the 259 letters that many Windows programs can open"
            }
        }
    }
}

/// A file that names old places and is left as it is.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct LeftFile {
    /// The file.
    pub file: String,
    /// Why, and what to do.
    pub why: String,
}
