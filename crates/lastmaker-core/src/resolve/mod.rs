//! Does a place exist, as far as can be seen from here, and if not, what may be meant.

mod alike;
mod argument;
mod cures;
mod evidence;
mod index;
mod nearby;
mod volumes;

pub use argument::{NamedFolder, UnseenFault};
pub use cures::{Cure, Cures, Missing};
pub use evidence::Evidence;
pub use index::{Index, Known};

use std::collections::HashMap;
use std::ffi::OsString;
use std::fs;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex};

use volumes::unmounted;

use crate::base::fingerprint::fingerprint;
use crate::place::{Place, Root, fold};
use crate::report::Target;
use crate::sheet::Sheet;

/// Folded names of a folder's entries, each with the names that are really there.
type Listing = Option<Arc<HashMap<String, Vec<OsString>>>>;

/// Answers whether places exist; every answer is remembered for the run.
#[derive(Debug)]
pub struct Resolver {
    seen_at: Vec<(Place, PathBuf)>,
    native: bool,
    servers: Vec<String>,
    /// Answers by the fingerprint of the place, but for those that cannot be checked: there may be a
    /// million.
    answers: Mutex<HashMap<u64, Target>>,
    listings: Mutex<HashMap<PathBuf, Listing>>,
    /// The first link on the way to places, by their fingerprints.
    links: Mutex<HashMap<u64, Option<Place>>>,
    roots: Mutex<HashMap<String, bool>>,
}

/// The workbook of a place as a formula writes it, with a sheet after it: `…\\[book.xlsx]Sheet1`.
fn workbook(place: &Place) -> Option<Place> {
    let last = place.components.last()?;
    let (book, _) = last.strip_prefix('[')?.split_once(']')?;
    let mut workbook = place.clone();
    *workbook.components.last_mut()? = book.to_owned();
    Some(workbook)
}

impl Resolver {
    /// A resolver that sees what `sheet` says is to be seen.
    pub fn new(sheet: &Sheet) -> Self {
        Self {
            seen_at: sheet
                .seen_at
                .iter()
                .map(|(place, folder)| (place.clone(), volumes::meant(folder)))
                .collect(),
            native: sheet.native,
            servers: sheet.servers(),
            answers: Mutex::default(),
            listings: Mutex::default(),
            links: Mutex::default(),
            roots: Mutex::default(),
        }
    }

    /// The places of which the sheet says where they are seen, each with the folder.
    pub fn seen_folders(&self) -> &[(Place, PathBuf)] {
        &self.seen_at
    }

    /// Whether `place` exists.
    pub fn target(&self, place: &Place) -> Target {
        let Some(base) = self.base(place) else {
            return Target::Unreachable;
        };
        let key = fingerprint(place.disk_key().as_bytes());
        if let Ok(answers) = self.answers.lock()
            && let Some(known) = answers.get(&key)
        {
            return *known;
        }
        let Some((base, skip)) = self.there(place, base) else {
            return Target::Unreachable;
        };
        let located = |place: &Place| {
            let names = &place.components[skip..];
            self.locate(&base, names, place.root.is_windows()).is_some()
        };
        let target = if located(place) || workbook(place).is_some_and(|book| located(&book)) {
            Target::Live
        } else {
            Target::Dangling
        };
        if let Ok(mut answers) = self.answers.lock() {
            answers.insert(key, target);
        }
        target
    }

    /// The first name on the way to a place that is not there; none if its root is not seen, or if
    /// it is there.
    pub fn first_missing(&self, place: &Place) -> Option<Place> {
        if self.target(place) != Target::Dangling {
            return None;
        }
        let mut depth = place.components.len();
        while depth > 0 && self.target(&place.up_to(depth - 1)) == Target::Dangling {
            depth -= 1;
        }
        (depth > 0).then(|| place.up_to(depth))
    }

    /// Whether a file is at `place`, as far as that can be seen.
    pub(crate) fn is_file(&self, place: &Place) -> bool {
        let path = || self.path_of(place);
        self.target(place) == Target::Live && path().is_some_and(|path| path.is_file())
    }

    /// The path on this machine at which `place` is seen; none if it is not there.
    pub fn path_of(&self, place: &Place) -> Option<PathBuf> {
        let (base, skip) = self.seen(place)?;
        self.locate(&base, &place.components[skip..], place.root.is_windows())
    }

    /// The path on this machine at which `place` is seen, or would be if it were there; none if its root is
    /// not seen.
    pub fn path_for(&self, place: &Place) -> Option<PathBuf> {
        let (base, skip) = self.seen(place)?;
        let names = &place.components[skip..];
        let windows = place.root.is_windows();
        // What is there goes by the name that it has.
        let (mut known, mut missing) = (names.len(), base.clone());
        while known > 0 {
            if let Some(path) = self.locate(&base, &names[..known], windows) {
                missing = path;
                break;
            }
            known -= 1;
        }
        missing.extend(&names[known..]);
        Some(missing)
    }

    /// The first place on the way to `place`, itself included, that is a link; those with fewer than `depth`
    /// names are not asked about.
    pub fn first_link(&self, place: &Place, depth: usize) -> Option<Place> {
        if place.components.len() < depth {
            return None;
        }
        let key = fingerprint(format!("{depth} {}", place.disk_key()).as_bytes());
        let known = self.links.lock().ok().and_then(|it| it.get(&key).cloned());
        if let Some(known) = known {
            return known;
        }
        let mut above = place.clone();
        above.components.pop();
        let link = self.first_link(&above, depth).or_else(|| {
            let path = self.path_for(place)?;
            fs::read_link(path).is_ok().then(|| place.clone())
        });
        if let Ok(mut links) = self.links.lock() {
            links.insert(key, link.clone());
        }
        link
    }

    /// Whether `place` is this machine's own, by the name that it has here.
    pub fn is_native(&self, place: &Place) -> bool {
        let seen_elsewhere = self.seen_at.iter().any(|(seen, _)| place.is_under(seen));
        self.native && !seen_elsewhere && self.native_root(place).is_some()
    }

    /// What of a place that cannot be checked is not to be seen: its root, or the volume that it lies on.
    pub fn unseen(&self, place: &Place) -> Place {
        let root = match self.base(place) {
            Some((root, 0)) => root,
            _ => PathBuf::from("/"),
        };
        let mut unseen = place.clone();
        unseen
            .components
            .truncate(unmounted(&root, place).unwrap_or(0));
        unseen
    }

    /// The folder below which a place is seen from here, and how many of its names lead to that.
    fn seen(&self, place: &Place) -> Option<(PathBuf, usize)> {
        self.there(place, self.base(place)?)
    }

    /// The folder that a place is based on, if it is there.
    fn there(&self, place: &Place, (base, skip): (PathBuf, usize)) -> Option<(PathBuf, usize)> {
        let there = self.is_root_there(&base.to_string_lossy(), &base)
            && (skip > 0 || unmounted(&base, place).is_none());
        there.then_some((base, skip))
    }

    /// The folder at which the first names of a place would be seen, and how many names those are. What
    /// the sheet says beats the machine's own root of that name.
    fn base(&self, place: &Place) -> Option<(PathBuf, usize)> {
        let said = self.seen_at.iter().filter(|(seen, _)| place.is_under(seen));
        let nearest = said.max_by_key(|(seen, _)| seen.components.len());
        match nearest {
            Some((seen, folder)) => Some((folder.clone(), seen.components.len())),
            None if self.native => Some((self.native_root(place)?, 0)),
            None => None,
        }
    }

    /// The root of this machine that `place` begins at, if it has roots of that kind.
    fn native_root(&self, place: &Place) -> Option<PathBuf> {
        match &place.root {
            Root::Posix => cfg!(unix).then(|| PathBuf::from("/")),
            Root::Drive(letter) => cfg!(windows).then(|| PathBuf::from(format!("{letter}:\\"))),
            Root::Share { server, share } => {
                // No server is contacted that the sheet does not name.
                let named = self.servers.contains(&fold(server));
                (cfg!(windows) && named).then(|| PathBuf::from(format!(r"\\{server}\{share}\")))
            }
        }
    }

    /// Whether a root is there; each is asked once. One on a server gets three seconds.
    fn is_root_there(&self, key: &str, root: &Path) -> bool {
        if let Ok(roots) = self.roots.lock()
            && let Some(known) = roots.get(key)
        {
            return *known;
        }
        let remote = cfg!(windows) && key.starts_with(r"\\");
        let there = if remote {
            let (send, receive) = std::sync::mpsc::channel();
            let root = root.to_owned();
            std::thread::spawn(move || {
                // Nobody listens any more if the answer came too late.
                let _ = send.send(fs::metadata(root).is_ok());
            });
            receive
                .recv_timeout(std::time::Duration::from_secs(3))
                .unwrap_or(false)
        } else {
            fs::metadata(root).is_ok()
        };
        if let Ok(mut roots) = self.roots.lock() {
            roots.insert(key.to_owned(), there);
        }
        there
    }

    /// Follows `names` below `base`, without regard to case for Windows places.
    fn locate(&self, base: &Path, names: &[String], windows: bool) -> Option<PathBuf> {
        if cfg!(windows) && names.iter().any(|name| is_device(name)) {
            return None;
        }
        let mut exact = base.to_owned();
        exact.extend(names);
        if fs::metadata(&exact).is_ok() {
            return Some(exact);
        }
        if !windows || cfg!(windows) {
            return None;
        }
        let mut candidates = vec![base.to_owned()];
        for name in names {
            let key = fold(name);
            candidates = candidates
                .iter()
                .filter_map(|folder| Some((folder, self.listing(folder)?)))
                .flat_map(|(folder, listing)| {
                    listing
                        .get(&key)
                        .map(|real| real.iter().map(|name| folder.join(name)).collect())
                        .unwrap_or_else(Vec::new)
                })
                .collect();
            if candidates.is_empty() {
                return None;
            }
        }
        candidates
            .into_iter()
            .find(|path| fs::metadata(path).is_ok())
    }

    /// What a folder holds; none if it cannot be listed.
    fn listing(&self, folder: &Path) -> Listing {
        if let Ok(listings) = self.listings.lock()
            && let Some(known) = listings.get(folder)
        {
            return known.clone();
        }
        let listing: Listing = fs::read_dir(folder).ok().map(|entries| {
            let mut names: HashMap<String, Vec<OsString>> = HashMap::new();
            for entry in entries.flatten() {
                let name = entry.file_name();
                names
                    .entry(fold(&name.to_string_lossy()))
                    .or_default()
                    .push(name);
            }
            for real in names.values_mut() {
                real.sort();
            }
            Arc::new(names)
        });
        if let Ok(mut listings) = self.listings.lock() {
            listings.insert(folder.to_owned(), listing.clone());
        }
        listing
    }
}

/// Whether Windows takes a name for a device, whatever its suffix.
fn is_device(name: &str) -> bool {
    let stem = name
        .split('.')
        .next()
        .unwrap_or(name)
        .trim_end()
        .to_ascii_uppercase();
    matches!(
        stem.as_str(),
        "CON" | "PRN" | "AUX" | "NUL" | "CONIN$" | "CONOUT$"
    ) || ((stem.starts_with("COM") || stem.starts_with("LPT"))
        && stem.len() == 4
        && stem.ends_with(|c: char| c.is_ascii_digit()))
}

#[cfg(test)]
mod tests {
    use super::*;

    pub(super) fn place(written: &str) -> Place {
        Place::parse(written).unwrap()
    }

    /// A resolver that sees `H:\` at `folder`, and folders below it.
    pub(super) fn resolver(folder: &Path, names: &[&str]) -> Resolver {
        for name in names {
            let path = folder.join(name);
            if name.contains('.') {
                fs::create_dir_all(path.parent().unwrap()).unwrap();
                fs::write(path, b"x").unwrap();
            } else {
                fs::create_dir_all(path).unwrap();
            }
        }
        let mut sheet = Sheet {
            native: false,
            ..Sheet::default()
        };
        sheet.seen_at.push((place(r"H:\"), folder.to_owned()));
        Resolver::new(&sheet)
    }

    #[test]
    fn places_are_seen_without_regard_to_case() {
        let folder = tempfile::tempdir().unwrap();
        let resolver = resolver(folder.path(), &["Collections/Herbarium/Gr\u{f6}n.tif"]);
        let cases = [
            (r"H:\Collections", Target::Live),
            ("H:\\COLLECTIONS\\herbarium\\GR\u{d6}N.TIF", Target::Live),
            (r"H:\", Target::Live),
            (r"H:\Collection", Target::Dangling),
            (r"D:\Collections", Target::Unreachable),
            (r"\\fernhall\press\x", Target::Unreachable),
            ("/srv", Target::Unreachable),
        ];
        for (written, target) in cases {
            assert_eq!(resolver.target(&place(written)), target, "{written}");
        }
    }

    #[test]
    fn a_root_that_is_not_there_is_unreachable() {
        let folder = tempfile::tempdir().unwrap();
        let resolver = resolver(&folder.path().join("gone"), &[]);
        assert_eq!(resolver.target(&place(r"H:\x")), Target::Unreachable);
    }

    #[test]
    fn device_names() {
        for name in ["NUL", "con.txt", "COM1", "aux "] {
            assert!(is_device(name), "{name}");
        }
        for name in ["CONE", "COM", "nullable.txt", "LPT12"] {
            assert!(!is_device(name), "{name}");
        }
    }
}
