//! Doubts that a technician has accepted: the change is made all the same.

use crate::judge::{FoundIn, Policy, Reason};
use crate::open::{Document, LineCounter, SitePassage};
use crate::report::Position;
use crate::scan::Found;

use super::intent::insist;
use super::occurrence::Occurrences;
use super::options::PlanOptions;

/// Makes the changes over which there are doubts that are accepted; whether there are any.
pub(in crate::plan) fn insist_where_accepted(
    document: &Document<'_>,
    sites: &mut [Occurrences],
    options: PlanOptions<'_>,
    policy: Policy<'_>,
) -> bool {
    if options.sheet.accept.is_empty() {
        return false;
    }
    let mut lines = document.lines();
    let mut any = false;
    for Occurrences { site, all } in sites {
        let content = document.content_of(site);
        for one in all {
            let Some(intent) = one.intent.as_mut() else {
                continue;
            };
            let Some(reason) = &intent.verdict.reason else {
                continue;
            };
            let position = position(document, &mut lines, site, &one.found);
            if !is_accepted(options, reason, position) {
                continue;
            }
            let case = FoundIn {
                site,
                found: &one.found,
                content,
            };
            if let Some(insisted) = insist(intent, case, policy) {
                *intent = insisted;
                any = true;
            }
        }
    }
    any
}

/// Whether a doubt for this reason is accepted there.
pub(in crate::plan) fn is_accepted(
    options: PlanOptions<'_>,
    reason: &Reason,
    position: Position,
) -> bool {
    let accept = &options.sheet.accept;
    accept.covers(reason.name(), options.file, Some(position))
}

/// Where a place begins in the document.
pub(in crate::plan) fn position(
    document: &Document<'_>,
    lines: &mut LineCounter,
    site: &SitePassage,
    found: &Found,
) -> Position {
    lines.at(&document.text.content, site.in_text(found.start))
}
