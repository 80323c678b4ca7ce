//! What a plan needs to know beside the document.

use std::path::Path;

use crate::limits::Limits;
use crate::open::Reading;
use crate::resolve::Resolver;
use crate::sheet::Sheet;

/// What a plan needs to know beside the document.
#[derive(Clone, Copy, Debug)]
pub struct PlanOptions<'a> {
    /// The moves.
    pub sheet: &'a Sheet,
    /// What the technician says of documents that do not show it themselves.
    pub reading: Reading,
    /// Whether what is evidently mistyped is put right.
    pub repair: bool,
    /// Says which new places exist, if only references to those are changed.
    pub existing: Option<&'a Resolver>,
    /// The file, by which doubts in it are accepted.
    pub file: &'a Path,
    /// What it may cost.
    pub limits: Limits,
}
