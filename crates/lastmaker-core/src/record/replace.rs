//! Putting a new copy in a file's place, which is whole at every instant.

use std::collections::HashSet;
use std::ffi::{OsStr, OsString};
use std::fs::File;
use std::io::{self, Read, Write};
use std::path::Path;
use std::time::{Duration, SystemTime, UNIX_EPOCH};

use super::change::{Change, ChangeFault, Made, NewContent, OtherNameFault, OtherNameReason};
use super::manifest::Entry;
use super::system::folder::{self, Folder, Spot, beside, is_other_folder, open_parent};
use crate::base::platform::{OpenElsewhere, OpenFiles, open_regular};
use crate::layer::SplicedReader;

/// Writes the new copy beside the file, called `temporary`; it is given back to be synced.
pub(super) fn write_beside(
    record: &Path,
    entry: &Entry,
    change: &Change<'_>,
    spot: &Spot,
    temporary: &OsStr,
) -> Result<Option<File>, ChangeFault> {
    let folder = &spot.folder;
    if let NewContent::Link(kind, target) = &change.content {
        let made = folder.make_link(*kind, target, temporary);
        let made = made.and_then(|()| match change.before {
            Some(_) => folder.keep_owner(&spot.name, temporary),
            None => Ok(()),
        });
        return made.map(|()| None).map_err(ChangeFault::LinkUnmade);
    }
    write_new(record, entry, change, spot, temporary).map(Some)
}

fn write_new(
    record: &Path,
    entry: &Entry,
    change: &Change<'_>,
    spot: &Spot,
    temporary: &OsStr,
) -> Result<File, ChangeFault> {
    if let NewContent::Original(path) = &change.content {
        open_regular(path).map_err(ChangeFault::OriginalUnread)?;
    }
    let mut file = spot
        .folder
        .create_new(temporary)
        .map_err(ChangeFault::Unwritten)?;
    let hash = fill(&mut file, &entry.original(record), &change.content)
        .map_err(ChangeFault::Unwritten)?;
    if hash != change.after {
        return Err(match &change.content {
            NewContent::Original(path) => ChangeFault::OriginalChanged(path.clone()),
            _ => ChangeFault::NotAsPlanned,
        });
    }
    // Where the exchange itself keeps what belongs to the old file, that is enough.
    let exchanged = cfg!(windows) && change.before.is_some();
    if let Some(belongings) = entry.belongings.as_ref().filter(|_| !exchanged) {
        belongings.give_to(&file).map_err(ChangeFault::Metadata)?;
    }
    if let Some(modified) = change.modified {
        file.set_modified(time(modified))
            .map_err(ChangeFault::Unwritten)?;
    }
    Ok(file)
}

/// Writes the new content of what has its original at `original`, and gives its hash.
fn fill(file: &mut File, original: &Path, content: &NewContent<'_>) -> io::Result<blake3::Hash> {
    match content {
        NewContent::Edits(edits) => {
            let original = io::BufReader::new(open_regular(original)?.0);
            pump(&mut SplicedReader::new(original, edits), file)
        }
        NewContent::Original(path) => pump(&mut open_regular(path)?.0, file),
        NewContent::Bytes(bytes) => pump(&mut &bytes[..], file),
        // A link has no content, and is made another way.
        NewContent::Link(..) => Err(io::ErrorKind::InvalidInput.into()),
    }
}

/// What came of putting the new copy in the file's place.
pub(super) enum Exchanged {
    /// The old file has this name now, and is still to be looked at.
    Out(OsString),
    /// The old file is gone, or there was none.
    Final,
}

/// Puts the new copy in the file's place.
pub(super) fn exchange(
    change: &Change<'_>,
    spot: &Spot,
    temporary: &OsStr,
) -> Result<Exchanged, ChangeFault> {
    let Spot { folder, name } = spot;
    // The folder is held, but by its path it may be another now.
    if !change.path.parent().is_some_and(|path| folder.is_at(path)) {
        return Err(ChangeFault::OtherFolder);
    }
    let Some(before) = change.before else {
        folder
            .create_from(temporary, name)
            .map_err(ChangeFault::NotPutBack)?;
        return Ok(Exchanged::Final);
    };
    match folder.exchange(temporary, name) {
        Ok(out) => Ok(Exchanged::Out(out)),
        Err(error) if error.kind() == io::ErrorKind::Unsupported => {
            // Without an exchange, what is replaced is gone: it is looked at right before.
            if folder.hash(name).ok() != Some(before) {
                return Err(ChangeFault::Changed);
            }
            folder
                .rename(temporary, name)
                .map_err(ChangeFault::Unreplaced)?;
            Ok(Exchanged::Final)
        }
        Err(error) if folder::is_in_use(&error) => Err(ChangeFault::InUse),
        Err(error) => Err(ChangeFault::Unreplaced(error)),
    }
}

/// Looks at what came out of an exchange, called `out`: it is no longer needed if it is what was
/// planned on and nobody writes to it; else it is put back.
pub(super) fn settle_exchange(
    change: &Change<'_>,
    spot: &Spot,
    out: &OsStr,
    open: &OpenFiles,
) -> Result<(), ChangeFault> {
    let folder = &spot.folder;
    let as_planned = change.before.is_some() && folder.hash(out).ok() == change.before;
    let is_open = as_planned && is_open(folder, out, open, change);
    let why = match (as_planned, is_open) {
        (true, false) => return Ok(()),
        (true, true) => OpenElsewhere.into(),
        (false, _) => ChangeFault::SavedMeanwhile,
    };
    put_back(change, spot, out).and(Err(why))
}

/// Whether a program writes to what is called `name`, or has it open if that is to be left.
fn is_open(folder: &Folder, name: &OsStr, open: &OpenFiles, change: &Change<'_>) -> bool {
    match folder.link_target(name) {
        Some(_) => false,
        None => folder
            .open_regular(name)
            .is_ok_and(|(file, _)| open.has(&file, change.exclusive)),
    }
}

/// Puts what came out of an exchange back. What is in its place should be the new copy; if not,
/// somebody saved once more, and that is put back in turn: the last one is in the file's place
/// then, and the one before stays beside it.
fn put_back(change: &Change<'_>, spot: &Spot, out: &OsStr) -> Result<(), ChangeFault> {
    let Spot { folder, name } = spot;
    let aside = || ChangeFault::SavedAside(beside(&change.path, out));
    let mut expected = Some(change.after);
    for _ in 0..MOST_SAVES {
        let theirs = folder.hash(out).ok();
        match folder.exchange(out, name) {
            Ok(came) if came == out => {}
            Ok(came) => folder.rename(&came, out).map_err(|_| aside())?,
            // What they saved has been removed by them since.
            Err(error) if error.kind() == io::ErrorKind::NotFound => return Ok(()),
            Err(_) => return Err(aside()),
        }
        let came = folder.hash(out).ok();
        if came == Some(change.after) {
            // Who has opened the new copy meanwhile will still write to it.
            let open = OpenFiles::look(&HashSet::from([out.to_owned()]));
            return if is_open(folder, out, &open, change) {
                Err(aside())
            } else {
                Ok(())
            };
        }
        if came == expected {
            return Err(aside());
        }
        expected = theirs;
    }
    Err(aside())
}

/// How often somebody may save while a file is put back.
const MOST_SAVES: usize = 100;

/// Gives the new content to the file's other names, as far as they have the old one or are no
/// names of the file any more.
pub(super) fn join_names(
    links: &[std::path::PathBuf],
    spot: &Spot,
    known: &[blake3::Hash],
    temporary: &OsStr,
) -> Made {
    for link in links {
        if let Err(why) = join_name(link, spot, known, temporary) {
            let name = link.clone();
            return Made::Partly(OtherNameFault { name, why });
        }
    }
    Made::Done
}

fn join_name(
    link: &Path,
    spot: &Spot,
    known: &[blake3::Hash],
    temporary: &OsStr,
) -> Result<(), OtherNameReason> {
    let (folder, name) = open_parent(link).map_err(|error| {
        if is_other_folder(&error) {
            OtherNameReason::Changed
        } else {
            OtherNameReason::Io(error)
        }
    })?;
    if folder.is_same(&name, &spot.folder, &spot.name) {
        return Ok(());
    }
    match folder.hash(&name) {
        Ok(hash) if known.contains(&hash) => {
            folder.relink(&name, &spot.folder, &spot.name, temporary)?;
            Ok(())
        }
        _ => Err(OtherNameReason::Changed),
    }
}

/// Removes what is called `name` if there is anything.
pub(super) fn discard(folder: &Folder, name: &OsStr) -> io::Result<()> {
    match folder.remove(name) {
        Err(error) if error.kind() != io::ErrorKind::NotFound => Err(error),
        _ => Ok(()),
    }
}

/// Copies all of `source` to `file`, and gives the hash of it.
pub(super) fn pump(source: &mut impl Read, file: &mut File) -> io::Result<blake3::Hash> {
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

fn time(nanoseconds: i128) -> SystemTime {
    let distance = Duration::from_nanos(nanoseconds.unsigned_abs().min(u64::MAX.into()) as u64);
    if nanoseconds >= 0 {
        UNIX_EPOCH + distance
    } else {
        UNIX_EPOCH - distance
    }
}
