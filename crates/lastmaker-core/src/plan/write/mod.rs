//! The new copy and its proof: what is expected of each change, and what a reading of the copy says of it.

pub(super) mod expectation;
pub(super) mod proof;
pub(super) mod sift;
pub(super) mod stretch;
