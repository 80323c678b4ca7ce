//! How one file is read.

use serde::Serialize;

use super::{Answer, FileName, Notice, Position, ReasonName, Standing, Suggestion, Target};

/// `explain`: how one file is read.
#[derive(Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ExplainReport {
    /// The file.
    #[serde(flatten)]
    pub file: FileName,
    /// Length of its byte-order mark in bytes; 0 without one.
    pub mark: usize,
    /// Its encoding; empty for a container.
    #[serde(skip_serializing_if = "str::is_empty")]
    pub encoding: &'static str,
    /// The format that reads it.
    pub format: &'static str,
    /// The format that it claims to be of, and whose grammar it breaks.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub broke: Option<&'static str>,
    /// Why nothing in it may be changed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub sealed: Option<&'static str>,
    /// Why it is left as a whole, although references would move.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub left: Option<String>,
    /// Its references in order.
    pub references: Vec<ExplainedReference>,
    /// The line that was asked for, counted from 1.
    #[serde(skip)]
    pub line: Option<usize>,
    /// Whether a sheet says what moves.
    #[serde(skip)]
    pub with_moves: bool,
}

impl Answer for ExplainReport {
    fn command(&self) -> &'static str {
        "explain"
    }

    fn has_findings(&self) -> bool {
        false
    }
}

/// One reference, from its bytes to its place and back.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ExplainedReference {
    /// Where it begins; none where the site says all.
    #[serde(flatten)]
    pub position: Option<Position>,
    /// The way to the string inside the file.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub site: String,
    /// What the string is in its document.
    pub part: &'static str,
    /// Offset of its bytes in its document, counted from 0.
    pub offset: usize,
    /// Its bytes, as hex digits.
    pub bytes: String,
    /// What each layer makes of it, from the encoding inwards.
    pub layers: Vec<ExplainedLayer>,
    /// How the place is spelled, in words.
    pub spelling: String,
    /// The place it names.
    pub place: String,
    /// Whether that place exists.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub target: Option<Target>,
    /// How it stands towards the sheet.
    pub standing: Standing,
    /// The short name of the reason for that.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reason: Option<ReasonName>,
    /// The reason for that, where it wants a word.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub why: Option<String>,
    /// The move that touches it.
    #[serde(skip_serializing_if = "Option::is_none", rename = "move")]
    pub by: Option<ExplainedMove>,
    /// The place it names after a rewrite.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub new_place: Option<String>,
    /// Whether that place exists.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub new_target: Option<Target>,
    /// Its bytes after a rewrite, as hex digits.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub new_bytes: Option<String>,
    /// What follows from changing it, where that wants a word.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub notice: Option<Notice>,
    /// What may be meant, the likeliest first.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub suggestions: Vec<Suggestion>,
}

/// One layer, and the reference as it reads once the layer is off.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ExplainedLayer {
    /// The encoding, or what a person calls the escaping.
    pub layer: &'static str,
    /// The reference as it reads there.
    pub text: String,
    /// The same after a rewrite.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub becomes: Option<String>,
}

/// A move of the sheet.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ExplainedMove {
    /// The old place.
    pub from: String,
    /// The new place.
    pub to: String,
}
