//! Every name below the folders that can be seen, so that what moved can be found again.
//!
//! A name costs some 40 bytes and its own letters. The folders are read level by level, so that
//! the index is the same with any number of threads.

use std::fs;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicU64, Ordering};

use rayon::prelude::*;

use crate::base::threads::with_threads;
use crate::place::{Place, fold};
use crate::record::is_record;

/// A file or folder of an index.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Known(u32);

/// How many names are kept at the most; what lies beyond is not found.
const MOST_NAMES: usize = 8_000_000;

/// Every name below some folders.
#[derive(Debug, Default)]
pub struct Index {
    roots: Vec<Place>,
    nodes: Vec<Node>,
    letters: String,
    /// Hash of the folded name and the node, sorted.
    by_name: Vec<(u32, u32)>,
    /// Hash of the folded name and its folder, and the node, sorted.
    by_way: Vec<(u32, u32)>,
    /// Whether there were more names than are kept.
    pub is_cut: bool,
}

#[derive(Clone, Copy, Debug)]
struct Node {
    /// The folder that it is in; a root is its own.
    above: u32,
    at: u32,
    length: u16,
    is_folder: bool,
}

/// One name of a folder that was read.
struct Listed {
    name: String,
    is_folder: bool,
}

impl Index {
    /// Reads the folders at which `roots` are seen, with so many threads; `counter` counts names.
    /// Folders that cannot be listed count as empty; links are not followed.
    pub fn of(roots: &[(Place, PathBuf)], jobs: usize, counter: &AtomicU64) -> Self {
        let mut index = Self::default();
        let mut level: Vec<(u32, PathBuf)> = Vec::new();
        for (place, path) in roots {
            let id = index.nodes.len() as u32;
            index.roots.push(place.clone());
            index.nodes.push(Node {
                above: id,
                at: 0,
                length: 0,
                is_folder: true,
            });
            level.push((id, path.clone()));
        }
        // A folder that is a root of its own is not read twice.
        let own: Vec<PathBuf> = roots.iter().map(|(_, path)| path.clone()).collect();
        with_threads(jobs, || {
            while !level.is_empty() && !index.is_cut {
                let read = |(_, path): &(u32, PathBuf)| list(path, &own, counter);
                let listings: Vec<Vec<Listed>> = level.par_iter().map(read).collect();
                let mut next = Vec::new();
                for ((above, path), listing) in level.iter().zip(listings) {
                    index.add(*above, path, listing, &mut next);
                }
                level = next;
            }
        });
        index.sort();
        index
    }

    fn add(
        &mut self,
        above: u32,
        path: &Path,
        listing: Vec<Listed>,
        next: &mut Vec<(u32, PathBuf)>,
    ) {
        for Listed { name, is_folder } in listing {
            let fits = u32::try_from(self.letters.len() + name.len()).is_ok();
            let (Ok(length), true) = (u16::try_from(name.len()), fits) else {
                self.is_cut = true;
                return;
            };
            if self.nodes.len() >= MOST_NAMES {
                self.is_cut = true;
                return;
            }
            let id = self.nodes.len() as u32;
            self.nodes.push(Node {
                above,
                at: self.letters.len() as u32,
                length,
                is_folder,
            });
            self.letters.push_str(&name);
            if is_folder {
                next.push((id, path.join(name)));
            }
        }
    }

    fn sort(&mut self) {
        let first = self.roots.len();
        let ids = first..self.nodes.len();
        let hashed = |id: usize| {
            let name = fold(self.name(Known(id as u32)));
            (
                name_hash(&name),
                way_hash(self.nodes[id].above, &name),
                id as u32,
            )
        };
        let all: Vec<(u32, u32, u32)> = ids.into_par_iter().map(hashed).collect();
        self.by_name = all.iter().map(|(name, _, id)| (*name, *id)).collect();
        self.by_way = all.iter().map(|(_, way, id)| (*way, *id)).collect();
        self.by_name.par_sort_unstable();
        self.by_way.par_sort_unstable();
    }

    /// Which of several readings of one reference is meant: `first`, unless its last name is nowhere to be seen,
    /// and that of another one is, in a folder of the name that it says too.
    pub fn likeliest(&self, first: Place, others: Vec<Place>) -> Place {
        let seen = |place: &Place| {
            let last = place.components.last().map(|name| fold(name));
            last.map(|last| self.named(&last).collect::<Vec<_>>())
        };
        if others.is_empty() || seen(&first).is_some_and(|seen| !seen.is_empty()) {
            return first;
        }
        let is_meant = |place: &Place| {
            let [.., folder, _] = &place.components[..] else {
                return false;
            };
            let in_folder = |known: Known| {
                let above = self.above(known).map(|above| self.name(above));
                above.is_some_and(|name| fold(name) == fold(folder))
            };
            seen(place).into_iter().flatten().any(in_folder)
        };
        others.into_iter().find(is_meant).unwrap_or(first)
    }

    /// How many names there are.
    pub fn len(&self) -> usize {
        self.nodes.len() - self.roots.len()
    }

    /// Whether there is no name.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// The name of a file or folder; empty for a root.
    pub fn name(&self, known: Known) -> &str {
        let node = self.nodes[known.0 as usize];
        &self.letters[node.at as usize..node.at as usize + usize::from(node.length)]
    }

    /// Whether it is a folder.
    pub fn is_folder(&self, known: Known) -> bool {
        self.nodes[known.0 as usize].is_folder
    }

    /// The folder that it is in; none for a root.
    pub fn above(&self, known: Known) -> Option<Known> {
        let above = self.nodes[known.0 as usize].above;
        (above != known.0).then_some(Known(above))
    }

    /// The place that it is.
    pub fn place(&self, known: Known) -> Place {
        let mut names = Vec::new();
        let mut at = known;
        while let Some(above) = self.above(at) {
            names.push(self.name(at).to_owned());
            at = above;
        }
        let mut place = self.roots[at.0 as usize].clone();
        place.components.extend(names.into_iter().rev());
        place
    }

    /// What has the name whose folded form this is, in the order of the index.
    pub fn named(&self, folded: &str) -> impl Iterator<Item = Known> + '_ {
        let hash = name_hash(folded);
        let folded = folded.to_owned();
        let same = run(&self.by_name, hash);
        let all = same.iter().map(|(_, id)| Known(*id));
        all.filter(move |known| fold(self.name(*known)) == folded)
    }

    /// What is in a folder by this folded name; of several, which differ in case, the first.
    pub fn child(&self, folder: Known, folded: &str) -> Option<Known> {
        let same = run(&self.by_way, way_hash(folder.0, folded));
        let mut all = same.iter().map(|(_, id)| Known(*id));
        all.find(|known| self.above(*known) == Some(folder) && fold(self.name(*known)) == folded)
    }

    /// What lies below a folder by these folded names.
    pub fn below(&self, folder: Known, folded: &[String]) -> Option<Known> {
        let mut names = folded.iter();
        names.try_fold(folder, |at, name| self.child(at, name))
    }

    /// The file or folder at a place.
    pub fn at(&self, place: &Place) -> Option<Known> {
        let under = |(_, root): &(usize, &Place)| place.is_under_by(root, false);
        let roots = self.roots.iter().enumerate().filter(under);
        // The root that is nearest has been read where it lies within another.
        let mut roots: Vec<(usize, &Place)> = roots.collect();
        roots.sort_by_key(|(_, root)| std::cmp::Reverse(root.components.len()));
        roots.into_iter().find_map(|(id, root)| {
            let rest = &place.components[root.components.len()..];
            let folded: Vec<String> = rest.iter().map(|name| fold(name)).collect();
            self.below(Known(id as u32), &folded)
        })
    }
}

/// The entries of a sorted list that have this hash.
fn run(sorted: &[(u32, u32)], hash: u32) -> &[(u32, u32)] {
    let from = sorted.partition_point(|(one, _)| *one < hash);
    let to = sorted[from..].partition_point(|(one, _)| *one == hash);
    &sorted[from..from + to]
}

/// FNV-1a, which is short and the same everywhere; what it finds is compared.
fn name_hash(folded: &str) -> u32 {
    let step = |hash: u32, byte: u8| (hash ^ u32::from(byte)).wrapping_mul(0x0100_0193);
    folded.bytes().fold(0x811c_9dc5, step)
}

fn way_hash(above: u32, folded: &str) -> u32 {
    name_hash(folded) ^ above.wrapping_mul(0x9e37_79b1)
}

/// The names in a folder, sorted; those that are no Unicode are none that a document could name.
fn list(folder: &Path, own: &[PathBuf], counter: &AtomicU64) -> Vec<Listed> {
    let Ok(entries) = fs::read_dir(folder) else {
        return Vec::new();
    };
    if is_record(folder) {
        return Vec::new();
    }
    let mut names: Vec<Listed> = entries
        .flatten()
        .filter_map(|entry| {
            let kind = entry.file_type().ok()?;
            let name = entry.file_name().into_string().ok()?;
            let is_folder = kind.is_dir() && !own.contains(&folder.join(&name));
            Some(Listed { name, is_folder })
        })
        .collect();
    counter.fetch_add(names.len() as u64, Ordering::Relaxed);
    names.sort_unstable_by(|a, b| a.name.cmp(&b.name));
    names
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_found_again() {
        let folder = tempfile::tempdir().unwrap();
        for name in ["a/Sheets/x.tif", "a/Maps/x.tif", "b/GR\u{d6}N/x.tif"] {
            let path = folder.path().join(name);
            fs::create_dir_all(path.parent().unwrap()).unwrap();
            fs::write(path, b"x").unwrap();
        }
        let place = |written: &str| Place::parse(written).unwrap();
        let roots = [
            (place(r"H:\"), folder.path().join("a")),
            (place(r"M:\x"), folder.path().join("b")),
        ];
        let counter = AtomicU64::new(0);
        let index = Index::of(&roots, 2, &counter);
        assert_eq!((index.len(), counter.into_inner()), (6, 6));
        let mut places: Vec<String> = index
            .named("X.TIF")
            .map(|known| index.place(known).to_string())
            .collect();
        places.sort();
        assert_eq!(
            places,
            [
                r"H:\Maps\x.tif",
                r"H:\Sheets\x.tif",
                "M:\\x\\GR\u{d6}N\\x.tif"
            ]
        );
        let found = index.at(&place("m:\\X\\gro\u{308}n")).unwrap();
        assert!(index.is_folder(found));
        assert!(index.at(&place(r"H:\Sheets\y.tif")).is_none());
        assert!(index.at(&place(r"D:\Sheets")).is_none());
    }
}
