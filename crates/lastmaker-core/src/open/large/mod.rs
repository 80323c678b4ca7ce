//! Text that is larger than a document may be, read window by window.
//!
//! Only formats whose rules are local are read so: a window of whole records reads as it does in the whole. What
//! holds of a text as a whole is found out before the first window is shown: its encoding, its format and
//! whether it keeps its grammar, how its strings are written, whether it is signed.

mod source;
mod windows;

pub use source::Source;
pub(crate) use source::{FileSource, SplicedSource, head, pieces};
pub use windows::{WindowAt, WindowSize};

use std::io;
use std::rc::Rc;

use thiserror::Error;

use super::document::{Document, Reading, Signatures, declared_instead};
use crate::format::{Claim, Format, Grammar, Reader, START_BYTES, claimants, start};
use crate::text::{Detected, Encoding, SAMPLE, Shown, Text, detect_by};

use windows::Windows;

/// Why a large text is not read.
#[derive(Debug, Error)]
pub enum LargeFault {
    /// It cannot be read.
    #[error(transparent)]
    Io(#[from] io::Error),
    /// It is no text.
    #[error(
        "it is larger than a document may be and is not text, so it is not read; --max-document {size} with --max-memory {} reads it", 3 * size
    )]
    NoText {
        /// How large it is, in MiB.
        size: u64,
    },
    /// Its format is read as a whole alone.
    #[error(
        "it is larger than a document may be, and {format} is not read piece by piece; --max-document {size} with --max-memory {} reads it", 3 * size
    )]
    OnlyWhole {
        /// The format's name.
        format: &'static str,
        /// How large the text is, in MiB.
        size: u64,
    },
    /// One of its records is longer than there is room for, which is so much in MiB.
    #[error(
        "it is larger than a document may be, and a piece of it that must be read as a whole is longer than {0} MiB; raise --max-memory to six times that"
    )]
    LongRecord(usize),
}

/// A size in MiB, rounded up.
fn mebibytes(bytes: u64) -> u64 {
    bytes.div_ceil(1 << 20)
}

/// What holds of a large text as a whole.
pub struct LargeText<'a> {
    source: &'a dyn Source,
    size: WindowSize,
    name: &'a str,
    reading: Reading,
    found: Detected,
    /// Whether every letter is one of ASCII.
    pub(crate) ascii: bool,
    format: &'static dyn Format,
    reader: Rc<dyn Reader>,
    broke: Option<&'static str>,
    signature: Option<&'static str>,
    /// How long the longest window is, in bytes.
    longest: usize,
}

impl<'a> LargeText<'a> {
    /// Finds out what holds of all that `source` gives, whose file has this name.
    ///
    /// # Errors
    /// Where it cannot be read, or not in windows.
    pub fn open(
        source: &'a dyn Source,
        name: &'a str,
        reading: Reading,
        size: WindowSize,
    ) -> Result<Self, LargeFault> {
        let no_text = || LargeFault::NoText {
            size: mebibytes(source.size()),
        };
        let mut shown = Shown::default();
        pieces(source, &mut |piece| shown.add(piece))?;
        let ascii = shown.is_ascii();
        let bytes = head(source, START_BYTES.max(SAMPLE))?;
        let found = detect_by(&bytes, reading.encoding, || shown).ok_or(no_text())?;
        let found = found.or_likely(reading.encoding, reading.likely);
        let mut text = Self {
            source,
            size,
            name,
            reading,
            found,
            ascii,
            format: &crate::format::VALUE,
            reader: crate::format::VALUE.reader("", found.encoding).into(),
            broke: None,
            signature: None,
            longest: 0,
        };
        text.recognise(&bytes)?;
        let declares = declared_instead(&text.found, reading, text.format, &text.start(&bytes));
        if let Some(declared) = declares {
            text.found = Detected {
                encoding: declared,
                mark: 0,
                sure: true,
            };
            text.recognise(&bytes)?;
        } else if reading.encoding.is_none() && text.format.leaves_encoding_open() {
            text.found.sure = false;
        }
        if text.found.encoding == Encoding::Undecided
            && let Some(own) = text.format.own_encoding()
        {
            text.found.encoding = own;
        }
        text.longest = text.longest_window()?;
        Ok(text)
    }

    /// How the text begins, decoded.
    fn start(&self, bytes: &[u8]) -> String {
        let text = self.found.encoding.decode(&bytes[self.found.mark..]);
        start(&text).to_owned()
    }

    /// Finds out of which format it is, and what of it is all over the text.
    fn recognise(&mut self, bytes: &[u8]) -> Result<(), LargeFault> {
        let start = self.start(bytes);
        let marks = self.look_through()?;
        self.broke = None;
        for (format, claim) in claimants(&start, self.name, self.reading.format, &marks) {
            if !format.is_local() {
                return Err(LargeFault::OnlyWhole {
                    format: format.name(),
                    size: mebibytes(self.source.size()),
                });
            }
            self.format = format;
            self.reader = format.reader(&start, self.found.encoding).into();
            if claim == Claim::Certain || self.keeps_grammar()? {
                return Ok(());
            }
            if claim == Claim::IfWellFormed {
                self.broke = self.broke.or(Some(format.name()));
            }
        }
        Err(LargeFault::NoText {
            size: mebibytes(self.source.size()),
        })
    }

    /// Looks for signatures, and for marks of formats; gives those that are there.
    fn look_through(&mut self) -> Result<Vec<&'static str>, LargeFault> {
        let mut signatures = Signatures::default();
        let formats = crate::format::FORMATS.iter();
        let mut wanted: Vec<&str> = formats.flat_map(|format| format.marks()).copied().collect();
        let mut marks = Vec::new();
        let longest = Signatures::LONGEST;
        let mut before = String::new();
        let whole_lines = |text: &str, _| {
            Some(crate::format::Records {
                end: text.len(),
                count: 0,
            })
        };
        self.each_text(&whole_lines, &mut |text| {
            // A sign may lie across two windows.
            let joined = format!("{before}{}", &text[..text.floor_char_boundary(longest)]);
            for text in [&joined, text] {
                signatures.look_through(text);
                wanted.retain(|mark| {
                    let there = text.contains(mark);
                    marks.extend(there.then_some(*mark));
                    !there
                });
            }
            before = text[text.ceil_char_boundary(text.len().saturating_sub(longest))..].to_owned();
        })?;
        self.signature = signatures.first();
        Ok(marks)
    }

    /// Whether every window keeps the grammar of the format.
    fn keeps_grammar(&self) -> Result<bool, LargeFault> {
        let mut kept = true;
        let looked = self.each_text(
            &|text, rest| self.reader.whole_records(text, rest),
            &mut |text| {
                kept = kept && self.reader.passages_if_kept(text, &mut |_| {}) != Grammar::Broken;
            },
        );
        match looked {
            // What never ends breaks it too.
            Err(LargeFault::LongRecord(_)) => Ok(false),
            other => other.map(|()| kept),
        }
    }

    fn longest_window(&self) -> Result<usize, LargeFault> {
        let cut = |text: &str, rest| self.reader.whole_records(text, rest);
        let mut windows = self.windows()?;
        let mut longest = 0;
        while let Some((_, raw)) = windows.next(&cut)? {
            longest = longest.max(raw.len());
        }
        Ok(longest)
    }

    /// How long the longest window is, in bytes.
    pub(crate) fn longest(&self) -> usize {
        self.longest
    }

    fn windows(&self) -> Result<Windows<'a>, LargeFault> {
        let kind = (self.found.encoding, self.found.mark);
        let (source, size) = (self.source.open()?, self.source.size());
        Ok(Windows::new(source, size, kind, self.size))
    }

    /// Shows the text of every window.
    fn each_text(
        &self,
        cut: windows::Cut<'_>,
        each: &mut dyn FnMut(&str),
    ) -> Result<(), LargeFault> {
        let mut windows = self.windows()?;
        while let Some((at, raw)) = windows.next(cut)? {
            let mark = if at.start == 0 { self.found.mark } else { 0 };
            each(&self.found.encoding.decode(&raw[mark..]));
        }
        Ok(())
    }

    /// Shows every window as a document.
    ///
    /// # Errors
    /// As reading does, and where a record is too long.
    pub fn each_window(&self, each: &mut dyn FnMut(&Document<'_>)) -> Result<(), LargeFault> {
        let cut = |text: &str, rest| self.reader.whole_records(text, rest);
        let mut windows = self.windows()?;
        while let Some((at, raw)) = windows.next(&cut)? {
            each(&self.window(raw, at));
        }
        Ok(())
    }

    /// The window that is at `at`.
    pub(super) fn window<'w>(&'w self, raw: &'w [u8], at: WindowAt) -> Document<'w> {
        let mark = if at.start == 0 { self.found.mark } else { 0 };
        let text = Text::of_part(raw, self.found.encoding, self.found.sure, mark);
        let kind = (self.format, Rc::clone(&self.reader));
        Document::window(self, text, kind, at)
    }

    pub(super) fn name(&self) -> &str {
        self.name
    }

    pub(super) fn reading(&self) -> Reading {
        self.reading
    }

    /// Why it may not be changed, if it is signed.
    pub(crate) fn sealed(&self) -> Option<&'static str> {
        self.signature
    }

    /// The format that it claims to be of and whose grammar it breaks.
    pub(crate) fn broke(&self) -> Option<&'static str> {
        self.broke
    }

    /// Its encoding, and the length of its mark.
    pub(crate) fn encoding(&self) -> (Encoding, usize) {
        (self.found.encoding, self.found.mark)
    }

    /// Its format.
    pub(crate) fn format(&self) -> &'static dyn Format {
        self.format
    }

    /// Where it comes from.
    pub(crate) fn source(&self) -> &'a dyn Source {
        self.source
    }

    /// Opens other content in its place, which is read as it was.
    ///
    /// # Errors
    /// As [`Self::open`].
    pub(crate) fn again<'b>(&self, source: &'b dyn Source) -> Result<LargeText<'b>, LargeFault>
    where
        'a: 'b,
    {
        LargeText::open(source, self.name, self.reading, self.size)
    }
}
