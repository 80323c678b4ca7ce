//! Files that are neither text nor any known container.
//!
//! Yields the runs of letters in them, in UTF-8 and in UTF-16 at either parity, with the byte
//! at which each is. Nothing in them is ever changed: some of those bytes may count the
//! others.

use super::{Container, Each, Fault, Part, PartContent, RunAt, Source};
use crate::about::About;
use crate::scan::{Hint, may_hold_place};

/// Files of no known kind.
pub(super) struct Binary;

const ABOUT: About = About {
    name: "binary",
    what: "files of no known structure: old office formats, caches, programs' own databases",
    content: "bytes that are no text, and nothing above reads them",
    names: &[],
    read: "runs of letters in UTF-8 and UTF-16, listed with the byte at which they stand",
    limits: "never changed; pictures, sounds, films and programs are looked at with --thorough only",
};

/// Why nothing is changed in them.
const UNKNOWN: &str = "it stands in a file of no known structure, where some bytes may count others; change it in its program, or put a link at the old place";

/// The shortest run that may be a place.
const SHORTEST: usize = 3;
/// Letters of a run that are read at once.
const LONGEST: usize = 1 << 16;

impl Container for Binary {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, _bytes: &[u8], _file_name: &str) -> bool {
        true
    }

    fn is_known(&self) -> bool {
        false
    }

    fn hides(&self) -> bool {
        false
    }

    fn read(&self, source: Source<'_>, each: &mut Each<'_>) -> Result<(), Fault> {
        let Source { bytes, .. } = source;
        let mut runs = Vec::new();
        narrow(bytes, &mut runs);
        for parity in [0, 1] {
            wide(bytes, parity, &mut runs);
        }
        runs.sort_by_key(|(run, _)| (run.at, run.wide));
        for (run, text) in runs {
            each(Part {
                way: "",
                holding: PartContent::Text {
                    bytes: text.as_bytes(),
                    hint: Hint::Code,
                    run: Some(run),
                },
                sealed: Some(UNKNOWN),
            })?;
        }
        Ok(())
    }
}

/// Keeps a run that may name a place.
fn keep(runs: &mut Vec<(RunAt, String)>, run: RunAt, text: &str) {
    if text.len() >= SHORTEST && may_hold_place(text) {
        runs.push((run, text.to_owned()));
    }
}

/// Runs of UTF-8 without control characters.
fn narrow(bytes: &[u8], runs: &mut Vec<(RunAt, String)>) {
    let mut at = 0;
    for chunk in bytes.utf8_chunks() {
        let valid = chunk.valid();
        let mut start = 0;
        for (index, letter) in valid.char_indices() {
            if letter.is_control() || index - start > LONGEST {
                keep(
                    runs,
                    RunAt {
                        at: at + start,
                        wide: false,
                    },
                    &valid[start..index],
                );
                start = index
                    + if letter.is_control() {
                        letter.len_utf8()
                    } else {
                        0
                    };
            }
        }
        keep(
            runs,
            RunAt {
                at: at + start,
                wide: false,
            },
            &valid[start..],
        );
        at += valid.len() + chunk.invalid().len();
    }
}

/// Runs of UTF-16, the low byte first, that begin at an even or at an odd byte. Only scripts
/// that names of files are commonly in count, else any bytes would be letters.
fn wide(bytes: &[u8], parity: usize, runs: &mut Vec<(RunAt, String)>) {
    let Some(bytes_from) = bytes.get(parity..) else {
        return;
    };
    let mut text = String::new();
    let mut start = 0;
    for (index, pair) in bytes_from.chunks_exact(2).enumerate() {
        let unit = u16::from_le_bytes([pair[0], pair[1]]);
        let letter = char::from_u32(u32::from(unit)).filter(|c| {
            !c.is_control() && (unit < 0x0600 || (text.len() >= SHORTEST && unit < 0xD800))
        });
        match letter {
            Some(letter) if text.len() < LONGEST => {
                if text.is_empty() {
                    start = parity + index * 2;
                }
                text.push(letter);
            }
            _ => {
                keep(
                    runs,
                    RunAt {
                        at: start,
                        wide: true,
                    },
                    &text,
                );
                text.clear();
            }
        }
    }
    keep(
        runs,
        RunAt {
            at: start,
            wide: true,
        },
        &text,
    );
}
