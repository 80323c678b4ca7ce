//! What a rewrite would change.

use crate::job::Job;
use crate::plan::plan_tree;
use crate::record::{Chain, Store};
use crate::report::PlanReport;

/// Plans the rewrite of the job's scope and writes nothing. `store` has the records of earlier
/// rewrites; with `again` files that were saved since are planned all the same.
pub fn preview(job: &Job<'_>, store: &Store, again: bool) -> PlanReport {
    plan_tree(job, &chain(job, store), again, false).into_report()
}

/// What earlier rewrites did, which matters only if the moves do not settle it by themselves.
pub(super) fn chain(job: &Job<'_>, store: &Store) -> Chain {
    if job.sheet.is_repeatable() {
        Chain::default()
    } else {
        Chain::of(store)
    }
}
