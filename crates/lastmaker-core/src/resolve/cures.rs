//! Where what is missing may be now, the likeliest first, with the evidence.
//!
//! What is missing is the first name on the way to a place that is not there; below it lie the
//! names that references want. A cure is a place under which these are found: the more of them,
//! the likelier it is. One look alone is never certain: only many names that are found together, or
//! a name that is the same but for its case.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::path::PathBuf;
use std::sync::{Arc, Mutex};

use super::Resolver;
use super::alike::Alike;
use super::index::{Index, Known};
use super::nearby::Nearby;
use crate::place::{Place, fold};
use crate::report::{Suggestion, Target};

/// How many cures are kept.
const MOST: usize = 3;
/// How many names are looked up of those that are wanted below what is missing.
const SAMPLE: usize = 400;
/// How many places of one name are looked at.
const MOST_NAMED: usize = 256;

/// What is missing, and the names below it that are wanted; empty names stand for itself.
#[derive(Clone, Debug)]
pub struct Missing {
    /// The place that is not there, although the folder that it was in is.
    pub place: Place,
    /// What is wanted below it.
    pub wanted: Vec<Vec<String>>,
}

/// Where what is missing may be now.
#[derive(Clone, Debug)]
pub struct Cure {
    /// The place that stands for what is missing.
    pub place: Place,
    /// Why it is likely.
    pub why: String,
    /// How many of the wanted names that were looked up are there.
    pub found: usize,
    /// How many were looked up.
    pub of: usize,
    /// Whether nothing else is likely.
    pub certain: bool,
}

/// How a candidate came about; what is likelier comes first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Kind {
    SameName,
    OtherRoot,
    Deeper,
    Shallower,
    /// It has the name, and that of the folder that it was in.
    MovedWithFolder,
    Suffix,
    Moved,
    Extension,
    Misspelt,
    /// Its own name tells nothing, but it holds what is wanted.
    Holds,
}

/// Finds cures.
#[derive(Debug)]
pub struct Cures<'a> {
    resolver: &'a Resolver,
    index: &'a Index,
    nearby: Mutex<HashMap<PathBuf, Arc<Nearby>>>,
}

type Candidates = BTreeMap<String, (Kind, Place, String)>;

impl<'a> Cures<'a> {
    /// Cures among what `resolver` sees and what is in `index`.
    pub fn new(resolver: &'a Resolver, index: &'a Index) -> Self {
        Self {
            resolver,
            index,
            nearby: Mutex::default(),
        }
    }

    /// Where what is missing may be, the likeliest first.
    pub fn of(&self, missing: &Missing) -> Vec<Cure> {
        let mut candidates = Candidates::new();
        let sample = sample(&missing.wanted);
        self.elsewhere(missing, &sample, &mut candidates);
        self.near(missing, &mut candidates);
        candidates.remove(&missing.place.disk_key());
        let mut cures: Vec<(Kind, Cure)> = candidates
            .into_values()
            .map(|(kind, place, why)| {
                let there = sample.iter().filter(|names| self.is_there(&place, names));
                let cure = Cure {
                    found: there.count(),
                    of: sample.len(),
                    certain: false,
                    place,
                    why,
                };
                (kind, cure)
            })
            .filter(|(_, cure)| cure.found > 0)
            .collect();
        let tail = |cure: &Cure| common_tail(&cure.place, &missing.place);
        cures.sort_by(|(a, one), (b, other)| {
            let by_evidence = other.found.cmp(&one.found).then(a.cmp(b));
            by_evidence
                .then_with(|| tail(other).cmp(&tail(one)))
                .then_with(|| one.place.disk_key().cmp(&other.place.disk_key()))
        });
        let certain = is_certain(&cures);
        let mut cures: Vec<Cure> = cures.into_iter().map(|(_, cure)| cure).take(MOST).collect();
        if let Some(first) = cures.first_mut() {
            first.certain = certain;
        }
        cures
    }

    fn is_there(&self, base: &Place, names: &[String]) -> bool {
        let mut place = base.clone();
        place.components.extend(names.iter().cloned());
        self.resolver.target(&place) == Target::Live
    }

    /// Looks in every folder that is seen for the same names.
    fn elsewhere(&self, missing: &Missing, sample: &[&Vec<String>], candidates: &mut Candidates) {
        for (root, _) in self.resolver.seen_folders() {
            if root.root != missing.place.root && root.components.is_empty() {
                let other = missing.place.rebased(0, root);
                let why = format!("it lies there under {root}");
                add(candidates, Kind::OtherRoot, other, why);
            }
        }
        let Some(name) = missing.place.components.last() else {
            return;
        };
        for known in self.index.named(&fold(name)).take(MOST_NAMED) {
            self.moved(missing, known, candidates);
        }
        // Of a folder that was renamed too, its files tell.
        let mut votes: HashMap<Known, usize> = HashMap::new();
        for names in sample.iter().take(SAMPLE / 10) {
            let Some(last) = names.last() else {
                continue;
            };
            for known in self.index.named(&fold(last)).take(MOST_NAMED) {
                if let Some(base) = self.base(known, names) {
                    *votes.entry(base).or_default() += 1;
                }
            }
        }
        let mut votes: Vec<(usize, Known)> = votes.into_iter().map(|(base, n)| (n, base)).collect();
        votes.sort_by_key(|(count, base)| (std::cmp::Reverse(*count), *base));
        for (_, base) in votes.into_iter().take(SAMPLE / 40) {
            let place = self.index.place(base);
            let why = "what is wanted lies there".to_owned();
            add(candidates, Kind::Holds, place, why);
        }
    }

    fn moved(&self, missing: &Missing, known: Known, candidates: &mut Candidates) {
        let place = self.index.place(known);
        let kind = match common_tail(&place, &missing.place) {
            0 | 1 => Kind::Moved,
            _ => Kind::MovedWithFolder,
        };
        add(
            candidates,
            kind,
            place,
            "it lies there by the same name".to_owned(),
        );
    }

    /// The folder under which `known` lies by `names`, if it does.
    fn base(&self, known: Known, names: &[String]) -> Option<Known> {
        let mut at = known;
        for name in names.iter().rev() {
            if fold(self.index.name(at)) != fold(name) {
                return None;
            }
            at = self.index.above(at)?;
        }
        Some(at)
    }

    /// Looks in the folder that what is missing was in, and around it.
    fn near(&self, missing: &Missing, candidates: &mut Candidates) {
        let mut parent = missing.place.clone();
        let Some(name) = parent.components.pop() else {
            return;
        };
        let is_file = missing.wanted.iter().any(Vec::is_empty);
        // Unpacked without its own folder, or moved up by one.
        if !is_file {
            let why = format!("it lies one level up, without the folder {name:?}");
            add(candidates, Kind::Shallower, parent.clone(), why);
        }
        let mut above = parent.clone();
        if let Some(folder) = above.components.pop() {
            let why = format!("it lies one level up, outside of the folder {folder:?}");
            add(candidates, Kind::Shallower, above.child(&name), why);
        }
        let Some(nearby) = self.nearby(&parent) else {
            return;
        };
        for folder in nearby.holding(&name) {
            let deeper = parent.child(folder).child(&name);
            let why = format!("it lies one level deeper, in the folder {folder:?}");
            add(candidates, Kind::Deeper, deeper, why);
        }
        for (alike, there) in nearby.likenesses.like(&name) {
            let (kind, why) = match alike {
                Alike::Same => (
                    Kind::SameName,
                    format!("it is called {there:?} there, which differs only in case or accents"),
                ),
                Alike::Suffix => (
                    Kind::Suffix,
                    format!("it is called {there:?} there, as a copy or what was set aside is"),
                ),
                Alike::Extension => (
                    Kind::Extension,
                    format!("{there:?} lies there, of another format"),
                ),
                Alike::Misspelt => (
                    Kind::Misspelt,
                    format!("{there:?} is spelled almost like {name:?}, and exists"),
                ),
            };
            add(candidates, kind, parent.child(there), why);
        }
    }

    fn nearby(&self, folder: &Place) -> Option<Arc<Nearby>> {
        let path = self.resolver.path_of(folder)?;
        if let Ok(known) = self.nearby.lock()
            && let Some(known) = known.get(&path)
        {
            return Some(known.clone());
        }
        let made = Arc::new(Nearby::of(&path));
        if let Ok(mut known) = self.nearby.lock() {
            known.insert(path, made.clone());
        }
        Some(made)
    }

    /// What may be meant by a place below what is missing, by its cures; where they do not have it,
    /// it is looked for by itself.
    pub fn suggest(&self, place: &Place, missing: &Place, cures: &[Cure]) -> Vec<Suggestion> {
        let depth = missing.components.len();
        let images = cures
            .iter()
            .map(|cure| (cure, place.rebased(depth, &cure.place)));
        let images: Vec<(&Cure, Place)> = images.collect();
        let live = images
            .iter()
            .filter(|(_, image)| self.resolver.target(image) == Target::Live);
        let mut all: Vec<Suggestion> = live.map(|(cure, image)| suggestion(cure, image)).collect();
        if all.is_empty() && depth < place.components.len() {
            // The likeliest cure has the folder, but not this: it was renamed as well, or is gone.
            let likeliest = images.first().map(|(_, image)| image).into_iter();
            let own = likeliest.filter_map(|image| {
                let missing = self.resolver.first_missing(image)?;
                Some((image.clone(), missing))
            });
            let alone = std::iter::once((place.clone(), place.clone()));
            for (image, missing) in own.chain(alone) {
                let depth = missing.components.len();
                let wanted = vec![image.components[depth..].to_vec()];
                let found = self.of(&Missing {
                    place: missing,
                    wanted,
                });
                all.extend(
                    found
                        .iter()
                        .map(|cure| suggestion(cure, &image.rebased(depth, &cure.place))),
                );
            }
        }
        let mut seen = HashSet::new();
        all.retain(|one| seen.insert(one.place.clone()));
        all.truncate(MOST);
        all
    }
}

fn suggestion(cure: &Cure, place: &Place) -> Suggestion {
    let why = match cure.of {
        0 | 1 => cure.why.clone(),
        of => format!("{} of {of} names are under {}", cure.found, cure.place),
    };
    Suggestion {
        place: place.to_string(),
        why,
        certain: cure.certain,
    }
}

/// Whether the first of these, which are sorted, is beyond doubt.
fn is_certain(cures: &[(Kind, Cure)]) -> bool {
    let Some((kind, first)) = cures.first() else {
        return false;
    };
    // A few files of common names may lie anywhere.
    let few = match kind {
        Kind::Holds => 5,
        _ => 3,
    };
    let rival = cures.get(1).map_or(0, |(_, cure)| cure.found);
    if first.of < few {
        let same = |(kind, _): &&(Kind, Cure)| *kind == Kind::SameName;
        return *kind == Kind::SameName && cures.iter().filter(same).count() == 1;
    }
    first.found * 10 >= first.of * 9 && first.found >= few && rival * 10 < first.found * 9
}

/// Adds a candidate; one that is known already keeps what is likelier.
fn add(candidates: &mut Candidates, kind: Kind, place: Place, why: String) {
    let known = candidates.get(&place.disk_key()).map(|(known, ..)| *known);
    if known.is_none_or(|known| kind < known) {
        candidates.insert(place.disk_key(), (kind, place, why));
    }
}

/// How many names at the end of two places are the same.
fn common_tail(a: &Place, b: &Place) -> usize {
    let names = a.components.iter().rev().zip(b.components.iter().rev());
    names.take_while(|(a, b)| fold(a) == fold(b)).count()
}

/// Some of the names that are wanted, evenly chosen.
fn sample(wanted: &[Vec<String>]) -> Vec<&Vec<String>> {
    let step = wanted.len().div_ceil(SAMPLE).max(1);
    wanted.iter().step_by(step).collect()
}

#[cfg(test)]
mod tests {
    use std::sync::atomic::AtomicU64;

    use super::super::tests::{place, resolver};
    use super::*;

    #[test]
    fn what_is_missing_is_looked_for() {
        let folder = tempfile::tempdir().unwrap();
        let names = [
            "Collections/Herbarium/Sheets/2019/0412.tif",
            "Collections/Herbarium/Sheets/2019/0413.tif",
            "Collections/Herbarium/Labels/Labels/print.lbl",
            "Collections/Herbarium/loans.csv",
            "Collections/Herbarium/plan-1.doc",
            "Collections/Herbarium/IMG_0003.jpg",
            "Far/Maps/soils.map",
        ];
        let resolver = resolver(folder.path(), &names);
        let roots = [(place(r"H:\"), folder.path().to_owned())];
        let index = Index::of(&roots, 1, &AtomicU64::new(0));
        let cures = Cures::new(&resolver, &index);
        let herbarium = r"H:\Collections\Herbarium";
        let cases = [
            (r"\Sheet\2019\0412.tif", r"\Sheets\2019\0412.tif", "almost"),
            (r"\Labels\print.lbl", r"\Labels\Labels\print.lbl", "deeper"),
            (r"\Loans\loans.csv", r"\loans.csv", "one level up"),
            (
                r"\Sheets\2019\0412.tiff",
                r"\Sheets\2019\0412.tif",
                "format",
            ),
            (r"\plan.doc", r"\plan-1.doc", "copy"),
            (r"\Maps\soils.map", r"!H:\Far\Maps\soils.map", "same name"),
            (r"\IMG_0002.jpg", "", ""),
            (r"\Nothing\here", "", ""),
        ];
        for (written, expected, why) in cases {
            let written = place(&format!("{herbarium}{written}"));
            let missing = resolver.first_missing(&written).unwrap();
            let depth = missing.components.len();
            let wanted = vec![written.components[depth..].to_vec()];
            let found = cures.of(&Missing {
                place: missing.clone(),
                wanted,
            });
            let got = cures.suggest(&written, &missing, &found);
            let Some(first) = got.first() else {
                assert_eq!(expected, "", "{written}");
                continue;
            };
            let expected = match expected.strip_prefix('!') {
                Some(whole) => whole.to_owned(),
                None => format!("{herbarium}{expected}"),
            };
            assert_eq!(first.place, expected, "{written}");
            assert!(first.why.contains(why), "{written}: {}", first.why);
            assert!(!first.certain, "{written}");
        }
        assert!(resolver.first_missing(&place(herbarium)).is_none());
        assert!(resolver.first_missing(&place(r"X:\Nothing")).is_none());
    }
}
