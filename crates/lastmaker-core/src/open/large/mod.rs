//! Text that is larger than a document may be, read window by window.
//!
//! Only formats whose rules are local are read so: a window of whole records reads as it does in the whole. What
//! holds of a text as a whole is found out before the first window is shown: its encoding, its format and
//! whether it keeps its grammar, how its strings are written, whether it is signed.

mod signs;
mod source;
mod windows;

pub use source::Source;
use source::head;
pub(crate) use source::{FileSource, SplicedSource, encoding_of, pieces};
pub use windows::WindowSize;

use std::borrow::Cow;
use std::io;

use thiserror::Error;

use super::document::{Document, declared_instead};
use super::reading::Reading;
use super::window::{WindowAt, WindowKind};
use crate::format::{
    Claim, FORMATS, Format, Grammar, Records, START_BYTES, VALUE, claimants, start,
};
use crate::text::{Detected, Encoding};
use crate::tree::FileFault;

use signs::Signs;
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

impl From<LargeFault> for FileFault {
    fn from(fault: LargeFault) -> Self {
        match fault {
            LargeFault::Io(error) => Self::Io(error),
            other => Self::Visit(Box::new(other)),
        }
    }
}

/// A size in MiB, rounded up.
fn mebibytes(bytes: u64) -> u64 {
    bytes.div_ceil(1 << 20)
}

/// What holds of a large text as a whole.
pub struct LargeText<'a> {
    source: &'a dyn Source,
    size: WindowSize,
    kind: WindowKind<'a>,
    /// What its bytes alone show of its encoding.
    detected: Detected,
    /// Marks of formats that are somewhere in it, as far as they matter.
    marks: Vec<&'static str>,
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
        let (found, _) = encoding_of(source, reading.encoding)?;
        let found = found.ok_or(no_text())?;
        let bytes = head(source, START_BYTES)?;
        let found = found.or_likely(reading.encoding, reading.likely);
        let mut text = Self {
            source,
            size,
            kind: WindowKind {
                name,
                reading,
                found,
                format: &VALUE,
                reader: VALUE.reader("", found.encoding).into(),
                broke: None,
                signature: None,
            },
            detected: found,
            marks: Vec::new(),
            longest: 0,
        };
        text.recognise(&bytes)?;
        let declares = declared_instead(
            &text.kind.found,
            reading,
            text.kind.format,
            &text.start(&bytes),
        );
        if let Some(declared) = declares {
            text.kind.found = Detected {
                encoding: declared,
                mark: 0,
                sure: true,
            };
            text.recognise(&bytes)?;
        } else if reading.encoding.is_none() && text.kind.format.leaves_encoding_open() {
            text.kind.found.sure = false;
        }
        if text.kind.found.encoding == Encoding::Undecided
            && let Some(own) = text.kind.format.own_encoding()
        {
            text.kind.found.encoding = own;
        }
        Ok(text)
    }

    /// How the text begins, decoded.
    fn start(&self, bytes: &[u8]) -> String {
        let text = self
            .kind
            .found
            .encoding
            .decode(&bytes[self.kind.found.mark..]);
        start(&text).to_owned()
    }

    /// Finds out of which format it is, and what of it is all over the text.
    fn recognise(&mut self, bytes: &[u8]) -> Result<(), LargeFault> {
        let start = self.start(bytes);
        self.look_through(&start)?;
        self.kind.broke = None;
        for (format, claim) in self.claimants(&start, &self.marks) {
            if !format.is_local() {
                return Err(LargeFault::OnlyWhole {
                    format: format.name(),
                    size: mebibytes(self.source.size()),
                });
            }
            self.kind.format = format;
            self.kind.reader = format.reader(&start, self.kind.found.encoding).into();
            if self.keeps_grammar(claim)? {
                return Ok(());
            }
            if claim == Claim::IfWellFormed {
                self.kind.broke = self.kind.broke.or(Some(format.name()));
            }
        }
        Err(LargeFault::NoText {
            size: mebibytes(self.source.size()),
        })
    }

    fn claimants(&self, start: &str, marks: &[&'static str]) -> Vec<(&'static dyn Format, Claim)> {
        claimants(start, self.kind.name, self.kind.reading.format, marks)
    }

    /// Looks through all of the text for signatures, and for marks of formats if they matter.
    fn look_through(&mut self, start: &str) -> Result<(), LargeFault> {
        let formats = FORMATS.iter().flat_map(|format| format.marks());
        let all: Vec<&'static str> = formats.copied().collect();
        let names = |marks: &[&'static str]| -> Vec<&str> {
            let claimants = self.claimants(start, marks).into_iter();
            claimants.map(|(format, _)| format.name()).collect()
        };
        let mut signs = Signs::new(if names(&all) == names(&[]) {
            Vec::new()
        } else {
            all
        });
        if matches!(
            self.kind.found.encoding,
            Encoding::Utf16Le | Encoding::Utf16Be
        ) {
            let lines = |text: &str, _| {
                let end = text.len();
                Some(Records { end, count: 0 })
            };
            self.each_text(&lines, &mut |text| signs.add(text.as_bytes()))?;
        } else {
            pieces(self.source, &mut |piece| signs.add(piece))?;
        }
        (self.kind.signature, self.marks) = signs.found();
        Ok(())
    }

    /// Whether every window keeps the grammar of the format, if that matters; and how long the longest is.
    fn keeps_grammar(&mut self, claim: Claim) -> Result<bool, LargeFault> {
        let certain = claim == Claim::Certain;
        let (mut kept, mut longest) = (true, 0);
        let looked = self.each_window(&mut |raw, at| {
            longest = longest.max(raw.len());
            if kept && !certain {
                let text = self.decoded(raw, at);
                let grammar = self.kind.reader.passages_if_kept(&text, &mut |_| {});
                kept = grammar != Grammar::Broken;
            }
        });
        self.longest = longest;
        match looked {
            // What never ends breaks it too.
            Err(LargeFault::LongRecord(_)) if !certain => Ok(false),
            other => other.map(|()| kept),
        }
    }

    /// How long the longest window is, in bytes.
    pub(crate) fn longest(&self) -> usize {
        self.longest
    }

    fn windows(&self) -> Result<Windows<'a>, LargeFault> {
        let kind = (self.kind.found.encoding, self.kind.found.mark);
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
            each(&self.decoded(raw, at));
        }
        Ok(())
    }

    /// Shows the bytes of every window, and where it is.
    ///
    /// # Errors
    /// As reading does, and where a record is too long.
    pub fn each_window(&self, each: &mut dyn FnMut(&[u8], WindowAt)) -> Result<(), LargeFault> {
        let cut = |text: &str, rest| self.kind.reader.whole_records(text, rest);
        let mut windows = self.windows()?;
        while let Some((at, raw)) = windows.next(&cut)? {
            each(raw, at);
        }
        Ok(())
    }

    /// The window that is at `at`, as a document.
    pub fn window<'w>(&'w self, raw: &'w [u8], at: WindowAt) -> Document<'w> {
        Document::window(&self.kind, raw, at)
    }

    fn decoded<'w>(&self, raw: &'w [u8], at: WindowAt) -> Cow<'w, str> {
        self.kind
            .found
            .encoding
            .decode(&raw[self.kind.mark_at(at)..])
    }

    /// Its file name.
    pub(super) fn name(&self) -> &str {
        self.kind.name
    }

    /// Why it may not be changed, if it is signed.
    pub(crate) fn sealed(&self) -> Option<&'static str> {
        self.kind.signature
    }

    /// The format that it claims to be of and whose grammar it breaks.
    pub(crate) fn broke(&self) -> Option<&'static str> {
        self.kind.broke
    }

    /// Its encoding, and the length of its mark.
    pub(crate) fn encoding(&self) -> (Encoding, usize) {
        (self.kind.found.encoding, self.kind.found.mark)
    }

    /// Its format.
    pub(crate) fn format(&self) -> &'static dyn Format {
        self.kind.format
    }

    /// Where it comes from.
    pub(crate) fn source(&self) -> &'a dyn Source {
        self.source
    }

    /// Whether other content in its place is taken for text of the same encoding and format, where each of its
    /// windows is read as that of this one was.
    ///
    /// # Errors
    /// As reading does.
    pub(crate) fn is_taken_alike(&self, new: &dyn Source) -> Result<bool, LargeFault> {
        let reading = self.kind.reading;
        let (Some(found), ascii) = encoding_of(new, reading.encoding)? else {
            return Ok(false);
        };
        let found = found.or_likely(reading.encoding, reading.likely);
        if !found.reads_as(&self.detected, ascii) {
            return Ok(false);
        }
        let begins = |bytes: &[u8]| {
            let text = self
                .kind
                .found
                .encoding
                .decode(&bytes[self.kind.found.mark..]);
            let claimants = self.claimants(start(&text), &self.marks).into_iter();
            let all = claimants.map(|(format, claim)| (format.name(), claim));
            all.collect::<Vec<_>>()
        };
        Ok(begins(&head(new, START_BYTES)?) == begins(&head(self.source, START_BYTES)?))
    }
}
