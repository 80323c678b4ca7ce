//! Text larger than a document may be: read window by window, as plain text.
//!
//! Windows overlap by more than the longest place, and each place is taken from the window
//! in whose core it begins. Memory stays at a few windows whatever the size of the file or
//! of its lines.

use std::cell::{Cell, OnceCell};
use std::io::{self, Read};
use std::ops::Range;
use std::sync::Arc;

use crate::format::Role;
use crate::judge::{Allowance, Case, Reason, Unproven};
use crate::layer::{
    ByteEdits, Edit, Edits, InLayer, Layers, Offset, OpenedChain, Span, SplicedReader, Unfit,
};
use crate::open::{LineCounter, SitePassage};
use crate::packed::Packed;
use crate::place::{Finder, Found, Hint, Place, readings};
use crate::report::{Position, Reference};
use crate::text::{ByteMap, Encoding, detect};

use super::excerpt::excerpt;
use super::intent::{Intent, intend};
use super::options::PlanOptions;
use super::reference::told;

/// Size of a window's core in bytes.
const CORE: usize = 4 << 20;
/// What is read beyond the core on either side, in bytes.
const MARGIN: usize = 128 << 10;

/// What becomes of a large text.
#[derive(Debug)]
pub struct LargePlan {
    /// Every reference that a move touches, in order.
    pub references: Packed<Reference>,
    /// The edits of the file's bytes.
    pub edits: ByteEdits,
    /// Name of the encoding.
    pub encoding: &'static str,
    /// Hash of the whole file as it was read.
    pub before: blake3::Hash,
    /// Hash of the file as it will be.
    pub after: blake3::Hash,
    /// Size of the file as it will be, in bytes.
    pub new_size: u64,
}

/// Why a large text is not planned.
#[derive(Debug, thiserror::Error)]
pub enum LargeFault {
    /// It cannot be read.
    #[error(transparent)]
    Io(#[from] io::Error),
    /// It names more places than settings do.
    #[error("{}", Unproven::TooMany)]
    TooMany,
    /// Two of its changes overlap.
    #[error("two changes overlap")]
    Overlap,
    /// The proof failed.
    #[error("read again, the new copy would not name the new places, so the file is left")]
    Unproven,
}

/// Plans the rewrite of a text that `open` gives from its start as often as it is asked;
/// none if it is no text.
///
/// # Errors
/// As reading does; and where the new text, read again, would not name the new places.
pub fn plan_large<R: Read>(
    mut open: impl FnMut() -> io::Result<R>,
    options: PlanOptions<'_>,
) -> Result<Option<LargePlan>, LargeFault> {
    let mut draft = Draft {
        most: options.limits.references,
        references: Packed::default(),
        edits: Vec::new(),
        expected: blake3::Hasher::new(),
    };
    let mut hashed = Hashing::new(open()?);
    let encoding = windows(&mut hashed, options, &mut |window| {
        draft.take(window, options);
    })?;
    let Some(encoding) = encoding else {
        return Ok(None);
    };
    if draft.is_full() {
        return Err(LargeFault::TooMany);
    }
    let before = hashed.finish();
    let edits = Edits::new(draft.edits).map_err(|_| LargeFault::Overlap)?;
    let mut got = blake3::Hasher::new();
    let mut spliced = Hashing::new(SplicedReader::new(open()?, &edits));
    windows(&mut spliced, options, &mut |window| {
        for found in window.finds() {
            got.update(window.key(&found).as_bytes());
        }
    })?;
    if draft.expected.finalize() != got.finalize() {
        return Err(LargeFault::Unproven);
    }
    let new_size = spliced.read;
    let after = spliced.finish();
    Ok(Some(LargePlan {
        references: draft.references,
        edits,
        encoding: encoding.name(),
        before,
        after,
        new_size,
    }))
}

/// What is planned of the windows seen so far.
struct Draft {
    /// How many references there is room for.
    most: usize,
    references: Packed<Reference>,
    edits: Vec<Edit>,
    /// Hashes the places that the new text must name, in order.
    expected: blake3::Hasher,
}

impl Draft {
    fn is_full(&self) -> bool {
        self.references.len() > self.most
    }

    fn take(&mut self, window: &Window<'_>, options: PlanOptions<'_>) {
        for found in window.finds() {
            if self.is_full() {
                return;
            }
            let intent = window.intent(&found, options, &mut self.edits);
            let new = intent.as_ref().filter(|intent| intent.changes());
            let key = match new.and_then(|intent| intent.new_place.as_ref()) {
                Some(place) => place.by_drive().key(),
                None => window.key(&found),
            };
            self.expected.update(key.as_bytes());
            if let Some(intent) = intent {
                self.references
                    .push(&window.describe(&found, intent, options));
            }
        }
    }
}

/// One decoded window.
struct Window<'a> {
    text: &'a str,
    raw: &'a [u8],
    encoding: Encoding,
    /// Where the window begins in the file.
    base: usize,
    /// Places that begin here belong to this window, as byte offsets of `text`.
    core: Range<usize>,
    /// Line of the window's first letter, counted from 1, and letters before it on that line.
    line: usize,
    column: usize,
    lines: Cell<LineCounter>,
    /// Where the letters are in `raw`, once that is asked.
    map: OnceCell<ByteMap>,
    variables: &'a [(String, Place)],
}

impl Window<'_> {
    fn finds(&self) -> Vec<Found> {
        let finder = Finder {
            variables: self.variables,
        };
        let mut finds = finder.find(self.text, Hint::Code);
        finds.retain(|found| self.core.contains(&found.start));
        finds
    }

    fn key(&self, found: &Found) -> String {
        found
            .place_until(self.text, readings(found, self.text)[0])
            .key()
    }

    fn site(&self) -> SitePassage {
        let none: Layers = Arc::new([]);
        SitePassage {
            ordinal: 0,
            span: Span::new(0..self.text.len()),
            role: Role::Prose,
            hint: Hint::Code,
            site: String::new(),
            chain: OpenedChain::open(&none, b"").expect("no layers, nothing to be malformed"),
            layers: none,
            finds: Vec::new(),
        }
    }

    /// What is to happen to `found`; its edits, lifted to the file, go to `all`.
    fn intent(
        &self,
        found: &Found,
        options: PlanOptions<'_>,
        all: &mut Vec<Edit>,
    ) -> Option<Intent> {
        let case = Case {
            site: &self.site(),
            found,
            content: self.text,
        };
        let allowance = Allowance {
            resolver: options.resolver,
            repair: options.repair,
            existing: options.existing(),
            ..Allowance::default()
        };
        let mut intent = intend(case, options.sheet, allowance)?;
        match self.lift(&intent.edits) {
            Ok(lifted) => all.extend(lifted),
            Err(why) => intent.withdraw(Reason::Unfit(why)),
        }
        Some(intent)
    }

    fn lift(&self, edits: &[Edit]) -> Result<Vec<Edit>, Unfit> {
        let sorted = Edits::<InLayer>::new(edits.to_vec()).map_err(|_| Unfit::Overlap)?;
        sorted
            .as_slice()
            .iter()
            .map(|edit| {
                let with = std::str::from_utf8(&edit.with).map_err(|_| Unfit::InsideUnit)?;
                Ok(Edit {
                    span: self.base + self.outer(edit.span.start)
                        ..self.base + self.outer(edit.span.end),
                    with: self.encoding.encode(with)?,
                })
            })
            .collect()
    }

    /// The byte of the window's raw content at which the letter at `inner` begins.
    fn outer(&self, inner: usize) -> usize {
        if self.text.len() == self.raw.len() {
            return inner;
        }
        let map = self
            .map
            .get_or_init(|| ByteMap::of(self.encoding, self.raw));
        let found = map.byte_at(self.encoding, self.raw, inner);
        // An edit begins and ends at letters.
        found.unwrap_or(self.raw.len())
    }

    fn describe(&self, found: &Found, intent: Intent, options: PlanOptions<'_>) -> Reference {
        let whole = 0..self.text.len();
        let span = found.start..intent.verdict.end;
        let made = excerpt(self.text, &intent.edits, span, whole);
        let mut counter = self.lines.get();
        let at = counter.at(self.text, Offset::new(found.start));
        self.lines.set(counter);
        let before = if at.line == 1 { self.column } else { 0 };
        let position = Position {
            line: self.line + at.line - 1,
            column: before + at.column,
        };
        told(found, intent, self.text, position, made, options.resolver)
    }
}

/// Reads `source` window by window; the encoding, or none if it is no text.
fn windows(
    source: &mut impl Read,
    options: PlanOptions<'_>,
    each: &mut dyn FnMut(&Window<'_>),
) -> io::Result<Option<Encoding>> {
    let mut pane = Pane::default();
    loop {
        let at_end = pane.fill(source)?;
        if pane.encoding.is_none() {
            pane.encoding = pane.detect(options.reading.encoding);
        }
        let Some((encoding, mark)) = pane.encoding else {
            return Ok(None);
        };
        pane.show(encoding, mark, at_end, options, each);
        if at_end {
            return Ok(Some(encoding));
        }
    }
}

/// The part of a large text that is in memory.
#[derive(Default)]
struct Pane {
    buffer: Vec<u8>,
    /// Where the buffer begins in the file.
    base: usize,
    /// Where the core begins in the file.
    core_start: usize,
    /// Lines before the buffer, and letters before it on its first line.
    lines: usize,
    column: usize,
    /// The encoding and the length of its mark, once they are known.
    encoding: Option<(Encoding, usize)>,
}

impl Pane {
    /// Reads on to the end of the core and its margin; whether the source ended.
    fn fill(&mut self, source: &mut impl Read) -> io::Result<bool> {
        let end = self.base + self.buffer.len();
        let wanted = (self.core_start + CORE + MARGIN).saturating_sub(end);
        let mut part = source.by_ref().take(wanted as u64);
        Ok(part.read_to_end(&mut self.buffer)? < wanted)
    }

    /// The encoding that the start of the text shows.
    fn detect(&self, said: Option<Encoding>) -> Option<(Encoding, usize)> {
        let head = &self.buffer[..self.buffer.len().min(CORE)];
        // A letter cut in two at the end of the head is no fault of the file.
        let head = &head[..head.len() - head.len() % 2];
        let detected = detect(head, said)?;
        Some((detected.encoding, detected.mark))
    }

    /// Shows the window to `each`, and drops what is not needed any more.
    fn show(
        &mut self,
        encoding: Encoding,
        mark: usize,
        at_end: bool,
        options: PlanOptions<'_>,
        each: &mut dyn FnMut(&Window<'_>),
    ) {
        let wide = matches!(encoding, Encoding::Utf16Le | Encoding::Utf16Be);
        let skip = match self.base {
            0 => mark,
            base => first_boundary(&self.buffer, wide, base - mark),
        };
        let raw = &self.buffer[skip..];
        let text = encoding.decode(raw);
        let origin = self.base + skip;
        let inner = |file_offset: usize| {
            inner_offset(
                encoding,
                raw,
                text.len(),
                file_offset.saturating_sub(origin),
            )
        };
        let core_end = match at_end {
            true => usize::MAX,
            false => inner(self.core_start + CORE),
        };
        each(&Window {
            text: &text,
            raw,
            encoding,
            base: origin,
            core: inner(self.core_start)..core_end,
            line: self.lines + 1,
            column: self.column,
            lines: Cell::default(),
            map: OnceCell::new(),
            variables: &options.sheet.variables,
        });
        if at_end {
            return;
        }
        self.core_start += CORE;
        // Two bytes at a time, so that UTF-16 stays in step with its mark.
        let keep_from = (self.core_start - MARGIN - self.base) & !1;
        let passed = &text[..text.floor_char_boundary(inner(self.base + keep_from))];
        self.lines += memchr::memchr_iter(b'\n', passed.as_bytes()).count();
        self.column = match passed.rfind('\n') {
            Some(at) => passed[at + 1..].chars().count(),
            None => self.column + passed.chars().count(),
        };
        drop(text);
        self.buffer.drain(..keep_from);
        self.base += keep_from;
    }
}

/// The offset in a decoded text of `length` bytes of what begins at `outer` of `raw`.
fn inner_offset(encoding: Encoding, raw: &[u8], length: usize, outer: usize) -> usize {
    let target = outer.min(raw.len());
    if length == raw.len() {
        return target;
    }
    let (mut at, mut outer) = (0, 0);
    while outer < target {
        let (count, width) = encoding.ascii_run(&raw[outer..target]);
        at += count;
        outer += count * width;
        if count > 0 {
            continue;
        }
        let (letter, width) = encoding.unit(&raw[outer..]);
        at += letter.len_utf8();
        outer += width;
    }
    at
}

/// Where the first whole letter of a window begins.
fn first_boundary(bytes: &[u8], wide: bool, behind_mark: usize) -> usize {
    if wide {
        return behind_mark % 2;
    }
    bytes
        .iter()
        .take(3)
        .take_while(|b| (0x80..0xc0).contains(*b))
        .count()
}

/// Hashes what is read through it.
struct Hashing<R> {
    inner: R,
    hasher: blake3::Hasher,
    read: u64,
}

impl<R: Read> Hashing<R> {
    fn new(inner: R) -> Self {
        Self {
            inner,
            hasher: blake3::Hasher::new(),
            read: 0,
        }
    }

    fn finish(self) -> blake3::Hash {
        self.hasher.finalize()
    }
}

impl<R: Read> Read for Hashing<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let read = self.inner.read(buffer)?;
        self.hasher.update(&buffer[..read]);
        self.read += read as u64;
        Ok(read)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::splice;
    use crate::report::Standing;
    use crate::sheet::Sheet;

    fn planned(bytes: &[u8]) -> Option<LargePlan> {
        let mut sheet = Sheet::default();
        sheet
            .add_move(r"D:\Herbarium=H:\Collections\Herbarium")
            .unwrap();
        let options = PlanOptions::of(&sheet);
        plan_large(|| Ok(bytes), options).unwrap()
    }

    #[test]
    fn places_at_the_border_of_two_windows() {
        for encoding in [Encoding::Utf8, Encoding::Utf16Le] {
            let mark = if encoding == Encoding::Utf16Le {
                "\u{feff}"
            } else {
                ""
            };
            let text = |place: &str| {
                let mut text = String::from(mark);
                text.push_str("first\n");
                for shift in [CORE - 8, CORE - 3, 2 * CORE - 20, 100] {
                    text.push_str(&".\u{e9}".repeat(shift / 4));
                    text.push_str(&format!("\"{place}\\{shift}\""));
                }
                encoding.encode(&text).unwrap()
            };
            let old = text(r"D:\Herbarium");
            let plan = planned(&old).unwrap();
            assert_eq!(plan.references.len(), 4);
            let mut references = plan.references.iter();
            let first = references.next().unwrap();
            assert!(
                std::iter::once(first.clone())
                    .chain(references)
                    .all(|r| r.position.unwrap().line == 2 && r.standing == Standing::ToMove)
            );
            let column = first.position.unwrap().column;
            assert_eq!(column, (CORE - 8) / 4 * 2 + 2);
            let new = splice(&old, &plan.edits);
            assert!(new == text(r"H:\Collections\Herbarium"));
            assert_eq!(plan.new_size, new.len() as u64);
        }
        assert!(planned(b"\0\x01\x02\x03\0\0binary").is_none());
    }
}
