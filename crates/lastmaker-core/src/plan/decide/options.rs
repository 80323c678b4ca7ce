//! What a plan needs to know beside the document.

use std::path::Path;

use super::relative_update::RelativeUpdater;
use super::spellings::Spellings;
use crate::base::limits::Limits;
use crate::job::Job;
use crate::resolve::Resolver;
use crate::sheet::Sheet;

/// What a plan needs to know beside the document.
#[derive(Clone, Copy, Debug)]
pub struct PlanOptions<'a> {
    /// The moves.
    pub sheet: &'a Sheet,
    /// Whether what is evidently mistyped is put right.
    pub repair: bool,
    /// Says which new places exist.
    pub resolver: Option<&'a Resolver>,
    /// Whether only references to new places that exist are changed.
    pub existing_only: bool,
    /// Whether the edits are wanted, and what changes piece by piece, as a record keeps it.
    pub for_record: bool,
    /// The file, by which doubts in it are accepted.
    pub file: &'a Path,
    /// What its references may be written as beside the new place in full.
    pub spellings: Option<&'a Spellings>,
    /// What it may cost.
    pub limits: Limits,
}

impl<'a> PlanOptions<'a> {
    /// The moves of `sheet` and nothing else.
    pub fn of(sheet: &'a Sheet) -> Self {
        Self {
            sheet,
            repair: false,
            resolver: None,
            existing_only: false,
            for_record: true,
            file: Path::new(""),
            spellings: None,
            limits: Limits::default(),
        }
    }

    /// What a run says of the file at `file`; `sheet` are the moves that it has not been through.
    pub(crate) fn of_job(job: &'a Job<'_>, sheet: &'a Sheet, file: &'a Path) -> Self {
        Self {
            repair: job.repair,
            resolver: Some(job.resolver),
            existing_only: job.existing_only,
            file,
            ..Self::of(sheet)
        }
    }

    /// What writes relative references anew, if that is wanted.
    pub(in crate::plan) fn mender(&self) -> Option<RelativeUpdater<'a>> {
        let spellings = self.spellings?;
        Some(RelativeUpdater {
            home: spellings.relative_to.as_ref()?,
            wish: spellings.relative,
            sheet: self.sheet,
            resolver: self.resolver?,
        })
    }

    /// Says which new places exist, if only references to those are changed.
    pub(in crate::plan) fn existing(&self) -> Option<&'a Resolver> {
        self.resolver.filter(|_| self.existing_only)
    }
}
