//! Both sides at once, folder by folder, in parallel.

use std::collections::HashMap;
use std::ffi::{OsStr, OsString};
use std::fs;
use std::path::{Path, PathBuf};
use std::sync::Mutex;
use std::sync::atomic::Ordering;
use std::time::{Duration, SystemTime};

use rayon::Scope as Tasks;

use super::listing::{Item, Kind, list};
use super::names::{difference, likeness};
use super::{Apart, Comparing, Pair};
use crate::base::threads::with_threads;
use crate::place::same_name;
use crate::report::{ComparedFolder, Difference, DifferenceKind, LeftFile, Side};

/// What a walk over both sides found.
#[derive(Debug, Default)]
pub(super) struct Found {
    pub(super) differences: Vec<Difference>,
    pub(super) folders: Vec<ComparedFolder>,
    /// Files that are on both sides, of one size.
    pub(super) twins: Vec<Twin>,
    /// How many there were, also of those that are not remembered.
    matched: usize,
    pub(super) left: Vec<LeftFile>,
    pub(super) bridges: u64,
    /// When the file at the old place was changed that was not changed for longest.
    pub(super) oldest_old: Option<SystemTime>,
    /// When the files at the new place were changed.
    pub(super) new_times: Vec<SystemTime>,
}

/// A file on both sides, of one size.
#[derive(Clone, Debug)]
pub(super) struct Twin {
    /// The way to it from the compared folder, at the old place.
    pub(super) below: PathBuf,
    /// The same at the new place, if it is another.
    new_below: Option<PathBuf>,
    pub(super) size: u64,
    pub(super) old_time: SystemTime,
    pub(super) new_time: SystemTime,
}

impl Twin {
    /// The way to it from the compared folder, at the new place.
    pub(super) fn new_below(&self) -> &Path {
        self.new_below.as_deref().unwrap_or(&self.below)
    }

    /// The side on which it was changed last, if the times tell.
    pub(super) fn newer(&self) -> Option<Side> {
        newer(self.old_time, self.new_time)
    }
}

/// More files than this on both sides are not all remembered unless their contents are compared:
/// only those that are older at the new place.
pub(super) const MANY: usize = 10_000;

/// Walks both sides.
pub(super) fn walk(pair: &Pair, comparing: &Comparing<'_>) -> Found {
    let walker = Walker {
        pair,
        comparing,
        found: Mutex::default(),
    };
    let top = Where::default();
    with_threads(comparing.jobs, || {
        rayon::scope(|tasks| walker.folder(tasks, top));
    });
    let mut found = walker.found.into_inner().unwrap_or_default();
    found.folders.sort_by(|a, b| a.path.cmp(&b.path));
    found.twins.sort_by(|a, b| a.below.cmp(&b.below));
    found
}

/// A folder on one side or on both, by the ways to it from the compared folders.
#[derive(Clone, Debug, Default)]
struct Where {
    old: PathBuf,
    new: PathBuf,
    /// The side on which alone it is.
    only: Option<Side>,
}

impl Where {
    fn child(&self, old: &OsStr, new: &OsStr) -> Self {
        Self {
            old: self.old.join(old),
            new: self.new.join(new),
            only: self.only,
        }
    }

    fn only(mut self, side: Side) -> Self {
        self.only = Some(side);
        self
    }

    /// The way that a report names.
    fn told(&self) -> &Path {
        match self.only {
            Some(Side::New) => &self.new,
            _ => &self.old,
        }
    }
}

struct Walker<'a> {
    pair: &'a Pair,
    comparing: &'a Comparing<'a>,
    found: Mutex<Found>,
}

/// What one folder brought, before it is told.
#[derive(Debug, Default)]
struct Brought {
    found: Found,
    counts: ComparedFolder,
}

impl Brought {
    fn differs(&mut self, path: &Path, kind: DifferenceKind) -> &mut Difference {
        self.found.differences.push(Difference::new(path, kind));
        let last = self.found.differences.len() - 1;
        &mut self.found.differences[last]
    }

    fn count(&mut self, old: Option<&Item>, new: Option<&Item>) {
        for item in old.iter().filter(|item| item.is_file()) {
            self.counts.old_files += 1;
            self.counts.old_bytes += item.size;
            let older = self.found.oldest_old.filter(|oldest| *oldest <= item.time);
            self.found.oldest_old = older.or(Some(item.time));
        }
        for item in new.iter().filter(|item| item.is_file()) {
            self.counts.new_files += 1;
            self.counts.new_bytes += item.size;
            self.found.new_times.push(item.time);
        }
    }
}

/// A relative way with slashes, whatever the system.
pub(super) fn slashed(path: &Path) -> String {
    let names = path.iter().map(OsStr::to_string_lossy);
    names.collect::<Vec<_>>().join("/")
}

impl Walker<'_> {
    fn folder<'s>(&'s self, tasks: &Tasks<'s>, at: Where) {
        let mut brought = Brought::default();
        let old = self.listing(&at, Side::Old, &mut brought);
        let new = self.listing(&at, Side::New, &mut brought);
        let (Some(old), Some(new)) = (old, new) else {
            return self.keep(&at, brought);
        };
        if at.only.is_some() && old.is_empty() && new.is_empty() {
            let kind = kind_of_only(at.only);
            brought.differs(at.told(), kind).why = Some("an empty folder".to_owned());
        }
        for (old, new) in matched(old, new) {
            self.item(tasks, &at, old, new, &mut brought);
        }
        self.keep(&at, brought);
    }

    /// What a side holds in a folder; none if it cannot be listed, which is told then.
    fn listing(&self, at: &Where, side: Side, brought: &mut Brought) -> Option<Vec<Item>> {
        if at.only.is_some_and(|only| only != side) {
            return Some(Vec::new());
        }
        let (top, below, apart) = match side {
            Side::Old => (&self.pair.old.path, &at.old, &self.pair.old_apart),
            Side::New => (&self.pair.new.path, &at.new, &self.pair.new_apart),
        };
        let path = top.join(below);
        let mut items = match list(&path) {
            Ok(items) => items,
            Err(error) => {
                let why = format!("the folder cannot be listed: {error}");
                brought.found.left.push(LeftFile::new(&path, why));
                return None;
            }
        };
        items.retain(|item| {
            let way = below.join(&item.name);
            let folder = item.kind == Kind::Folder;
            !self.comparing.scope.leaves_out(&way, folder) && !apart.iter().any(|it| it.is(&way))
        });
        let files = items.iter().filter(|item| item.is_file()).count();
        let listed = &self.comparing.listed;
        listed.fetch_add(files as u64, Ordering::Relaxed);
        Some(items)
    }

    /// Compares what is by one name on either side.
    fn item<'s>(
        &'s self,
        tasks: &Tasks<'s>,
        at: &Where,
        old: Option<Item>,
        new: Option<Item>,
        brought: &mut Brought,
    ) {
        brought.count(old.as_ref(), new.as_ref());
        let (old, new) = match (old, new) {
            (Some(old), Some(new)) => (old, new),
            (one, other) => {
                let side = if one.is_some() { Side::Old } else { Side::New };
                if let Some(item) = one.or(other) {
                    self.only(tasks, at, item, side, brought);
                }
                return;
            }
        };
        let inner = at.child(&old.name, &new.name);
        let both = (old.kind, new.kind);
        if old.name != new.name && both.0 == both.1 {
            let why = difference(&old.name, &new.name);
            let told = brought.differs(&inner.old, DifferenceKind::Name);
            told.new_name = Some(new.name.to_string_lossy().into_owned());
            told.why = Some(why.to_owned());
        }
        match both {
            (Kind::Folder, Kind::Folder) => tasks.spawn(move |tasks| self.folder(tasks, inner)),
            (Kind::File, Kind::File) => files(inner, old, new, brought),
            (Kind::Link, _) | (_, Kind::Link) => self.link(&inner, both, brought),
            (a, b) if a != b => {
                let why = format!("{} became {}", a.word(), b.word());
                brought.differs(&inner.old, DifferenceKind::Kind).why = Some(why);
            }
            _ => {}
        }
    }

    /// What is on one side only.
    fn only<'s>(
        &'s self,
        tasks: &Tasks<'s>,
        at: &Where,
        item: Item,
        side: Side,
        brought: &mut Brought,
    ) {
        let inner = at.child(&item.name, &item.name).only(side);
        if item.kind == Kind::Folder {
            tasks.spawn(move |tasks| self.folder(tasks, inner));
            return;
        }
        let told = brought.differs(inner.told(), kind_of_only(Some(side)));
        if item.is_file() {
            match side {
                Side::Old => told.old_size = Some(item.size),
                Side::New => told.new_size = Some(item.size),
            }
        } else {
            told.why = Some(item.kind.word().to_owned());
        }
    }

    /// Compares a link with what is by its name on the other side.
    fn link(&self, at: &Where, kinds: (Kind, Kind), brought: &mut Brought) {
        let old = self.pair.old.path.join(&at.old);
        let new = self.pair.new.path.join(&at.new);
        if let (Ok(a), Ok(b)) = (old.canonicalize(), new.canonicalize())
            && a == b
        {
            brought.found.bridges += 1;
            return;
        }
        let why = match kinds {
            (Kind::Link, Kind::Link) => {
                let (Ok(a), Ok(b)) = (fs::read_link(&old), fs::read_link(&new)) else {
                    return;
                };
                if self.is_same_target(&a, &b) {
                    return;
                }
                format!("it leads to {} and to {}", a.display(), b.display())
            }
            (a, b) => format!("{} became {}", a.word(), b.word()),
        };
        brought.differs(&at.old, DifferenceKind::Link).why = Some(why);
    }

    /// Whether links lead to the same, or each to the same below its own side.
    fn is_same_target(&self, old: &Path, new: &Path) -> bool {
        let below = |path: &Path, top: &Path| path.strip_prefix(top).ok().map(Path::to_owned);
        let within = || {
            let old = below(old, &std::path::absolute(&self.pair.old.path).ok()?)?;
            let new = below(new, &std::path::absolute(&self.pair.new.path).ok()?)?;
            Some(old == new)
        };
        old == new || within() == Some(true)
    }

    /// Adds what a folder brought to what is told.
    fn keep(&self, at: &Where, brought: Brought) {
        let Ok(mut found) = self.found.lock() else {
            return;
        };
        let mut new = brought.found;
        found.differences.append(&mut new.differences);
        let were_few = found.matched <= MANY;
        found.matched += new.twins.len();
        if !self.comparing.content && found.matched > MANY {
            let went_back = |twin: &Twin| twin.newer() == Some(Side::Old);
            new.twins.retain(went_back);
            if were_few {
                found.twins.retain(went_back);
            }
        }
        found.twins.append(&mut new.twins);
        found.left.append(&mut new.left);
        found.bridges += new.bridges;
        found.new_times.append(&mut new.new_times);
        found.oldest_old = [found.oldest_old, new.oldest_old]
            .into_iter()
            .flatten()
            .min();
        found.folders.push(ComparedFolder {
            path: slashed(at.told()),
            ..brought.counts
        });
    }
}

impl Apart {
    /// Whether it is the folder or file at `below`.
    fn is(&self, below: &Path) -> bool {
        let mut names = below.iter();
        let same = |wanted: &String| {
            let name = names.next().map(OsStr::to_string_lossy);
            name.is_some_and(|name| same_name(wanted, &name, false))
        };
        self.0.len() == below.iter().count() && self.0.iter().all(same)
    }
}

fn kind_of_only(side: Option<Side>) -> DifferenceKind {
    match side {
        Some(Side::New) => DifferenceKind::Extra,
        _ => DifferenceKind::Missing,
    }
}

/// Compares two files by what the listing says.
fn files(at: Where, old: Item, new: Item, brought: &mut Brought) {
    if old.size == new.size {
        brought.found.twins.push(Twin {
            new_below: (at.new != at.old).then_some(at.new),
            below: at.old,
            size: old.size,
            old_time: old.time,
            new_time: new.time,
        });
        return;
    }
    let told = brought.differs(&at.old, DifferenceKind::Size);
    told.old_size = Some(old.size);
    told.new_size = Some(new.size);
    told.newer = newer(old.time, new.time);
}

/// The side on which a file was changed last, if the times tell; file systems keep them to two seconds.
fn newer(old: SystemTime, new: SystemTime) -> Option<Side> {
    const COARSE: Duration = Duration::from_secs(2);
    let is_later = |a: SystemTime, b: SystemTime| a.duration_since(b).is_ok_and(|it| it > COARSE);
    if is_later(old, new) {
        Some(Side::Old)
    } else {
        is_later(new, old).then_some(Side::New)
    }
}

/// The items of both sides, those of one name together; a name that is on one side only is
/// matched with the one that a file system may have made of it.
fn matched(old: Vec<Item>, new: Vec<Item>) -> Vec<(Option<Item>, Option<Item>)> {
    let mut all = Vec::with_capacity(old.len().max(new.len()));
    let mut only_old = Vec::new();
    let mut only_new = Vec::new();
    let mut new = new.into_iter().peekable();
    for item in old {
        while let Some(earlier) = new.next_if(|other| other.name < item.name) {
            only_new.push(earlier);
        }
        match new.next_if(|other| other.name == item.name) {
            Some(same) => all.push((Some(item), Some(same))),
            None => only_old.push(item),
        }
    }
    only_new.extend(new);
    let mut like: HashMap<String, Vec<OsString>> = HashMap::new();
    for item in &only_new {
        let names = like.entry(likeness(&item.name)).or_default();
        names.push(item.name.clone());
    }
    for item in only_old {
        // Where several names are alike nobody knows which is which.
        let names = like.remove(&likeness(&item.name));
        let twin = names.filter(|names| names.len() == 1).and_then(|names| {
            let at = only_new.iter().position(|new| new.name == names[0])?;
            Some(only_new.remove(at))
        });
        all.push((Some(item), twin));
    }
    all.extend(only_new.into_iter().map(|item| (None, Some(item))));
    all
}
