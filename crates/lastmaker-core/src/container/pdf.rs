//! Documents in the Portable Document Format (ISO 32000): their links and launch actions.
//!
//! Yields every string of the objects that are plain in the file and of those in object
//! streams, with the byte at which it, or its stream, is. Page contents are not read.
//! Offsets count every byte, and signatures cover them, so nothing is ever changed.

use std::collections::HashSet;
use std::io::Read;

use flate2::read::ZlibDecoder;

use super::{Container, Each, Fault, Part, PartContent, RunAt, Source};
use crate::about::About;
use crate::scan::{Hint, may_hold_place};

/// Portable documents.
pub(super) struct Pdf;

const ABOUT: About = About {
    name: "pdf",
    what: "portable documents: their links, launch actions and attached files",
    content: "%PDF-",
    names: &[".pdf"],
    read: "strings of plain objects and of object streams, listed with the byte at which they stand",
    limits: "never changed: export it anew from its source; page contents are not read; an encrypted one is named and left",
};

const COUNTED: &str = "every byte of a portable document is counted, so it is never changed; export it anew from its source, or put a link at the old place";

impl Container for Pdf {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, bytes: &[u8], _file_name: &str) -> bool {
        bytes.starts_with(b"%PDF-")
    }

    fn read(&self, source: Source<'_>, each: &mut Each<'_>) -> Result<(), Fault> {
        let Source { bytes, budget, .. } = source;
        if is_encrypted(bytes) {
            return Err(Fault::Encrypted(
                "it is encrypted, so its links cannot be read; open it in its program to see them",
            ));
        }
        let mut yielded = |text: String, at: usize| {
            each(Part {
                way: "",
                holding: PartContent::Text {
                    bytes: text.as_bytes(),
                    hint: Hint::Name,
                    run: Some(RunAt { at, wide: false }),
                },
                sealed: Some(COUNTED),
            })
        };
        let mut at = 0;
        while at < bytes.len() {
            let stream = next_stream(bytes, at);
            let plain_end = stream.as_ref().map_or(bytes.len(), |stream| stream.start);
            for (offset, text) in strings(&bytes[at..plain_end]) {
                yielded(text, at + offset)?;
            }
            let Some(stream) = stream else { break };
            // Only object streams hold objects.
            let head = &bytes[plain_end.saturating_sub(400).max(at)..plain_end];
            let head = &head[memchr::memmem::rfind(head, b" obj").unwrap_or(0)..];
            if memchr::memmem::find(head, b"/ObjStm").is_some() {
                let mut content = Vec::new();
                // A stream that does not unpack to its end is read as far as it does.
                let _ = ZlibDecoder::new(&bytes[stream.clone()])
                    .take(budget.left().saturating_add(1))
                    .read_to_end(&mut content);
                budget.spend(content.len())?;
                for (_, text) in strings(&content) {
                    yielded(text, stream.start)?;
                }
            }
            at = stream.end;
        }
        Ok(())
    }
}

/// Whether the trailer, or the stream that stands for it, names an encryption.
fn is_encrypted(bytes: &[u8]) -> bool {
    let mut found = memchr::memmem::find_iter(bytes, b"/Encrypt");
    found.any(|at| {
        let rest = &bytes[at + 8..(at + 40).min(bytes.len())];
        let number = rest.iter().copied().find(|b| !b.is_ascii_whitespace());
        number.is_some_and(|b| b.is_ascii_digit() || b == b'<')
    })
}

/// Where the content of the next stream after `from` is.
fn next_stream(bytes: &[u8], from: usize) -> Option<std::ops::Range<usize>> {
    let mut at = from;
    loop {
        let keyword = at + memchr::memmem::find(&bytes[at..], b"stream")?;
        let mut start = keyword + 6;
        if keyword >= 3 && bytes[..keyword].ends_with(b"end") {
            at = start;
            continue;
        }
        match bytes.get(start..) {
            Some([b'\r', b'\n', ..]) => start += 2,
            Some([b'\n', ..]) => start += 1,
            _ => {
                at = start;
                continue;
            }
        }
        let length = memchr::memmem::find(&bytes[start..], b"endstream")?;
        return Some(start..start + length);
    }
}

/// The strings of objects, in parentheses or in hex digits, each with its offset.
fn strings(bytes: &[u8]) -> Vec<(usize, String)> {
    let mut all = Vec::new();
    let mut pairs = Pairs::default();
    let mut at = 0;
    while let Some(next) = memchr::memchr2(b'(', b'<', &bytes[at..]) {
        let start = at + next;
        let read = if bytes[start] == b'(' {
            pairs
                .has(bytes, start)
                .then(|| literal(&bytes[start..]))
                .flatten()
        } else {
            digits(&bytes[start..])
        };
        at = start + 1;
        if let Some((content, length)) = read {
            at = start + length;
            let text = match content.strip_prefix(b"\xfe\xff") {
                Some(wide) => crate::text::Encoding::Utf16Be.decode(wide).into_owned(),
                None => crate::text::Encoding::WINDOWS_1252
                    .decode(&content)
                    .into_owned(),
            };
            if may_hold_place(&text) {
                all.push((start, text));
            }
        }
    }
    all
}

/// A string longer than this, in bytes, is none.
const LONGEST: usize = 1 << 15;

/// Which parentheses have one that closes them, found out for a stretch at a time: a row of opening
/// ones would be read to its end for each of them.
#[derive(Default)]
struct Pairs {
    known: std::ops::Range<usize>,
    opening: HashSet<usize>,
}

impl Pairs {
    /// Whether the parenthesis at `at` is closed within reach.
    fn has(&mut self, bytes: &[u8], at: usize) -> bool {
        if !self.known.contains(&at) {
            self.read(bytes, at);
        }
        self.opening.contains(&at)
    }

    fn read(&mut self, bytes: &[u8], from: usize) {
        // Those in the second half may be closed beyond it, and are looked at again.
        self.known = from..from + LONGEST;
        self.opening.clear();
        let mut open = Vec::new();
        let mut at = from;
        while at < bytes.len().min(from + 2 * LONGEST) {
            match bytes[at] {
                b'(' => open.push(at),
                b')' => self.opening.extend(open.pop()),
                b'\\' => at += 1,
                _ => {}
            }
            at += 1;
        }
    }
}

/// The content of a string in parentheses, and its length with them.
fn literal(bytes: &[u8]) -> Option<(Vec<u8>, usize)> {
    let mut content = Vec::new();
    let (mut at, mut depth) = (1, 1);
    while at < bytes.len().min(LONGEST) {
        let byte = bytes[at];
        at += 1;
        match byte {
            b'(' => depth += 1,
            b')' => depth -= 1,
            b'\\' => {
                let escaped = *bytes.get(at)?;
                at += 1;
                let octal = |b: &u8| (b'0'..b'8').contains(b);
                match escaped {
                    b'n' => content.push(b'\n'),
                    b'r' => content.push(b'\r'),
                    b't' => content.push(b'\t'),
                    b'b' => content.push(8),
                    b'f' => content.push(12),
                    b'\n' => {}
                    b'0'..=b'7' => {
                        let more = bytes[at..].iter().take(2).take_while(|b| octal(b)).count();
                        let value = bytes[at - 1..at + more]
                            .iter()
                            .fold(0u16, |n, b| n << 3 | u16::from(b - b'0'));
                        content.push(value as u8);
                        at += more;
                    }
                    other => content.push(other),
                }
                continue;
            }
            _ => {}
        }
        if depth == 0 {
            return Some((content, at));
        }
        content.push(byte);
    }
    None
}

/// The content of a string in hex digits, and its length with its brackets.
fn digits(bytes: &[u8]) -> Option<(Vec<u8>, usize)> {
    let end = memchr::memchr(b'>', &bytes[..bytes.len().min(LONGEST)])?;
    let digits: Option<Vec<u8>> = bytes[1..end]
        .iter()
        .filter(|b| !b.is_ascii_whitespace())
        .map(|b| (*b as char).to_digit(16).map(|n| n as u8))
        .collect();
    let digits = digits.filter(|digits| !digits.is_empty())?;
    let pairs = digits
        .chunks(2)
        .map(|pair| pair[0] << 4 | pair.get(1).unwrap_or(&0));
    Some((pairs.collect(), end + 1))
}
