//! What the differences of a pair mean together.

use std::time::SystemTime;

use super::content;
use super::pair::{Found, MANY, Twin};
use super::{Comparing, Pair};
use crate::report::{ComparedFolder, ComparedPair, Difference, DifferenceKind, Side};

/// An old place with one in so many of the new one's files or bytes may be a stand-in.
const THIN: u64 = 10;

/// Compares the contents that are to be compared, and fills in the report of a pair.
pub(super) fn judge(
    pair: &Pair,
    comparing: &Comparing<'_>,
    found: Found,
    report: &mut ComparedPair,
) {
    for folder in &found.folders {
        report.old_files += folder.old_files;
        report.old_bytes += folder.old_bytes;
        report.new_files += folder.new_files;
        report.new_bytes += folder.new_bytes;
    }
    let thin = is_thin(report);
    let wanted = |twin: &&Twin| comparing.content || thin || went_back(twin);
    let twins: Vec<&Twin> = found.twins.iter().filter(wanted).collect();
    let memory = if comparing.content {
        comparing.journal.and_then(|journal| journal.open(pair))
    } else {
        None
    };
    let compared = content::compare(
        pair,
        &twins,
        memory.as_ref(),
        comparing.jobs,
        comparing.compared,
    );
    let same = twins.iter().zip(&compared.same);
    let older = same.filter(|(twin, same)| went_back(twin) && **same == Some(true));
    report.went_back = older.count() as u64;
    report.left = found.left;
    report.left.extend(compared.left);
    report.left.sort_by(|a, b| a.file.cmp(&b.file));
    let mut differences = found.differences;
    let same = twins.iter().zip(&compared.same);
    let differing = same.filter(|(_, same)| **same == Some(false));
    differences.extend(differing.map(|(twin, _)| of_content(twin)));
    differences.sort_by(|a, b| (&a.path, a.kind).cmp(&(&b.path, b.kind)));
    if let Some(memory) = memory {
        memory.forget();
    }

    let none_is_same = compared.same.iter().all(|same| *same != Some(true));
    let young = thin && is_young(pair, found.oldest_old, found.new_times);
    report.stand_in = thin && none_is_same && young;
    report.both_changed = !report.stand_in && both_changed(&differences);
    report.bridges = found.bridges;
    report.folders = folders(found.folders, &differences);
    report.differences = differences;
}

/// Whether a file is older at the new place.
fn went_back(twin: &Twin) -> bool {
    twin.newer() == Some(Side::Old)
}

fn of_content(twin: &Twin) -> Difference {
    Difference {
        old_size: Some(twin.size),
        new_size: Some(twin.size),
        newer: twin.newer(),
        ..Difference::new(&twin.below, DifferenceKind::Content)
    }
}

/// Whether the old place holds little beside the new one.
fn is_thin(report: &ComparedPair) -> bool {
    let few = report.old_files * THIN <= report.new_files;
    let small = report.old_bytes.saturating_mul(THIN) <= report.new_bytes;
    let can_tell = report.old_files <= MANY as u64;
    can_tell && report.new_files > report.old_files && (few || small)
}

/// Whether whatever is at the old place is younger than most of what is at the new one. Of a folder
/// without files its own time tells when it was made.
fn is_young(pair: &Pair, oldest: Option<SystemTime>, mut new: Vec<SystemTime>) -> bool {
    let own = || pair.old.path.metadata().ok()?.modified().ok();
    let middle = new.len() / 2;
    match (oldest.or_else(own), new.len()) {
        (Some(old), 1..) => old >= *new.select_nth_unstable(middle).1,
        (old, _) => old.is_some(),
    }
}

/// Whether files were changed or made on both sides since the copy.
fn both_changed(differences: &[Difference]) -> bool {
    let on = |side: Side| {
        differences.iter().any(|one| match one.kind {
            DifferenceKind::Size | DifferenceKind::Content => one.newer == Some(side),
            DifferenceKind::Extra => side == Side::New,
            _ => false,
        })
    };
    on(Side::Old) && on(Side::New)
}

/// The folders in which something differs, with how much.
fn folders(mut folders: Vec<ComparedFolder>, differences: &[Difference]) -> Vec<ComparedFolder> {
    for one in differences {
        let parent = one.path.rsplit_once('/').map_or("", |(parent, _)| parent);
        let at = folders.binary_search_by(|folder| folder.path.as_str().cmp(parent));
        if let Ok(at) = at {
            folders[at].differences += 1;
        }
    }
    folders.retain(|folder| folder.differences > 0);
    folders
}
