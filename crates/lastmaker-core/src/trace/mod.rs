//! Where dangling targets went: the fewest moves that explain the most references, from names alone.
//!
//! Every place that dangles is looked for by its name under the folders where things might be now.
//! Where it is found, the two ways are the same from the end up to some point: above that point
//! stand an old place and a new one, a *shift*, for which the find is a vote (`votes`). Shifts
//! are chosen so that few explain much, and each is then said as high up as it holds, exceptions
//! and special cases below it (`cover`). What fits two ways is told and not guessed.

mod cover;
mod draft;
mod mentions;
mod places;
mod tell;
mod votes;

pub use draft::{Draft, Drafted};
pub use mentions::Mention;
pub(crate) use mentions::mentions;

use std::path::PathBuf;

use crate::place::Place;
use crate::report::{TraceReport, TraceTotals};
use crate::resolve::Index;

use places::Places;
use votes::{Old, Votes};

/// One place that files name.
#[derive(Clone, Debug)]
pub struct NamedPlace {
    /// The place.
    pub place: Place,
    /// How many references name it.
    pub references: usize,
    /// Whether it is there, where it is said to be.
    pub live: bool,
    /// Whether the sheet says where it went, and that is so or cannot be checked.
    pub explained: bool,
}

/// What a trace rests on.
#[derive(Debug)]
pub struct Clues<'a> {
    /// The distinct places that the files name.
    pub named: &'a [NamedPlace],
    /// Everything under the folders where things might be now.
    pub index: &'a Index,
    /// The old folders that still exist, and where they are.
    pub old: &'a [(Place, PathBuf)],
    /// Where the places of the index are seen.
    pub seen_at: &'a [(Place, PathBuf)],
    /// Other names of places that the files mention.
    pub mentions: &'a [Mention],
}

/// Finds the moves that explain what dangles.
pub fn trace(clues: &Clues<'_>) -> TraceReport {
    let mut places = Places::default();
    for named in clues.named {
        let is_old = clues.old.iter().any(|(old, _)| named.place.is_under(old));
        if !named.explained {
            places.add(named, named.live && !is_old);
        }
    }
    let old = Old {
        old: clues.old,
        seen_at: clues.seen_at,
    };
    let votes = Votes::cast(&places, clues.index, &old);
    let chosen = votes.choose(&places, clues.index);
    let emitted = cover::cover(&places, &chosen, clues.index);
    let mut report = tell::tell(&places, clues, &chosen, &emitted);
    report.totals = TraceTotals {
        references: places.wanted().map(|one| one.references).sum(),
        places: places.wanted().count(),
        names: clues.index.len(),
        names_cut: clues.index.is_cut,
        explained: report.moves.iter().map(|one| one.explains).sum(),
        ..TraceTotals::default()
    };
    report
}
