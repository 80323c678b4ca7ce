//! The manifest: lines of JSON that are only ever added to.

mod check;
mod entry;
mod write;

use std::collections::BTreeSet;
use std::fs::File;
use std::io::{BufRead, BufReader, Read, Seek, SeekFrom};
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};

use super::written::PathText;
use super::{RecordError, Roots, Step};
use crate::base::platform;

pub use entry::{Entry, EntryState, SiteChange, SiteEdit, is_temporary};

pub(super) use entry::name_of_original;
pub(super) use write::ManifestWriter;

/// How many files are made safe together at the most: each batch costs a few syncs. The originals of
/// one batch may be in the record before the manifest speaks of them.
pub(super) const BATCH: usize = 256;

/// Version of the manifest of files that this build writes, and reads.
pub const MANIFEST: u32 = 3;

/// Version of the manifest of steps, which is younger.
pub(super) const MANIFEST_OF_STEPS: u32 = 4;

/// Name of the manifest in a record's folder.
pub(crate) const MANIFEST_NAME: &str = "manifest.jsonl";
/// Name of the folder of originals in a record's folder.
pub(crate) const ORIGINALS_NAME: &str = "originals";
/// Name of the report in a record's folder.
pub(super) const REPORT_NAME: &str = "report.json";

/// What made a record.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Kind {
    /// A rewrite.
    Rewrite,
    /// A restore; its originals are the rewritten files.
    Restore,
    /// Links at old places were made or taken away: the record has steps in place of files.
    Bridge,
}

/// The first line of a manifest.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Header {
    /// [`MANIFEST`] of the build that wrote it.
    pub version: u32,
    /// Name of the record's folder when it was made.
    pub id: String,
    /// When it was begun, in UTC.
    pub created: String,
    /// What made it.
    pub kind: Kind,
    /// The record that a restore takes back.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub undoes: Option<String>,
    /// The moves, old place and new.
    #[serde(default)]
    pub moves: Vec<String>,
    /// The files and folders under which all its files lie, in canonical form.
    #[serde(default)]
    pub scope: Vec<PathText>,
}

/// One line of a manifest.
#[derive(Debug, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub(super) enum Line {
    Begin(Header),
    Entry(Box<Entry>),
    Step(usize, Box<Step>),
    State(usize, EntryState),
    /// Beside the file of this number something of ours lies still.
    Stray(usize),
    Ended(End),
}

/// The last line of a record that came to its end.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(super) struct End {
    /// How many entries there are.
    pub(super) entries: usize,
    /// How many of their files were replaced.
    pub(super) done: usize,
    /// Beside how many of their files something of ours lies still.
    pub(super) strays: usize,
}

/// A manifest as read.
#[derive(Clone, Debug)]
pub struct Manifest {
    /// The record's folder.
    pub folder: PathBuf,
    /// Its first line.
    pub header: Header,
    /// The files, and what became of them, by their numbers.
    pub entries: Vec<(Entry, EntryState)>,
    /// What was done to links, and what became of it, in order; only a record of bridges has any.
    pub steps: Vec<(Step, EntryState)>,
    /// Whether the run came to its end.
    pub finished: bool,
    /// The files and folders of its scope, to be looked up.
    pub roots: Roots,
    /// Numbers of the entries beside whose files something of ours lies still.
    pub(super) strays: BTreeSet<usize>,
}

/// Only the version of a first line, for one that another build wrote.
#[derive(Deserialize)]
struct Versioned {
    begin: Version,
}

#[derive(Deserialize)]
struct Version {
    version: u32,
}

/// What is wrong with a manifest.
struct Damage<'a> {
    path: &'a Path,
}

impl Damage<'_> {
    fn at(&self, line: usize, what: impl Into<String>) -> RecordError {
        RecordError::Damaged {
            path: self.path.to_owned(),
            line: line + 1,
            what: what.into(),
        }
    }
}

impl Manifest {
    /// Reads the manifest of the record in `folder`. A last line that was cut short is the
    /// trace of a kill and is passed over.
    ///
    /// # Errors
    /// Where it is damaged, of another version, or says what no record says.
    pub fn read(folder: &Path) -> Result<Self, RecordError> {
        let path = folder.join(MANIFEST_NAME);
        let (file, _) =
            platform::open_regular(&path).map_err(RecordError::io(&path, "cannot be read"))?;
        let damage = Damage { path: &path };
        let mut lines = Lines::new(file);
        let unreadable = RecordError::io(&path, "cannot be read");
        let first = match lines.next_line() {
            Ok(Some(first)) if lines.whole => first,
            Ok(_) => return Err(never_begun(folder, &damage)),
            Err(error) => return Err(unreadable(error)),
        };
        let header = header(folder, &first, &damage)?;
        let mut manifest = Self {
            folder: folder.to_owned(),
            roots: Roots::of(&header.scope),
            header,
            entries: Vec::new(),
            steps: Vec::new(),
            finished: false,
            strays: BTreeSet::new(),
        };
        let mut end = None;
        for number in 1.. {
            let line = lines
                .next_line()
                .map_err(RecordError::io(&path, "cannot be read"))?;
            let Some(line) = line else { break };
            match serde_json::from_slice(&line) {
                Ok(line) => manifest.take(line, &mut end, &damage, number)?,
                Err(_) if !lines.whole => break,
                Err(_) => return Err(damage.at(number, "it is damaged")),
            }
        }
        manifest.finished = end.is_some();
        manifest.check(end, &damage)?;
        Ok(manifest)
    }

    fn take(
        &mut self,
        line: Line,
        end: &mut Option<End>,
        damage: &Damage<'_>,
        number: usize,
    ) -> Result<(), RecordError> {
        match line {
            Line::Begin(_) => return Err(damage.at(number, "it begins a second time")),
            Line::Entry(entry) => {
                let last = self.entries.last().map_or(0, |(entry, _)| entry.number);
                if entry.number <= last {
                    return Err(damage.at(number, "its number is not the next"));
                }
                check::entry(&entry, &self.roots).map_err(|what| damage.at(number, what))?;
                self.entries.push((*entry, EntryState::Begun));
            }
            Line::Step(of, step) => {
                if of != self.steps.len() + 1 || !self.entries.is_empty() {
                    return Err(damage.at(number, "its number is not the next"));
                }
                check::step(&step).map_err(|what| damage.at(number, what))?;
                self.steps.push((*step, EntryState::Begun));
            }
            Line::State(of, state) => {
                let known = match self.position(of) {
                    Some(at) => Some(&mut self.entries[at].1),
                    None => of
                        .checked_sub(1)
                        .and_then(|at| Some(&mut self.steps.get_mut(at)?.1)),
                };
                *known.ok_or_else(|| damage.at(number, "it speaks of no file"))? = state;
            }
            Line::Stray(of) => {
                self.strays.insert(of);
            }
            Line::Ended(said) => {
                if said.strays == 0 {
                    self.strays.clear();
                }
                *end = Some(said);
            }
        }
        Ok(())
    }

    fn position(&self, number: usize) -> Option<usize> {
        let by_number = |(entry, _): &(Entry, EntryState)| entry.number;
        self.entries.binary_search_by_key(&number, by_number).ok()
    }

    /// The entries whose file is the new one.
    pub fn done(&self) -> impl Iterator<Item = &Entry> {
        self.entries
            .iter()
            .filter(|(_, state)| *state == EntryState::Done)
            .map(|(entry, _)| entry)
    }

    /// The steps that were done, in order.
    pub fn steps_done(&self) -> impl DoubleEndedIterator<Item = &Step> {
        self.steps
            .iter()
            .filter(|(_, state)| *state == EntryState::Done)
            .map(|(step, _)| step)
    }

    /// Finds the files of the record, which lay under `old` when it was made, under `new`.
    pub fn seen_from(&mut self, old: &Path, new: &Path) {
        let there = |path: &PathText| {
            let path = path.to_path();
            let below = platform::familiar(&path)
                .strip_prefix(platform::familiar(old))
                .ok()?
                .to_owned();
            let moved = if below.as_os_str().is_empty() {
                new.to_owned()
            } else {
                new.join(below)
            };
            Some(PathText::from(moved.as_path()))
        };
        let entries = self
            .entries
            .iter_mut()
            .flat_map(|(entry, _)| std::iter::once(&mut entry.path).chain(&mut entry.links));
        for path in entries.chain(&mut self.header.scope) {
            if let Some(moved) = there(path) {
                *path = moved;
            }
        }
        self.roots = Roots::of(&self.header.scope);
    }
}

/// What the first and the last line of a manifest say: enough to know how a record stands.
#[derive(Clone, Debug)]
pub(super) struct Glance {
    pub(super) header: Header,
    pub(super) end: Option<End>,
}

impl Glance {
    /// Reads the two lines.
    ///
    /// # Errors
    /// As [`Manifest::read`] for the first line.
    pub(super) fn read(folder: &Path) -> Result<Self, RecordError> {
        let path = folder.join(MANIFEST_NAME);
        let damage = Damage { path: &path };
        let unreadable = || RecordError::io(&path, "cannot be read");
        let (mut file, _) = platform::open_regular(&path).map_err(unreadable())?;
        let last = last_line(&mut file).map_err(unreadable())?;
        file.rewind().map_err(unreadable())?;
        let mut lines = Lines::new(file);
        let first = match lines.next_line().map_err(unreadable())? {
            Some(first) if lines.whole => first,
            _ => return Err(never_begun(folder, &damage)),
        };
        let end = match serde_json::from_slice(&last) {
            Ok(Line::Ended(end)) => Some(end),
            _ => None,
        };
        Ok(Self {
            header: header(folder, &first, &damage)?,
            end,
        })
    }
}

/// The last line if it is short, as that of a record that came to its end is.
fn last_line(file: &mut File) -> std::io::Result<Vec<u8>> {
    const REACH: u64 = 256;
    let size = file.metadata()?.len();
    file.seek(SeekFrom::Start(size.saturating_sub(REACH)))?;
    let mut tail = Vec::new();
    file.take(REACH).read_to_end(&mut tail)?;
    let Some(b'\n') = tail.pop() else {
        return Ok(Vec::new());
    };
    let begins = memchr::memrchr(b'\n', &tail).map_or(0, |at| at + 1);
    Ok(tail.split_off(begins))
}

/// A folder whose manifest has no first line: a run that ended before it had one, or, if
/// originals are there, a manifest that was cut.
fn never_begun(folder: &Path, damage: &Damage<'_>) -> RecordError {
    let originals = std::fs::read_dir(folder.join(ORIGINALS_NAME));
    if originals.is_ok_and(|mut all| all.next().is_some()) {
        damage.at(0, "it is missing")
    } else {
        RecordError::NeverBegun {
            folder: folder.to_owned(),
        }
    }
}

fn header(folder: &Path, line: &[u8], damage: &Damage<'_>) -> Result<Header, RecordError> {
    let first: Versioned =
        serde_json::from_slice(line).map_err(|_| damage.at(0, "it is damaged"))?;
    let found = first.begin.version;
    if ![MANIFEST, MANIFEST_OF_STEPS].contains(&found) {
        let id = folder.file_name().unwrap_or_default();
        return Err(RecordError::OtherVersion {
            id: id.to_string_lossy().into_owned(),
            found,
        });
    }
    let header = match serde_json::from_slice(line) {
        Ok(Line::Begin(header)) => header,
        _ => return Err(damage.at(0, "it is damaged")),
    };
    check::header(&header).map_err(|what| damage.at(0, what))?;
    Ok(header)
}

/// The lines of a file, one at a time.
struct Lines {
    file: BufReader<File>,
    /// Whether the last line that was given ended as a line does.
    whole: bool,
}

impl Lines {
    fn new(file: File) -> Self {
        Self {
            file: BufReader::with_capacity(1 << 16, file),
            whole: true,
        }
    }

    /// The next line without its end; none at the end of the file.
    fn next_line(&mut self) -> std::io::Result<Option<Vec<u8>>> {
        let mut line = Vec::new();
        if self.file.read_until(b'\n', &mut line)? == 0 {
            return Ok(None);
        }
        self.whole = line.pop_if(|last| *last == b'\n').is_some();
        Ok(Some(line))
    }
}
