//! Bencoded data: `d4:name11:D:\Herbariume`, strings preceded by their own length.
//!
//! Yields every string that is text. Keys of a dictionary are kept sorted, so a key whose
//! change would break the order is left. What lies under a key `info` at the top is known to
//! others by its hash, so it is sealed.

use std::ops::Range;

use super::{
    Container, Each, Fault, LiftFault, NewPart, Part, PartContent, Refused, RefusedPart, Source,
};
use crate::about::About;
use crate::format::{Step, site_text};
use crate::layer::{ByteEdits, Edit, Edits};
use crate::scan::Hint;

/// Bencoded data.
pub(super) struct Bencode;

const ABOUT: About = About {
    name: "bencode",
    what: "bencoded data: state and settings of programs that transfer files",
    content: "a dictionary or list, bencoded to the end of the file",
    names: &[],
    read: "strings that are text, keys too; their counts follow",
    limits: "what lies under a key `info` at the top is known by its hash, and sealed",
};

const HASHED: &str = "other programs know this data by its hash, which a change would break";

/// Lists in lists are followed so deep.
const DEEPEST: usize = 64;

/// A string, where its count and its bytes are, and what it is.
struct Found {
    count: Range<usize>,
    bytes: Range<usize>,
    way: Vec<Step>,
    key: bool,
}

impl Container for Bencode {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, bytes: &[u8], _file_name: &str) -> bool {
        // Only the first bytes are looked at here; `read` says if the rest does not follow.
        let starts = match bytes {
            [b'd', digit, ..] | [b'l', digit, ..] => {
                digit.is_ascii_digit() || matches!(digit, b'd' | b'l' | b'i')
            }
            _ => false,
        };
        starts && bytes.ends_with(b"e") && strings(bytes).is_some()
    }

    fn hides(&self) -> bool {
        false
    }

    fn read(&self, source: Source<'_>, each: &mut Each<'_>) -> Result<(), Fault> {
        let Source { bytes, .. } = source;
        for found in strings(bytes).ok_or_else(damaged)? {
            let text = &bytes[found.bytes.clone()];
            let hint = match found.way.last() {
                Some(Step::Key(key)) if !found.key => Hint::for_value(key),
                _ => Hint::Name,
            };
            let hashed = matches!(found.way.first(), Some(Step::Key(key)) if key == "info");
            each(Part {
                way: &site_text(&found.way),
                holding: PartContent::Text {
                    bytes: text,
                    hint,
                    run: None,
                },
                sealed: hashed.then_some(HASHED),
            })?;
        }
        Ok(())
    }

    fn lift(&self, source: Source<'_>, new: &[NewPart]) -> Result<ByteEdits, LiftFault> {
        let Source { bytes, .. } = source;
        let all = strings(bytes).ok_or_else(damaged)?;
        let mut edits = Vec::new();
        for part in new {
            let found = all.get(part.part).ok_or_else(damaged)?;
            if found.key {
                return Err(LiftFault::Parts(vec![RefusedPart::new(
                    part.part,
                    Refused::Doubtful,
                    "it is a key of a dictionary that is kept sorted, by which programs find it",
                )]));
            }
            edits.push(Edit {
                span: found.count.clone(),
                with: part.content.len().to_string().into_bytes(),
            });
            edits.push(Edit {
                span: found.bytes.clone(),
                with: part.content.clone(),
            });
        }
        Edits::new(edits).map_err(|_| Fault::Overlap("strings").into())
    }
}

fn damaged() -> Fault {
    Fault::Damaged("it is damaged: its counts do not fit its strings")
}

/// Every string, in order; none if the data is not bencoded to its end.
fn strings(bytes: &[u8]) -> Option<Vec<Found>> {
    let mut reader = Reader {
        bytes,
        at: 0,
        all: Vec::new(),
        way: Vec::new(),
    };
    reader.value()?;
    (reader.at == bytes.len()).then_some(reader.all)
}

struct Reader<'a> {
    bytes: &'a [u8],
    at: usize,
    all: Vec<Found>,
    way: Vec<Step>,
}

impl Reader<'_> {
    fn value(&mut self) -> Option<()> {
        if self.way.len() > DEEPEST {
            return None;
        }
        match self.bytes.get(self.at)? {
            b'i' => {
                let end = memchr::memchr(b'e', &self.bytes[self.at..])?;
                let digits = &self.bytes[self.at + 1..self.at + end];
                let digits = digits.strip_prefix(b"-").unwrap_or(digits);
                if digits.is_empty() || !digits.iter().all(u8::is_ascii_digit) {
                    return None;
                }
                self.at += end + 1;
                Some(())
            }
            b'l' => {
                self.at += 1;
                let mut index = 0;
                while *self.bytes.get(self.at)? != b'e' {
                    self.way.push(Step::Index(index));
                    self.value()?;
                    self.way.pop();
                    index += 1;
                }
                self.at += 1;
                Some(())
            }
            b'd' => {
                self.at += 1;
                while *self.bytes.get(self.at)? != b'e' {
                    let key = self.string(true)?;
                    let name = String::from_utf8_lossy(&self.bytes[key]).into_owned();
                    self.way.push(Step::Key(name));
                    self.value()?;
                    self.way.pop();
                }
                self.at += 1;
                Some(())
            }
            _ => self.string(false).map(|_| ()),
        }
    }

    fn string(&mut self, key: bool) -> Option<Range<usize>> {
        let rest = &self.bytes[self.at..];
        let digits = rest.iter().take_while(|b| b.is_ascii_digit()).count();
        if digits == 0 || digits > 10 || rest.get(digits) != Some(&b':') {
            return None;
        }
        let length: usize = std::str::from_utf8(&rest[..digits]).ok()?.parse().ok()?;
        let count = self.at..self.at + digits;
        let start = count.end + 1;
        let bytes = start..start.checked_add(length)?;
        let text = self.bytes.get(bytes.clone())?;
        if std::str::from_utf8(text).is_ok_and(crate::scan::may_hold_place) {
            let way = self.way.clone();
            self.all.push(Found {
                count,
                bytes: bytes.clone(),
                way,
                key,
            });
        }
        self.at = bytes.end;
        Some(bytes)
    }
}
