//! What a sheet says.

use super::ReasonName;
use serde::Serialize;

use super::Answer;

/// `sheet`: what a sheet says, as it is understood.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct SheetReport {
    /// The file that it was read from.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub file: Option<String>,
    /// Whether places without an entry in `seen_at` are this machine's own.
    pub native: bool,
    /// Whether a second rewrite finds nothing by itself.
    pub repeatable: bool,
    /// The moves.
    pub moves: Vec<SheetMove>,
    /// Where places are seen from here.
    pub seen_at: Vec<SeenAt>,
    /// Variables, also those that follow from the ones given, and what they stood for before the moves.
    pub variables: Vec<SheetVariable>,
    /// Files and folders that are looked at.
    pub paths: Vec<String>,
    /// Names and paths that are left out.
    pub skip: Vec<String>,
    /// Reasons whose doubts are accepted.
    pub accepted_reasons: Vec<ReasonName>,
    /// Places in files at which doubts are accepted.
    pub accepted_sites: Vec<String>,
    /// Documents whose references take a spelling that survives the next move.
    pub portable: Vec<SheetPortable>,
}

/// A move of a sheet.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct SheetMove {
    /// The old place.
    pub from: String,
    /// The new place.
    pub to: String,
    /// Places below the old one that stay.
    pub except: Vec<String>,
    /// Other names of the old place.
    pub also: Vec<String>,
    /// Whether its POSIX places are compared without their case.
    pub ignore_case: bool,
}

/// Where a place is seen.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct SeenAt {
    /// The place.
    pub place: String,
    /// The folder, or the name of a volume.
    pub folder: String,
}

/// A variable of a sheet.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct SheetVariable {
    /// Its name.
    pub name: String,
    /// What it stood for before the moves.
    pub value: String,
}

/// Documents that a sheet calls portable.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct SheetPortable {
    /// Their names and paths.
    pub files: Vec<String>,
    /// How their program writes a variable called `NAME`; none if it takes paths relative to the document.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub variables: Option<String>,
}

impl Answer for SheetReport {
    fn command(&self) -> &'static str {
        "sheet"
    }

    fn has_findings(&self) -> bool {
        false
    }
}
