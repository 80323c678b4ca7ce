//! The new copy and its proof: what each change promises, and what a reading of the copy says of it.

pub(super) mod promise;
pub(super) mod proof;
pub(super) mod sift;
pub(super) mod stretch;
