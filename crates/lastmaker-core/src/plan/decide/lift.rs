//! The edits of a passage that the changes of all its stretches make together.

use crate::layer::{Edit, Edits, Unfit, lift_together};

use super::intent::Intent;
use super::occurrence::Occurrences;
use super::portable::Respelled;

/// The edits of a stretch's content that its changes make together, sorted.
pub(in crate::plan) fn edits_of(site: &Occurrences) -> Vec<Edit> {
    let mut edits: Vec<Edit> = site
        .intents()
        .filter(|intent| intent.respelled.is_none())
        .flat_map(|intent| intent.edits.clone())
        .collect();
    edits.sort_by_key(|edit| (edit.span.start, edit.span.end));
    edits
}

/// What is spelled anew in a stretch, in place of its edits.
fn respelled(site: &Occurrences) -> impl Iterator<Item = &Respelled> {
    site.intents().filter_map(|one| one.respelled.as_ref())
}

/// The edits of a stretch's content that its changes make, those included by which a reference is spelled anew
/// in it.
pub(in crate::plan) fn edits_inside(site: &Occurrences) -> Vec<Edit> {
    let depth = site.site.chain.depth();
    let inside = respelled(site).filter(|one| one.chain.depth() == depth);
    let mut edits = edits_of(site);
    edits.extend(inside.map(|one| one.edit.clone()));
    edits.sort_by_key(|edit| edit.span.start);
    edits
}

/// The edits of a passage, written as `outer`, that its stretches make together.
///
/// # Errors
/// Where a layer cannot express them, or two overlap.
pub(in crate::plan) fn lift_passage(
    outer: &str,
    stretches: &[Occurrences],
) -> Result<Edits, Unfit> {
    let mut all = Vec::new();
    let mut accepted = false;
    for stretch in stretches {
        accepted |= stretch.intents().any(Intent::is_accepted);
        for respelled in respelled(stretch) {
            let edits = vec![respelled.edit.clone()];
            let edits = Edits::new(edits).map_err(|_| Unfit::Overlap)?;
            all.push((&respelled.chain, edits));
        }
        let edits = edits_of(stretch);
        if !edits.is_empty() {
            let edits = Edits::new(edits).map_err(|_| Unfit::Overlap)?;
            all.push((&stretch.site.chain, edits));
        }
    }
    lift_together(outer.as_bytes(), all, accepted)
}

/// The stretches of each passage in turn, each as a range of `sites`.
pub(in crate::plan) fn passages(
    sites: &[Occurrences],
) -> impl Iterator<Item = std::ops::Range<usize>> + '_ {
    let mut at = 0;
    std::iter::from_fn(move || {
        let first = sites.get(at)?.site.ordinal;
        let end = at + sites[at..].partition_point(|one| one.site.ordinal == first);
        Some(std::mem::replace(&mut at, end)..end)
    })
}
