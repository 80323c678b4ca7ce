//! References and moves become edits, a new copy, and the proof that it is right.
//!
//! Everything here is pure: bytes in, a plan out. Only `record` writes.

mod beside;
mod collision;
mod content;
mod excerpt;
mod explain;
mod file;
mod intent;
mod large;
mod lift;
mod plan;
mod proof;
mod tree;
mod unfit;

pub use explain::{ExplainedLayer, ExplainedMove, ExplainedReference};
pub use large::{LargePlan, plan_large};
pub use plan::{DocumentPlan, PlanOptions, PlannedReference, plan};

pub use file::FilePlan;
pub use tree::{NewPlaces, PlanReport, PlanTotals, TreePlan, plan_tree};

pub(crate) use explain::{Judge, explain_references};
pub(crate) use intent::{TORN, UNDOUBLED, spelled_right};
pub(crate) use large::SplicedReader;
pub(crate) use plan::LineCounter;
