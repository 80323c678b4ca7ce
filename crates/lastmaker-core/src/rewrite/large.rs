//! Text larger than a document may be: read window by window, as plain text.
//!
//! Windows overlap by more than the longest place, and each place is taken from the window
//! in whose core it begins. Memory stays at a few windows whatever the size of the file or
//! of its lines.

use std::cell::Cell;
use std::io::{self, Read};
use std::sync::Arc;

use crate::format::Role;
use crate::layer::{Edit, Edits, Layers, OpenedChain, Unfit};
use crate::place::{Finder, Hint, readings};
use crate::report::Standing;
use crate::scan::SitePassage;
use crate::sheet::Sheet;
use crate::text::{Encoding, detect};

use super::excerpt::excerpt;
use super::intent::{Intent, Mood, intend};
use super::plan::{LineCounter, MOST_REFERENCES, PlanOptions, PlannedReference, too_many};

/// Size of a window's core in bytes.
const CORE: usize = 4 << 20;
/// What is read beyond the core on either side, in bytes.
const MARGIN: usize = 128 << 10;

/// What becomes of a large text.
#[derive(Debug)]
pub struct LargePlan {
    /// Every reference that a move touches, in order.
    pub references: Vec<PlannedReference>,
    /// The edits of the file's bytes.
    pub edits: Edits,
    /// Name of the encoding.
    pub encoding: &'static str,
    /// Hash of the whole file as it was read.
    pub before: blake3::Hash,
    /// Hash of the file as it will be.
    pub after: blake3::Hash,
    /// Size of the file as it will be, in bytes.
    pub new_size: u64,
}

/// Plans the rewrite of a text that `open` gives from its start as often as it is asked;
/// none if it is no text.
///
/// # Errors
/// As reading does; and where the new text, read again, would not name the new places.
pub fn plan_large<R: Read>(
    mut open: impl FnMut() -> io::Result<R>,
    options: PlanOptions<'_>,
) -> io::Result<Option<LargePlan>> {
    let sheet = options.sheet;
    let mood = Mood {
        sealed: None,
        broke: None,
        repair: options.repair,
    };
    let mut references = Vec::new();
    let mut edits: Vec<Edit> = Vec::new();
    let mut expected = blake3::Hasher::new();
    let mut hashed = Hashing::new(open()?);
    let Some(encoding) = windows(&mut hashed, options, &mut |window| {
        for found in window.finds() {
            if references.len() > MOST_REFERENCES {
                return;
            }
            let intent = window.intent(&found, sheet, mood, &mut edits);
            match &intent {
                Some(intent) if !intent.edits.is_empty() => {
                    expected.update(new_key(intent).as_bytes());
                }
                _ => {
                    expected.update(window.key(&found).as_bytes());
                }
            }
            if let Some(intent) = intent {
                references.push(window.describe(&found, intent));
            }
        }
    })?
    else {
        return Ok(None);
    };
    if references.len() > MOST_REFERENCES {
        return Err(io::Error::other(too_many()));
    }
    let before = hashed.finish();
    let edits = Edits::new(edits).map_err(|_| io::Error::other("two changes overlap"))?;
    let mut got = blake3::Hasher::new();
    let mut spliced = Hashing::new(SplicedReader::new(open()?, &edits));
    windows(&mut spliced, options, &mut |window| {
        for found in window.finds() {
            got.update(window.key(&found).as_bytes());
        }
    })?;
    let new_size = spliced.read;
    let after = spliced.finish();
    if expected.finalize() != got.finalize() {
        return Err(io::Error::other(
            "read again, the new copy would not name the new places, so the file is left",
        ));
    }
    Ok(Some(LargePlan {
        references,
        edits,
        encoding: encoding.name(),
        before,
        after,
        new_size,
    }))
}

fn new_key(intent: &Intent) -> String {
    intent
        .new_place
        .as_ref()
        .map_or_else(String::new, |place| place.by_drive().key())
}

/// One decoded window.
struct Window<'a> {
    text: &'a str,
    raw: &'a [u8],
    encoding: Encoding,
    /// Where the window begins in the file.
    base: usize,
    /// Places that begin here belong to this window, as byte offsets of `text`.
    core: std::ops::Range<usize>,
    /// Line of the window's first letter, counted from 1, and letters before it on that line.
    line: usize,
    column: usize,
    lines: Cell<LineCounter>,
    variables: &'a [(String, crate::place::Place)],
}

impl Window<'_> {
    fn finds(&self) -> Vec<crate::place::Found> {
        let finder = Finder {
            variables: self.variables,
        };
        let mut finds = finder.find(self.text, Hint::default());
        finds.retain(|found| self.core.contains(&found.start));
        finds
    }

    fn key(&self, found: &crate::place::Found) -> String {
        found
            .place_until(self.text, readings(found, self.text)[0])
            .key()
    }

    fn site(&self) -> SitePassage {
        let none: Layers = Arc::new([]);
        SitePassage {
            ordinal: 0,
            span: 0..self.text.len(),
            role: Role::Prose,
            hint: Hint::default(),
            site: String::new(),
            chain: OpenedChain::open(&none, b"").expect("no layers, nothing to be malformed"),
            layers: none,
            finds: Vec::new(),
        }
    }

    /// What is to happen to `found`; its edits, lifted to the file, go to `all`.
    fn intent(
        &self,
        found: &crate::place::Found,
        sheet: &Sheet,
        mood: Mood,
        all: &mut Vec<Edit>,
    ) -> Option<Intent> {
        let mut intent = intend(&self.site(), found, self.text, sheet, mood)?;
        match self.lift(&intent.edits) {
            Ok(lifted) => all.extend(lifted),
            Err(why @ Unfit::NoSuchLetter { .. }) => {
                intent.withdraw(Standing::Sealed, why.to_string());
            }
            Err(why) => intent.withdraw(Standing::Doubtful, why.to_string()),
        }
        Some(intent)
    }

    fn lift(&self, edits: &[Edit]) -> Result<Vec<Edit>, Unfit> {
        let sorted = Edits::new(edits.to_vec()).map_err(|_| Unfit::Overlap)?;
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
        let (mut at, mut outer) = (0, 0);
        while at < inner {
            let (letter, width) = self.encoding.unit(&self.raw[outer..]);
            at += letter.len_utf8();
            outer += width;
        }
        outer
    }

    fn describe(&self, found: &crate::place::Found, intent: Intent) -> PlannedReference {
        let made = excerpt(
            self.text,
            &intent.edits,
            found.start..intent.end,
            0..self.text.len(),
        );
        let mut counter = self.lines.get();
        let (lines, letters) = counter.at(self.text, found.start);
        self.lines.set(counter);
        let column = if lines == 1 {
            self.column + letters
        } else {
            letters
        };
        let position = (self.line + lines - 1, column);
        PlannedReference::new(found, intent, self.text, position, made)
    }
}

/// Reads `source` window by window; the encoding, or none if it is no text.
fn windows(
    source: &mut impl Read,
    options: PlanOptions<'_>,
    each: &mut dyn FnMut(&Window<'_>),
) -> io::Result<Option<Encoding>> {
    let mut buffer: Vec<u8> = Vec::with_capacity(CORE + 2 * MARGIN);
    let (mut base, mut core_start) = (0usize, 0usize);
    let (mut line, mut column) = (1usize, 0usize);
    let mut encoding: Option<(Encoding, usize)> = None;
    loop {
        let wanted = (core_start + CORE + MARGIN).saturating_sub(base + buffer.len());
        let read = source
            .by_ref()
            .take(wanted as u64)
            .read_to_end(&mut buffer)?;
        let at_end = read < wanted;
        let (encoding, mark) = match encoding {
            Some(known) => known,
            None => {
                let head = &buffer[..buffer.len().min(CORE)];
                // A letter cut in two at the end of the head is no fault of the file.
                let head = &head[..head.len() - head.len() % 2];
                let Some(detected) = detect(head, options.reading.encoding) else {
                    return Ok(None);
                };
                *encoding.insert((detected.encoding, detected.mark))
            }
        };
        let wide = matches!(encoding, Encoding::Utf16Le | Encoding::Utf16Be);
        let skip = if base == 0 {
            mark
        } else {
            first_boundary(&buffer, wide, base - mark)
        };
        let raw = &buffer[skip..];
        let text = encoding.decode(raw);
        let core_end = if at_end {
            usize::MAX
        } else {
            core_start + CORE
        };
        let inner = |file_offset: usize| -> usize {
            let target = file_offset.saturating_sub(base + skip).min(raw.len());
            if text.len() == raw.len() {
                return target;
            }
            let (mut at, mut outer) = (0, 0);
            while outer < target {
                let (letter, width) = encoding.unit(&raw[outer..]);
                at += letter.len_utf8();
                outer += width;
            }
            at
        };
        let window = Window {
            text: &text,
            raw,
            encoding,
            base: base + skip,
            core: inner(core_start)..if at_end { usize::MAX } else { inner(core_end) },
            line,
            column,
            lines: Cell::default(),
            variables: &options.sheet.variables,
        };
        each(&window);
        if at_end {
            return Ok(Some(encoding));
        }
        core_start += CORE;
        // Two bytes at a time, so that UTF-16 stays in step with its mark.
        let keep_from = (core_start - MARGIN - base) & !1;
        let gone = inner(base + keep_from);
        let passed = &text[..floor(&text, gone)];
        line += memchr::memchr_iter(b'\n', passed.as_bytes()).count();
        column = match passed.rfind('\n') {
            Some(at) => passed[at + 1..].chars().count(),
            None => column + passed.chars().count(),
        };
        drop(text);
        buffer.drain(..keep_from);
        base += keep_from;
    }
}

fn floor(text: &str, mut at: usize) -> usize {
    while !text.is_char_boundary(at) {
        at -= 1;
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

/// Reads a file as it will be once edits are made, without holding either.
pub(crate) struct SplicedReader<'a, R> {
    inner: R,
    edits: std::slice::Iter<'a, Edit>,
    /// Where `inner` stands.
    at: usize,
    next: Option<&'a Edit>,
    /// What is left of the replacement that is being given.
    pending: &'a [u8],
}

impl<'a, R: Read> SplicedReader<'a, R> {
    pub(crate) fn new(inner: R, edits: &'a Edits) -> Self {
        let mut edits = edits.as_slice().iter();
        let next = edits.next();
        Self {
            inner,
            edits,
            at: 0,
            next,
            pending: &[],
        }
    }
}

impl<R: Read> Read for SplicedReader<'_, R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        if buffer.is_empty() {
            return Ok(0);
        }
        loop {
            if !self.pending.is_empty() {
                let given = self.pending.len().min(buffer.len());
                buffer[..given].copy_from_slice(&self.pending[..given]);
                self.pending = &self.pending[given..];
                return Ok(given);
            }
            match self.next {
                Some(edit) if self.at == edit.span.start => {
                    let mut gone = (&mut self.inner).take((edit.span.end - edit.span.start) as u64);
                    self.at += io::copy(&mut gone, &mut io::sink())? as usize;
                    self.pending = &edit.with;
                    self.next = self.edits.next();
                }
                next => {
                    let room = next.map_or(buffer.len(), |edit| {
                        buffer.len().min(edit.span.start - self.at)
                    });
                    let read = self.inner.read(&mut buffer[..room])?;
                    self.at += read;
                    return Ok(read);
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::splice;
    use crate::scan::Reading;
    use proptest::prelude::*;

    fn planned(bytes: &[u8]) -> Option<LargePlan> {
        let mut sheet = Sheet::default();
        sheet
            .add_move(r"D:\Herbarium=H:\Collections\Herbarium")
            .unwrap();
        let options = PlanOptions {
            sheet: &sheet,
            reading: Reading::default(),
            repair: false,
        };
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
            assert!(
                plan.references
                    .iter()
                    .all(|r| r.line == 2 && r.standing == Standing::ToMove)
            );
            assert_eq!(plan.references[0].column, (CORE - 8) / 4 * 2 + 2);
            let new = splice(&old, &plan.edits);
            assert!(new == text(r"H:\Collections\Herbarium"));
            assert_eq!(
                (plan.before, plan.after),
                (blake3::hash(&old), blake3::hash(&new))
            );
            assert_eq!(plan.new_size, new.len() as u64);
        }
        assert!(planned(b"\0\x01\x02\x03\0\0binary").is_none());
    }

    proptest! {
        #[test]
        fn reading_spliced_is_splicing(
            old in prop::collection::vec(any::<u8>(), 0..50),
            cuts in prop::collection::vec((0usize..50, 0usize..5, prop::collection::vec(any::<u8>(), 0..5)), 0..5),
        ) {
            let edits = cuts.into_iter().filter(|(s, l, _)| s + l <= old.len()).map(|(s, l, with)| Edit { span: s..s + l, with }).collect();
            let Ok(edits) = Edits::new(edits) else { return Ok(()) };
            let mut new = Vec::new();
            SplicedReader::new(&old[..], &edits).read_to_end(&mut new).unwrap();
            prop_assert_eq!(new, splice(&old, &edits));
        }
    }
}
