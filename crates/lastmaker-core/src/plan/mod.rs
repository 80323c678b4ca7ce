//! References and moves become edits, a new copy, and the proof that it is right.
//!
//! From the inside out: what is meant to happen to one place , what a document as a
//! whole allows, its edits and their proof ([`plan`]), the containers around it, a file, a tree.
//! Nothing here writes a file: only `record` does.

mod decide;
mod excerpt;
mod file;
mod reference;
mod rounds;
mod source;
mod tree;
mod write;

pub use decide::options::PlanOptions;
pub use decide::spellings::Spellings;
pub use file::FilePlan;
pub use source::whole::{DocumentPlan, plan};
pub use source::windows::{LargePlan, LargePlanFault, plan_large};
pub use tree::{TreePlan, plan_tree};

pub(crate) use decide::intent::{Intent, spelled_right};
pub(crate) use decide::occurrence::{Occurrence, Occurrences};
pub(crate) use rounds::decide;
pub(crate) use rounds::teller::Teller;
pub(crate) use source::container::{ContentPlan, mark_of, settle_group};

#[cfg(test)]
mod tests;
