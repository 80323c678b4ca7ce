//! Doubts that a technician has accepted: the change is made all the same.

use crate::judge::{Allowance, Case, Reason};
use crate::open::{Document, LineCounter, SitePassage};
use crate::place::Found;
use crate::report::Position;

use super::intent::{Intent, insist};
use super::options::PlanOptions;

/// Makes the changes over which there are doubts that are accepted; whether there are any.
pub(super) fn insist_where_accepted(
    document: &Document<'_>,
    sites: &[SitePassage],
    intents: &mut [Vec<Option<Intent>>],
    options: PlanOptions<'_>,
    allowance: Allowance<'_>,
) -> bool {
    if options.sheet.accept.is_empty() {
        return false;
    }
    let mut lines = LineCounter::default();
    let mut any = false;
    for (site, of_site) in sites.iter().zip(intents) {
        let content = document.content_of(site);
        for (found, intent) in site.finds.iter().zip(of_site) {
            let Some(intent) = intent.as_mut() else {
                continue;
            };
            let Some(reason) = &intent.verdict.reason else {
                continue;
            };
            let position = position(document, &mut lines, site, found);
            if !is_accepted(options, reason, position) {
                continue;
            }
            let case = Case {
                site,
                found,
                content,
            };
            if let Some(insisted) = insist(intent, case, allowance) {
                *intent = insisted;
                any = true;
            }
        }
    }
    any
}

/// Whether a doubt for this reason is accepted there.
pub(super) fn is_accepted(options: PlanOptions<'_>, reason: &Reason, position: Position) -> bool {
    let accept = &options.sheet.accept;
    accept.covers(reason.name(), options.file, Some(position))
}

/// Where a place begins in the document.
pub(super) fn position(
    document: &Document<'_>,
    lines: &mut LineCounter,
    site: &SitePassage,
    found: &Found,
) -> Position {
    lines.at(&document.text.content, site.in_text(found.start))
}
