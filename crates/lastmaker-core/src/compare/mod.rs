//! Is all of an old place also at its new one: names, sizes, links, and contents if wanted.
//!
//! `pair` walks both sides at once, folder by folder; `content` compares what is in files, and
//! remembers how far it came; `verdict` says what the differences mean together. Nothing is
//! written but that memory.

mod content;
mod listing;
mod names;
mod pair;
mod verdict;

use std::path::{Path, PathBuf};
use std::sync::atomic::AtomicU64;

pub use content::Journal;

use crate::place::Place;
use crate::report::{ComparedPair, OneFolder};
use crate::sheet::Sheet;
use crate::tree::Scope;

/// One side of a comparison.
#[derive(Clone, Debug)]
pub struct Seen {
    /// What it is called.
    pub name: String,
    /// Where it is seen from here.
    pub path: PathBuf,
}

/// An old place and its new one.
#[derive(Clone, Debug)]
pub struct Pair {
    /// The old place.
    pub old: Seen,
    /// The new place.
    pub new: Seen,
    /// What of the old place belongs to no copy: exceptions, and what moved elsewhere.
    pub old_apart: Vec<Apart>,
    /// What of the new place comes from elsewhere.
    pub new_apart: Vec<Apart>,
}

/// The names, below a side, of a folder that is left out.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Apart(pub Vec<String>);

/// How pairs are compared.
#[derive(Debug)]
pub struct Comparing<'a> {
    /// What is left out by name or path.
    pub scope: &'a Scope,
    /// Whether contents are compared, too.
    pub content: bool,
    /// Remembers which contents were compared.
    pub journal: Option<&'a Journal>,
    /// Number of threads.
    pub jobs: usize,
    /// Counts the files of both sides as they are listed.
    pub listed: &'a AtomicU64,
    /// Counts megabytes of contents that were compared.
    pub compared: &'a AtomicU64,
}

impl Pair {
    /// A pair without parts that are left out.
    pub fn new(old: Seen, new: Seen) -> Self {
        Self {
            old,
            new,
            old_apart: Vec::new(),
            new_apart: Vec::new(),
        }
    }

    /// Leaves out what move number `index` of the sheet does not take along: its exceptions, what
    /// lies below it and moved elsewhere, and at the new place what came there by other moves.
    pub fn of_move(mut self, sheet: &Sheet, index: usize) -> Self {
        let one = &sheet.moves[index];
        let others = || {
            let all = sheet.moves.iter().enumerate();
            all.filter(move |(at, _)| *at != index).map(|(_, it)| it)
        };
        let away = others().map(|other| &other.from);
        self.old_apart = below(&one.from, one.except.iter().chain(away));
        let here = others().map(|other| &other.to);
        self.new_apart = below(&one.to, here.chain(&one.except));
        self
    }

    /// How the two are one folder, if they are.
    fn one_folder(&self) -> Option<OneFolder> {
        let canonical = |seen: &Seen| seen.path.canonicalize().ok();
        if canonical(&self.old)? != canonical(&self.new)? {
            return None;
        }
        Some(
            match (self.old.path.is_symlink(), self.new.path.is_symlink()) {
                (true, false) => OneFolder::OldIsLink,
                (false, true) => OneFolder::NewIsLink,
                _ => OneFolder::Same,
            },
        )
    }
}

/// The names below `top` of those of `places` that lie below it.
fn below<'p>(top: &Place, places: impl Iterator<Item = &'p Place>) -> Vec<Apart> {
    let depth = top.components.len();
    let inside = places.filter(|place| place.components.len() > depth && place.is_under(top));
    inside
        .map(|place| Apart(place.components[depth..].to_vec()))
        .collect()
}

/// Compares a pair.
pub fn compare(pair: &Pair, comparing: &Comparing<'_>) -> ComparedPair {
    let mut report = ComparedPair {
        old: pair.old.name.clone(),
        new: pair.new.name.clone(),
        old_seen_at: shown(&pair.old.path),
        new_seen_at: shown(&pair.new.path),
        one_folder: pair.one_folder(),
        ..ComparedPair::default()
    };
    if report.one_folder.is_none() {
        let found = pair::walk(pair, comparing);
        verdict::judge(pair, comparing, found, &mut report);
    }
    report
}

fn shown(path: &Path) -> String {
    path.to_string_lossy().into_owned()
}
