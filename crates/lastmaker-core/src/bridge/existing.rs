//! The links that stand at old places already, whoever made them.

use std::fs;
use std::io;
use std::path::{Path, PathBuf};

use super::ground::Ground;
use super::site::leads_to;
use crate::job::Job;
use crate::place::Place;
use crate::record::link_target;
use crate::resolve::Resolver;
use crate::sheet::Move;

/// A link at an old place.
#[derive(Clone, Debug)]
pub struct Existing {
    /// The place of the link.
    pub old: Place,
    /// The link on this machine.
    pub path: PathBuf,
    /// Where it leads, as it says it.
    pub target: PathBuf,
    /// What was in the way of following it, if it cannot be followed.
    pub fault: Option<io::ErrorKind>,
}

/// Below an old folder links are looked for so deep, and among so many names.
const DEEPEST: usize = 16;
const MOST_NAMES: usize = 200_000;

/// The links at `old`, on the way to it, or below it, outermost first. One on the way counts only if `old` is
/// `new` through it: systems have links of their own.
pub fn existing(resolver: &Resolver, old: &Place, new: &Place) -> Vec<Existing> {
    let mut all = Vec::new();
    let is_new = || {
        let (old, new) = (resolver.path_for(old), resolver.path_of(new));
        old.zip(new).is_some_and(|(old, new)| leads_to(&old, &new))
    };
    for depth in 1..=old.components.len() {
        if let Some(link) = link_at(resolver, &old.up_to(depth))
            && (depth == old.components.len() || is_new())
        {
            // What lies below is the new place's.
            all.push(link);
            return all;
        }
    }
    let Some(path) = resolver.path_for(old) else {
        return all;
    };
    let mut names = 0;
    below(old, &path, DEEPEST, &mut names, &mut all);
    all
}

/// The link at a place, if one stands there.
pub fn link_at(resolver: &Resolver, place: &Place) -> Option<Existing> {
    let path = resolver.path_for(place)?;
    let target = link_target(&path)?;
    Some(found(place.clone(), path, target))
}

/// The place of the link at or below an old place of the sheet through which `place` is reached, if it is
/// reached through one.
pub fn crossed(job: &Job<'_>, place: &Place) -> Option<Place> {
    let names = job.sheet.moves.iter().flat_map(Move::names);
    let above = names.filter(|name| place.is_under(name));
    let depth = above.map(|name| name.components.len().max(1)).min()?;
    job.resolver.first_link(place, depth)
}

fn found(old: Place, path: PathBuf, target: PathBuf) -> Existing {
    let fault = fs::metadata(&path).err().map(|error| error.kind());
    Existing {
        old,
        path,
        target,
        fault,
    }
}

fn below(old: &Place, folder: &Path, depth: usize, names: &mut usize, all: &mut Vec<Existing>) {
    if depth == 0 || !matches!(Ground::of(folder), Ground::Folder(_)) {
        return;
    }
    let mut entries: Vec<_> = fs::read_dir(folder)
        .into_iter()
        .flatten()
        .flatten()
        .collect();
    entries.sort_by_key(fs::DirEntry::file_name);
    for entry in entries {
        *names += 1;
        // A name that is no Unicode is no place that a file can name.
        let Ok(name) = entry.file_name().into_string() else {
            continue;
        };
        if *names > MOST_NAMES {
            return;
        }
        let (place, path) = (old.child(&name), entry.path());
        if let Some(target) = link_target(&path) {
            all.push(found(place, path, target));
        } else if entry.file_type().is_ok_and(|kind| kind.is_dir()) {
            below(&place, &path, depth - 1, names, all);
        }
    }
}
