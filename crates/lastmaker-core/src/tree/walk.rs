//! The tree in parallel: every regular file once, hidden ones too, links not followed.
//!
//! Results come back in the order of the paths, whatever the number of threads.

use std::collections::HashMap;
use std::ffi::OsString;
use std::fs;
use std::io::{self, Read};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::{Path, PathBuf};
use std::sync::Mutex;
use std::sync::atomic::{AtomicU64, Ordering};

use super::entry::{Content, Entry};
use super::fault::{FileFault, ScanFault};
use super::media::is_media;
use super::scope::{Scope, is_history, link_itself};
use super::sieve::Sieve;
use crate::base::phase::Phase;
use crate::base::platform;
use crate::base::threads::{MOST, with_threads};
use crate::record::{is_record, is_temporary};
use crate::report::LeftFile;
use rayon::Scope as Tasks;

/// What a scan needs to know.
#[derive(Debug)]
pub struct Scan<'a> {
    /// What may be looked at.
    pub scope: &'a Scope,
    /// Rules files out.
    pub sieve: &'a Sieve,
    /// Whether pictures, sounds, films and programs are read too.
    pub thorough: bool,
    /// The largest document that is read as a whole, in bytes.
    pub max_document: u64,
    /// Number of threads.
    pub jobs: usize,
    /// Counts files as they are looked at.
    pub looked_at: &'a AtomicU64,
}

/// What a scan brought.
#[derive(Debug)]
pub struct Walked<T> {
    /// What the visitor made of the files, in path order.
    pub items: Vec<T>,
    /// What could not be looked at, in path order.
    pub faults: Vec<ScanFault>,
    /// How many files were looked at.
    pub files: u64,
}

impl<T> Walked<T> {
    /// What could not be looked at, as a report tells it.
    pub(crate) fn left(&self) -> Vec<LeftFile> {
        let told = self
            .faults
            .iter()
            .map(|one| LeftFile::new(&one.path, one.fault.to_string()));
        told.collect()
    }
}

/// Memory that is used again for one file after the other.
#[derive(Debug, Default)]
struct Scratch {
    buffer: Vec<u8>,
    path: PathBuf,
    /// The path below the one that was given.
    below: PathBuf,
}

/// Files smaller than this are read by one call into a buffer that is kept.
const WHOLE: usize = 1 << 20;
/// How many files of one folder make one task.
const BATCH: usize = 64;

/// Where in the order of things an item belongs: which given path, then which file.
type Order = (usize, PathBuf);

struct Walker<'a, T, V> {
    scan: &'a Scan<'a>,
    visit: V,
    scratch: Vec<Mutex<Scratch>>,
    /// The given paths in canonical form: what is below one is known by that, whatever happens to
    /// the folders meanwhile.
    canonical: Vec<PathBuf>,
    items: Mutex<Vec<(Order, T)>>,
    faults: Mutex<Vec<(Order, ScanFault)>>,
}

/// Walks the scope and lets `visit` see every file that the sieve lets through.
pub fn walk<T: Send>(
    scan: &Scan<'_>,
    visit: impl Fn(&Entry<'_>) -> Result<Option<T>, FileFault> + Sync,
) -> Walked<T> {
    let jobs = scan.jobs.clamp(1, MOST);
    let walker = Walker {
        scan,
        visit,
        scratch: (0..=jobs).map(|_| Mutex::default()).collect(),
        canonical: canonical(&scan.scope.paths),
        items: Mutex::default(),
        faults: Mutex::default(),
    };
    let roots = outermost(&scan.scope.paths);
    let walking = Phase::Walk.span().entered();
    with_threads(jobs, || rayon::scope(|tasks| walker.start(tasks, &roots)));
    drop(walking);
    Walked {
        items: in_order(walker.items),
        faults: in_order(walker.faults),
        files: scan.looked_at.load(Ordering::Relaxed),
    }
}

/// The record that a given path lies in, if it does.
fn record_around(path: &Path) -> Option<PathBuf> {
    let canonical = path.canonicalize().ok()?;
    let around = canonical.ancestors().find(|folder| is_record(folder));
    around.map(Path::to_owned)
}

fn in_order<T>(collected: Mutex<Vec<(Order, T)>>) -> Vec<T> {
    let mut all = collected
        .into_inner()
        .unwrap_or_else(|poisoned| poisoned.into_inner());
    all.sort_by(|a, b| a.0.cmp(&b.0));
    all.into_iter().map(|(_, item)| item).collect()
}

fn canonical(paths: &[PathBuf]) -> Vec<PathBuf> {
    let canonical = |path: &PathBuf| path.canonicalize().unwrap_or_else(|_| path.clone());
    paths.iter().map(canonical).collect()
}

/// The given paths without those that lie in another one.
fn outermost(paths: &[PathBuf]) -> Vec<(usize, PathBuf)> {
    let canonical = canonical(paths);
    let mut first: HashMap<&Path, usize> = HashMap::with_capacity(paths.len());
    for (index, path) in canonical.iter().enumerate() {
        first.entry(path).or_insert(index);
    }
    let is_outermost = |index: &usize| {
        let path = &canonical[*index];
        let mut above = path.ancestors().skip(1);
        first.get(path.as_path()) == Some(index) && !above.any(|outer| first.contains_key(outer))
    };
    (0..paths.len())
        .filter(is_outermost)
        .map(|index| (index, paths[index].clone()))
        .collect()
}

impl<T: Send, V: Fn(&Entry<'_>) -> Result<Option<T>, FileFault> + Sync> Walker<'_, T, V> {
    fn start<'s>(&'s self, tasks: &Tasks<'s>, roots: &'s [(usize, PathBuf)]) {
        for (index, root) in roots {
            if let Some(record) = record_around(root) {
                self.fault(*index, root, FileFault::InRecord(record));
                continue;
            }
            // A given path that is itself a link is followed, once.
            match fs::metadata(root) {
                Ok(metadata) if metadata.is_dir() => {
                    let canonical = self.canonical[*index].clone();
                    tasks.spawn(move |tasks| {
                        self.folder(tasks, *index, root, root.clone(), canonical);
                    });
                }
                Ok(metadata) if metadata.is_file() => {
                    let target = self.canonical[*index].clone();
                    if self.is_own(&target) {
                        continue;
                    }
                    let path = if root.is_symlink() {
                        target
                    } else {
                        root.clone()
                    };
                    tasks.spawn(move |_| self.file(*index, Path::new(""), &path, None));
                }
                Ok(_) => self.fault(*index, root, FileFault::NotOpened),
                // A link that leads nowhere is looked at itself.
                Err(_) if root.is_symlink() => {
                    let folder = root.parent().unwrap_or(Path::new(""));
                    let name = root.file_name().unwrap_or_default().to_owned();
                    self.link(*index, Path::new(""), folder, &name, link_itself(root));
                }
                Err(error) => self.fault(*index, root, error.into()),
            }
        }
    }

    fn is_own(&self, canonical: &Path) -> bool {
        self.scan.scope.own.iter().any(|own| own == canonical)
    }

    fn fault(&self, root: usize, path: &Path, fault: FileFault) {
        let fault = ScanFault {
            path: path.to_owned(),
            fault,
        };
        if let Ok(mut faults) = self.faults.lock() {
            faults.push(((root, path.to_owned()), fault));
        }
    }

    /// Lists one folder. `canonical` is the same folder's canonical path.
    fn folder<'s>(
        &'s self,
        tasks: &Tasks<'s>,
        index: usize,
        root: &'s Path,
        folder: PathBuf,
        canonical: PathBuf,
    ) {
        let listing = match fs::read_dir(&folder) {
            Ok(listing) => listing,
            Err(error) => return self.fault(index, &folder, error.into()),
        };
        let below_root = folder
            .strip_prefix(root)
            .unwrap_or(Path::new(""))
            .to_owned();
        // Records are nobody's files but their own, whoever's they are.
        if is_record(&folder) {
            return;
        }
        let mut files = Vec::new();
        let mut links = Vec::new();
        for entry in listing {
            let (name, kind, entry) =
                match entry.and_then(|entry| Ok((entry.file_name(), entry.file_type()?, entry))) {
                    Ok(known) => known,
                    Err(error) => {
                        self.fault(index, &folder, error.into());
                        continue;
                    }
                };
            // Links are not followed; pipes, sockets and devices are not opened.
            if kind.is_dir() {
                let inner = canonical.join(&name);
                let below = below_root.join(&name);
                if self.is_own(&inner) || self.scan.scope.leaves_out(&below, true) {
                    continue;
                }
                let path = folder.join(&name);
                tasks.spawn(move |tasks| self.folder(tasks, index, root, path, inner));
            } else if kind.is_symlink() {
                links.push(name);
            } else if kind.is_file() && !platform::is_placeholder(&entry) && !is_temporary(&name) {
                files.push(name);
            }
        }
        let own: Vec<PathBuf> = self
            .scan
            .scope
            .own
            .iter()
            .filter(|own| own.parent() == Some(&canonical))
            .cloned()
            .collect();
        let is_not_own = |name: &OsString| own.iter().all(|own| own.file_name() != Some(name));
        files.retain(is_not_own);
        links.retain(is_not_own);
        for name in &links {
            let canonical = canonical.join(name);
            self.link(index, &below_root, &folder, name, Some(canonical));
        }
        // One large folder keeps all threads busy, not one.
        while files.len() > BATCH {
            let batch = files.split_off(files.len() - BATCH);
            let (folder, below_root) = (folder.clone(), below_root.clone());
            tasks.spawn(move |_| self.files(index, &below_root, &folder, &batch));
        }
        self.files(index, &below_root, &folder, &files);
    }

    fn files(&self, index: usize, below_root: &Path, folder: &Path, names: &[OsString]) {
        for name in names {
            self.file(index, below_root, folder, Some(name));
        }
    }

    /// Looks at one link, without following it.
    fn link(
        &self,
        index: usize,
        below_root: &Path,
        folder: &Path,
        name: &OsString,
        canonical: Option<PathBuf>,
    ) {
        let below = below_root.join(name);
        if self.scan.scope.leaves_out(&below, false) {
            return;
        }
        let path = folder.join(name);
        self.scan.looked_at.fetch_add(1, Ordering::Relaxed);
        self.take(index, &path, || {
            let target = fs::read_link(&path)?;
            if !self
                .scan
                .sieve
                .lets_link_through(target.as_os_str().as_encoded_bytes())
            {
                return Ok(None);
            }
            (self.visit)(&Entry {
                path: &path,
                canonical: canonical.ok_or_else(|| io::Error::from(io::ErrorKind::NotFound))?,
                history: is_history(&below),
                format: None,
                content: Content::Link(&target),
                opened: None,
            })
        });
    }

    /// Keeps what comes of examining the file or link at `path`, or what is wrong with it.
    fn take(
        &self,
        index: usize,
        path: &Path,
        examine: impl FnOnce() -> Result<Option<T>, FileFault>,
    ) {
        // A defect that one file brings to light must not keep the others from being read.
        let examined = catch_unwind(AssertUnwindSafe(examine));
        match examined.unwrap_or(Err(FileFault::Defect)) {
            Ok(Some(item)) => {
                if let Ok(mut items) = self.items.lock() {
                    items.push(((index, path.to_owned()), item));
                }
            }
            Ok(None) => {}
            Err(fault) => self.fault(index, path, fault),
        }
    }

    /// Looks at one file: `folder` joined with `name`, or `folder` alone.
    fn file(&self, index: usize, below_root: &Path, folder: &Path, name: Option<&std::ffi::OsStr>) {
        let thread = rayon::current_thread_index().map_or(0, |thread| thread + 1);
        let slot = self.scratch.get(thread).unwrap_or(&self.scratch[0]);
        let Ok(mut scratch) = slot.lock() else { return };
        let Scratch {
            buffer,
            path,
            below,
        } = &mut *scratch;
        path.clear();
        path.push(folder);
        below.clear();
        match name {
            Some(name) => {
                path.push(name);
                below.push(below_root);
                below.push(name);
            }
            None => below.push(path.file_name().unwrap_or_default()),
        }
        if name.is_some() && self.scan.scope.leaves_out(below, false) {
            return;
        }
        self.scan.looked_at.fetch_add(1, Ordering::Relaxed);
        let canonical = || match name {
            Some(_) => self.canonical[index].join(&*below),
            None => self.canonical[index].clone(),
        };
        self.take(index, path, || {
            self.examine(path, &canonical, below, buffer)
        });
        if buffer.capacity() > 2 * WHOLE {
            *buffer = Vec::new();
        }
    }

    fn examine(
        &self,
        path: &Path,
        canonical: &dyn Fn() -> PathBuf,
        below: &Path,
        buffer: &mut Vec<u8>,
    ) -> Result<Option<T>, FileFault> {
        let reading = Phase::Read.span().entered();
        let mut file = platform::open_without_following(path)?;
        let sieve = self.scan.sieve;
        // Most files fit into the buffer: one call reads them, and no other is needed.
        let read = read_start(&mut file, buffer)?;
        drop(reading);
        let content = if read < WHOLE {
            let content = &buffer[..read];
            let _sieving = Phase::Sieve.span().entered();
            if self.is_ruled_out(content)
                || !(sieve.lets_through(content) || Sieve::must_read(content))
            {
                return Ok(None);
            }
            Content::Whole(content)
        } else {
            let size = file.metadata()?.len();
            let seen = self.sieve_in_windows(&mut file, buffer, read)?;
            if !seen {
                return Ok(None);
            }
            if size <= self.scan.max_document {
                io::Seek::rewind(&mut file)?;
                buffer.clear();
                let mut whole = file.by_ref().take(self.scan.max_document);
                whole.read_to_end(buffer)?;
                Content::Whole(&buffer[..])
            } else {
                Content::TooLarge
            }
        };
        (self.visit)(&Entry {
            path,
            canonical: canonical(),
            history: is_history(below),
            format: self.scan.scope.said_format(below),
            content,
            opened: Some(&file),
        })
    }

    fn is_ruled_out(&self, content: &[u8]) -> bool {
        !self.scan.thorough && is_media(content)
    }

    /// Passes a large file through the sieve piece by piece, and says whether it may name an old
    /// place. The first `read` bytes are in the buffer already.
    fn sieve_in_windows(
        &self,
        file: &mut fs::File,
        buffer: &mut [u8],
        mut read: usize,
    ) -> io::Result<bool> {
        if self.is_ruled_out(&buffer[..read]) {
            return Ok(false);
        }
        if Sieve::must_read(&buffer[..read]) {
            return Ok(true);
        }
        let overlap = self.scan.sieve.overlap();
        let mut kept = 0;
        while read > 0 {
            let end = kept + read;
            if self.scan.sieve.lets_through(&buffer[..end]) {
                return Ok(true);
            }
            kept = end.min(overlap);
            buffer.copy_within(end - kept..end, 0);
            read = file.read(&mut buffer[kept..])?;
        }
        Ok(false)
    }
}

/// Fills `buffer`, which keeps its memory, from the start of a file; less than all of it
/// means that the file has ended.
fn read_start(file: &mut fs::File, buffer: &mut Vec<u8>) -> io::Result<usize> {
    if buffer.len() != WHOLE {
        buffer.resize(WHOLE, 0);
    }
    loop {
        match file.read(buffer) {
            // A regular file gives all that it has; only one that is larger has more.
            Ok(read) => return Ok(read),
            Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
            Err(error) => return Err(error),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sheet::Sheet;

    fn names(jobs: usize, root: &Path, max_document: u64) -> (Vec<String>, Vec<String>) {
        let mut sheet = Sheet::default();
        sheet.add_move(r"D:\Herbarium=H:\x").unwrap();
        let scope = Scope::new(vec![root.to_owned()], &["*.tmp".to_owned()], &[]).unwrap();
        let sieve = Sieve::new(&sheet, false);
        let scan = Scan {
            scope: &scope,
            sieve: &sieve,
            thorough: false,
            max_document,
            jobs,
            looked_at: &AtomicU64::new(0),
        };
        let walked = walk(&scan, |entry| {
            let whole = match entry.content {
                Content::TooLarge => "!",
                _ => "",
            };
            Ok(Some(format!(
                "{whole}{}",
                entry.path.strip_prefix(root).unwrap().display()
            )))
        });
        let faults = walked.faults.iter().map(ToString::to_string).collect();
        (walked.items, faults)
    }

    #[test]
    fn a_defect_in_one_file_leaves_the_others() {
        let root = tempfile::tempdir().unwrap();
        for name in ["a", "b", "c"] {
            fs::write(root.path().join(name), name).unwrap();
        }
        let scope = Scope::new(vec![root.path().to_owned()], &[], &[]).unwrap();
        let scan = Scan {
            scope: &scope,
            sieve: &Sieve::new(&Sheet::default(), true),
            thorough: false,
            max_document: 1 << 20,
            jobs: 1,
            looked_at: &AtomicU64::new(0),
        };
        let walked = walk(&scan, |entry| {
            assert!(
                !entry.path.ends_with("b"),
                "the defect that this test brings along"
            );
            Ok(Some(()))
        });
        assert_eq!(walked.items.len(), 2);
        assert!(walked.faults[0].to_string().contains("defect"));
    }

    #[test]
    fn files_with_a_sign_come_in_path_order_with_any_number_of_threads() {
        let root = tempfile::tempdir().unwrap();
        let put = |name: &str, content: &[u8]| {
            let path = root.path().join(name);
            fs::create_dir_all(path.parent().unwrap()).unwrap();
            fs::write(path, content).unwrap();
        };
        for index in 0..200 {
            put(&format!("many/{index:03}.ini"), br"x=D:\Herbarium");
        }
        put(".hidden/.deep/a.ini", br"d:/herbarium");
        put("none.ini", br"D:\Herb");
        put("x.tmp", br"D:\Herbarium");
        put("p.png", b"\x89PNG D:\\Herbarium");
        // The sign lies across the border of two windows of a large file.
        let mut large = vec![b'.'; WHOLE - 5];
        large.extend_from_slice(br"D:\Herbarium");
        put("large.txt", &large);
        let (one, faults) = names(1, root.path(), 1 << 30);
        assert_eq!(one.len(), 202);
        assert!(faults.is_empty());
        assert!(one[0].ends_with("a.ini") && one[1] == "large.txt");
        assert_eq!(names(4, root.path(), 1 << 30).0, one);
        assert_eq!(names(2, root.path(), WHOLE as u64).0[1], "!large.txt");
        let (_, faults) = names(2, &root.path().join("missing"), WHOLE as u64);
        assert!(faults[0].contains("does not exist"), "{faults:?}");
    }
}
