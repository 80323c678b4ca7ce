//! `trace`: which moves explain what dangles.

use serde::Serialize;

use super::{Answer, LeftFile};

/// `trace`: the fewest moves that explain the most dangling references.
#[derive(Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct TraceReport {
    /// The moves, the one that explains most first.
    pub moves: Vec<TracedMove>,
    /// What no move explains, what is named most often first.
    pub unexplained: Vec<Unexplained>,
    /// Counts.
    pub totals: TraceTotals,
    /// Files that could not be looked at.
    pub left: Vec<LeftFile>,
    /// The sheet that was written.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub written: Option<String>,
}

/// The counts of a trace.
#[derive(Clone, Copy, Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct TraceTotals {
    /// Files looked at.
    pub files: u64,
    /// References that dangle or cannot be checked.
    pub references: usize,
    /// Distinct places that they name.
    pub places: usize,
    /// References that a move explains.
    pub explained: usize,
    /// Names that were looked through.
    pub names: usize,
    /// Whether there were more names than can be looked through.
    pub names_cut: bool,
}

/// A move that explains references.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct TracedMove {
    /// The old place.
    pub from: String,
    /// The new place.
    pub to: String,
    /// How many references it explains: their new places exist.
    pub explains: usize,
    /// How many distinct places these name.
    pub places: usize,
    /// How many references under the old place it does not explain.
    pub contradicts: usize,
    /// Whether nothing else is likely.
    pub certain: bool,
    /// Other names of the old place that the files mention.
    pub also: Vec<String>,
    /// What of the old place is still there and is named.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub except: Vec<String>,
    /// New places that fit as well.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub rivals: Vec<String>,
    /// Why it is not certain.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub why: Option<String>,
}

/// A place that no move explains.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Unexplained {
    /// The place.
    pub place: String,
    /// How many references name it.
    pub references: usize,
}

impl Answer for TraceReport {
    fn command(&self) -> &'static str {
        "trace"
    }

    fn has_findings(&self) -> bool {
        let doubt = self.moves.iter().any(|one| !one.certain);
        doubt || !self.unexplained.is_empty() || !self.left.is_empty()
    }
}
