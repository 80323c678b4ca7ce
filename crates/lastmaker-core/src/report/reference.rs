//! One reference, and a file that is left, as every answer tells them. Field names and words are
//! part of the contract.

use std::ops::Range;
use std::path::Path;

use serde::{Deserialize, Serialize};

use super::{ReasonName, Standing, Target};

/// A place that may be meant.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Suggestion {
    /// The place.
    pub place: String,
    /// Why it is likely.
    pub why: String,
    /// Whether nothing else is likely.
    pub certain: bool,
}

/// A file's name, shown lossily where it is not Unicode.
#[derive(Clone, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct FileName {
    /// The name as far as it is Unicode.
    #[serde(rename = "file")]
    pub shown: String,
    /// The name's bytes, if it is not Unicode.
    #[serde(rename = "file_bytes", skip_serializing_if = "Option::is_none")]
    pub bytes: Option<Vec<u8>>,
}

impl From<&Path> for FileName {
    fn from(path: &Path) -> Self {
        let not_unicode = path.to_str().is_none();
        Self {
            shown: path.to_string_lossy().into_owned(),
            bytes: not_unicode.then(|| path.as_os_str().as_encoded_bytes().to_vec()),
        }
    }
}

/// Where a reference begins in a text.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Position {
    /// Line, counted from 1.
    pub line: usize,
    /// Column in letters, counted from 1.
    pub column: usize,
}

/// Byte ranges of changes: before, and after.
pub type Marks = Vec<(Range<usize>, Range<usize>)>;

/// The surroundings of a reference in the file's own escaping.
#[derive(Clone, Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Surroundings {
    /// As they are.
    pub before: String,
    /// As they are after a rewrite; none if it does not change them.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub after: Option<String>,
    /// Where each change is in `before`, and where in `after`, in bytes.
    #[serde(skip)]
    pub marks: Marks,
    /// Whether the surroundings of an earlier reference show this one too.
    #[serde(skip)]
    pub shown_before: bool,
}

/// One reference, as the contract has it.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Reference {
    /// The file.
    #[serde(flatten)]
    pub file: FileName,
    /// The way to the string inside the file.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub site: String,
    /// Where it begins; none where the site says all.
    #[serde(flatten)]
    pub position: Option<Position>,
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
    /// The link at an old place through which its place is reached, if it is.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub bridge: Option<String>,
    /// The format that read it.
    pub format: &'static str,
    /// The format that the file claims to be of, and whose grammar it breaks.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub broke: Option<&'static str>,
    /// The short name of the reason for its standing, which never changes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reason: Option<ReasonName>,
    /// The reason for its standing, where that wants a word.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub why: Option<String>,
    /// What follows from changing it, where that wants a word.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub notice: Option<Notice>,
    /// Its surroundings before and after a rewrite.
    #[serde(flatten)]
    pub surroundings: Option<Box<Surroundings>>,
    /// What may be meant, the likeliest first.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub suggestions: Vec<Suggestion>,
    /// The number of the move that touches it.
    #[serde(skip)]
    pub by: Option<usize>,
}

impl Reference {
    /// A reference of which only this is known.
    pub fn new(
        file: FileName,
        written: &str,
        place: String,
        standing: Standing,
        format: &'static str,
    ) -> Self {
        Self {
            file,
            site: String::new(),
            position: None,
            written: written.to_owned(),
            place,
            target: None,
            standing,
            new_place: None,
            new_target: None,
            bridge: None,
            format,
            broke: None,
            reason: None,
            why: None,
            notice: None,
            surroundings: None,
            suggestions: Vec::new(),
            by: None,
        }
    }

    /// Takes the change back and says why.
    pub fn withdraw(&mut self, standing: Standing, reason: ReasonName, why: &str) {
        if self.standing != Standing::ToMove {
            return;
        }
        self.standing = standing;
        self.reason = Some(reason);
        self.why = Some(why.to_owned());
        self.notice = None;
        if let Some(surroundings) = &mut self.surroundings {
            surroundings.after = None;
        }
    }
}

/// A consequence of a change that is made all the same.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum Notice {
    /// Importing the document makes the new name and leaves the old one in place.
    OldNameStays,
    /// The new place is longer than many Windows programs can open.
    LongPlace,
    /// A mount unit's name follows from the place that it mounts at.
    UnitName,
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
            Self::UnitName => {
                "a mount unit must have the name of its place: rename the file to what `systemd-escape --path` says of the new one"
            }
        }
    }
}

/// A file that is left as it is, or could not be looked at.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct LeftFile {
    /// The file.
    #[serde(flatten)]
    pub file: FileName,
    /// Why, and what to do.
    pub why: String,
}

impl LeftFile {
    /// The file at `path`, and why it is left.
    pub fn new(path: &Path, why: impl Into<String>) -> Self {
        Self {
            file: FileName::from(path),
            why: why.into(),
        }
    }
}
