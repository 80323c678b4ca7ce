//! What a new copy of a document must be, passage by passage: the edits, and so little of what is
//! meant that a document may have millions of changes.

use std::collections::HashMap;
use std::ops::Range;
use std::sync::Arc;

use crate::base::fingerprint::fingerprint;
use crate::layer::{Edit, Edits, Layers, TextEdits, TextSpan, Unfit, splice};
use crate::open::{Document, SitePassage};
use crate::place::{Place, Root};
use crate::scan::{Found, readings};

use crate::plan::decide::intent::Intent;
use crate::plan::decide::lift::{lift_passage, passages};
use crate::plan::decide::occurrence::{Occurrence, Occurrences};

/// What the changes of a document make of it.
#[derive(Debug, Default)]
pub(in crate::plan) struct Expectation {
    passages: Vec<Changed>,
    places: Vec<ExpectedPlace>,
    edits: Vec<Made>,
    /// What edits put in; it is mostly the same.
    replacements: Replacements,
    /// The passages that become relative references, in order.
    relative: Vec<BecomesRelative>,
    /// Whether a change puts right what was mistyped.
    pub(in crate::plan) repaired: bool,
    /// Whether a new place is a POSIX one.
    pub(in crate::plan) posix: bool,
    /// The passage that is being added to.
    open: Option<Open>,
    /// How many edits there were before the last were added.
    before: usize,
}

/// A passage that changes.
#[derive(Clone, Copy, Debug)]
pub(in crate::plan) struct Changed {
    pub(in crate::plan) ordinal: u32,
    /// The fingerprint of what it will be.
    pub(in crate::plan) raw: u64,
    /// Where its places end among all.
    places: u32,
    /// Where its edits end among all.
    edits: u32,
}

/// A place that a passage will name.
#[derive(Clone, Copy, Debug)]
pub(in crate::plan) struct ExpectedPlace {
    /// Where the old one begins in the text.
    pub(in crate::plan) at: u32,
    /// Whether it is a new one.
    pub(in crate::plan) is_new: bool,
    /// The place's fingerprint.
    pub(in crate::plan) place: u64,
}

/// A passage that becomes a relative reference.
#[derive(Debug)]
pub(in crate::plan) struct BecomesRelative {
    ordinal: u32,
    /// Where it begins in the text.
    pub(in crate::plan) at: u32,
    /// What it wears, but for the layers of a URI.
    pub(in crate::plan) layers: Layers,
    /// The fingerprint of what it reads then, these taken off.
    pub(in crate::plan) content: u64,
}

/// An edit of the text, and the move that makes it; none if several make it together.
#[derive(Clone, Copy, Debug)]
struct Made {
    start: u32,
    end: u32,
    /// The number of the replacement.
    with: u32,
    by: Option<u16>,
}

/// Replacements, each kept once.
#[derive(Debug, Default)]
struct Replacements {
    all: Vec<Arc<[u8]>>,
    numbers: HashMap<Arc<[u8]>, u32>,
}

impl Replacements {
    fn number(&mut self, with: Vec<u8>) -> u32 {
        if let Some(known) = self.numbers.get(&with[..]) {
            return *known;
        }
        let with: Arc<[u8]> = with.into();
        let number = self.all.len() as u32;
        self.all.push(Arc::clone(&with));
        self.numbers.insert(with, number);
        number
    }
}

/// A passage while what happens to it is added.
#[derive(Debug)]
struct Open {
    ordinal: u32,
    span: TextSpan,
    /// Where its places and its edits begin among all.
    places: usize,
    edits: usize,
}

impl Expectation {
    /// Adds what `intents` make of the passages of `sites`, which go on from those before.
    pub(in crate::plan) fn add(
        &mut self,
        document: &Document<'_>,
        sites: &[Occurrences],
    ) -> Result<(), Unfit> {
        self.before = self.edits.len();
        for group in passages(sites) {
            let sites = &sites[group];
            let first = &sites[0].site;
            let ordinal = first.ordinal as u32;
            if self
                .open
                .as_ref()
                .is_some_and(|open| open.ordinal != ordinal)
            {
                self.close(document)?;
            }
            let (places, edits) = (self.places.len(), self.edits.len());
            let open = self.open.get_or_insert(Open {
                ordinal,
                span: first.span.clone(),
                places,
                edits,
            });
            let start = open.span.start().get();
            let changing = || sites.iter().flat_map(Occurrences::changing);
            if changing().next().is_some() {
                self.repaired |= changing().any(|intent| intent.repaired);
                let new = |intent: &Intent| Some(intent.new_place.as_ref()?.root == Root::Posix);
                self.posix |= changing().filter_map(new).any(|posix| posix);
                let outer = document.raw(&first.span);
                let lifted = lift_passage(outer, sites)?;
                let makers = makers(outer, sites);
                let replacements = &mut self.replacements;
                let made = lifted.into_vec().into_iter().map(|edit| Made {
                    by: makers.of(&edit),
                    start: (edit.span.start + start) as u32,
                    end: (edit.span.end + start) as u32,
                    with: replacements.number(edit.with),
                });
                self.edits.extend(made);
            }
            for Occurrences { site, all } in sites {
                for Occurrence { found, intent } in all {
                    let intent = intent.as_ref().filter(|one| becomes_relative(one));
                    if let Some(relative) = intent.and_then(|one| one.respelled.as_ref()) {
                        let content = relative.content(document.raw(&site.span));
                        self.relative.push(BecomesRelative {
                            ordinal,
                            at: site.in_text(found.start).get() as u32,
                            layers: relative.chain.layers().clone(),
                            content: fingerprint(content.as_bytes()),
                        });
                    }
                }
            }
            let mut named = Vec::new();
            for Occurrences { site, all } in sites {
                let kept = all.iter().filter(|one| {
                    let gone = one.intent.as_ref().is_some_and(becomes_relative);
                    !gone && !site.begins_elsewhere(&one.found)
                });
                named.extend(kept.map(|one| Named::of(document, site, &one.found, moved(one))));
            }
            named.sort_by_key(|named| named.at);
            self.places
                .extend(named.into_iter().map(|one| one.expected()));
        }
        Ok(())
    }

    /// The edits of the text that the last call of [`Self::add`] added.
    pub(in crate::plan) fn added(&self) -> impl Iterator<Item = Edit> + '_ {
        let added = self.edits[self.before..].iter();
        added.map(|made| self.edit(made, 0))
    }

    /// Says that nothing more is added, and gives back the memory that it would go to.
    pub(in crate::plan) fn finish(&mut self, document: &Document<'_>) -> Result<(), Unfit> {
        self.close(document)?;
        self.passages.shrink_to_fit();
        self.places.shrink_to_fit();
        self.edits.shrink_to_fit();
        Ok(())
    }

    /// Ends the passage that is being added to.
    fn close(&mut self, document: &Document<'_>) -> Result<(), Unfit> {
        let Some(open) = self.open.take() else {
            return Ok(());
        };
        if self.edits.len() == open.edits {
            self.places.truncate(open.places);
            return Ok(());
        }
        let start = open.span.start().get();
        let inner = self.edits[open.edits..].iter();
        let inner = inner.map(|made| self.edit(made, start));
        let inner: Edits = Edits::new(inner.collect()).map_err(|_| Unfit::Overlap)?;
        let new = splice(document.raw(&open.span).as_bytes(), &inner);
        self.passages.push(Changed {
            ordinal: open.ordinal,
            raw: fingerprint(&new),
            places: self.places.len() as u32,
            edits: self.edits.len() as u32,
        });
        Ok(())
    }

    /// How many passages change.
    pub(in crate::plan) fn len(&self) -> usize {
        self.passages.len()
    }

    /// The number of the passage with this ordinal, if it changes.
    pub(in crate::plan) fn find(&self, ordinal: usize) -> Option<usize> {
        let found = self
            .passages
            .binary_search_by_key(&ordinal, |one| one.ordinal as usize);
        found.ok()
    }

    /// A passage that changes.
    pub(in crate::plan) fn passage(&self, number: usize) -> Changed {
        self.passages[number]
    }

    /// The places that a passage will name, in order.
    pub(in crate::plan) fn places(&self, number: usize) -> &[ExpectedPlace] {
        let from = number
            .checked_sub(1)
            .map_or(0, |before| self.passages[before].places);
        &self.places[from as usize..self.passages[number].places as usize]
    }

    /// Where the references of a passage that change begin in the text.
    pub(in crate::plan) fn changing(&self, number: usize) -> impl Iterator<Item = usize> + '_ {
        let new = self.places(number).iter().filter(|one| one.is_new);
        new.map(|one| one.at as usize)
    }

    /// What a passage with this ordinal becomes, if it becomes a relative reference.
    pub(in crate::plan) fn relative(&self, ordinal: u32) -> Option<&BecomesRelative> {
        let found = self
            .relative
            .binary_search_by_key(&ordinal, |one| one.ordinal);
        Some(&self.relative[found.ok()?])
    }

    fn edits(&self, number: usize) -> &[Made] {
        let from = number
            .checked_sub(1)
            .map_or(0, |before| self.passages[before].edits);
        &self.edits[from as usize..self.passages[number].edits as usize]
    }

    /// The edits of the passages that `kept` wants, and who makes each.
    ///
    /// # Errors
    /// Where two overlap.
    pub(in crate::plan) fn text_edits(
        &self,
        kept: impl Fn(usize) -> bool,
    ) -> Result<(TextEdits, Vec<Option<u16>>), Unfit> {
        let kept = (0..self.passages.len()).filter(|number| kept(*number));
        let mut all: Vec<&Made> = kept.flat_map(|number| self.edits(number)).collect();
        all.sort_by_key(|made| (made.start, made.end));
        let makers = all.iter().map(|made| made.by).collect();
        let edits = all.into_iter().map(|made| self.edit(made, 0)).collect();
        Ok((Edits::new(edits).map_err(|_| Unfit::Overlap)?, makers))
    }

    /// An edit, counted from `start` of the text.
    fn edit(&self, made: &Made, start: usize) -> Edit {
        Edit {
            span: made.start as usize - start..made.end as usize - start,
            with: self.replacements.all[made.with as usize].to_vec(),
        }
    }
}

/// The place that a reference reads as when it has moved; none if it does not change.
fn moved(one: &Occurrence) -> Option<Place> {
    let intent = one.changing()?;
    let respelled = intent.respelled.as_ref();
    let read = respelled.and_then(|one| one.reads.as_ref());
    Some(read.or(intent.new_place.as_ref())?.by_drive())
}

/// Whether the whole string becomes a relative reference, which names no place by itself.
fn becomes_relative(intent: &Intent) -> bool {
    let respelled = intent.respelled.as_ref();
    respelled.is_some_and(|one| one.reads.is_none())
}

/// Which move makes which edits of a passage.
enum Makers {
    /// One makes all.
    One(usize),
    /// Each makes these by itself.
    Several(Vec<(usize, Vec<Edit>)>),
}

impl Makers {
    /// The move that makes an edit; none if several make it together.
    fn of(&self, edit: &Edit) -> Option<u16> {
        let number = match self {
            Self::One(one) => Some(*one),
            Self::Several(all) => {
                let has = |edits: &Vec<Edit>| {
                    let from = edits.partition_point(|one| one.span.start < edit.span.start);
                    edits.get(from).is_some_and(|one| one == edit)
                };
                let mut makers = all.iter().filter(|(_, edits)| has(edits));
                makers.next().map(|(number, _)| *number)
            }
        };
        u16::try_from(number?).ok()
    }
}

fn makers(outer: &str, sites: &[Occurrences]) -> Makers {
    let by = |intent: &Intent| Some(intent.verdict.relocation.as_ref()?.by);
    let changing = sites.iter().flat_map(Occurrences::changing);
    let mut moves: Vec<usize> = changing.filter_map(by).collect();
    moves.sort_unstable();
    moves.dedup();
    if let [one] = moves[..] {
        return Makers::One(one);
    }
    let of_move = |number: usize| {
        let mut alone = sites.to_vec();
        for intent in alone.iter_mut().flat_map(Occurrences::changing_mut) {
            if by(intent) != Some(number) {
                intent.edits.clear();
                intent.respelled = None;
            }
        }
        let lifted = lift_passage(outer, &alone).ok()?;
        Some((number, lifted.into_vec()))
    };
    Makers::Several(moves.into_iter().filter_map(of_move).collect())
}

/// A find by all its readings, the likeliest first, each by its fingerprint.
pub(in crate::plan) struct Named {
    at: usize,
    is_new: bool,
    readings: Box<[u64]>,
}

impl Named {
    /// A find of `site`, which goes to `moved`, if that is some place.
    fn of(
        document: &Document<'_>,
        site: &SitePassage,
        found: &Found,
        moved: Option<Place>,
    ) -> Self {
        let content = document.content_of(site);
        let read = |end| found.place_until(content, end).by_drive().fingerprint();
        Self {
            at: site.in_text(found.start).get(),
            is_new: moved.is_some(),
            readings: match moved {
                Some(place) => Box::new([place.fingerprint()]),
                None => readings(found, content).into_iter().map(read).collect(),
            },
        }
    }

    fn expected(&self) -> ExpectedPlace {
        ExpectedPlace {
            at: self.at as u32,
            is_new: self.is_new,
            place: self.readings[0],
        }
    }

    /// Whether one of its readings is what was expected. In running text nobody can tell where a
    /// place with blanks ends, so that is all that can be asked.
    pub(in crate::plan) fn keeps(&self, expected: &ExpectedPlace) -> bool {
        self.readings.contains(&expected.place)
    }
}

/// The places that sites name, in the order of the text.
pub(in crate::plan) fn named(document: &Document<'_>, sites: &[SitePassage]) -> Vec<Named> {
    let mut all = Vec::new();
    for site in sites {
        // The passage in which one begins has it.
        let finds = site.finds.iter().filter(|one| !site.begins_elsewhere(one));
        all.extend(finds.map(|found| Named::of(document, site, found, None)));
    }
    all.sort_by_key(|named| named.at);
    all
}

/// The edits within a span of the text, as a range of all.
pub(in crate::plan) fn within(edits: &TextEdits, span: &Range<usize>) -> Range<usize> {
    let edits = edits.as_slice();
    let from = edits.partition_point(|edit| edit.span.start < span.start);
    let to = edits.partition_point(|edit| edit.span.start <= span.end && edit.span.end <= span.end);
    from.min(to)..to
}
