//! What holds documents or strings in a structure of its own: archives, compressed files,
//! databases, shortcuts, binary property lists. One file a kind, one table registers all.
//!
//! A container is a layer for which text is too narrow: it *opens* into parts, and *lifts* new
//! contents of parts to edits of its own bytes. A part is a document (and may be a container
//! again, to a stated depth), or a string. A container knows nothing of moves.

mod archive;
mod bencode;
mod binary;
mod bytes;
mod compressed;
mod database;
mod encrypted;
mod fault;
mod pdf;
mod property_list;
mod shortcut;

use std::cell::Cell;
use std::ops::Range;

pub use fault::{Fault, LiftFault, Refused, RefusedPart};

use crate::about::About;
use crate::base::limits::Limits;
use crate::layer::{ByteEdits, Edit, Edits};
use crate::scan::Hint;

/// Containers in containers are followed so deep.
pub const DEEPEST: usize = 4;

/// What a part holds.
#[derive(Debug)]
pub enum PartContent<'a> {
    /// A document, or a container again, with its name.
    Document {
        /// Its file name, by which a format may be known.
        name: &'a str,
        /// Its bytes.
        bytes: &'a [u8],
        /// Whether names may be cut into pieces by tags in it, so that its bytes alone do not
        /// rule it out.
        cut: bool,
    },
    /// A string in UTF-8, as far as it is text.
    Text {
        /// The string.
        bytes: &'a [u8],
        /// What is known of it for finding places in it.
        hint: Hint,
        /// Where it is in the container, if it is a run of letters among bytes of no known
        /// structure.
        run: Option<RunAt>,
    },
    /// Something that cannot be read, and why; the other parts can.
    Unreadable(Fault),
}

/// Where a run of letters is among bytes of no known structure.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct RunAt {
    /// Offset of its first byte, counted from 0.
    pub at: usize,
    /// Whether it is in UTF-16.
    pub wide: bool,
}

impl RunAt {
    /// The byte that follows `letters`, with which the run begins, as people read it.
    pub fn offset_after(&self, letters: impl Iterator<Item = char>) -> String {
        if self.wide {
            let at = self.at + letters.map(char::len_utf16).sum::<usize>() * 2;
            format!("byte {at}, in UTF-16")
        } else {
            format!(
                "byte {}",
                self.at + letters.map(char::len_utf8).sum::<usize>()
            )
        }
    }
}

/// A part of a container. Parts come in the same order at every reading.
#[derive(Debug)]
pub struct Part<'a> {
    /// The way to it, as people read it.
    pub way: &'a str,
    /// What it holds.
    pub holding: PartContent<'a>,
    /// Why it is never changed, if so.
    pub sealed: Option<&'static str>,
}

/// A new content for a part.
#[derive(Clone, Debug)]
pub struct NewPart {
    /// Which part, counted from 0 in the order in which they are read.
    pub part: usize,
    /// What it is to hold.
    pub content: Vec<u8>,
}

/// How much may still be unpacked of one file, in bytes, whatever the depth.
#[derive(Debug)]
pub struct Budget {
    most: u64,
    left: Cell<u64>,
    limits: Limits,
}

impl Budget {
    /// A budget of `most` bytes.
    pub fn new(most: u64) -> Self {
        Self {
            most,
            left: Cell::new(most),
            limits: Limits::default(),
        }
    }

    /// The same budget within these limits.
    pub(crate) fn within(mut self, limits: Limits) -> Self {
        self.limits = limits;
        self
    }

    /// Refuses to go on when the time is over.
    pub(crate) fn has_time(&self) -> Result<(), Fault> {
        if self.limits.is_late() {
            Err(Fault::Late)
        } else {
            Ok(())
        }
    }

    /// The same budget, nothing of it spent.
    pub fn afresh(&self) -> Self {
        Self::new(self.most).within(self.limits)
    }

    /// How many bytes are left.
    fn left(&self) -> u64 {
        self.left.get()
    }

    /// Takes `bytes` off.
    fn spend(&self, bytes: usize) -> Result<(), Fault> {
        match self.left.get().checked_sub(bytes as u64) {
            Some(left) => {
                self.left.set(left);
                Ok(())
            }
            None => Err(self.exceeded()),
        }
    }

    fn exceeded(&self) -> Fault {
        Fault::TooLarge {
            most: self.most >> 20,
        }
    }
}

/// What is read: a container's bytes, its file name, and how much may be unpacked.
#[derive(Clone, Copy, Debug)]
pub struct Source<'a> {
    /// The bytes.
    pub bytes: &'a [u8],
    /// The name, by which what is inside may be named.
    pub name: &'a str,
    /// How much may still be unpacked.
    pub budget: &'a Budget,
}

/// Takes the parts of a container one by one; a fault ends the reading.
pub type Each<'e> = dyn FnMut(Part<'_>) -> Result<(), Fault> + 'e;

/// A container's reader and writer.
pub trait Container: Sync {
    /// What people are told of it.
    fn about(&self) -> &About;

    /// Its name in reports and on the command line.
    fn name(&self) -> &'static str {
        self.about().name
    }

    /// Whether `bytes` are of this kind. `file_name` is in lower case.
    fn claims(&self, bytes: &[u8], file_name: &str) -> bool;

    /// Whether files of this kind have a structure that is known.
    fn is_known(&self) -> bool {
        true
    }

    /// Whether what it holds may be hidden from a look at its raw bytes.
    fn hides(&self) -> bool {
        true
    }

    /// Yields each part once, in a fixed order.
    ///
    /// # Errors
    /// Where the container as a whole cannot be read.
    fn read(&self, source: Source<'_>, each: &mut Each<'_>) -> Result<(), Fault>;

    /// The edits of the bytes that put new contents into parts, given in the order of the
    /// parts. One that seals all its parts has none.
    ///
    /// # Errors
    /// Where some of the parts, or all, must stay as they are.
    fn lift(&self, _source: Source<'_>, _new: &[NewPart]) -> Result<ByteEdits, LiftFault> {
        Err(Fault::OnlyRead.into())
    }

    /// Whether the parts come in the same order when some have new contents.
    fn keeps_order(&self) -> bool {
        true
    }

    /// Whether a program that has it open may write it piece by piece, so that it must not be
    /// replaced then.
    fn is_written_in_place(&self) -> bool {
        false
    }
}

/// Every container that is known by its content.
pub static CONTAINERS: &[&dyn Container] = &[
    &archive::Archive,
    &database::Database,
    &shortcut::Shortcut,
    &property_list::PropertyList,
    &compressed::GZIP,
    &compressed::ZSTANDARD,
    &compressed::XZ,
    &compressed::BZIP2,
    &compressed::ZLIB,
    &bencode::Bencode,
    &pdf::Pdf,
    &encrypted::Encrypted,
];

/// What is neither text nor any known container.
pub static BINARY: &dyn Container = &binary::Binary;

/// The container that `bytes` are, if any; for `BINARY` text must be ruled out first.
pub fn recognise(bytes: &[u8], file_name: &str) -> Option<&'static dyn Container> {
    let lower = file_name.to_lowercase();
    CONTAINERS
        .iter()
        .copied()
        .find(|container| container.claims(bytes, &lower))
}

/// Whether a file that begins with `bytes` may hold names that are not in its raw bytes.
pub fn may_hide(bytes: &[u8]) -> bool {
    CONTAINERS
        .iter()
        .any(|container| container.hides() && container.claims(bytes, ""))
}

/// Whether a container takes these bytes for its own.
pub fn is_claimed(bytes: &[u8]) -> bool {
    CONTAINERS
        .iter()
        .any(|container| container.claims(bytes, ""))
}

/// The edits that make `new` of `old`: each stretch of `grain` bytes that differs is replaced,
/// and what is longer or shorter at the end.
fn difference(old: &[u8], new: &[u8], grain: usize) -> ByteEdits {
    let shared = old.len().min(new.len());
    let mut all: Vec<Edit> = Vec::new();
    let mut add = |span: Range<usize>, with: &[u8]| match all.last_mut() {
        Some(last) if last.span.end == span.start => {
            last.span.end = span.end;
            last.with.extend_from_slice(with);
        }
        _ => all.push(Edit {
            span,
            with: with.to_vec(),
        }),
    };
    for start in (0..shared).step_by(grain) {
        let end = (start + grain).min(shared);
        if old[start..end] != new[start..end] {
            add(start..end, &new[start..end]);
        }
    }
    if old.len() != new.len() {
        add(shared..old.len(), &new[shared..]);
    }
    Edits::new(all).unwrap_or_default()
}

#[cfg(test)]
mod tests;
