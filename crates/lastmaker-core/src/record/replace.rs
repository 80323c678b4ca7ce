//! Putting a new copy in a file's place, which is whole at every instant.

use std::fs::{self, File};
use std::io::{self, Read, Write};
use std::path::Path;
use std::time::{Duration, SystemTime, UNIX_EPOCH};

use super::change::{Change, ChangeFault, Made, NewContent, OtherNameFault, OtherNameReason};
use super::hash_file;
use super::link;
use super::manifest::Entry;
use super::platform;
use crate::layer::SplicedReader;

/// Writes the new copy beside the file; it is given back to be synced.
pub(super) fn write_beside(
    record: &Path,
    entry: &Entry,
    change: &Change<'_>,
) -> Result<Option<File>, ChangeFault> {
    let temporary = entry.temporary.to_path();
    if let NewContent::Link(kind, target) = &change.content {
        let made = link::make_link(*kind, target, &temporary).and_then(|()| match change.before {
            Some(_) => link::keep_owner(&change.path, &temporary),
            None => Ok(()),
        });
        return made.map(|()| None).map_err(ChangeFault::LinkUnmade);
    }
    write_new(record, entry, change, &temporary).map(Some)
}

/// Puts the new copy in the file's place.
pub(super) fn replace(entry: &Entry, change: &Change<'_>) -> Result<Made, ChangeFault> {
    let temporary = entry.temporary.to_path();
    let discard = |fault: ChangeFault| {
        let _ = platform::remove(&temporary);
        fault
    };
    let Some(before) = change.before else {
        create(&temporary, &change.path)
            .map_err(|error| discard(ChangeFault::NotPutBack(error)))?;
        return Ok(Made::Done);
    };
    match platform::swap_in(&temporary, &change.path) {
        Ok(out) => settle_exchange(&out, change, before)?,
        Err(error) if error.kind() == io::ErrorKind::Unsupported => {
            // Without an exchange, what is replaced is gone: it is looked at right before.
            if hash_file(&change.path).ok() != Some(before) {
                return Err(discard(ChangeFault::Changed));
            }
            fs::rename(&temporary, &change.path)
                .map_err(|error| discard(ChangeFault::Unreplaced(error)))?;
        }
        Err(error) => {
            return Err(discard(if platform::is_in_use(&error) {
                ChangeFault::InUse
            } else {
                ChangeFault::Unreplaced(error)
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
fn settle_exchange(
    out: &Path,
    change: &Change<'_>,
    before: blake3::Hash,
) -> Result<(), ChangeFault> {
    if hash_file(out).ok() == Some(before) {
        let _ = platform::remove(out);
        return Ok(());
    }
    match platform::swap_in(out, &change.path) {
        Ok(ours) => {
            let _ = platform::remove(&ours);
            Err(ChangeFault::SavedMeanwhile)
        }
        Err(_) => Err(ChangeFault::SavedAside(out.to_owned())),
    }
}

/// Gives the new content to the file's other names, as far as they still have the old one.
fn join_names(change: &Change<'_>, before: blake3::Hash, temporary: &Path) -> Made {
    for name in &change.links {
        let old = hash_file(name).ok() == Some(before);
        let joined = match old {
            true => relink(&change.path, name, temporary).map_err(OtherNameReason::Io),
            false => Err(OtherNameReason::Changed),
        };
        if let Err(why) = joined {
            let name = name.clone();
            return Made::Partly(OtherNameFault { name, why });
        }
    }
    Made::Done
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
) -> Result<File, ChangeFault> {
    let mut file = platform::create_new(temporary).map_err(ChangeFault::Unwritten)?;
    let hash = fill(&mut file, &entry.original(record), &change.content)
        .map_err(ChangeFault::Unwritten)?;
    if hash != change.after {
        return Err(ChangeFault::NotAsPlanned);
    }
    if change.before.is_some() {
        platform::keep_metadata(&change.path, &file).map_err(ChangeFault::Metadata)?;
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
        NewContent::Edits(edits) | NewContent::Container(edits) => {
            let original = io::BufReader::new(File::open(original)?);
            pump(&mut SplicedReader::new(original, edits), file)
        }
        NewContent::File(path) => pump(&mut File::open(path)?, file),
        NewContent::Bytes(bytes) => pump(&mut &bytes[..], file),
        // A link has no content, and is made another way.
        NewContent::Link(..) => Err(io::ErrorKind::InvalidInput.into()),
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
