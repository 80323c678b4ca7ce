//! The answers: one model a question; those about a plan and one file's reading are beside this.

use serde::Serialize;

use super::{AllReferences, DanglingGroup, LeftFile, MoveEvidence, Target, is_zero};
use crate::about::About;

/// Version of the JSON documents that this build writes.
///
/// 1: first.
pub const SCHEMA: u32 = 1;

/// The answer to one question.
pub trait Answer: Serialize {
    /// The question, by the name of its command.
    fn command(&self) -> &'static str;

    /// Whether something wants a person's attention.
    fn has_findings(&self) -> bool;
}

/// An answer as machines read it.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Document<'a, A> {
    /// [`SCHEMA`] of the build that wrote it.
    pub schema: u32,
    /// The question.
    pub command: &'static str,
    /// The fields of the answer.
    #[serde(flatten)]
    pub answer: &'a A,
}

impl<'a, A: Answer> Document<'a, A> {
    /// The document of `answer`.
    pub fn of(answer: &'a A) -> Self {
        Self {
            schema: SCHEMA,
            command: answer.command(),
            answer,
        }
    }
}

/// `survey`: which places the files name, and which of them exist.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct SurveyReport {
    /// Every distinct place, by root and name.
    pub places: Vec<PlaceCount>,
    /// The folders that hold nearly all of them.
    pub tree: Vec<SurveyNode>,
    /// Files looked at.
    pub files: u64,
    /// Files that name a place.
    pub naming_files: usize,
    /// References in all.
    pub references: usize,
    /// Files that could not be looked at.
    pub left: Vec<LeftFile>,
}

impl Answer for SurveyReport {
    fn command(&self) -> &'static str {
        "survey"
    }

    fn has_findings(&self) -> bool {
        !self.left.is_empty()
    }
}

/// One distinct place.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct PlaceCount {
    /// The place.
    pub place: String,
    /// How many references name it.
    pub references: usize,
    /// How many files do.
    pub files: usize,
    /// Whether it exists.
    pub target: Target,
}

/// A folder in which places lie, with those below it.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct SurveyNode {
    /// The folder, or root.
    pub place: String,
    /// References to it and below it.
    pub references: usize,
    /// Distinct places, itself included.
    pub places: usize,
    /// Of the references, those that exist.
    pub live: usize,
    /// Those that dangle.
    pub dangling: usize,
    /// Those that cannot be checked from here.
    pub unreachable: usize,
    /// The folders below it that hold most, the fullest first.
    pub below: Vec<Self>,
}

/// `check`: what dangles, and the likeliest cure.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct CheckReport {
    /// What is judged and wants attention, and with `all` whatever dangles elsewhere.
    pub references: AllReferences,
    /// What dangles together, and what cannot be checked, by cause.
    pub groups: Vec<DanglingGroup>,
    /// What each move touches, and how much of it is there.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub moves: Vec<MoveEvidence>,
    /// Counts.
    pub totals: CheckTotals,
    /// Files that could not be looked at.
    pub left: Vec<LeftFile>,
    /// Whether a sheet said what is judged.
    #[serde(skip)]
    pub with_sheet: bool,
}

/// The counts of a check.
#[derive(Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct CheckTotals {
    /// Files looked at.
    pub files: u64,
    /// References that are judged: with a sheet those under an old or a new place.
    pub judged: usize,
    /// Of them, those that exist at a new place or as an exception.
    pub live: usize,
    /// Of them, those that dangle.
    pub dangling: usize,
    /// Of them, those that cannot be checked from here.
    pub unreachable: usize,
    /// Of them, those that name an old place and exist, because a link stands there.
    #[serde(skip_serializing_if = "is_zero")]
    pub bridged: usize,
    /// Of them, those that a rewrite will change.
    pub to_move: usize,
    /// Of them, those that still name an old place.
    pub leftover: usize,
    /// Of them, those that are evidently mistyped.
    pub malformed: usize,
    /// References elsewhere that dangle.
    pub dangling_elsewhere: usize,
    /// References in logs, backups and recycle bins, which are not judged.
    pub in_history: usize,
}

impl Answer for CheckReport {
    fn command(&self) -> &'static str {
        "check"
    }

    fn has_findings(&self) -> bool {
        let totals = &self.totals;
        totals.dangling + totals.to_move + totals.leftover + totals.malformed > 0
            || !self.left.is_empty()
    }
}

/// `formats`: what is read and rewritten.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct FormatsReport {
    /// Every format, in the order in which they are tried.
    pub formats: Vec<About>,
    /// What holds documents or strings in a structure of its own, in the order in which they
    /// are tried; these come before the formats.
    pub containers: Vec<About>,
    /// What of the file system itself is read.
    pub links: &'static str,
    /// How places may be written, whatever the format.
    pub spellings: &'static str,
    /// What is read inside of strings, whatever the format.
    pub inside: &'static str,
    /// The encodings of text.
    pub encodings: &'static str,
    /// What is not seen without being asked for.
    pub limits: &'static str,
}

impl Answer for FormatsReport {
    fn command(&self) -> &'static str {
        "formats"
    }

    fn has_findings(&self) -> bool {
        false
    }
}
