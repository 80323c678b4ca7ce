//! How a reference stands: the only place where that is decided.
//!
//! A found place, its document and the sheet give a verdict. What comes to light later, when
//! the change is written and proved, is a [`Reason`] too, and the standing follows from it.

mod looking;
mod named;
mod pattern;
mod reason;

pub(crate) use looking::{Looking, Resolved};
pub use reason::{Reason, Unproven, Unwritable};

use pattern::is_in_pattern;

use crate::format::{Namespace, Role};
use crate::open::{Document, SitePassage};
use crate::place::{Place, Root, Spelling};
use crate::report::{Standing, Target};
use crate::resolve::Resolver;
use crate::scan::{Found, Hint, readings};
use crate::sheet::{Decision, Relocation, Sheet};
use crate::text::Encoding;

/// What a document as a whole allows.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Policy<'a> {
    /// Says which new places exist, if only references to those are changed.
    pub(crate) existing: Option<&'a Resolver>,
    /// Says what exists, if that is asked for at all.
    pub(crate) resolver: Option<&'a Resolver>,
    /// Why nothing in it may be changed.
    pub(crate) sealed: Option<&'static str>,
    /// The format that it claims to be of and whose grammar it breaks.
    pub(crate) broke: Option<&'static str>,
    /// Whether what is evidently mistyped is put right.
    pub(crate) repair: bool,
    /// The code page that it is read in, where nothing shows for certain which it is.
    pub(crate) open_page: Option<Encoding>,
}

impl Policy<'_> {
    /// What a document allows by itself.
    pub(crate) fn of(document: &Document<'_>) -> Self {
        Self {
            sealed: document.sealed(),
            broke: document.broke,
            repair: false,
            existing: None,
            resolver: None,
            open_page: (!document.text.sure)
                .then_some(document.text.encoding)
                .filter(|encoding| encoding.is_code_page()),
        }
    }
}

/// One found place in the passage that it was found in.
#[derive(Clone, Copy)]
pub(crate) struct FoundIn<'a> {
    /// The passage.
    pub(crate) site: &'a SitePassage,
    /// The place as it was found.
    pub(crate) found: &'a Found,
    /// The passage with its layers taken off.
    pub(crate) content: &'a str,
}

/// What is decided over one found place.
#[derive(Clone, Debug)]
pub(crate) struct Verdict {
    /// How it stands.
    pub(crate) standing: Standing,
    /// Why, where that wants a word.
    pub(crate) reason: Option<Reason>,
    /// Offset in the content at which the reference ends, by its likeliest reading.
    pub(crate) end: usize,
    /// The place that it names.
    pub(crate) place: Place,
    /// How that is written, and as what it was read.
    pub(crate) spelling: Spelling,
    /// Where it goes, if a move touches it.
    pub(crate) relocation: Option<Relocation>,
}

impl Verdict {
    /// The place after the move, if a move touches it.
    pub(crate) fn new_place(&self) -> Option<Place> {
        let relocation = self.relocation.as_ref()?;
        Some(self.place.rebased(relocation.depth, &relocation.to))
    }
}

/// Judges a reference before a rewrite. None where it belongs to another passage: the one in
/// which its old place begins.
pub(crate) fn before_rewrite(
    case: FoundIn<'_>,
    sheet: &Sheet,
    policy: Policy<'_>,
) -> Option<Verdict> {
    let FoundIn { found, content, .. } = case;
    let end = readings(found, content)[0];
    let decision = sheet.decide(found, content);
    let seen = decision.relocation().and_then(|one| one.seen.clone());
    let found = seen.as_deref().unwrap_or(found);
    let place = found.place_until(content, end);
    let verdict = |standing, reason, relocation: Option<Relocation>| Verdict {
        standing,
        reason,
        end: relocation.as_ref().map_or(end, |one| end.max(one.end)),
        place: place.clone(),
        spelling: found.spelling,
        relocation,
    };
    if let (Role::Foreign(namespace), Some(relocation)) = (case.site.role, decision.relocation()) {
        let new = place.rebased(relocation.depth, &relocation.to);
        let is_missing = |resolver: &Resolver| resolver.target(&new) == Target::Dangling;
        let is_foreign = match namespace {
            Namespace::Page => found.root == Root::Posix && policy.resolver.is_some_and(is_missing),
            _ => true,
        };
        if is_foreign {
            return Some(verdict(
                Standing::Kept,
                Some(Reason::Foreign(namespace)),
                None,
            ));
        }
    }
    Some(match decision {
        Decision::Elsewhere if case.begins_elsewhere() => return None,
        Decision::Elsewhere => verdict(untouched(&place, sheet), None, None),
        Decision::Kept => verdict(Standing::Kept, None, None),
        Decision::Doubtful(relocation, uncertainty) => {
            let reason = Reason::Uncertain(uncertainty);
            verdict(reason.standing(), Some(reason), Some(relocation))
        }
        Decision::Moves(relocation) => {
            // If the old place is named before the tear, that passage has it.
            if policy.sealed.is_none() && case.is_told_elsewhere(&relocation) {
                return None;
            }
            let reason = policy
                .sealed
                .map(Reason::SealedDocument)
                .or_else(|| case.obstacle(relocation.depth == 0, policy.repair));
            let standing = reason.as_ref().map_or(Standing::ToMove, Reason::standing);
            verdict(standing, reason, Some(relocation))
        }
    })
}

/// Judges a reference when a rewrite is over: `place` is what it names by the reading that
/// exists, if one does.
pub(crate) fn after_rewrite(
    case: FoundIn<'_>,
    end: usize,
    place: Place,
    sheet: &Sheet,
    sealed: Option<&'static str>,
) -> Option<Verdict> {
    let decision = sheet.decide(case.found, case.content);
    if case.begins_elsewhere() && !case.is_torn(&decision) {
        return None;
    }
    let foreign = match case.site.role {
        Role::Foreign(Namespace::Page) => None,
        Role::Foreign(namespace) => Some(namespace),
        _ => None,
    };
    if let (Some(namespace), Some(_)) = (foreign, decision.relocation()) {
        return Some(case.verdict(Standing::Kept, Some(Reason::Foreign(namespace)), end, place));
    }
    let spoken_of = sheet.is_old_place(&place) || sheet.is_new_place(&place);
    let flaw = case.found.flaw.as_ref().filter(|_| spoken_of);
    let old = matches!(decision, Decision::Moves(_));
    // Where places overlap, a place that is new already is not old.
    let moved = old && sheet.is_new_place(&place);
    let reason = match (flaw, decision) {
        (Some((flaw, _)), _) => Some(Reason::Flawed(*flaw)),
        _ if case.site.role == Role::Undoubled => Some(Reason::Undoubled),
        (None, Decision::Moves(_)) => sealed.map(Reason::SealedDocument).or_else(|| {
            let obstacle = case.obstacle(true, false).filter(|_| !moved);
            obstacle.filter(|reason| reason.standing() == Standing::Sealed)
        }),
        (None, Decision::Doubtful(_, uncertainty)) => Some(Reason::Uncertain(uncertainty)),
        (None, Decision::Kept) => {
            return Some(case.verdict(Standing::Kept, None, end, place));
        }
        (None, Decision::Elsewhere) => None,
    };
    let standing = match &reason {
        Some(reason) => reason.standing(),
        None if moved => Standing::Moved,
        None if old => Standing::Leftover,
        None => untouched(&place, sheet),
    };
    // What is around it is news before a rewrite, not after one.
    let reason = reason.filter(|reason| !matches!(reason, Reason::AmongData | Reason::Counted));
    Some(case.verdict(standing, reason, end, place))
}

/// How a place stands that no move touches.
fn untouched(place: &Place, sheet: &Sheet) -> Standing {
    if sheet.is_new_place(place) {
        Standing::Moved
    } else {
        Standing::Elsewhere
    }
}

impl FoundIn<'_> {
    /// Whether the find begins before the passage, in what that goes on from.
    pub(crate) fn begins_elsewhere(&self) -> bool {
        self.site.begins_elsewhere(self.found)
    }

    /// Whether the passage's start cuts the old place of a decision in two.
    fn is_torn(&self, decision: &Decision) -> bool {
        let Role::Torn { tail } = self.site.role else {
            return false;
        };
        decision
            .relocation()
            .is_some_and(|relocation| relocation.end > tail)
    }

    /// Whether the old place is named as a whole in the passage that this one goes on from.
    fn is_told_elsewhere(&self, relocation: &Relocation) -> bool {
        match self.site.role {
            Role::Torn { tail } => self.found.start < tail && relocation.end <= tail,
            _ => false,
        }
    }

    /// What in the passage itself is in the way of a change, of a root and nothing below it where
    /// `root_alone`. With `repair` a string typed by hand
    /// is put right if it is clear where its place ends.
    fn obstacle(&self, root_alone: bool, repair: bool) -> Option<Reason> {
        match self.site.role {
            Role::Undoubled if repair && self.found.firm_end.is_some() => None,
            Role::Undoubled => Some(Reason::Undoubled),
            Role::Stray => Some(Reason::Stray),
            Role::Mixed => Some(Reason::AmongData),
            Role::Counted => Some(Reason::Counted),
            Role::Torn { .. } if self.begins_elsewhere() => Some(Reason::Torn),
            _ if self.site.hint != Hint::Prose
                && is_in_pattern(self.found, self.content, root_alone) =>
            {
                Some(Reason::Pattern)
            }
            _ => None,
        }
    }

    fn verdict(
        &self,
        standing: Standing,
        reason: Option<Reason>,
        end: usize,
        place: Place,
    ) -> Verdict {
        Verdict {
            standing,
            reason,
            end,
            place,
            spelling: self.found.spelling,
            relocation: None,
        }
    }
}
