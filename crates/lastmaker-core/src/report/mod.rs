//! What the questions are answered with: serde models of every result, no rendering.
//!
//! A result as machines read it is one [`Document`]: the version of this contract, the question,
//! and the fields of the answer beside them. Fields that have nothing to say are left out.

mod answers;
mod bridge;
mod compare;
mod evidence;
mod explain;
mod plan;
mod reason;
mod records;
mod reference;
mod references;
#[cfg(feature = "schema")]
mod schema;
mod sheet;
mod standing;
mod trace;

pub use answers::{
    Answer, CheckReport, CheckTotals, Document, FormatsReport, PlaceCount, SCHEMA, SurveyNode,
    SurveyReport,
};
pub use bridge::{BridgeKind, BridgeLine, BridgeReport, BridgeState};
pub use compare::{
    CompareReport, ComparedFolder, ComparedPair, Difference, DifferenceKind, OneFolder, Side,
};
pub use evidence::{Cause, DanglingGroup, GroupCure, MissingFolder, MoveEvidence};
pub use explain::{ExplainReport, ExplainedLayer, ExplainedMove, ExplainedReference};
pub use plan::{Done, NewPlaces, PlanReport, PlanTotals, PlannedFile, RewriteReport, looks_wrong};
pub use reason::{ReasonName, ReasonRow};
pub use records::{
    ForgetReport, HistoryReport, LeftRecord, RecordKind, RecordLine, RestoreReport, TakenBack,
    TakenBackSite,
};
pub use reference::{
    FileName, LeftFile, Marks, Notice, Position, Reference, Suggestion, Surroundings,
};
pub use references::{AllReferences, References};
#[cfg(feature = "schema")]
pub use schema::schemas;
pub use sheet::{SeenAt, SheetMove, SheetPortable, SheetReport, SheetVariable};
pub use standing::{Standing, Target};
pub use trace::{TraceReport, TraceTotals, TracedMove, Unexplained};

/// Whether a count has nothing to say.
#[expect(
    clippy::trivially_copy_pass_by_ref,
    reason = "serde hands over a reference"
)]
fn is_zero(number: &usize) -> bool {
    *number == 0
}
