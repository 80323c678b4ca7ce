//! Making changes, each file whole at every instant.

use std::collections::BTreeSet;
use std::fs::{self, File};
use std::io::{self, Read, Write};
use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime, UNIX_EPOCH};

use rayon::prelude::*;

use super::durable::sync_together;
use super::link::{self, LinkKind, hash_link, link_target};
use super::manifest::{EditSpan, Entry, EntryState, Header, Line, ManifestWriter, PathText};
use super::platform;
use super::{RecordError, hash_file};
use crate::layer::Edits;
use crate::rewrite::SplicedReader;

/// Where the new content comes from.
#[derive(Debug)]
pub enum NewContent<'a> {
    /// The original with edits.
    Edits(&'a Edits),
    /// A file as it is.
    File(PathBuf),
    /// These bytes.
    Bytes(Vec<u8>),
    /// The original with edits that make sense only all together, as those of a container do:
    /// they are not taken back one by one.
    Container(&'a Edits),
    /// A link of this sort that leads there.
    Link(LinkKind, PathBuf),
}

/// One file that is to be replaced.
#[derive(Debug)]
pub struct Change<'a> {
    /// The file, in canonical form.
    pub path: PathBuf,
    /// Its other names.
    pub links: Vec<PathBuf>,
    /// Hash of what it must hold now; none if there must be no file.
    pub before: Option<blake3::Hash>,
    /// Hash of what it will hold.
    pub after: blake3::Hash,
    /// What it will hold.
    pub content: NewContent<'a>,
    /// The moves that it will have been through.
    pub moves: Vec<String>,
    /// The time of last modification that it gets, in nanoseconds since 1970; else now.
    pub modified: Option<i128>,
    /// Whether it must be left while another program has it open.
    pub exclusive: bool,
    /// Whether what it holds now can be made again from elsewhere: then a full disk does not
    /// stand in the way of replacing it.
    pub expendable: bool,
}

/// What became of a change.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// It is made.
    Done,
    /// It is made, but another name of the file still has the old content, and why.
    Partly(String),
    /// The file is as it was, and why.
    Left(String),
}

/// How many files are made safe together: each batch costs a few syncs.
const BATCH: usize = 256;
/// A batch with more bytes than this is ended, since its new copies lie beside the old files for
/// a moment.
const BATCH_BYTES: u64 = 256 << 20;

/// A record that is being written. It is locked until it is finished or dropped; dropped
/// unfinished, it stands in the way of the next run until that settles it.
#[derive(Debug)]
#[must_use = "without `finish` the record counts as unfinished"]
pub struct RecordWriter {
    folder: PathBuf,
    id: String,
    manifest: ManifestWriter,
    written: usize,
    _lock: File,
}

impl RecordWriter {
    pub(super) fn begin(folder: PathBuf, header: Header, lock: File) -> Result<Self, RecordError> {
        let originals = folder.join("originals");
        platform::create_private(&originals)
            .map_err(RecordError::io(&originals, "cannot be made"))?;
        let mut manifest = ManifestWriter::open(&folder)?;
        let id = header.id.clone();
        manifest.add([Line::Begin(header)])?;
        Ok(Self {
            folder,
            id,
            manifest,
            written: 0,
            _lock: lock,
        })
    }

    /// The record's folder.
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// The record's name.
    pub fn id(&self) -> &str {
        &self.id
    }

    /// Makes the changes, and says of each what became of it, in the same order. `made` is
    /// called as files are dealt with, with how many.
    ///
    /// # Errors
    /// Where the record itself cannot be written: what was not begun yet is as it was.
    pub fn commit(
        &mut self,
        changes: &[Change<'_>],
        made: &(dyn Fn(usize) + Sync),
    ) -> Result<Vec<Outcome>, RecordError> {
        let mut outcomes = Vec::with_capacity(changes.len());
        let mut left = changes;
        while !left.is_empty() {
            let (batch, rest) = left.split_at(batch_length(left));
            outcomes.extend(self.commit_batch(batch)?);
            made(batch.len());
            left = rest;
        }
        Ok(outcomes)
    }

    fn commit_batch(&mut self, batch: &[Change<'_>]) -> Result<Vec<Outcome>, RecordError> {
        let first = self.written + 1;
        self.written += batch.len();
        let (folder, id) = (&self.folder, &self.id);
        let kept: Vec<Result<(Entry, Option<File>), String>> = batch
            .par_iter()
            .enumerate()
            .map(|(index, change)| keep_original(folder, id, first + index, change))
            .collect();
        let originals = folder.join("originals");
        let unsynced = |error| RecordError::io(&originals, "cannot be synced")(error);
        let (prepared, mut files) = apart(kept);
        files.extend(platform::folder_to_sync(&originals).map_err(unsynced)?);
        for synced in sync_together(&files) {
            synced.map_err(unsynced)?;
        }
        drop(files);
        let entries = prepared
            .iter()
            .flatten()
            .map(|entry| Line::Entry(Box::new(entry.clone())));
        self.manifest.add(entries)?;
        let written: Vec<Result<Option<File>, String>> = batch
            .par_iter()
            .zip(&prepared)
            .map(|(change, prepared)| write_beside(&self.folder, prepared.as_ref(), change))
            .collect();
        let written = synced(written);
        let outcomes: Vec<Outcome> = batch
            .par_iter()
            .zip(prepared.par_iter().zip(&written))
            .map(|(change, (prepared, written))| match (prepared, written) {
                (Err(why), _) => Outcome::Left(why.clone()),
                (Ok(entry), Err(why)) => {
                    let _ = platform::remove(&entry.temporary.to_path());
                    Outcome::Left(why.clone())
                }
                (Ok(entry), Ok(())) => replace(entry, change).unwrap_or_else(Outcome::Left),
            })
            .collect();
        let parents: BTreeSet<&Path> = batch
            .iter()
            .filter_map(|change| change.path.parent())
            .collect();
        let open = |parent| platform::folder_to_sync(parent).ok().flatten();
        let folders: Vec<File> = parents.into_iter().filter_map(open).collect();
        // The exchange itself is atomic; a folder that cannot be synced costs no data.
        let _ = sync_together(&folders);
        let states = prepared
            .iter()
            .zip(&outcomes)
            .filter_map(|(prepared, outcome)| {
                let entry = prepared.as_ref().ok()?;
                Some(Line::State(
                    entry.number,
                    match outcome {
                        Outcome::Done | Outcome::Partly(_) => EntryState::Done,
                        Outcome::Left(why) => EntryState::Left(why.clone()),
                    },
                ))
            });
        self.manifest.add(states.collect::<Vec<_>>())?;
        Ok(outcomes)
    }

    /// Ends the record; `report` is kept beside the manifest for whoever asks later.
    ///
    /// # Errors
    /// Where the record cannot be written; the changes are made all the same.
    pub fn finish(mut self, report: &[u8]) -> Result<(), RecordError> {
        if !report.is_empty() {
            let path = self.folder.join("report.json");
            let write = platform::create_new(&path).and_then(|mut file| {
                file.write_all(report)?;
                file.sync_all()
            });
            write.map_err(RecordError::io(&path, "cannot be written"))?;
        }
        self.manifest.add([Line::Finished])
    }
}

/// How many of the changes make the next batch: at least one.
fn batch_length(changes: &[Change<'_>]) -> usize {
    let size = |change: &Change<'_>| fs::metadata(&change.path).map_or(0, |data| data.len());
    let mut bytes = 0u64;
    let fits = changes.iter().take(BATCH).take_while(|change| {
        bytes = bytes.saturating_add(size(change));
        bytes <= BATCH_BYTES
    });
    fits.count().max(1)
}

/// What was kept, and the files that are still to be synced.
fn apart(
    kept: Vec<Result<(Entry, Option<File>), String>>,
) -> (Vec<Result<Entry, String>>, Vec<File>) {
    let mut files = Vec::with_capacity(kept.len());
    let entries = kept.into_iter().map(|one| {
        one.map(|(entry, file)| {
            files.extend(file);
            entry
        })
    });
    (entries.collect(), files)
}

/// Syncs the new copies that could be written.
fn synced(written: Vec<Result<Option<File>, String>>) -> Vec<Result<(), String>> {
    let mut files = Vec::with_capacity(written.len());
    let mut outcomes: Vec<Result<(), String>> = Vec::with_capacity(written.len());
    let mut of_files = Vec::with_capacity(written.len());
    for (index, one) in written.into_iter().enumerate() {
        // A link has no content to sync; its folder is synced behind it.
        outcomes.push(one.map(|file| {
            if let Some(file) = file {
                files.push(file);
                of_files.push(index);
            }
        }));
    }
    for (index, synced) in of_files.into_iter().zip(sync_together(&files)) {
        outcomes[index] = synced.map_err(|error| out_of_space(&error, UNWRITTEN));
    }
    outcomes
}

/// Copies the original into the record, and checks that it is what was planned on. The copy is
/// given back to be synced.
fn keep_original(
    folder: &Path,
    id: &str,
    number: usize,
    change: &Change<'_>,
) -> Result<(Entry, Option<File>), String> {
    let parent = change.path.parent().unwrap_or(Path::new("/"));
    if parent.canonicalize().ok().as_deref() != Some(parent) {
        return Err(
            "a folder above it has become a link or is gone; it is left as it is".to_owned(),
        );
    }
    let mut entry = Entry {
        number,
        path: PathText::from(change.path.as_path()),
        links: change
            .links
            .iter()
            .map(|path| PathText::from(path.as_path()))
            .collect(),
        temporary: PathText::from(
            parent
                .join(format!(".lastmaker-{id}-{number}.tmp"))
                .as_path(),
        ),
        before: String::new(),
        after: change.after.to_hex().to_string(),
        created: change.before.is_none(),
        kept: change.before.is_some(),
        link: None,
        modified: None,
        edits: Vec::new(),
        moves: change.moves.clone(),
    };
    let Some(before) = change.before else {
        return Ok((entry, None));
    };
    entry.before = before.to_hex().to_string();
    if change.exclusive && crate::platform::is_open_elsewhere(&change.path) {
        return Err(crate::platform::OPEN_ELSEWHERE.to_owned());
    }
    let original = entry.original(folder);
    if let Some(target) = link_target(&change.path) {
        let NewContent::Link(kind, _) = &change.content else {
            return Err("it can no longer be read as a file: it has become a link".to_owned());
        };
        entry.link = Some(link::kind_of_link(&change.path).unwrap_or(*kind));
        let kept = copy_hashed(link::bytes_of(&target), &original);
        let (_, copy) = kept.map_err(|error| {
            let _ = fs::remove_file(&original);
            out_of_space(&error, UNKEPT)
        })?;
        if hash_link(&target) != before {
            let _ = fs::remove_file(&original);
            return Err(CHANGED.to_owned());
        }
        return Ok((entry, Some(copy)));
    }
    if let NewContent::Edits(edits) = &change.content {
        entry.edits = edits
            .as_slice()
            .iter()
            .map(|edit| EditSpan {
                start: edit.span.start as u64,
                gone: (edit.span.end - edit.span.start) as u64,
                with: edit.with.as_slice().into(),
            })
            .collect();
    }
    let (file, metadata) = crate::platform::open_regular(&change.path)
        .map_err(|error| format!("it can no longer be read: {error}"))?;
    entry.modified = metadata.modified().ok().map(nanoseconds);
    let (kept, copy) = match copy_hashed(file, &original) {
        Err(error) if error.kind() == io::ErrorKind::StorageFull && change.expendable => {
            let _ = fs::remove_file(&original);
            entry.kept = false;
            let hash = hash_file(&change.path)
                .map_err(|error| format!("it can no longer be read: {error}"))?;
            (hash, None)
        }
        copied => copied
            .map(|(hash, copy)| (hash, Some(copy)))
            .map_err(|error| {
                let _ = fs::remove_file(&original);
                out_of_space(&error, UNKEPT)
            })?,
    };
    if kept != before {
        let _ = fs::remove_file(&original);
        return Err(CHANGED.to_owned());
    }
    Ok((entry, copy))
}

fn out_of_space(error: &io::Error, what: &str) -> String {
    if error.kind() == io::ErrorKind::StorageFull {
        format!(
            "{what}: no space is left there; free some, or choose another folder with --record-dir"
        )
    } else {
        format!("{what}: {error}")
    }
}

/// Copies `source` to a new file, which is still to be synced, and gives the hash of what was
/// copied.
fn copy_hashed(mut source: impl Read, to: &Path) -> io::Result<(blake3::Hash, File)> {
    let mut file = platform::create_new(to)?;
    let hash = pump(&mut source, &mut file)?;
    Ok((hash, file))
}

fn pump(source: &mut impl Read, file: &mut File) -> io::Result<blake3::Hash> {
    let mut hasher = blake3::Hasher::new();
    let mut buffer = vec![0; 64 * 1024];
    loop {
        match source.read(&mut buffer) {
            Ok(0) => return Ok(hasher.finalize()),
            Ok(read) => {
                hasher.update(&buffer[..read]);
                file.write_all(&buffer[..read])?;
            }
            Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
            Err(error) => return Err(error),
        }
    }
}

const UNKEPT: &str =
    "its original cannot be kept in the record (--record-dir chooses another folder)";
const CHANGED: &str = "it was changed after it was read; run again to see it as it is now";
const UNWRITTEN: &str = "the new copy cannot be written beside it";

/// Writes the new copy beside the file; it is given back to be synced.
fn write_beside(
    record: &Path,
    prepared: Result<&Entry, &String>,
    change: &Change<'_>,
) -> Result<Option<File>, String> {
    let entry = prepared.map_err(String::clone)?;
    let temporary = entry.temporary.to_path();
    if let NewContent::Link(kind, target) = &change.content {
        let made = link::make_link(*kind, target, &temporary).and_then(|()| match change.before {
            Some(_) => link::keep_owner(&change.path, &temporary),
            None => Ok(()),
        });
        return made
            .map(|()| None)
            .map_err(|error| format!("the new link cannot be made beside it: {error}"));
    }
    write_new(record, entry, change, &temporary)
        .map(Some)
        .map_err(|error| out_of_space(&error, UNWRITTEN))
}

/// Puts the new copy in the file's place.
fn replace(entry: &Entry, change: &Change<'_>) -> Result<Outcome, String> {
    let temporary = entry.temporary.to_path();
    let discard = |why: String| {
        let _ = platform::remove(&temporary);
        why
    };
    let Some(before) = change.before else {
        create(&temporary, &change.path)
            .map_err(|error| discard(format!("it cannot be put back: {error}")))?;
        return Ok(Outcome::Done);
    };
    match platform::swap_in(&temporary, &change.path) {
        Ok(out) => settle_exchange(&out, change, before)?,
        Err(error) if error.kind() == io::ErrorKind::Unsupported => {
            // Without an exchange, what is replaced is gone: it is looked at right before.
            if hash_file(&change.path).ok() != Some(before) {
                return Err(discard(CHANGED.to_owned()));
            }
            fs::rename(&temporary, &change.path)
                .map_err(|error| discard(format!("it cannot be replaced: {error}")))?;
        }
        Err(error) => {
            return Err(discard(if platform::is_in_use(&error) {
                "a program has it open, or it may not be replaced; close the program and run again"
                    .to_owned()
            } else {
                format!("it cannot be replaced: {error}")
            }));
        }
    }
    Ok(join_names(change, before, &temporary))
}

/// Puts a file where there must be none.
fn create(temporary: &Path, path: &Path) -> io::Result<()> {
    // A second name is refused if something is there; where there are no second names, the
    // look before the rename has to do.
    match fs::hard_link(temporary, path) {
        // Where links can have second names, a link keeps being one.
        Ok(()) => platform::remove(temporary),
        Err(_) if path.symlink_metadata().is_ok() => Err(io::ErrorKind::AlreadyExists.into()),
        Err(_) => fs::rename(temporary, path),
    }
}

/// Looks at what came out of an exchange: deletes it if it is what was planned on, and puts
/// it back if somebody saved meanwhile.
fn settle_exchange(out: &Path, change: &Change<'_>, before: blake3::Hash) -> Result<(), String> {
    if hash_file(out).ok() == Some(before) {
        let _ = platform::remove(out);
        return Ok(());
    }
    match platform::swap_in(out, &change.path) {
        Ok(ours) => {
            let _ = platform::remove(&ours);
            Err(
                "it was saved by somebody while it was replaced; what they saved is in its place"
                    .to_owned(),
            )
        }
        Err(_) => Err(format!(
            "it was saved by somebody while it was replaced; what they saved lies in {}",
            out.display()
        )),
    }
}

/// Gives the new content to the file's other names, as far as they still have the old one.
fn join_names(change: &Change<'_>, before: blake3::Hash, temporary: &Path) -> Outcome {
    for link in &change.links {
        let old = hash_file(link).ok() == Some(before);
        let joined = if old {
            relink(&change.path, link, temporary)
        } else {
            Err(io::Error::other("it was changed by itself"))
        };
        if let Err(error) = joined {
            return Outcome::Partly(format!(
                "its other name {} is left as it is: {error}",
                link.display()
            ));
        }
    }
    Outcome::Done
}

/// Makes `name` another name of `file`, in one step.
pub(super) fn relink(file: &Path, name: &Path, temporary: &Path) -> io::Result<()> {
    let beside = name.with_file_name(temporary.file_name().unwrap_or_default());
    fs::hard_link(file, &beside)?;
    fs::rename(&beside, name).inspect_err(|_| {
        let _ = fs::remove_file(&beside);
    })
}

fn write_new(
    record: &Path,
    entry: &Entry,
    change: &Change<'_>,
    temporary: &Path,
) -> io::Result<File> {
    let mut file = platform::create_new(temporary)?;
    let hash = match &change.content {
        NewContent::Edits(edits) | NewContent::Container(edits) => {
            let original = File::open(entry.original(record))?;
            pump(
                &mut SplicedReader::new(io::BufReader::new(original), edits),
                &mut file,
            )?
        }
        NewContent::File(path) => pump(&mut File::open(path)?, &mut file)?,
        NewContent::Bytes(bytes) => pump(&mut &bytes[..], &mut file)?,
        NewContent::Link(..) => return Err(io::Error::other("a link has no content")),
    };
    if hash != change.after {
        return Err(io::Error::other(
            "it is not what was planned, so it is not used",
        ));
    }
    if change.before.is_some() {
        platform::keep_metadata(&change.path, &file).map_err(|error| {
            io::Error::new(
                error.kind(),
                format!("its owner, access list or attributes cannot be kept by this user; run as an administrator ({error})"),
            )
        })?;
    }
    if let Some(modified) = change.modified {
        file.set_modified(time(modified))?;
    }
    Ok(file)
}

fn nanoseconds(time: SystemTime) -> i128 {
    match time.duration_since(UNIX_EPOCH) {
        Ok(since) => since.as_nanos() as i128,
        Err(before) => -(before.duration().as_nanos() as i128),
    }
}

fn time(nanoseconds: i128) -> SystemTime {
    let distance = Duration::from_nanos(nanoseconds.unsigned_abs().min(u64::MAX.into()) as u64);
    if nanoseconds >= 0 {
        UNIX_EPOCH + distance
    } else {
        UNIX_EPOCH - distance
    }
}
