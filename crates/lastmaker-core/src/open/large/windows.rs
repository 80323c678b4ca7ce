//! The windows of a large text, one after another: whole records, and never a part of one.

use std::borrow::Cow;
use std::io::Read;

use super::LargeFault;
use crate::format::Records;
use crate::open::window::WindowAt;
use crate::text::{ByteMap, Encoding};

/// How large a window is, in bytes.
#[derive(Clone, Copy, Debug)]
pub struct WindowSize {
    /// So large mostly.
    pub usual: usize,
    /// So large at the most, where records are long.
    pub most: usize,
}

impl WindowSize {
    /// Small windows where documents may be `max_document` bytes long, and where a record needs it `most`.
    pub fn of(max_document: u64, most: u64) -> Self {
        const USUAL: u64 = 4 << 20;
        let size = |bytes: u64| usize::try_from(bytes.max(1)).unwrap_or(usize::MAX);
        let usual = USUAL.min(max_document);
        Self {
            usual: size(usual),
            most: size(most.max(usual)),
        }
    }
}

/// What tells how far whole records go: in a text, and so many bytes behind it.
pub(super) type Cut<'c> = &'c dyn Fn(&str, u64) -> Option<Records>;

/// The windows of a text.
pub(super) struct Windows<'r> {
    source: Box<dyn Read + 'r>,
    /// How long the text is, in bytes.
    size: u64,
    encoding: Encoding,
    /// Length of the mark at its start.
    mark: usize,
    window: WindowSize,
    buffer: Vec<u8>,
    /// How much of the buffer was shown.
    shown: usize,
    at: WindowAt,
}

impl<'r> Windows<'r> {
    pub(super) fn new(
        source: Box<dyn Read + 'r>,
        size: u64,
        (encoding, mark): (Encoding, usize),
        window: WindowSize,
    ) -> Self {
        Self {
            source,
            size,
            encoding,
            mark,
            window,
            buffer: Vec::new(),
            shown: 0,
            at: WindowAt::default(),
        }
    }

    /// The next window, with the mark if it is the first; none behind the last.
    pub(super) fn next(&mut self, cut: Cut<'_>) -> Result<Option<(WindowAt, &[u8])>, LargeFault> {
        self.buffer.drain(..self.shown);
        self.shown = 0;
        let mut wanted = self.window.usual;
        loop {
            let at_end = self.fill(wanted)?;
            if self.buffer.is_empty() {
                return Ok(None);
            }
            if let Some((end, records)) = self.end(at_end, cut) {
                return Ok(Some(self.show(end, records)));
            }
            if wanted >= self.window.most {
                return Err(LargeFault::LongRecord(self.window.most >> 20));
            }
            wanted = wanted.saturating_mul(2).min(self.window.most);
        }
    }

    /// Reads on until the buffer holds so much; whether the text ended.
    fn fill(&mut self, wanted: usize) -> Result<bool, LargeFault> {
        let missing = wanted.saturating_sub(self.buffer.len());
        let mut part = self.source.by_ref().take(missing as u64);
        let read = part.read_to_end(&mut self.buffer)?;
        if read < missing {
            return Ok(true);
        }
        // Another byte says whether there is more.
        let mut more = self.source.by_ref().take(1);
        Ok(more.read_to_end(&mut self.buffer)? == 0)
    }

    /// Where a window that begins the buffer ends, and how many records it has.
    fn end(&self, at_end: bool, cut: Cut<'_>) -> Option<(usize, usize)> {
        if at_end {
            return Some((self.buffer.len(), 0));
        }
        // No letter is cut in two behind the end of a line.
        let lines = behind_last_line(&self.buffer, self.encoding)?;
        let mark = if self.at.start == 0 { self.mark } else { 0 };
        let raw = self.buffer.get(mark..lines)?;
        let text = self.encoding.decode(raw);
        let behind = (self.at.start + lines) as u64;
        let Records { end, count } = cut(&text, self.size.saturating_sub(behind))?;
        let end = match text {
            Cow::Borrowed(_) => end,
            Cow::Owned(_) => ByteMap::of(self.encoding, raw).byte_at(self.encoding, raw, end)?,
        };
        (end > 0).then_some((mark + end, count))
    }

    fn show(&mut self, end: usize, records: usize) -> (WindowAt, &[u8]) {
        let at = self.at;
        let shown = &self.buffer[..end];
        let lines = memchr::memchr_iter(b'\n', shown);
        self.shown = end;
        self.at = WindowAt {
            start: at.start + end,
            lines: at.lines
                + lines
                    .filter(|at| is_line_end(shown, *at, self.encoding))
                    .count(),
            records: at.records + records,
        };
        (at, shown)
    }
}

/// Whether the line feed at `at` is one, and not a half of a letter.
fn is_line_end(bytes: &[u8], at: usize, encoding: Encoding) -> bool {
    match encoding {
        Encoding::Utf16Le => at.is_multiple_of(2) && bytes.get(at + 1) == Some(&0),
        Encoding::Utf16Be => !at.is_multiple_of(2) && bytes[at - 1] == 0,
        _ => true,
    }
}

/// Behind the last line end of `bytes`, which begin with a whole letter.
fn behind_last_line(bytes: &[u8], encoding: Encoding) -> Option<usize> {
    let mut ends = memchr::memrchr_iter(b'\n', bytes);
    let last = ends.find(|at| is_line_end(bytes, *at, encoding))?;
    let width = usize::from(encoding == Encoding::Utf16Le);
    Some(last + 1 + width)
}
