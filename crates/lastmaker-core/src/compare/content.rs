//! What is in files of one size, and how far an earlier comparison came.

use std::collections::HashMap;
use std::fs::{self, File};
use std::io::{self, BufRead, BufReader, BufWriter, Read, Write};
use std::path::{Path, PathBuf};
use std::sync::Mutex;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::{SystemTime, UNIX_EPOCH};

use rayon::prelude::*;
use serde::{Deserialize, Serialize};

use super::Pair;
use super::pair::Twin;
use crate::base::platform;
use crate::base::threads::with_threads;
use crate::report::LeftFile;

/// What comparing contents brought.
#[derive(Debug, Default)]
pub(super) struct Compared {
    /// Whether each file is the same on both sides, in the order asked for; none where it could
    /// not be read.
    pub(super) same: Vec<Option<bool>>,
    pub(super) left: Vec<LeftFile>,
}

/// Compares the contents of `twins`.
pub(super) fn compare(
    pair: &Pair,
    twins: &[&Twin],
    memory: Option<&Memory>,
    jobs: usize,
    megabytes: &AtomicU64,
) -> Compared {
    let of_twin = |twin: &&Twin| {
        let stamp = Stamp::of(twin);
        if let Some(known) = memory.and_then(|memory| memory.known.get(&stamp)) {
            return (Some(*known), None);
        }
        let old = pair.old.path.join(&twin.below);
        let new = pair.new.path.join(twin.new_below());
        match is_same(&old, &new, megabytes) {
            Ok(same) => {
                if let Some(memory) = memory {
                    memory.keep(stamp, same);
                }
                (Some(same), None)
            }
            Err((path, error)) => {
                let why = format!("its content cannot be read: {error}");
                (None, Some(LeftFile::new(&path, why)))
            }
        }
    };
    let all: Vec<_> = with_threads(jobs, || twins.par_iter().map(of_twin).collect());
    let mut compared = Compared::default();
    for (same, left) in all {
        compared.same.push(same);
        compared.left.extend(left);
    }
    compared
}

/// Whether two files hold the same bytes. Both are read at once: a difference early in a large
/// file is found early.
fn is_same(old: &Path, new: &Path, megabytes: &AtomicU64) -> Result<bool, (PathBuf, io::Error)> {
    const PIECE: usize = 1 << 18;
    let of = |path: &Path| {
        let path = path.to_owned();
        move |error| (path, error)
    };
    let (mut a, _) = platform::open_regular(old).map_err(of(old))?;
    let (mut b, _) = platform::open_regular(new).map_err(of(new))?;
    let mut pieces = (vec![0; PIECE], vec![0; PIECE]);
    let mut done: u64 = 0;
    loop {
        let read = fill(&mut a, &mut pieces.0).map_err(of(old))?;
        let other = fill(&mut b, &mut pieces.1).map_err(of(new))?;
        if pieces.0[..read] != pieces.1[..other] {
            return Ok(false);
        }
        let before = done >> 20;
        done += read as u64;
        megabytes.fetch_add((done >> 20) - before, Ordering::Relaxed);
        if read < PIECE {
            return Ok(true);
        }
    }
}

/// Reads until the buffer is full or the file ends.
fn fill(file: &mut File, buffer: &mut [u8]) -> io::Result<usize> {
    let mut filled = 0;
    while filled < buffer.len() {
        match file.read(&mut buffer[filled..]) {
            Ok(0) => break,
            Ok(read) => filled += read,
            Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
            Err(error) => return Err(error),
        }
    }
    Ok(filled)
}

/// A file on both sides as it was when its contents were compared.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
struct Stamp {
    /// Hash of the way to it.
    path: String,
    size: u64,
    /// When each was changed last, in nanoseconds since 1970.
    times: (u64, u64),
}

impl Stamp {
    fn of(twin: &Twin) -> Self {
        let nanoseconds = |time: SystemTime| {
            let since = time.duration_since(UNIX_EPOCH).unwrap_or_default();
            u64::try_from(since.as_nanos()).unwrap_or(u64::MAX)
        };
        Self {
            path: blake3::hash(twin.below.as_os_str().as_encoded_bytes())
                .to_hex()
                .as_str()
                .to_owned(),
            size: twin.size,
            times: (nanoseconds(twin.old_time), nanoseconds(twin.new_time)),
        }
    }
}

/// One line of a journal.
#[derive(Serialize, Deserialize)]
struct Line {
    #[serde(flatten)]
    stamp: Stamp,
    same: bool,
}

/// Where it is remembered how far comparisons came, so that one that was broken off goes on there.
/// When one is done, its journal goes.
#[derive(Clone, Debug)]
pub struct Journal {
    folder: PathBuf,
}

impl Journal {
    /// Journals in `folder`, which is made when it is needed.
    pub fn new(folder: PathBuf) -> Self {
        Self { folder }
    }

    /// What is remembered of a pair; none if nothing can be written, which only costs time later.
    pub(super) fn open(&self, pair: &Pair) -> Option<Memory> {
        let canonical = |path: &Path| path.canonicalize().ok();
        let (old, new) = (canonical(&pair.old.path)?, canonical(&pair.new.path)?);
        let mut hasher = blake3::Hasher::new();
        for side in [&old, &new] {
            hasher.update(side.as_os_str().as_encoded_bytes());
            hasher.update(&[0]);
        }
        let name = format!("{}.jsonl", &hasher.finalize().to_hex()[..16]);
        let file = self.folder.join(name);
        let known = File::open(&file).map(|file| known(BufReader::new(file)));
        platform::private_folders()
            .recursive(true)
            .create(&self.folder)
            .ok()?;
        let append = File::options().create(true).append(true).open(&file).ok()?;
        Some(Memory {
            known: known.unwrap_or_default(),
            file,
            writer: Mutex::new(BufWriter::with_capacity(1 << 13, append)),
        })
    }
}

/// The lines of a journal; one that was cut off is left out.
fn known(lines: impl BufRead) -> HashMap<Stamp, bool> {
    let lines = lines.lines().map_while(Result::ok);
    let read = lines.filter_map(|line| serde_json::from_str::<Line>(&line).ok());
    read.map(|line| (line.stamp, line.same)).collect()
}

/// What is remembered of the contents of one pair.
#[derive(Debug)]
pub(super) struct Memory {
    known: HashMap<Stamp, bool>,
    file: PathBuf,
    writer: Mutex<BufWriter<File>>,
}

impl Memory {
    fn keep(&self, stamp: Stamp, same: bool) {
        // What took long to read is written down at once.
        const LARGE: u64 = 1 << 18;
        let is_large = stamp.size >= LARGE;
        let (Ok(line), Ok(mut writer)) = (
            serde_json::to_vec(&Line { stamp, same }),
            self.writer.lock(),
        ) else {
            return;
        };
        // A line begins on its own even where the one before it was cut off. What cannot be
        // remembered is read again.
        let written = writer
            .write_all(b"\n")
            .and_then(|()| writer.write_all(&line));
        if is_large {
            let _ = written.and_then(|()| writer.flush());
        }
    }

    /// Forgets it: the comparison is done.
    pub(super) fn forget(self) {
        let _ = fs::remove_file(&self.file);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_journal_that_was_cut_off_is_read_as_far_as_it_goes() {
        let text = "\n{\"path\":\"a\",\"size\":1,\"times\":[1,2],\"same\":true}\n{\"path\":\"b\",\"si\n\
                    {\"path\":\"c\",\"size\":3,\"times\":[1,2],\"same\":false}";
        let known = known(text.as_bytes());
        let mut sizes: Vec<(u64, bool)> = known.iter().map(|(it, same)| (it.size, *same)).collect();
        sizes.sort_unstable();
        assert_eq!(sizes, [(1, true), (3, false)]);
    }
}
