//! What is planned, each by the one planner: a document as a whole, what a container holds, and a large text in
//! windows of whole records.

pub(super) mod container;
pub(super) mod whole;
pub(super) mod windows;
