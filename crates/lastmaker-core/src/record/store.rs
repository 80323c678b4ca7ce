//! All the records of one user.

use std::collections::HashMap;
use std::fs::{self, File, TryLockError};
use std::path::{Path, PathBuf};

use super::manifest::{Header, Kind, MANIFEST, Manifest};
use super::platform;
use super::{RecordError, RecordWriter};

/// The folder in which records lie.
#[derive(Clone, Debug)]
pub struct Store {
    folder: PathBuf,
}

/// The state of a record.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum RecordState {
    /// The run came to its end.
    Finished,
    /// The run ended in the middle.
    Unfinished,
    /// A run is writing it.
    BeingWritten,
    /// A newer build wrote it: it may be listed, never restored.
    ListOnly(u32),
    /// The manifest cannot be read.
    Damaged(String),
}

/// One record in a list.
#[derive(Clone, Debug)]
pub struct Summary {
    /// Its name.
    pub id: String,
    /// Its folder.
    pub folder: PathBuf,
    /// How it stands.
    pub state: RecordState,
    /// Its manifest, if that can be read.
    pub manifest: Option<Manifest>,
    /// The records that took all or some of it back.
    pub taken_back_by: Vec<String>,
}

impl Store {
    /// The store in `folder`, which need not exist yet.
    pub fn new(folder: PathBuf) -> Self {
        Self { folder }
    }

    /// The folder.
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// Begins a record named after the time `created`, in UTC.
    ///
    /// # Errors
    /// Where the folder cannot be made or written.
    pub fn begin(
        &self,
        created: jiff::Timestamp,
        kind: Kind,
        undoes: Option<String>,
        moves: Vec<String>,
    ) -> Result<RecordWriter, RecordError> {
        platform::create_private(&self.folder)
            .map_err(RecordError::io(&self.folder, "cannot be made"))?;
        let stem = created.strftime("%Y%m%d-%H%M%S").to_string();
        let mut id = stem.clone();
        let mut count = 1;
        let folder = loop {
            let folder = self.folder.join(&id);
            match fs::create_dir(&folder) {
                Ok(()) => break folder,
                Err(error) if error.kind() == std::io::ErrorKind::AlreadyExists => {
                    count += 1;
                    id = format!("{stem}-{count}");
                }
                Err(error) => return Err(RecordError::io(&folder, "cannot be made")(error)),
            }
        };
        let lock = self.lock(&id)?;
        let header = Header {
            version: MANIFEST,
            id,
            created: created.strftime("%Y-%m-%dT%H:%M:%SZ").to_string(),
            kind,
            undoes,
            moves,
        };
        RecordWriter::begin(folder, header, lock)
    }

    /// Locks a record for writing.
    pub(super) fn lock(&self, id: &str) -> Result<File, RecordError> {
        let path = self.folder.join(id).join("lock");
        let file = fs::OpenOptions::new()
            .create(true)
            .truncate(false)
            .write(true)
            .open(&path)
            .map_err(RecordError::io(&path, "cannot be made"))?;
        match file.try_lock() {
            Ok(()) => Ok(file),
            Err(TryLockError::WouldBlock) => Err(RecordError::Locked { id: id.to_owned() }),
            // A file system without locks: the manifest alone has to do.
            Err(TryLockError::Error(_)) => Ok(file),
        }
    }

    /// All records, the oldest first.
    pub fn list(&self) -> Vec<Summary> {
        let mut names: Vec<String> = fs::read_dir(&self.folder)
            .into_iter()
            .flatten()
            .flatten()
            .filter(|entry| entry.path().join("manifest.jsonl").is_file())
            .filter_map(|entry| entry.file_name().into_string().ok())
            .collect();
        names.sort_by_key(|name| sort_key(name));
        let mut all: Vec<Summary> = names.into_iter().map(|id| self.summary(id)).collect();
        let undone: Vec<(String, String)> = all
            .iter()
            .filter_map(|summary| {
                let manifest = summary.manifest.as_ref()?;
                let undoes = manifest.header.undoes.clone()?;
                manifest.done().next()?;
                Some((undoes, summary.id.clone()))
            })
            .collect();
        for summary in &mut all {
            summary.taken_back_by = undone
                .iter()
                .filter(|(undoes, _)| *undoes == summary.id)
                .map(|(_, by)| by.clone())
                .collect();
        }
        all
    }

    fn summary(&self, id: String) -> Summary {
        let folder = self.folder.join(&id);
        let (state, manifest) = match Manifest::read(&folder) {
            Ok(manifest) if manifest.finished => (RecordState::Finished, Some(manifest)),
            Ok(manifest) => match self.lock(&id) {
                Err(RecordError::Locked { .. }) => (RecordState::BeingWritten, Some(manifest)),
                _ => (RecordState::Unfinished, Some(manifest)),
            },
            Err(RecordError::Newer { found, .. }) => (RecordState::ListOnly(found), None),
            Err(error) => (RecordState::Damaged(error.to_string()), None),
        };
        Summary {
            id,
            folder,
            state,
            manifest,
            taken_back_by: Vec::new(),
        }
    }

    /// The manifest of a record, named by its folder's name or path.
    ///
    /// # Errors
    /// Where there is none of that name, or it cannot be read.
    pub fn open(&self, id: &str) -> Result<Manifest, RecordError> {
        let by_path = Path::new(id);
        let folder = if by_path.join("manifest.jsonl").is_file() {
            by_path.to_owned()
        } else {
            self.folder.join(id)
        };
        if id.is_empty() || !folder.join("manifest.jsonl").is_file() {
            return Err(RecordError::Unknown {
                id: id.to_owned(),
                store: self.folder.clone(),
            });
        }
        Manifest::read(&folder)
    }

    /// What earlier rewrites did to each file.
    pub fn ledger(&self) -> Ledger {
        let mut ledger = Ledger::default();
        for summary in self.list() {
            let Some(manifest) = summary.manifest else {
                continue;
            };
            for entry in manifest.done() {
                let known = ledger.files.entry(entry.path.to_path()).or_default();
                known.push((
                    manifest.header.kind,
                    entry.after.clone(),
                    entry.moves.clone(),
                ));
            }
        }
        ledger
    }
}

/// Records of one second are told apart by a count.
fn sort_key(name: &str) -> (String, u32) {
    let mut parts = name.splitn(3, '-');
    let stem = format!(
        "{}-{}",
        parts.next().unwrap_or(""),
        parts.next().unwrap_or("")
    );
    let count = parts
        .next()
        .and_then(|count| count.parse().ok())
        .unwrap_or(1);
    (stem, count)
}

/// What earlier rewrites did to each file, for sheets that are not repeatable.
#[derive(Debug, Default)]
pub struct Ledger {
    files: HashMap<PathBuf, Vec<(Kind, String, Vec<String>)>>,
}

impl Ledger {
    /// The moves that the file at `path` has been through, and the hash that it had then;
    /// none if no rewrite touched it, or the last one was taken back.
    pub fn applied(&self, path: &Path) -> Option<(&[String], &str)> {
        let history = self.files.get(path)?;
        let (kind, after, moves) = history.last()?;
        if *kind == Kind::Rewrite {
            return Some((moves, after));
        }
        // A restore may have brought back what an earlier rewrite had made.
        history[..history.len() - 1]
            .iter()
            .rev()
            .find(|(kind, made, _)| *kind == Kind::Rewrite && made == after)
            .map(|(_, made, moves)| (moves.as_slice(), made.as_str()))
    }
}
