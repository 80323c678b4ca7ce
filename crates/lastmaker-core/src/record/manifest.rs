//! The manifest: lines of JSON that are only ever added to.

use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};

use super::{LinkKind, RecordError};
use crate::layer::Edit;

/// Version of the manifest that this build writes.
///
/// 1: first. 2: entries that are links, whose originals are their targets.
pub const MANIFEST: u32 = 2;

/// What made a record.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Kind {
    /// A rewrite.
    Rewrite,
    /// A restore; its originals are the rewritten files.
    Restore,
}

/// The first line of a manifest.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Header {
    /// [`MANIFEST`] of the build that wrote it.
    pub version: u32,
    /// Name of the record's folder.
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
}

/// A path, also one that is no Unicode.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(untagged)]
pub enum PathText {
    /// A path that is Unicode.
    Text(String),
    /// The bytes of one that is not.
    Bytes(Vec<u8>),
}

impl From<&Path> for PathText {
    fn from(path: &Path) -> Self {
        match path.to_str() {
            Some(text) => Self::Text(text.to_owned()),
            None => Self::Bytes(path.as_os_str().as_encoded_bytes().to_vec()),
        }
    }
}

impl PathText {
    /// The path.
    pub fn to_path(&self) -> PathBuf {
        match self {
            Self::Text(text) => PathBuf::from(text),
            #[cfg(unix)]
            Self::Bytes(bytes) => {
                use std::os::unix::ffi::OsStrExt;
                PathBuf::from(std::ffi::OsStr::from_bytes(bytes))
            }
            #[cfg(not(unix))]
            Self::Bytes(bytes) => PathBuf::from(String::from_utf8_lossy(bytes).into_owned()),
        }
    }
}

/// Where one edit was before and what it became.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct EditSpan {
    /// Byte offset in the original.
    pub start: u64,
    /// How many bytes of the original went.
    pub gone: u64,
    /// What came.
    pub with: RawText,
}

impl From<&Edit> for EditSpan {
    fn from(edit: &Edit) -> Self {
        Self {
            start: edit.span.start as u64,
            gone: (edit.span.end - edit.span.start) as u64,
            with: edit.with.as_slice().into(),
        }
    }
}

/// Bytes, written as text where they are.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum RawText {
    /// Bytes that are UTF-8.
    Text(String),
    /// Bytes that are not.
    Bytes(Vec<u8>),
}

impl From<&[u8]> for RawText {
    fn from(bytes: &[u8]) -> Self {
        match std::str::from_utf8(bytes) {
            Ok(text) => Self::Text(text.to_owned()),
            Err(_) => Self::Bytes(bytes.to_vec()),
        }
    }
}

impl RawText {
    /// The bytes.
    pub fn as_bytes(&self) -> &[u8] {
        match self {
            Self::Text(text) => text.as_bytes(),
            Self::Bytes(bytes) => bytes,
        }
    }
}

/// One file of a record.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Entry {
    /// Its number in the record, from 1; names its original.
    pub number: usize,
    /// The file.
    pub path: PathText,
    /// Its other names, if it has several.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub links: Vec<PathText>,
    /// The new copy while it is beside the file.
    pub temporary: PathText,
    /// Hash of the content before.
    pub before: String,
    /// Hash of the content after.
    pub after: String,
    /// Whether there was no file before.
    #[serde(default)]
    pub created: bool,
    /// Whether the original is in the record.
    pub kept: bool,
    /// What sort of link it is, if it is one; its original is its target.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub link: Option<LinkKind>,
    /// Time of last modification before, in nanoseconds since 1970.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub modified: Option<i128>,
    /// What changed.
    #[serde(default)]
    pub edits: Vec<EditSpan>,
    /// The moves that the file has been through, this time and before.
    #[serde(default)]
    pub moves: Vec<String>,
}

impl Entry {
    /// The original, in the record's folder.
    pub fn original(&self, record: &Path) -> PathBuf {
        record.join("originals").join(format!("{:06}", self.number))
    }
}

/// What became of an entry.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum EntryState {
    /// It may or may not have been done: the run ended in the middle.
    Begun,
    /// The file is the new one.
    Done,
    /// The file was left or put back, and why.
    Left(String),
}

/// One line of a manifest.
#[derive(Debug, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub(super) enum Line {
    Begin(Header),
    Entry(Box<Entry>),
    State(usize, EntryState),
    Finished,
}

/// A manifest as read.
#[derive(Clone, Debug)]
pub struct Manifest {
    /// The record's folder.
    pub folder: PathBuf,
    /// Its first line.
    pub header: Header,
    /// The files, and what became of them.
    pub entries: Vec<(Entry, EntryState)>,
    /// Whether the run came to its end.
    pub finished: bool,
}

/// Only the version of a first line, for one that a newer build wrote.
#[derive(Deserialize)]
struct Versioned {
    begin: Version,
}

#[derive(Deserialize)]
struct Version {
    version: u32,
}

impl Manifest {
    /// Reads the manifest of the record in `folder`. A last line that was cut short is the
    /// trace of a kill and is passed over.
    ///
    /// # Errors
    /// Where it is damaged or of a newer version.
    pub fn read(folder: &Path) -> Result<Self, RecordError> {
        let path = folder.join("manifest.jsonl");
        let text = fs::read(&path).map_err(RecordError::io(&path, "cannot be read"))?;
        let id = folder
            .file_name()
            .map(|name| name.to_string_lossy().into_owned())
            .unwrap_or_default();
        let lines: Vec<&[u8]> = text.split(|b| *b == b'\n').collect();
        let damaged = |line: usize| RecordError::Damaged {
            path: path.clone(),
            line: line + 1,
        };
        let first: Versioned = serde_json::from_slice(lines[0]).map_err(|_| damaged(0))?;
        if first.begin.version > MANIFEST {
            return Err(RecordError::Newer {
                id,
                found: first.begin.version,
            });
        }
        let mut header = None;
        let mut entries: Vec<(Entry, EntryState)> = Vec::new();
        let mut finished = false;
        for (index, line) in lines.iter().enumerate() {
            if line.is_empty() {
                continue;
            }
            let last = index + 1 == lines.len();
            match serde_json::from_slice(line) {
                Ok(Line::Begin(begin)) => header = Some(begin),
                Ok(Line::Entry(entry)) => entries.push((*entry, EntryState::Begun)),
                Ok(Line::State(number, state)) => {
                    let known = entries.iter_mut().find(|(entry, _)| entry.number == number);
                    known.ok_or_else(|| damaged(index))?.1 = state;
                }
                Ok(Line::Finished) => finished = true,
                Err(_) if last => {}
                Err(_) => return Err(damaged(index)),
            }
        }
        Ok(Self {
            folder: folder.to_owned(),
            header: header.ok_or_else(|| damaged(0))?,
            entries,
            finished,
        })
    }

    /// The entries whose file is the new one.
    pub fn done(&self) -> impl Iterator<Item = &Entry> {
        self.entries
            .iter()
            .filter(|(_, state)| *state == EntryState::Done)
            .map(|(entry, _)| entry)
    }
}

/// A manifest that is being added to.
#[derive(Debug)]
pub(super) struct ManifestWriter {
    path: PathBuf,
    file: fs::File,
}

impl ManifestWriter {
    /// Begins the manifest of a new record, or goes on with one.
    pub(super) fn open(folder: &Path) -> Result<Self, RecordError> {
        let path = folder.join("manifest.jsonl");
        let file = fs::OpenOptions::new()
            .create(true)
            .append(true)
            .open(&path)
            .map_err(RecordError::io(&path, "cannot be written"))?;
        Ok(Self { path, file })
    }

    /// Adds lines and makes sure that they are on the disk.
    pub(super) fn add(&mut self, lines: impl IntoIterator<Item = Line>) -> Result<(), RecordError> {
        let mut text = Vec::new();
        for line in lines {
            text.extend(serde_json::to_vec(&line).map_err(RecordError::Unwritable)?);
            text.push(b'\n');
        }
        self.file
            .write_all(&text)
            .and_then(|()| self.file.sync_data())
            .map_err(RecordError::io(&self.path, "cannot be written"))
    }

    /// Makes sure that a line cut short by a kill does not run into the next.
    pub(super) fn end_line(&mut self) -> Result<(), RecordError> {
        let text = fs::read(&self.path).map_err(RecordError::io(&self.path, "cannot be read"))?;
        if let Some(end) = text.iter().rposition(|b| *b == b'\n') {
            self.file
                .set_len(end as u64 + 1)
                .map_err(RecordError::io(&self.path, "cannot be written"))?;
        }
        Ok(())
    }
}
