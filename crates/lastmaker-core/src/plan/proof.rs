//! The new copy read again by the same reader, before anything is written.

use std::ops::Range;

use crate::format::{Grammar, Passage, Role, site_text};
use crate::judge::Unproven;
use crate::layer::{Span, TextOffset, TextSpan, Unfit, splice};
use crate::open::{Document, Reading, SitePassage};
use crate::place::{Finder, Place, readings};
use crate::text::Encoding;

use super::intent::Intent;
use super::lift::lift_passage;

/// What the proof found wrong.
#[derive(Debug, PartialEq, Eq)]
pub(super) enum Flaw {
    /// One reference.
    Reference {
        /// Its site.
        site: usize,
        /// Which of the site's finds it is.
        which: usize,
    },
    /// The document as a whole.
    Document(Unproven),
}

impl From<Unproven> for Flaw {
    fn from(why: Unproven) -> Self {
        Self::Document(why)
    }
}

impl From<Unfit> for Flaw {
    fn from(why: Unfit) -> Self {
        Self::Document(Unproven::Unfit(why))
    }
}

/// What is kept of every passage of the old document. A large one has millions, so this is small.
#[derive(Clone, Copy, Debug)]
pub(super) struct Outline {
    start: u32,
    length: u32,
    role: PackedRole,
}

/// The longest text of which outlines can be kept, in bytes.
pub(super) const LONGEST_OUTLINED: usize = u32::MAX as usize;

impl Outline {
    /// What is kept of `passage`, of a text that is not longer than [`LONGEST_OUTLINED`].
    pub(super) fn of(passage: &Passage<'_>) -> Self {
        Self {
            start: passage.span.start as u32,
            length: passage.span.len() as u32,
            role: PackedRole::of(passage.role),
        }
    }

    fn span(self) -> TextSpan {
        let start = self.start as usize;
        Span::new(start..start + self.length as usize)
    }
}

/// A role in four bytes: which one, its flags, and of its number what there is room for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct PackedRole(u32);

impl PackedRole {
    const BY_HAND: u32 = 4;
    const TORN: u32 = 6;

    fn of(role: Role) -> Self {
        let (kind, flags, number) = match role {
            Role::Value => (0, 0, 0),
            Role::Name {
                scope,
                ignore_case,
                outlives_import,
            } => {
                let flags = u32::from(ignore_case) | u32::from(outlives_import) << 1;
                (1, flags, scope as u32)
            }
            Role::Prose => (2, 0, 0),
            Role::Stray => (3, 0, 0),
            Role::ByHand => (Self::BY_HAND, 0, 0),
            Role::Mixed => (5, 0, 0),
            Role::Torn { tail } => (Self::TORN, 0, tail as u32),
        };
        Self(kind | flags << 3 | number << 5)
    }

    fn kind(self) -> u32 {
        self.0 & 7
    }

    /// Whether a passage that had this role plays the same part in the new copy as `new`.
    fn is_kept_as(self, new: Role, repaired: bool) -> bool {
        let new = Self::of(new);
        let put_right = repaired && self.kind() == Self::BY_HAND;
        // How much of a torn string is elsewhere may change there.
        let torn = self.kind() == Self::TORN && new.kind() == Self::TORN;
        self == new || put_right || torn
    }
}

/// What a proof rests on: the old document and what is meant to happen to it.
pub(super) struct Proof<'a> {
    pub(super) old: &'a Document<'a>,
    /// Every passage of the old document.
    pub(super) outline: &'a [Outline],
    pub(super) grammar: Grammar,
    pub(super) file_name: &'a str,
    pub(super) reading: Reading,
    pub(super) sites: &'a [SitePassage],
    pub(super) intents: &'a [Vec<Option<Intent>>],
    pub(super) finder: Finder<'a>,
}

impl Proof<'_> {
    /// Proves that `new` is the old document with the changes meant and no others. Gives the way
    /// to each changed passage in it, by its ordinal.
    pub(super) fn holds_for(&self, new: &[u8]) -> Result<Vec<(usize, String)>, Flaw> {
        let again = Document::open(new, self.file_name, self.reading).ok_or(Unproven::NotText)?;
        self.is_read_alike(&again)?;
        let repaired = self.intents.iter().flatten().flatten().any(|i| i.repaired);
        let changed = self.changed();
        let mut ways = Vec::with_capacity(changed.len());
        let mut flaw = None;
        let mut count = 0;
        let grammar = again.passages(&mut |ordinal, passage| {
            count += 1;
            let Some(old) = self.outline.get(ordinal).filter(|_| flaw.is_none()) else {
                return;
            };
            let proved = if !old.role.is_kept_as(passage.role, repaired) {
                Err(Unproven::OtherRole.into())
            } else if changed.binary_search(&ordinal).is_ok() {
                ways.push((ordinal, site_text(passage.site)));
                self.proves_passage(&again, ordinal, &passage)
            } else if again.text.content[passage.span.clone()] == *self.old.raw(&old.span()) {
                Ok(())
            } else {
                Err(Unproven::OtherPassage.into())
            };
            flaw = proved.err();
        });
        let kept = grammar == self.grammar || (repaired && grammar < self.grammar);
        match flaw {
            _ if !kept => Err(Unproven::BrokenGrammar.into()),
            Some(flaw) => Err(flaw),
            None if count != self.outline.len() => Err(Unproven::MoreOrFewer.into()),
            None => Ok(ways),
        }
    }

    /// Whether the new copy is taken for text of the same encoding and format.
    fn is_read_alike(&self, again: &Document<'_>) -> Result<(), Unproven> {
        let encodings = (self.old.text.encoding, again.text.encoding);
        let same_encoding = encodings.0 == encodings.1
            // A letter that was the first outside ASCII settles what was open before.
            || (encodings.0 == Encoding::Undecided && encodings.1 == Encoding::Utf8)
            // One that was the last leaves bytes that every code page reads alike.
            || (encodings.0.is_code_page() && again.text.content.is_ascii());
        if !same_encoding || self.old.text.mark != again.text.mark {
            return Err(Unproven::OtherEncoding);
        }
        if self.old.format.name() != again.format.name() {
            return Err(Unproven::OtherFormat);
        }
        Ok(())
    }

    /// The ordinals of the passages that change, in order.
    fn changed(&self) -> Vec<usize> {
        let changes = |of_site: &[Option<Intent>]| of_site.iter().flatten().any(Intent::changes);
        let sites = self.sites.iter().zip(self.intents);
        let mut changed: Vec<usize> = sites
            .filter(|(_, of_site)| changes(of_site))
            .map(|(site, _)| site.ordinal)
            .collect();
        changed.dedup();
        changed
    }

    /// Proves one changed passage: outside of the edits it is what it was, and read again its
    /// places are the old ones, in order, with each that moves at its new place.
    fn proves_passage(
        &self,
        again: &Document<'_>,
        ordinal: usize,
        passage: &Passage<'_>,
    ) -> Result<(), Flaw> {
        let mut after = Vec::new();
        again.sites_of(ordinal, passage, self.finder, &mut after);
        let first = self.sites.partition_point(|site| site.ordinal < ordinal);
        let last = self.sites.partition_point(|site| site.ordinal <= ordinal);
        let group = first..last;
        let first_moving = || self.first_moving(group.clone());
        // The bytes are those that the edits make.
        let sites = &self.sites[group.clone()];
        let Some(outer) = sites.first().map(|site| self.old.raw(&site.span)) else {
            return Ok(());
        };
        let meant = sites.iter().zip(&self.intents[group.clone()]);
        let lifted = lift_passage(outer, meant).map_err(|_| first_moving())?;
        let raw = &again.text.content[passage.span.clone()];
        if splice(outer.as_bytes(), &lifted) != raw.as_bytes() {
            return Err(first_moving());
        }
        // The places are those that are meant.
        let expected = places(self.old, sites, |index, which| {
            self.moved(group.start + index, which)
        });
        let got = places(again, &after, |_, _| None);
        for (index, meant) in expected.iter().enumerate() {
            // In running text nobody can tell where a place with blanks ends, so that one of its
            // readings is what is meant is all that can be asked.
            let is_meant = |read: &Named| read.places.iter().any(|one| one.same(&meant.places[0]));
            if !got.get(index).is_some_and(is_meant) {
                return Err(meant.reference(group.start).unwrap_or_else(first_moving));
            }
        }
        if expected.len() == got.len() {
            Ok(())
        } else {
            Err(first_moving())
        }
    }

    /// Where a reference that changes goes.
    fn moved(&self, site: usize, which: usize) -> Option<Place> {
        let intent = self.intents[site][which].as_ref()?;
        let place = intent.new_place.as_ref().filter(|_| intent.changes())?;
        Some(place.by_drive())
    }

    /// The first reference of these sites that changes: where nothing else is known, it is to
    /// blame.
    fn first_moving(&self, group: Range<usize>) -> Flaw {
        let all = group.flat_map(|site| (0..self.intents[site].len()).map(move |i| (site, i)));
        let mut moving = all.filter(|(site, which)| {
            let intent = self.intents[*site][*which].as_ref();
            intent.is_some_and(Intent::changes)
        });
        match moving.next() {
            Some((site, which)) => Flaw::Reference { site, which },
            None => Flaw::Document(Unproven::Reference),
        }
    }
}

/// A find by all its readings, the likeliest first.
struct Named {
    at: TextOffset,
    places: Vec<Place>,
    /// The site that it is in and its number there, if it changes.
    changes: Option<(usize, usize)>,
}

impl Named {
    /// The flaw that it is, if it changes; `first` is the first of the sites.
    fn reference(&self, first: usize) -> Option<Flaw> {
        let (site, which) = self.changes?;
        Some(Flaw::Reference {
            site: first + site,
            which,
        })
    }
}

/// The places of sites in the order of the text; `moved` says where one goes.
fn places(
    document: &Document<'_>,
    sites: &[SitePassage],
    moved: impl Fn(usize, usize) -> Option<Place>,
) -> Vec<Named> {
    let mut all = Vec::new();
    for (index, site) in sites.iter().enumerate() {
        let content = document.content_of(site);
        for (which, found) in site.finds.iter().enumerate() {
            // The passage in which it begins has it.
            if site.begins_elsewhere(found) {
                continue;
            }
            let at = site.in_text(found.start);
            let read = |end| found.place_until(content, end).by_drive();
            let moved = moved(index, which);
            let changes = moved.is_some().then_some((index, which));
            let places = match moved {
                Some(place) => vec![place],
                None => readings(found, content).into_iter().map(read).collect(),
            };
            all.push(Named {
                at,
                places,
                changes,
            });
        }
    }
    all.sort_by_key(|named| named.at);
    all
}
