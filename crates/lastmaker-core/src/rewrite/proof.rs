//! The new copy read again by the same reader, before anything is written.

use crate::format::{Grammar, Role};
use crate::layer::splice;
use crate::place::{Finder, Place, readings};
use crate::scan::{Document, Reading, SitePassage};
use crate::text::Encoding;

use super::intent::Intent;
use super::lift::lift_passage;

/// What the proof found wrong.
#[derive(Debug, PartialEq, Eq)]
pub(super) enum Flaw {
    /// One reference, by site and index in it.
    Reference(usize, usize),
    /// The document as a whole.
    Document(String),
}

/// What a proof stands on: the old document and what is meant to happen to it.
pub(super) struct Proof<'a> {
    pub(super) old: &'a Document<'a>,
    pub(super) grammar: Grammar,
    pub(super) file_name: &'a str,
    pub(super) reading: Reading,
    pub(super) sites: &'a [SitePassage],
    pub(super) intents: &'a [Vec<Option<Intent>>],
    pub(super) finder: Finder<'a>,
}

/// Proves that `new` is the old document with the changes meant and no others.
pub(super) fn prove(proof: &Proof<'_>, new: &[u8]) -> Result<(), Flaw> {
    let Proof {
        old,
        sites,
        intents,
        finder,
        ..
    } = *proof;
    let whole = |why: &str| Flaw::Document(why.to_owned());
    let again = Document::open(new, proof.file_name, proof.reading)
        .ok_or_else(|| whole("the new copy is no text"))?;
    let encodings = (old.text.encoding, again.text.encoding);
    let same_encoding = encodings.0 == encodings.1
        // A letter that was the first outside ASCII settles what was open before.
        || (encodings.0 == Encoding::Undecided && encodings.1 == Encoding::Utf8);
    if !same_encoding || old.text.mark != again.text.mark {
        return Err(whole("the new copy would be read in another encoding"));
    }
    if old.format.name() != again.format.name() {
        return Err(whole("the new copy would be read in another format"));
    }
    let mut again_passages = Vec::new();
    let mut changed: Vec<usize> = sites
        .iter()
        .zip(intents)
        .filter(|(_, of_site)| {
            of_site
                .iter()
                .flatten()
                .any(|intent| !intent.edits.is_empty())
        })
        .map(|(site, _)| site.ordinal)
        .collect();
    changed.dedup();
    let grammar = again.passages(&mut |ordinal, passage| {
        let mut found = Vec::new();
        if changed.binary_search(&ordinal).is_ok() {
            again.sites_of(ordinal, &passage, finder, &mut found);
        }
        again_passages.push((passage.span, passage.role, found));
    });
    let repaired = intents
        .iter()
        .flatten()
        .flatten()
        .any(|intent| intent.repaired);
    let kept = grammar == proof.grammar || (repaired && grammar < proof.grammar);
    if !kept {
        return Err(whole("the new copy would break its format's grammar"));
    }
    let mut flaw = None;
    let mut count = 0;
    old.passages(&mut |ordinal, passage| {
        count += 1;
        if flaw.is_some() {
            return;
        }
        let Some((span, role, found)) = again_passages.get(ordinal) else {
            return;
        };
        let raw = again.raw(span);
        let put_right = repaired && passage.role == Role::ByHand;
        // How much of a torn string stands elsewhere may change there.
        let torn = matches!((role, passage.role), (Role::Torn { .. }, Role::Torn { .. }));
        if *role != passage.role && !put_right && !torn {
            flaw = Some(whole("a string would have another part in the document"));
        } else if changed.binary_search(&ordinal).is_err() {
            if raw != old.raw(&passage.span) {
                flaw = Some(whole("a passage that was not to change would be another"));
            }
        } else {
            let first = sites.partition_point(|site| site.ordinal < ordinal);
            let last = sites.partition_point(|site| site.ordinal <= ordinal);
            let group = first..last;
            let outcome = prove_passage(
                old,
                &again,
                raw,
                found,
                (group.clone(), &sites[group.clone()], &intents[group]),
            );
            flaw = outcome.err();
        }
    });
    if flaw.is_none() && count != again_passages.len() {
        flaw = Some(whole("the new copy would hold more or fewer strings"));
    }
    flaw.map_or(Ok(()), Err)
}

/// Proves one changed passage: outside of the edits it is what it was, and read again its
/// places are the old ones, in order, with each that moves at its new place.
fn prove_passage(
    old: &Document<'_>,
    again: &Document<'_>,
    raw: &str,
    after: &[SitePassage],
    (group, sites, intents): (
        std::ops::Range<usize>,
        &[SitePassage],
        &[Vec<Option<Intent>>],
    ),
) -> Result<(), Flaw> {
    let moving = |site: usize, which: usize| {
        intents[site][which]
            .as_ref()
            .filter(|i| !i.edits.is_empty())
    };
    let first_moving = (0..sites.len())
        .flat_map(|site| (0..intents[site].len()).map(move |which| (site, which)))
        .find(|(site, which)| moving(*site, *which).is_some())
        .map_or(Flaw::Document(String::new()), |(site, which)| {
            Flaw::Reference(group.start + site, which)
        });
    let Some(outer) = sites.first().map(|site| old.raw(&site.span)) else {
        return Ok(());
    };
    // The bytes are those that the edits make.
    let Ok(lifted) = lift_passage(outer, sites.iter().zip(intents)) else {
        return Err(first_moving);
    };
    if splice(outer.as_bytes(), &lifted) != raw.as_bytes() {
        return Err(first_moving);
    }
    // The places are those that are meant.
    let expected = places(old, sites, |index, which| {
        let intent = moving(index, which)?;
        let place = intent.new_place.as_ref()?.by_drive();
        Some((place, (group.start + index, which)))
    });
    let got = places(again, after, |_, _| None);
    for (index, (meant, from)) in expected.iter().enumerate() {
        // In running text nobody can tell where a place with blanks ends, so that one of its
        // readings is what is meant is all that can be asked.
        let same = got
            .get(index)
            .is_some_and(|(read, _)| read.iter().any(|place| place.same(&meant[0])));
        if !same {
            return Err(from.map_or(first_moving, |(site, which)| Flaw::Reference(site, which)));
        }
    }
    if expected.len() != got.len() {
        return Err(first_moving);
    }
    Ok(())
}

type Origin = Option<(usize, usize)>;

/// The places of sites in the order in which they stand, each by all its readings, the likeliest
/// first; `mapped` says where one goes, and which reference it is.
fn places(
    document: &Document<'_>,
    sites: &[SitePassage],
    mapped: impl Fn(usize, usize) -> Option<(Place, (usize, usize))>,
) -> Vec<(Vec<Place>, Origin)> {
    let mut all = Vec::new();
    for (index, site) in sites.iter().enumerate() {
        let content = site.chain.content(document.raw(&site.span));
        for (which, found) in site.finds.iter().enumerate() {
            // The passage in which it begins has it.
            if site.begins_elsewhere(found) {
                continue;
            }
            let outer = site.chain.outer_offset(found.start);
            let read = |end| found.place_until(content, end).by_drive();
            all.push(match mapped(index, which) {
                Some((place, origin)) => (outer, vec![place], Some(origin)),
                None => (
                    outer,
                    readings(found, content).into_iter().map(read).collect(),
                    None,
                ),
            });
        }
    }
    all.sort_by_key(|(outer, _, _)| *outer);
    all.into_iter()
        .map(|(_, places, origin)| (places, origin))
        .collect()
}
