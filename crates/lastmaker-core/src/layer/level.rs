//! In which of the texts around a place an offset counts.
//!
//! A place in the content of a passage, in the text of its document and in the bytes of its file
//! begins at three different offsets. Types keep them apart where they meet.

use std::fmt;
use std::marker::PhantomData;
use std::ops::Range;

/// Marks what counts in the bytes of a file, or of a part of a container.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum InBytes {}

/// Marks what counts in the text of a document: its bytes without mark and encoding.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum InText {}

/// Marks what counts in the text inside or around one layer of a passage.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum InLayer {}

/// An offset in bytes.
pub struct Offset<L> {
    at: usize,
    level: PhantomData<L>,
}

/// An offset in the text of a document.
pub type TextOffset = Offset<InText>;

impl<L> Offset<L> {
    /// The offset `at`, counted from 0.
    pub fn new(at: usize) -> Self {
        Self {
            at,
            level: PhantomData,
        }
    }

    /// The offset `by` bytes further on.
    pub fn advanced(self, by: usize) -> Self {
        Self::new(self.at + by)
    }

    /// The offset as a number.
    pub fn get(self) -> usize {
        self.at
    }
}

impl<L> Clone for Offset<L> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<L> Copy for Offset<L> {}

impl<L> fmt::Debug for Offset<L> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.at.fmt(f)
    }
}

impl<L> PartialEq for Offset<L> {
    fn eq(&self, other: &Self) -> bool {
        self.at == other.at
    }
}

impl<L> Eq for Offset<L> {}

impl<L> PartialOrd for Offset<L> {
    fn partial_cmp(&self, other: &Self) -> Option<std::cmp::Ordering> {
        Some(self.cmp(other))
    }
}

impl<L> Ord for Offset<L> {
    fn cmp(&self, other: &Self) -> std::cmp::Ordering {
        self.at.cmp(&other.at)
    }
}

/// A span, half-open and in bytes.
pub struct Span<L> {
    range: Range<usize>,
    level: PhantomData<L>,
}

/// A span of a file's bytes, or of those of a part of a container.
pub type ByteSpan = Span<InBytes>;
/// A span of a document's text.
pub type TextSpan = Span<InText>;

impl<L> Span<L> {
    /// The span of `range`.
    pub fn new(range: Range<usize>) -> Self {
        Self {
            range,
            level: PhantomData,
        }
    }

    /// Where it begins.
    pub fn start(&self) -> Offset<L> {
        Offset::new(self.range.start)
    }

    /// The offsets as numbers.
    pub fn range(&self) -> Range<usize> {
        self.range.clone()
    }
}

impl<L> Clone for Span<L> {
    fn clone(&self) -> Self {
        Self::new(self.range())
    }
}

impl<L> fmt::Debug for Span<L> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.range.fmt(f)
    }
}
