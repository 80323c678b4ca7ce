//! The new copy read again by the same reader, before anything is written.

use crate::base::compact::CompactList;
use crate::base::fingerprint::fingerprint;
use crate::base::phase::Phase;
use crate::format::{Grammar, Namespace, Passage, Role, site_text};
use crate::judge::Unproven;
use crate::layer::{OpenedChain, Span, TextEdits, TextSpan, Unfit};
use crate::open::Document;
use crate::record::SiteChange;
use crate::scan::Finder;

use super::expectation::{Expectation, named};
use super::stretch::stretches;

/// What the proof found wrong.
#[derive(Debug, PartialEq, Eq)]
pub(in crate::plan) enum Flaw {
    /// References, each by its passage's ordinal and where it begins in the old text. The first is
    /// wrong for certain; the others are so unless that is the cause.
    References(Vec<(usize, usize)>),
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
pub(in crate::plan) struct Outline {
    start: u32,
    length: u32,
    role: CompactRole,
}

/// The longest text of which outlines can be kept, in bytes.
pub(in crate::plan) const LONGEST_OUTLINED: usize = u32::MAX as usize;

impl Outline {
    /// What is kept of `passage`, of a text that is not longer than [`LONGEST_OUTLINED`].
    pub(in crate::plan) fn of(passage: &Passage<'_>) -> Self {
        Self {
            start: passage.span.start as u32,
            length: passage.span.len() as u32,
            role: CompactRole::of(passage.role),
        }
    }

    fn span(self) -> TextSpan {
        let start = self.start as usize;
        Span::new(start..start + self.length as usize)
    }
}

/// A role in four bytes: which one, its flags, and of its number what there is room for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct CompactRole(u32);

impl CompactRole {
    const BY_HAND: u32 = 4;
    const TORN: u32 = 6;

    fn of(role: Role) -> Self {
        let (kind, flags, number) = match role {
            // An address that begins at the root is a value like others, but for what exists.
            Role::Value | Role::Foreign(Namespace::Page) => (0, 0, 0),
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
            Role::Undoubled => (Self::BY_HAND, 0, 0),
            Role::Mixed => (5, 0, 0),
            Role::Counted => (7, 0, 0),
            Role::Foreign(namespace) => (8, namespace as u32, 0),
            Role::Torn { tail } => (Self::TORN, 0, tail as u32),
        };
        Self(kind | flags << 4 | number << 6)
    }

    fn kind(self) -> u32 {
        self.0 & 15
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
pub(in crate::plan) struct Proof<'a> {
    pub(in crate::plan) old: &'a Document<'a>,
    /// Every passage of the old document.
    pub(in crate::plan) outline: &'a [Outline],
    pub(in crate::plan) grammar: Grammar,
    pub(in crate::plan) expectation: &'a Expectation,
    pub(in crate::plan) finder: Finder<'a>,
}

/// What of an expectation is made.
pub(in crate::plan) struct Kept<'a> {
    /// Whether a passage's changes are made, by its number in the expectation.
    pub(in crate::plan) is_kept: &'a dyn Fn(usize) -> bool,
    /// All edits and the move that makes each, if what changes is wanted piece by piece.
    pub(in crate::plan) pieces: Option<&'a (TextEdits, Vec<Option<u16>>)>,
}

impl Proof<'_> {
    /// Proves that `new` is the old document with the changes meant and no others. Gives what
    /// changes piece by piece, if that is wanted.
    pub(in crate::plan) fn holds_for(
        &self,
        new: &[u8],
        kept: &Kept<'_>,
    ) -> Result<CompactList<SiteChange>, Flaw> {
        let _phase = Phase::Prove.span().entered();
        let again = self.old.again(new).ok_or(Unproven::NotText)?;
        self.is_read_alike(&again)?;
        let repaired = self.expectation.repaired;
        let mut flaws = Flaws::default();
        let mut changes = CompactList::default();
        let mut count = 0;
        let grammar = again.passages(&mut |ordinal, passage| {
            count += 1;
            let Some(old) = self
                .outline
                .get(ordinal)
                .filter(|_| flaws.document.is_none())
            else {
                return;
            };
            let number = self.expectation.find(ordinal);
            let number = number.filter(|number| (kept.is_kept)(*number));
            if !old.role.is_kept_as(passage.role, repaired) {
                flaws.document = Some(Unproven::OtherRole);
            } else if let Some(number) = number {
                let broken = self.broken_in(&again, number, &passage);
                if let Some(Blame::At(at)) = broken {
                    flaws.references.push((ordinal, at));
                } else if broken.is_some() {
                    flaws.document = Some(Unproven::Reference);
                } else if let Some((edits, makers)) = kept.pieces {
                    let way = site_text(passage.site);
                    let span = old.span();
                    stretches(self.old, &span, &way, edits, makers, &mut changes);
                }
            } else if again.text.content[passage.span.clone()] != *self.old.raw(&old.span()) {
                flaws.document = Some(Unproven::OtherPassage);
            }
        });
        if !(grammar == self.grammar || (repaired && grammar < self.grammar)) {
            return Err(Unproven::BrokenGrammar.into());
        }
        flaws
            .told(count == self.outline.len())
            .map_or(Ok(changes), Err)
    }

    /// Whether the new copy is taken for text of the same encoding and format.
    fn is_read_alike(&self, again: &Document<'_>) -> Result<(), Unproven> {
        let ascii = again.text.content.is_ascii();
        let (old, new) = (self.old.text.detected(), again.text.detected());
        if !new.reads_as(&old, ascii) {
            return Err(Unproven::OtherEncoding);
        }
        if self.old.format.name() != again.format.name() {
            return Err(Unproven::OtherFormat);
        }
        Ok(())
    }

    /// Proves one changed passage: outside of the edits it is what it was, and read again its
    /// places are the old ones, in order, with each that moves at its new place.
    fn broken_in(
        &self,
        again: &Document<'_>,
        number: usize,
        passage: &Passage<'_>,
    ) -> Option<Blame> {
        let expected = self.expectation.places(number);
        let changed = self.expectation.passage(number);
        let relative = self.expectation.relative(changed.ordinal);
        let mut changing = self.expectation.changing(number);
        let unknown = match (changing.next(), changing.next(), relative) {
            (Some(only), None, None) => Blame::At(only),
            (None, _, Some(only)) => Blame::At(only.at as usize),
            _ => Blame::Unknown,
        };
        // The bytes are those that the edits make.
        let raw = &again.text.content[passage.span.clone()];
        if fingerprint(raw.as_bytes()) != changed.raw {
            return Some(unknown);
        }
        // What became relative reads as it was worked out, its layers taken off.
        if let Some(meant) = relative {
            let chain = OpenedChain::open(&meant.layers, raw.as_bytes()).ok();
            let reads = |chain: OpenedChain| fingerprint(chain.content(raw).as_bytes());
            if chain.map(reads) != Some(meant.content) {
                return Some(unknown);
            }
        }
        // The places are those that are meant.
        let mut after = Vec::new();
        again.sites_of(changed.ordinal as usize, passage, self.finder, &mut after);
        let got = named(again, &after);
        if expected.len() != got.len() {
            return Some(unknown);
        }
        let mut pairs = expected.iter().zip(&got);
        let (broken, _) = pairs.find(|(one, got)| !got.keeps(one))?;
        Some(if broken.is_new {
            Blame::At(broken.at as usize)
        } else {
            unknown
        })
    }
}

/// What is to blame for a passage that is not as it must be.
enum Blame {
    /// The reference that begins there in the old text.
    At(usize),
    /// One of several.
    Unknown,
}

/// The flaws that come to light on the way through a new copy.
#[derive(Default)]
struct Flaws {
    references: Vec<(usize, usize)>,
    document: Option<Unproven>,
}

impl Flaws {
    /// What is to be told of them, if there are any; `complete` says that there are as many passages as
    /// before.
    fn told(mut self, complete: bool) -> Option<Flaw> {
        let whole = self.document.is_none() && complete;
        if !self.references.is_empty() {
            // What comes after the first may follow from it.
            let count = if whole { self.references.len() } else { 1 };
            self.references.truncate(count);
            return Some(Flaw::References(self.references));
        }
        let fewer = (!complete).then_some(Unproven::MoreOrFewer);
        self.document.or(fewer).map(Flaw::Document)
    }
}
