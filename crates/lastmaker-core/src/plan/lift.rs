//! The edits of a passage that the changes of all its stretches make together.

use crate::layer::{Edit, Edits, Unfit, lift_together};
use crate::open::SitePassage;

use super::intent::Intent;

/// A stretch of a passage, and what is meant to happen to the places in it.
pub(super) type Meant<'a> = (&'a SitePassage, &'a Vec<Option<Intent>>);

/// The edits of a stretch's content that its changes make together, sorted.
pub(super) fn edits_of(of_site: &[Option<Intent>]) -> Vec<Edit> {
    let mut edits: Vec<Edit> = of_site
        .iter()
        .flatten()
        .filter(|intent| intent.respelled.is_none())
        .flat_map(|intent| intent.edits.clone())
        .collect();
    edits.sort_by_key(|edit| (edit.span.start, edit.span.end));
    edits
}

/// The edits of a stretch's content that its changes make, those included by which a reference is spelled anew
/// in it.
pub(super) fn edits_inside(site: &SitePassage, of_site: &[Option<Intent>]) -> Vec<Edit> {
    let respelled = of_site
        .iter()
        .flatten()
        .filter_map(|one| one.respelled.as_ref());
    let inside = respelled.filter(|one| one.chain.depth() == site.chain.depth());
    let mut edits = edits_of(of_site);
    edits.extend(inside.map(|one| one.edit.clone()));
    edits.sort_by_key(|edit| edit.span.start);
    edits
}

/// The edits of a passage, written as `outer`, that its stretches make together.
///
/// # Errors
/// Where a layer cannot express them, or two overlap.
pub(super) fn lift_passage<'a>(
    outer: &str,
    stretches: impl Iterator<Item = Meant<'a>>,
) -> Result<Edits, Unfit> {
    let mut all = Vec::new();
    let mut accepted = false;
    for (site, of_site) in stretches {
        accepted |= of_site.iter().flatten().any(Intent::is_accepted);
        for respelled in of_site
            .iter()
            .flatten()
            .filter_map(|one| one.respelled.as_ref())
        {
            let edits = vec![respelled.edit.clone()];
            let edits = Edits::new(edits).map_err(|_| Unfit::Overlap)?;
            all.push((&respelled.chain, edits));
        }
        let edits = edits_of(of_site);
        if !edits.is_empty() {
            let edits = Edits::new(edits).map_err(|_| Unfit::Overlap)?;
            all.push((&site.chain, edits));
        }
    }
    lift_together(outer.as_bytes(), all, accepted)
}

/// The stretches of each passage in turn, each as a range of `sites`.
pub(super) fn passages(sites: &[SitePassage]) -> impl Iterator<Item = std::ops::Range<usize>> + '_ {
    let mut at = 0;
    std::iter::from_fn(move || {
        let first = sites.get(at)?.ordinal;
        let end = at + sites[at..].partition_point(|site| site.ordinal == first);
        Some(std::mem::replace(&mut at, end)..end)
    })
}
