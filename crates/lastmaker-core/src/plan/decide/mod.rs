//! What is to happen to each reference: the intent over one place, how the new one is written there, what
//! the references of a passage, of a line and of a document do to each other, and the edits that follow.

pub(super) mod accept;
pub(super) mod change;
pub(super) mod collision;
pub(super) mod intent;
pub(super) mod letters;
pub(super) mod lift;
pub(super) mod occurrence;
pub(super) mod options;
pub(super) mod portable;
pub(super) mod relative_update;
pub(super) mod spellings;
pub(super) mod together;
pub(super) mod unfit;
