//! A window of a larger text, which is read as a document.

use std::rc::Rc;

use super::reading::Reading;
use crate::format::{Format, Reader};
use crate::text::Detected;

/// Where a window is in its text.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct WindowAt {
    /// Where it begins, in bytes.
    pub start: usize,
    /// How many lines are before it.
    pub lines: usize,
    /// How many records are before it.
    pub records: usize,
}

/// How the windows of a text are read.
pub(crate) struct WindowKind<'a> {
    /// The text's file name.
    pub(super) name: &'a str,
    /// How the text was read.
    pub(super) reading: Reading,
    /// What it is written in.
    pub(super) found: Detected,
    /// Its format.
    pub(super) format: &'static dyn Format,
    /// What reads each window.
    pub(super) reader: Rc<dyn Reader>,
    /// The format that it claims to be of, and whose grammar it breaks.
    pub(super) broke: Option<&'static str>,
    /// Why nothing in it may be changed, if it is signed.
    pub(super) signature: Option<&'static str>,
}

impl WindowKind<'_> {
    /// The length of the mark that the window at `at` begins with.
    pub(super) fn mark_at(&self, at: WindowAt) -> usize {
        if at.start == 0 { self.found.mark } else { 0 }
    }
}
