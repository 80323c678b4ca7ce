//! All the records of one user.

use std::fs::{self, File, TryLockError};
use std::io;
use std::path::{Path, PathBuf};

use super::manifest::{
    Glance, Header, Kind, MANIFEST, MANIFEST_NAME, MANIFEST_OF_STEPS, Manifest, ORIGINALS_NAME,
    REPORT_NAME,
};
use super::roots::Roots;
use super::system::folder::create_private;
use super::written::PathText;
use super::{RecordError, RecordWriter};
use crate::base::platform::{private_files, private_folders};
use crate::sheet::Move;

/// Name of the file that is locked while a record is written.
const LOCK_NAME: &str = "lock";
/// What the name of a folder ends with whose record is being forgotten.
const FORGOTTEN: &str = ".forgotten";

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
    /// Another build wrote it: it may be listed, never restored.
    ListOnly(u32),
    /// The manifest cannot be read.
    Damaged(String),
}

/// One record in a list.
#[derive(Clone, Debug)]
pub struct Record {
    /// Its folder's name.
    pub id: String,
    /// Its folder.
    pub folder: PathBuf,
    /// How it stands.
    pub state: RecordState,
    /// The first line of its manifest, if that can be read.
    pub header: Option<Header>,
    /// How many files it replaced; 0 where it did not come to its end.
    pub files: usize,
    /// Beside how many of its files something of ours lies still.
    pub strays: usize,
}

/// What a record is to be of.
#[derive(Clone, Debug)]
pub struct Beginning {
    /// When it is begun.
    pub created: jiff::Timestamp,
    /// What makes it.
    pub kind: Kind,
    /// The record that a restore takes back.
    pub undoes: Option<String>,
    /// The moves, old place and new.
    pub moves: Vec<String>,
    /// The files and folders under which all its files lie, in canonical form.
    pub scope: Vec<PathBuf>,
}

/// The rewrites of a store that were made and not taken back.
#[derive(Debug, Default)]
pub struct Rewrites(Vec<(Vec<String>, Roots)>);

impl Rewrites {
    /// Whether one of them made `one` where the file at `path`, a canonical path, lies.
    pub fn reached(&self, path: &Path, one: &Move) -> bool {
        let identity = one.identity();
        let mut all = self.0.iter();
        all.any(|(moves, roots)| moves.contains(&identity) && roots.hold(path))
    }
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

    /// The rewrites that were made and not taken back, not even in part.
    pub fn rewrites(&self) -> Rewrites {
        let finished = |record: &Record| record.state == RecordState::Finished && record.files > 0;
        let records = self.list().into_iter().filter(finished);
        let (rewrites, others): (Vec<Header>, Vec<Header>) = records
            .filter_map(|record| record.header)
            .partition(|header| header.kind == Kind::Rewrite);
        let undone = |header: &Header| {
            let id = Some(header.id.as_str());
            others.iter().any(|other| other.undoes.as_deref() == id)
        };
        let standing = rewrites.into_iter().filter(|one| !undone(one));
        Rewrites(
            standing
                .map(|header| (header.moves, Roots::of(&header.scope)))
                .collect(),
        )
    }

    /// Begins a record named after the time it is begun, in UTC.
    ///
    /// # Errors
    /// Where the folder cannot be made or written.
    pub fn begin(&self, beginning: Beginning) -> Result<RecordWriter, RecordError> {
        create_private(&self.folder).map_err(RecordError::io(&self.folder, "cannot be made"))?;
        self.clear_up();
        let created = beginning.created;
        let stem = created.strftime("%Y%m%d-%H%M%S").to_string();
        for count in 1u32.. {
            let id = match count {
                1 => stem.clone(),
                more => format!("{stem}-{more}"),
            };
            let Some((folder, lock)) = self.claim(&id)? else {
                continue;
            };
            let scope = beginning.scope.iter();
            let header = Header {
                version: match beginning.kind {
                    Kind::Bridge => MANIFEST_OF_STEPS,
                    Kind::Rewrite | Kind::Restore => MANIFEST,
                },
                id,
                created: created.strftime("%Y-%m-%dT%H:%M:%SZ").to_string(),
                kind: beginning.kind,
                undoes: beginning.undoes,
                moves: beginning.moves,
                scope: scope.map(|path| PathText::from(path.as_path())).collect(),
            };
            return RecordWriter::begin(folder, header, lock);
        }
        Err(RecordError::Unknown {
            id: stem,
            store: self.folder.clone(),
        })
    }

    /// Makes the folder of a new record and locks it; none if there is one of that name.
    fn claim(&self, id: &str) -> Result<Option<(PathBuf, File)>, RecordError> {
        let folder = self.folder.join(id);
        match create_folder(&folder) {
            Ok(()) => {}
            Err(error) if error.kind() == io::ErrorKind::AlreadyExists => return Ok(None),
            Err(error) => return Err(RecordError::io(&folder, "cannot be made")(error)),
        }
        match lock(&folder, id) {
            // Another run that clears up may have taken the empty folder away.
            Ok(lock) if folder.join(LOCK_NAME).exists() => Ok(Some((folder, lock))),
            Ok(_) | Err(RecordError::Locked { .. }) => Ok(None),
            Err(_) if !folder.exists() => Ok(None),
            Err(error) => Err(error),
        }
    }

    /// Removes what runs left that ended before they had begun a record, or had forgotten one.
    fn clear_up(&self) {
        for folder in self.folders() {
            let name = folder.file_name().unwrap_or_default().to_string_lossy();
            if name.ends_with(FORGOTTEN) {
                let _ = fs::remove_dir_all(&folder);
                continue;
            }
            if !is_name(&name) || !was_never_begun(&folder) {
                continue;
            }
            if folder.join(LOCK_NAME).exists() {
                let Ok(_lock) = lock(&folder, &name) else {
                    continue;
                };
                let _ = fs::remove_file(folder.join(MANIFEST_NAME));
                let _ = fs::remove_dir(folder.join(ORIGINALS_NAME));
                let _ = fs::remove_file(folder.join(LOCK_NAME));
            }
            let _ = fs::remove_dir(&folder);
        }
    }

    fn folders(&self) -> Vec<PathBuf> {
        let all = fs::read_dir(&self.folder).into_iter().flatten().flatten();
        all.filter(|entry| entry.file_type().is_ok_and(|kind| kind.is_dir()))
            .map(|entry| entry.path())
            .collect()
    }

    /// All records, the oldest first.
    pub fn list(&self) -> Vec<Record> {
        let mut all: Vec<Record> = self
            .folders()
            .into_iter()
            .filter_map(|folder| record(&folder))
            .collect();
        all.sort_by_cached_key(|record| sort_key(&record.id));
        all
    }

    /// The folder of a record, named by its folder's name or path.
    ///
    /// # Errors
    /// Where there is none of that name.
    pub fn find(&self, id: &str) -> Result<PathBuf, RecordError> {
        let by_path = Path::new(id);
        let by_name = self.folder.join(id);
        let candidates = [by_path, &by_name];
        let known = |folder: &&&Path| folder.join(MANIFEST_NAME).symlink_metadata().is_ok();
        match candidates.iter().find(known) {
            Some(folder) if !id.is_empty() => {
                std::path::absolute(folder).map_err(RecordError::io(folder, "cannot be found"))
            }
            _ => Err(RecordError::Unknown {
                id: id.to_owned(),
                store: self.folder.clone(),
            }),
        }
    }

    /// Removes a record and its originals.
    ///
    /// # Errors
    /// Where a run is writing it, it has not come to its end, or it cannot be removed.
    pub fn forget(&self, record: &Record) -> Result<(), RecordError> {
        let folder = &record.folder;
        match record.state {
            RecordState::Unfinished | RecordState::BeingWritten => {
                let id = record.id.clone();
                return Err(RecordError::Unfinished { id });
            }
            _ => drop(lock(folder, &record.id)?),
        }
        let mut name = folder.file_name().unwrap_or_default().to_owned();
        name.push(FORGOTTEN);
        // In one step, so that a kill leaves no half of a record.
        let forgotten = folder.with_file_name(name);
        fs::rename(folder, &forgotten)
            .and_then(|()| fs::remove_dir_all(&forgotten))
            .map_err(RecordError::io(folder, "cannot be removed"))
    }
}

/// Makes a folder that only its owner may enter.
fn create_folder(folder: &Path) -> io::Result<()> {
    // A folder that is there already is none of ours.
    private_folders().recursive(false).create(folder)
}

/// Locks a record for writing.
pub(super) fn lock(folder: &Path, id: &str) -> Result<File, RecordError> {
    let path = folder.join(LOCK_NAME);
    let mut options = private_files();
    options.create(true).truncate(false).write(true);
    let file = options
        .open(&path)
        .map_err(RecordError::io(&path, "cannot be made"))?;
    loop {
        return match file.try_lock() {
            Ok(()) => Ok(file),
            Err(TryLockError::WouldBlock) => Err(RecordError::Locked { id: id.to_owned() }),
            Err(TryLockError::Error(error)) if error.kind() == io::ErrorKind::Interrupted => {
                continue;
            }
            // A file system without locks: the manifest alone has to do.
            Err(TryLockError::Error(_)) => Ok(file),
        };
    }
}

/// Whether a run may be writing the record in `folder`.
fn is_locked(folder: &Path) -> bool {
    let Ok(file) = File::open(folder.join(LOCK_NAME)) else {
        return false;
    };
    matches!(file.try_lock(), Err(TryLockError::WouldBlock))
}

/// What the first and last line of its manifest tell of the record in `folder`; none if there is
/// no record.
pub(super) fn record(folder: &Path) -> Option<Record> {
    if folder.join(MANIFEST_NAME).symlink_metadata().is_err() {
        return None;
    }
    let name = folder.file_name().unwrap_or_default().to_string_lossy();
    let mut record = Record {
        id: name.into_owned(),
        folder: folder.to_owned(),
        state: RecordState::Finished,
        header: None,
        files: 0,
        strays: 0,
    };
    match Glance::read(folder) {
        Ok(glance) => {
            record.header = Some(glance.header);
            record.state = match glance.end {
                Some(_) => RecordState::Finished,
                None if is_locked(folder) => RecordState::BeingWritten,
                None => RecordState::Unfinished,
            };
            record.files = glance.end.map_or(0, |end| end.done);
            record.strays = glance.end.map_or(0, |end| end.strays);
        }
        Err(RecordError::NeverBegun { .. }) => return None,
        Err(RecordError::OtherVersion { found, .. }) => {
            record.state = RecordState::ListOnly(found);
        }
        Err(error) => record.state = RecordState::Damaged(error.to_string()),
    }
    Some(record)
}

fn was_never_begun(folder: &Path) -> bool {
    if folder.join(MANIFEST_NAME).symlink_metadata().is_ok() {
        return matches!(Glance::read(folder), Err(RecordError::NeverBegun { .. }));
    }
    let known = [LOCK_NAME, ORIGINALS_NAME];
    let mut all = fs::read_dir(folder).into_iter().flatten().flatten();
    all.all(|entry| known.iter().any(|known| entry.file_name() == *known))
}

/// Whether a folder is called as records are.
pub fn is_name(name: &str) -> bool {
    let mut parts = name.split('-');
    let digits = |part: Option<&str>, length: usize| {
        part.is_some_and(|part| part.len() == length && part.bytes().all(|b| b.is_ascii_digit()))
    };
    digits(parts.next(), 8)
        && digits(parts.next(), 6)
        && parts
            .next()
            .is_none_or(|count| count.parse::<u32>().is_ok())
        && parts.next().is_none()
}

/// Records of one second are told apart by a count.
fn sort_key(name: &str) -> (String, u32) {
    let mut parts = name.splitn(3, '-');
    let (day, second) = (parts.next().unwrap_or(""), parts.next().unwrap_or(""));
    let count = parts.next().and_then(|count| count.parse().ok());
    (format!("{day}-{second}"), count.unwrap_or(1))
}

/// Whether the folder is a record, whoever's it is: a manifest beside originals.
pub fn is_record(folder: &Path) -> bool {
    let manifest = folder.join(MANIFEST_NAME);
    if !folder.join(ORIGINALS_NAME).is_dir() {
        return false;
    }
    let Ok((file, _)) = crate::base::platform::open_regular(&manifest) else {
        return false;
    };
    let mut start = Vec::new();
    let read = io::Read::read_to_end(&mut io::Read::take(file, 64), &mut start);
    read.is_ok() && start.starts_with(br#"{"begin":{"version":"#)
}

impl Record {
    /// All of its manifest.
    ///
    /// # Errors
    /// Where it is damaged or of another version.
    pub fn manifest(&self) -> Result<Manifest, RecordError> {
        Manifest::read(&self.folder)
    }

    /// The answer that the run gave, as JSON; none if it did not come to its end.
    pub fn report(&self) -> Option<Vec<u8>> {
        std::fs::read(self.folder.join(REPORT_NAME)).ok()
    }
}
