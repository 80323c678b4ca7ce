//! `compare`: is all of an old place also at its new one.

use std::ffi::OsStr;
use std::path::Path;

use serde::Serialize;

use super::{Answer, FileName, LeftFile};

/// `compare`: whether the copies are whole.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct CompareReport {
    /// Whether every pair is.
    pub whole: bool,
    /// Whether contents were compared, not only names and sizes.
    pub content: bool,
    /// What was compared with what.
    pub pairs: Vec<ComparedPair>,
    /// Old places that could not be compared, and why.
    pub left: Vec<LeftFile>,
}

impl CompareReport {
    /// The answer over these pairs, and over old places that could not be compared.
    pub fn new(pairs: Vec<ComparedPair>, left: Vec<LeftFile>, content: bool) -> Self {
        Self {
            whole: left.is_empty() && pairs.iter().all(ComparedPair::is_whole),
            content,
            pairs,
            left,
        }
    }
}

impl Answer for CompareReport {
    fn command(&self) -> &'static str {
        "compare"
    }

    fn has_findings(&self) -> bool {
        !self.whole
    }
}

/// An old place and its new one.
#[derive(Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ComparedPair {
    /// The old place.
    pub old: String,
    /// The new place.
    pub new: String,
    /// Where the old place is seen from here.
    pub old_seen_at: String,
    /// Where the new place is seen from here.
    pub new_seen_at: String,
    /// Files at the old place.
    pub old_files: u64,
    /// Their sizes together, in bytes.
    pub old_bytes: u64,
    /// Files at the new place.
    pub new_files: u64,
    /// Their sizes together, in bytes.
    pub new_bytes: u64,
    /// Whether the old place is a thin, young folder that a program made anew, without the old
    /// content.
    pub stand_in: bool,
    /// How the two are one and the same folder, so that there is nothing to compare.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub one_folder: Option<OneFolder>,
    /// Whether both sides have changed since the copy was made, so that they are to be merged.
    pub both_changed: bool,
    /// What differs, in path order.
    pub differences: Vec<Difference>,
    /// The folders in which something differs, in path order.
    pub folders: Vec<ComparedFolder>,
    /// How many links lead from one side to where the other has its own files.
    pub bridges: u64,
    /// How many files of one size are older at the new place; their contents were compared.
    pub went_back: u64,
    /// What could not be looked at.
    pub left: Vec<LeftFile>,
}

impl ComparedPair {
    /// Whether both sides hold the same.
    pub fn is_whole(&self) -> bool {
        self.differences.is_empty() && self.left.is_empty() && self.one_folder.is_none()
    }

    /// How many of its differences are of a kind.
    pub fn count(&self, kind: DifferenceKind) -> usize {
        let mut kinds = self.differences.iter().map(|one| one.kind);
        kinds.by_ref().filter(|one| *one == kind).count()
    }
}

/// How two places are one folder.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum OneFolder {
    /// The old place is a link that leads to the new one.
    OldIsLink,
    /// The new place is a link that leads to the old one.
    NewIsLink,
    /// Both lead to the same folder.
    Same,
}

/// One file, folder or link that differs.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Difference {
    /// The way to it from the compared folder, with slashes; at the old place if it is there.
    pub path: String,
    /// The bytes of that way, if it is not Unicode.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub path_bytes: Option<Vec<u8>>,
    /// How it differs.
    pub kind: DifferenceKind,
    /// Its name at the new place, where that is another.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub new_name: Option<String>,
    /// Its size at the old place, in bytes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub old_size: Option<u64>,
    /// Its size at the new place, in bytes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub new_size: Option<u64>,
    /// The side on which it was changed last.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub newer: Option<Side>,
    /// How it differs, where that wants a word.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub why: Option<String>,
}

impl Difference {
    /// A difference of what is at `below`, of which nothing else is known.
    pub fn new(below: &Path, kind: DifferenceKind) -> Self {
        let names = below.iter().map(OsStr::to_string_lossy);
        Self {
            path: names.collect::<Vec<_>>().join("/"),
            path_bytes: FileName::from(below).bytes,
            kind,
            new_name: None,
            old_size: None,
            new_size: None,
            newer: None,
            why: None,
        }
    }
}

/// How a file, folder or link differs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum DifferenceKind {
    /// It is not at the new place.
    Missing,
    /// It is only at the new place.
    Extra,
    /// Its size is another.
    Size,
    /// Its size is the same, its content another.
    Content,
    /// It is a file on one side and a folder on the other, or neither.
    Kind,
    /// Its name was changed by the file system that it came to.
    Name,
    /// It is a link that leads elsewhere, or is none any more.
    Link,
}

impl DifferenceKind {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Missing => "missing",
            Self::Extra => "extra",
            Self::Size => "size",
            Self::Content => "content",
            Self::Kind => "kind",
            Self::Name => "name",
            Self::Link => "link",
        }
    }
}

/// One of two sides.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Side {
    /// The old place.
    Old,
    /// The new place.
    New,
}

/// A folder in which something differs.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ComparedFolder {
    /// The way to it from the compared folder, with slashes; empty for that itself.
    pub path: String,
    /// Files in it at the old place, those in folders below not counted.
    pub old_files: u64,
    /// Their sizes together, in bytes.
    pub old_bytes: u64,
    /// Files in it at the new place.
    pub new_files: u64,
    /// Their sizes together, in bytes.
    pub new_bytes: u64,
    /// How many of them differ.
    pub differences: u64,
}
