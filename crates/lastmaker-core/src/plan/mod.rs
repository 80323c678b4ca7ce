//! References and moves become edits, a new copy, and the proof that it is right.
//!
//! From the inside out: what is meant to happen to one place , what a document as a
//! whole allows, its edits and their proof ([`plan`]), the containers around it, a file, a tree.
//! Nothing here writes a file: only `record` does.

mod accept;
mod attempt;
mod change;
mod collision;
mod container;
mod document;
mod excerpt;
mod file;
mod intent;
mod large;
mod letters;
mod lift;
mod mend;
mod occurrence;
mod options;
mod portable;
mod promise;
mod proof;
mod reference;
mod rounds;
mod sift;
mod spellings;
mod stretch;
mod teller;
mod together;
mod tree;
mod undo;
mod unfit;

pub use document::{DocumentPlan, plan};
pub use file::FilePlan;
pub use large::{LargePlan, LargePlanFault, plan_large};
pub use options::PlanOptions;
pub use spellings::Spellings;
pub use tree::{TreePlan, plan_tree};
pub use undo::{Undoing, Undone, undo};

pub(crate) use intent::{Intent, spelled_right};
pub(crate) use occurrence::{Occurrence, Occurrences};
pub(crate) use rounds::decide;
pub(crate) use teller::Teller;

#[cfg(test)]
mod tests;
