//! Changes that the layers around a place, or the file's encoding, cannot express.

use crate::judge::Reason;
use crate::layer::{Edits, Unfit, lift_together};
use crate::open::{Document, SitePassage};
use crate::place::Root;
use crate::text::Encoding;

use super::intent::Intent;
use super::lift::{lift_passage, passages};
use super::occurrence::{Occurrence, Occurrences};

/// In a passage with more changes than this they are not tried one by one: where one does not
/// fit, none is made.
const ONE_BY_ONE: usize = 1000;

/// Withdraws what the passage's layers or the file's encoding cannot express, and of two
/// changes that overlap the second.
pub(in crate::plan) fn withdraw_unfit(document: &Document<'_>, sites: &mut [Occurrences]) {
    let mut withdrawn = vec![false; sites.len()];
    for (one, withdrawn) in sites.iter_mut().zip(&mut withdrawn) {
        if one.changing().next().is_none() {
            continue;
        }
        if let Err(why) = fits(document, &one.site, one.intents()) {
            *withdrawn = true;
            withdraw_one_by_one(document, one, &why);
        }
    }
    let all: Vec<_> = passages(sites).collect();
    for passage in all {
        // A stretch by itself that fits as a whole was just lifted.
        if passage.len() == 1 && !withdrawn[passage.start] {
            continue;
        }
        let stretches = &mut sites[passage];
        if stretches
            .iter()
            .flat_map(Occurrences::changing)
            .next()
            .is_none()
        {
            continue;
        }
        let outer = document.raw(&stretches[0].site.span);
        let Err(why) = lift_passage(outer, stretches) else {
            continue;
        };
        for intent in stretches.iter_mut().flat_map(Occurrences::changing_mut) {
            intent.withdraw(Reason::Unfit(why.clone()));
        }
    }
}

/// Withdraws the changes of one stretch that do not fit by themselves, and of two that overlap
/// the second. `why` is what is wrong with all of them together.
fn withdraw_one_by_one(document: &Document<'_>, one: &mut Occurrences, why: &Unfit) {
    let many = one.changing().count() > ONE_BY_ONE;
    let mut kept = 0;
    let Occurrences { site, all } = one;
    for intent in all.iter_mut().filter_map(Occurrence::changing_mut) {
        // Finds come in order, so only the end of the one before matters.
        let start = intent.edits.iter().map(|edit| edit.span.start).min();
        let end = intent.edits.iter().map(|edit| edit.span.end).max();
        let fits = if start.unwrap_or(0) < kept {
            Err(Unfit::Overlap)
        } else if many {
            Err(why.clone())
        } else {
            fits(document, site, std::iter::once(&*intent))
        };
        match fits {
            Ok(()) => kept = end.unwrap_or(0),
            Err(why) => intent.withdraw(Reason::Unfit(why)),
        }
    }
}

/// Whether these changes of one passage can be written together.
fn fits<'i>(
    document: &Document<'_>,
    site: &SitePassage,
    intents: impl Iterator<Item = &'i Intent>,
) -> Result<(), Unfit> {
    let (mut posix, mut accepted) = (false, false);
    let mut edits = Vec::new();
    for intent in intents {
        accepted |= intent.accepted;
        posix |= intent
            .new_place
            .as_ref()
            .is_some_and(|place| place.root == Root::Posix);
        edits.extend(intent.edits.iter().cloned());
    }
    let edits = Edits::new(edits).map_err(|_| Unfit::Overlap)?;
    let outer = document.raw(&site.span).as_bytes();
    let lifted = lift_together(outer, vec![(&site.chain, edits)], accepted)?;
    let encoding = effective(document.text.encoding, posix);
    lifted.as_slice().iter().try_for_each(|edit| {
        encoding
            .encode(&String::from_utf8_lossy(&edit.with))
            .map(drop)
    })
}

/// POSIX places are written in UTF-8 where nothing else is known.
pub(in crate::plan) fn effective(encoding: Encoding, posix: bool) -> Encoding {
    match encoding {
        Encoding::Undecided if posix => Encoding::Utf8,
        known => known,
    }
}
