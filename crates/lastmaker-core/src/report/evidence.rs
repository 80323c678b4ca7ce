//! The evidence behind a sheet: what each move touches and how much of it is there, and what
//! dangles together.

use serde::Serialize;

use super::Suggestion;

/// What one move touches, and how many of its new places exist.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct MoveEvidence {
    /// The old place.
    pub from: String,
    /// The new place.
    pub to: String,
    /// References that it touches.
    pub references: usize,
    /// Files that they are in.
    pub files: usize,
    /// Distinct new places of which it can be told whether they exist.
    pub new_places: usize,
    /// Those that exist.
    pub existing: usize,
    /// Distinct new places that cannot be checked from here.
    pub unreachable: usize,
}

impl MoveEvidence {
    /// Whether less than nine in ten of its new places exist.
    pub fn is_doubtful(&self) -> bool {
        self.existing * 10 < self.new_places * 9
    }

    /// Whether less than one in ten of them exists.
    pub fn looks_wrong(&self) -> bool {
        self.existing * 10 < self.new_places
    }
}

/// A folder with new places that do not exist.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct MissingFolder {
    /// The folder.
    pub folder: String,
    /// How many distinct new places right in it do not exist.
    pub places: usize,
}

/// Why references dangle together.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum Cause {
    /// Their root is not to be seen from here.
    UnreachableRoot,
    /// A folder on the way to them is gone.
    MissingFolder,
    /// The file or folder that they name is gone.
    MissingFile,
}

/// References that dangle, or cannot be checked, for one cause.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct DanglingGroup {
    /// The cause.
    pub cause: Cause,
    /// What is not there.
    pub place: String,
    /// How many references it has.
    pub references: usize,
    /// How many distinct places they name.
    pub targets: usize,
    /// How many files they are in.
    pub files: usize,
    /// What may stand for what is not there, the likeliest first.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub cures: Vec<GroupCure>,
}

/// What may stand for a place that is not there, with the evidence.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct GroupCure {
    /// The place, why, and whether nothing else is likely.
    #[serde(flatten)]
    pub suggestion: Suggestion,
    /// How many of the names that were looked up are under it.
    pub found: usize,
    /// How many were looked up.
    pub of: usize,
}
