//! The new copy read again by the same reader, before anything is written.

use crate::layer::{Edits, splice};
use crate::place::Finder;
use crate::scan::{Document, SitePassage};
use crate::text::Encoding;

use super::intent::Intent;

/// What the proof found wrong.
#[derive(Debug, PartialEq, Eq)]
pub(super) enum Flaw {
    /// One reference, by site and index in it.
    Reference(usize, usize),
    /// The document as a whole.
    Document(String),
}

/// Proves that `new` is the old document with the changes meant and no others.
pub(super) fn prove(
    old: &Document<'_>,
    new: &[u8],
    file_name: &str,
    forced: Option<Encoding>,
    sites: &[SitePassage],
    intents: &[Vec<Option<Intent>>],
    finder: Finder<'_>,
) -> Result<(), Flaw> {
    let whole = |why: &str| Flaw::Document(why.to_owned());
    let again =
        Document::open(new, file_name, forced).ok_or_else(|| whole("the new copy is no text"))?;
    let encodings = (old.text.encoding, again.text.encoding);
    let same_encoding = encodings.0 == encodings.1
        // A letter that was the first outside ASCII settles what was open before.
        || (encodings.0 == Encoding::Undecided && encodings.1 == Encoding::Utf8);
    if !same_encoding || old.text.mark != again.text.mark {
        return Err(whole("the new copy would be read in another encoding"));
    }
    if old.format.name() != again.format.name() || old.well_formed != again.well_formed {
        return Err(whole("the new copy would be read in another format"));
    }
    let mut spans = Vec::new();
    again.passages(&mut |_, passage| spans.push((passage.span, passage.role)));
    let mut sites_left = sites.iter().enumerate().peekable();
    let mut flaw = None;
    let mut count = 0;
    old.passages(&mut |ordinal, passage| {
        count += 1;
        if flaw.is_some() {
            return;
        }
        let Some((span, role)) = spans.get(ordinal) else {
            return;
        };
        let changed = match sites_left.next_if(|(_, site)| site.ordinal == ordinal) {
            Some((index, _)) if intents[index].iter().flatten().any(|i| !i.edits.is_empty()) => {
                Some(index)
            }
            _ => None,
        };
        let raw = again.raw(span);
        let outcome = match changed {
            None if raw != old.raw(&passage.span) || *role != passage.role => {
                Err(whole("a passage that was not to change would be another"))
            }
            None => Ok(()),
            Some(index) => prove_site(
                old,
                index,
                &sites[index],
                &intents[index],
                passage.layers,
                raw,
                finder,
            ),
        };
        flaw = outcome.err();
    });
    if flaw.is_none() && count != spans.len() {
        flaw = Some(whole("the new copy would hold more or fewer strings"));
    }
    flaw.map_or(Ok(()), Err)
}

/// Proves one passage: its content is as meant, and every moved reference names its place.
fn prove_site(
    old: &Document<'_>,
    index: usize,
    site: &SitePassage,
    intents: &[Option<Intent>],
    layers: &crate::layer::Layers,
    raw: &str,
    finder: Finder<'_>,
) -> Result<(), Flaw> {
    let content = site.chain.content(old.raw(&site.span));
    let edits: Vec<_> = intents
        .iter()
        .flatten()
        .flat_map(|intent| intent.edits.clone())
        .collect();
    let first = intents
        .iter()
        .position(|intent| intent.as_ref().is_some_and(|i| !i.edits.is_empty()))
        .unwrap_or(0);
    let Ok(edits) = Edits::new(edits) else {
        return Err(Flaw::Reference(index, first));
    };
    let expected = splice(content.as_bytes(), &edits);
    let Ok(chain) = crate::layer::OpenedChain::open(layers, raw.as_bytes()) else {
        return Err(Flaw::Reference(index, first));
    };
    let got = chain.content(raw);
    if got.as_bytes() != expected {
        return Err(Flaw::Reference(index, first));
    }
    let finds = finder.find(got, site.hint);
    for (which, intent) in intents.iter().enumerate() {
        let Some(intent) = intent.as_ref().filter(|intent| !intent.edits.is_empty()) else {
            continue;
        };
        let start = edits.moved_end(site.finds[which].start) + usize::from(intent.quotes);
        let end = edits.moved_end(intent.end);
        let names_it = finds
            .iter()
            .find(|found| found.start == start)
            .is_some_and(|found| {
                let place = found.place_until(got, end);
                intent
                    .new_place
                    .as_ref()
                    .is_some_and(|new| new.same(&place))
            });
        if !names_it {
            return Err(Flaw::Reference(index, which));
        }
    }
    Ok(())
}
