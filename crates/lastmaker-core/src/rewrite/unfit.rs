//! Changes that the layers around a place, or the file's encoding, cannot express.

use crate::layer::{Edits, Unfit};
use crate::place::Root;
use crate::report::Standing;
use crate::scan::{Document, SitePassage};
use crate::text::Encoding;

use super::intent::Intent;
use super::lift::{lift_passage, passages};

/// In a passage with more changes than this they are not tried one by one: where one does not
/// fit, none is made.
const ONE_BY_ONE: usize = 1000;

/// Withdraws what the passage's layers or the file's encoding cannot express, and of two
/// changes that overlap the second.
pub(super) fn withdraw_unfit(
    document: &Document<'_>,
    sites: &[SitePassage],
    intents: &mut [Vec<Option<Intent>>],
) {
    let mut withdrawn = vec![false; sites.len()];
    for (index, (site, of_site)) in sites.iter().zip(intents.iter_mut()).enumerate() {
        let Err(why) = fits(document, site, of_site.iter().flatten()) else {
            continue;
        };
        withdrawn[index] = true;
        let many = of_site
            .iter()
            .flatten()
            .filter(|intent| !intent.edits.is_empty())
            .count()
            > ONE_BY_ONE;
        let mut kept = 0;
        for intent in of_site
            .iter_mut()
            .flatten()
            .filter(|intent| !intent.edits.is_empty())
        {
            // Finds come in order, so only the end of the one before matters.
            let start = intent
                .edits
                .iter()
                .map(|edit| edit.span.start)
                .min()
                .unwrap_or(0);
            let end = intent
                .edits
                .iter()
                .map(|edit| edit.span.end)
                .max()
                .unwrap_or(0);
            let verdict = if start < kept {
                Err(Unfit::Overlap)
            } else if many {
                Err(why.clone())
            } else {
                fits(document, site, std::iter::once(&*intent))
            };
            match verdict {
                Ok(()) => kept = end,
                Err(why @ Unfit::NoSuchLetter { .. }) => {
                    intent.withdraw(Standing::Sealed, why.to_string());
                }
                Err(why) => intent.withdraw(Standing::Doubtful, why.to_string()),
            }
        }
    }
    for passage in passages(sites) {
        // A stretch by itself that fits as a whole was just lifted.
        if passage.len() == 1 && !withdrawn[passage.start] {
            continue;
        }
        let outer = document.raw(&sites[passage.start].span);
        let stretches = sites[passage.clone()].iter().zip(&intents[passage.clone()]);
        let Err(why) = lift_passage(outer, stretches) else {
            continue;
        };
        for intent in intents[passage].iter_mut().flatten().flatten() {
            if !intent.edits.is_empty() {
                intent.withdraw(Standing::Doubtful, why.to_string());
            }
        }
    }
}

/// Whether these changes of one passage can be written together.
fn fits<'i>(
    document: &Document<'_>,
    site: &SitePassage,
    intents: impl Iterator<Item = &'i Intent>,
) -> Result<(), Unfit> {
    let mut posix = false;
    let mut edits = Vec::new();
    for intent in intents {
        posix |= intent
            .new_place
            .as_ref()
            .is_some_and(|place| place.root == Root::Posix);
        edits.extend(intent.edits.iter().cloned());
    }
    let edits = Edits::new(edits).map_err(|_| Unfit::Overlap)?;
    let lifted = site
        .chain
        .lift(document.raw(&site.span).as_bytes(), edits)?;
    let encoding = effective(document.text.encoding, posix);
    lifted.as_slice().iter().try_for_each(|edit| {
        encoding
            .encode(&String::from_utf8_lossy(&edit.with))
            .map(drop)
    })
}

/// POSIX places are written in UTF-8 where nothing else is known.
pub(super) fn effective(encoding: Encoding, posix: bool) -> Encoding {
    match encoding {
        Encoding::Undecided if posix => Encoding::Utf8,
        known => known,
    }
}
