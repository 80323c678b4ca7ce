//! What a rewrite would change, and what it did.

use serde::{Serialize, Serializer};

use super::{Answer, LeftFile, MissingFolder, MoveEvidence, Reference, References};

/// `preview`: what a rewrite would change.
#[derive(Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct PlanReport {
    /// The files that name an old place; machines read the references in them alone.
    #[serde(rename = "references", serialize_with = "in_one_list")]
    #[cfg_attr(feature = "schema", schemars(with = "Vec<Reference>"))]
    pub files: Vec<PlannedFile>,
    /// Files that are left as they are, and why.
    pub left: Vec<LeftFile>,
    /// What each move touches, and how many of its new places exist.
    pub moves: Vec<MoveEvidence>,
    /// The folders of new places that do not exist, those with most of them first.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub missing: Vec<MissingFolder>,
    /// Counts.
    pub totals: PlanTotals,
}

impl PlanReport {
    /// The same without its references.
    pub fn without_references(&self) -> Self {
        Self {
            files: Vec::new(),
            left: self.left.clone(),
            moves: self.moves.clone(),
            missing: self.missing.clone(),
            totals: self.totals.clone(),
        }
    }

    /// Whether of a move less is there than should be.
    fn is_half_there(&self) -> bool {
        self.moves.iter().any(MoveEvidence::is_doubtful)
    }

    /// Whether something is left of what was planned.
    fn leaves_something(&self) -> bool {
        let totals = &self.totals;
        let wanting =
            totals.doubtful + totals.malformed + totals.sealed + totals.collision + totals.notices;
        wanting > 0 || !self.left.is_empty()
    }

    /// Whether a rewrite would stop, because hardly anything is where a move leads.
    pub fn looks_wrong(&self) -> bool {
        looks_wrong(&self.totals.new_places, &self.moves)
    }

    /// Every reference that a move touches, file by file.
    pub fn references(&self) -> impl Iterator<Item = Reference> + '_ {
        self.files.iter().flat_map(|file| file.references.iter())
    }
}

fn in_one_list<S: Serializer>(files: &[PlannedFile], to: S) -> Result<S::Ok, S::Error> {
    to.collect_seq(files.iter().flat_map(|file| file.references.iter()))
}

/// A file that names an old place.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct PlannedFile {
    /// The format that read it.
    pub format: &'static str,
    /// Name of its encoding; empty if it has none as a whole.
    pub encoding: &'static str,
    /// Whether it is read-only.
    pub read_only: bool,
    /// How many other names it has.
    pub other_names: usize,
    /// Whether it changes.
    pub changes: bool,
    /// Its references that a move touches, in order.
    pub references: References,
}

/// The counts of a plan.
#[derive(Clone, Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct PlanTotals {
    /// Files looked at.
    pub files: u64,
    /// Files that change.
    pub changing_files: usize,
    /// References that change.
    pub to_move: usize,
    /// References that an exception keeps.
    pub kept: usize,
    /// References that name nothing on this machine: what is inside of containers, and the paths of addresses.
    pub foreign: usize,
    /// References that could be read two ways.
    pub doubtful: usize,
    /// References that are evidently mistyped.
    pub malformed: usize,
    /// References that cannot be rewritten safely.
    pub sealed: usize,
    /// References whose entries would become the same.
    pub collision: usize,
    /// Changes that a person should know something about.
    pub notices: usize,
    /// References in logs, backups and recycle bins, which stay.
    pub in_history: usize,
    /// Distinct new places.
    pub new_places: NewPlaces,
}

/// Which of the distinct new places exist.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct NewPlaces {
    /// How many there are.
    pub distinct: usize,
    /// Those that exist.
    pub live: usize,
    /// Those that do not.
    pub dangling: usize,
    /// Those that cannot be checked from here.
    pub unreachable: usize,
}

/// Whether a move leads to a folder that hardly holds anything of what is named: below one in ten of
/// the new places that can be checked, of any move or of all; or none that can.
pub fn looks_wrong(places: &NewPlaces, moves: &[MoveEvidence]) -> bool {
    let checkable = places.live + places.dangling;
    let hardly = checkable == 0 || places.live * 10 < checkable;
    (places.distinct > 0 && hardly) || moves.iter().any(MoveEvidence::looks_wrong)
}

impl Answer for PlanReport {
    fn command(&self) -> &'static str {
        "preview"
    }

    fn has_findings(&self) -> bool {
        self.leaves_something()
    }
}

/// `rewrite`: the plan, and what was done.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct RewriteReport {
    /// What was planned.
    #[serde(flatten)]
    pub plan: PlanReport,
    /// What was done; none if nothing was to be rewritten.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub done: Option<Done>,
    /// Files that were to be rewritten and are not, and why.
    pub failed: Vec<LeftFile>,
    /// Whether it was to go on whatever is missing at the new places.
    #[serde(skip)]
    pub anyway: bool,
}

impl RewriteReport {
    /// The same without its references.
    pub fn without_references(&self) -> Self {
        Self {
            plan: self.plan.without_references(),
            done: self.done.clone(),
            failed: self.failed.clone(),
            anyway: self.anyway,
        }
    }
}

/// What a rewrite did.
#[derive(Clone, Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Done {
    /// The record that it made.
    pub record: String,
    /// The record's folder.
    pub folder: String,
    /// Files that were rewritten.
    pub rewritten_files: usize,
    /// References in them that were rewritten.
    pub rewritten_references: usize,
    /// Files that it did not come to, because it was stopped.
    pub stopped_before: usize,
    /// Files that would have changed, and were left because a person chose so.
    #[serde(skip_serializing_if = "super::is_zero")]
    pub left_by_choice: usize,
    /// Registry files of the changes alone, and their undo.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub change_files: Vec<String>,
}

impl Answer for RewriteReport {
    fn command(&self) -> &'static str {
        "rewrite"
    }

    fn has_findings(&self) -> bool {
        let stopped = |done: &Done| done.stopped_before > 0;
        self.plan.leaves_something()
            || (!self.anyway && self.plan.is_half_there())
            || !self.failed.is_empty()
            || self.done.as_ref().is_some_and(stopped)
    }
}
