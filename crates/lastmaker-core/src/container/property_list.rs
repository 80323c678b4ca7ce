//! Binary property lists (`bplist00`), keyed archives included.
//!
//! A table of objects, each at an offset, ended by a table of the offsets and 32 bytes that say
//! how wide its numbers are. Yields every string, keys too, and data that may be a document
//! or a property list again. Strings that change are written where they are, the offsets
//! follow; an object that is used twice changes once.

use std::collections::HashMap;

use super::bytes::big;
use super::{
    Container, Each, Fault, LiftFault, NewPart, Part, PartContent, Refused, RefusedPart, Source,
};
use crate::about::About;
use crate::format::{Step, site_text};
use crate::layer::{ByteEdits, Edit, Edits, splice};
use crate::scan::{Hint, may_hold_place};

/// Binary property lists.
pub(super) struct PropertyList;

const ABOUT: About = About {
    name: "binary-property-list",
    what: "binary property lists: settings and keyed archives",
    content: "bplist00",
    names: &[],
    read: "strings and keys, in ASCII or UTF-16; documents and property lists in data",
    limits: "bookmarks that are no plain file: URLs are opaque data; text property lists are read as XML",
};

const TRAILER: usize = 32;

/// Kinds of objects, as their markers tell them.
const DATA: u8 = 0x4;
const ASCII: u8 = 0x5;
const UTF_16: u8 = 0x6;
const ARRAY: u8 = 0xA;
const SET: u8 = 0xC;
const DICTIONARY: u8 = 0xD;

/// An object's kind and where its bytes are.
#[derive(Clone, Copy)]
struct Object {
    /// Where its marker is.
    at: usize,
    kind: u8,
    /// Where its content begins, and how many units it has.
    start: usize,
    count: usize,
}

impl Object {
    /// Length of its content in bytes.
    fn length(self, reference: usize) -> usize {
        match self.kind {
            DATA | ASCII => self.count,
            UTF_16 => self.count * 2,
            ARRAY | SET => self.count * reference,
            DICTIONARY => self.count * reference * 2,
            _ => 0,
        }
    }
}

/// The tables of a property list.
struct Tables {
    objects: Vec<Object>,
    reference: usize,
    offset: usize,
    table: usize,
    top: usize,
}

/// Where a string or a piece of data is used.
#[derive(Default, Clone)]
struct Use {
    /// The keys and indexes that lead to it from the root.
    way: Vec<Step>,
    /// Whether it is a key of a dictionary.
    key: bool,
}

impl Container for PropertyList {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, bytes: &[u8], _file_name: &str) -> bool {
        bytes.starts_with(b"bplist0")
    }

    fn hides(&self) -> bool {
        // Data in it may be packed or a property list in UTF-16 of its own.
        true
    }

    fn read(&self, source: Source<'_>, each: &mut Each<'_>) -> Result<(), Fault> {
        let Source { bytes, budget, .. } = source;
        let tables = Tables::read(bytes).ok_or_else(damaged)?;
        let uses = tables.uses(bytes);
        for index in tables.parts(bytes).ok_or_else(damaged)? {
            let object = &tables.objects[index];
            let content = tables.content(bytes, object).ok_or_else(damaged)?;
            let used = uses.get(&index).cloned().unwrap_or_default();
            let text;
            let holding = if object.kind == DATA {
                budget.spend(content.len())?;
                PartContent::Document {
                    name: "",
                    bytes: content,
                    cut: false,
                }
            } else {
                text = text_of(object.kind, content);
                PartContent::Text {
                    bytes: text.as_bytes(),
                    hint: match used.way.last() {
                        Some(Step::Key(key)) if !used.key => Hint::for_value(key),
                        Some(Step::Index(_)) => Hint::Word,
                        _ => Hint::Name,
                    },
                    run: None,
                }
            };
            each(Part {
                way: &site_text(&used.way),
                holding,
                sealed: None,
            })?;
        }
        Ok(())
    }

    fn lift(&self, source: Source<'_>, new: &[NewPart]) -> Result<ByteEdits, LiftFault> {
        let Source { bytes, .. } = source;
        let tables = Tables::read(bytes).ok_or_else(damaged)?;
        let uses = tables.uses(bytes);
        let parts = tables.parts(bytes).ok_or_else(damaged)?;
        let mut edits = Vec::new();
        for part in new {
            let index = *parts.get(part.part).ok_or_else(damaged)?;
            let object = tables.objects[index];
            if uses.get(&index).is_some_and(|used| used.key)
                && self.collides(bytes, &tables, index, &part.content)
            {
                return Err(LiftFault::Parts(vec![RefusedPart::new(
                    part.part,
                    Refused::Collision,
                    "another key has the new name already",
                )]));
            }
            let span = object.at..object.start + object.length(tables.reference);
            let with = write(object.kind, &part.content).ok_or_else(damaged)?;
            edits.push(Edit { span, with });
        }
        let edits: ByteEdits = Edits::new(edits).map_err(|_| Fault::Overlap("objects"))?;
        let old_end = tables.table;
        let body = splice(&bytes[..old_end], &edits);
        // Offsets grow wider when the file does.
        let mut width = tables.offset;
        while width < 8 && body.len() as u64 >> (8 * width) != 0 {
            width += 1;
        }
        let mut tail = Vec::new();
        for object in &tables.objects {
            let at = edits.moved_end(object.at) as u64;
            tail.extend_from_slice(&at.to_be_bytes()[8 - width..]);
        }
        let mut trailer = bytes[bytes.len() - TRAILER..].to_vec();
        trailer[6] = width as u8;
        trailer[24..].copy_from_slice(&(body.len() as u64).to_be_bytes());
        let table_end = tables.table + tables.objects.len() * tables.offset;
        tail.extend_from_slice(&bytes[table_end..bytes.len() - TRAILER]);
        tail.extend(trailer);
        let mut all = edits.into_vec();
        all.push(Edit {
            span: old_end..bytes.len(),
            with: tail,
        });
        Edits::new(all).map_err(|_| Fault::Overlap("objects").into())
    }
}

impl PropertyList {
    /// Whether a dictionary that has the key `index` has another key of the name `new`.
    fn collides(&self, bytes: &[u8], tables: &Tables, index: usize, new: &[u8]) -> bool {
        tables
            .objects
            .iter()
            .filter(|object| object.kind == DICTIONARY)
            .any(|dictionary| {
                let keys: Vec<usize> = (0..dictionary.count)
                    .filter_map(|n| tables.reference_at(bytes, dictionary, n))
                    .collect();
                keys.contains(&index)
                    && keys.iter().filter(|key| **key != index).any(|key| {
                        let object = tables.objects.get(*key);
                        object.is_some_and(|object| {
                            tables.content(bytes, object).is_some_and(|content| {
                                text_of(object.kind, content).as_bytes() == new
                            })
                        })
                    })
            })
    }
}

fn damaged() -> Fault {
    Fault::Damaged("the property list is cut short or damaged: its tables do not fit its objects")
}

/// A string's text; what is no letter becomes opaque.
fn text_of(kind: u8, content: &[u8]) -> String {
    let encoding = match kind {
        UTF_16 => crate::text::Encoding::Utf16Be,
        _ => crate::text::Encoding::Utf8,
    };
    encoding.decode(content).into_owned()
}

/// An object of the same kind with another content.
fn write(kind: u8, content: &[u8]) -> Option<Vec<u8>> {
    let (kind, count, content) = match kind {
        DATA => (DATA, content.len(), content.to_vec()),
        _ if kind == ASCII && content.is_ascii() => (ASCII, content.len(), content.to_vec()),
        _ => {
            let text = std::str::from_utf8(content).ok()?;
            let units: Vec<u8> = text.encode_utf16().flat_map(u16::to_be_bytes).collect();
            (UTF_16, units.len() / 2, units)
        }
    };
    let mut object = Vec::with_capacity(content.len() + 9);
    if count < 15 {
        object.push(kind << 4 | count as u8);
    } else {
        let bytes = (count as u64).to_be_bytes();
        let power: usize = match count {
            0..=0xFF => 0,
            0x100..=0xFFFF => 1,
            0x1_0000..=0xFFFF_FFFF => 2,
            _ => 3,
        };
        object.extend([kind << 4 | 0xF, 0x10 | power as u8]);
        object.extend_from_slice(&bytes[8 - (1 << power)..]);
    }
    object.extend(content);
    Some(object)
}

impl Tables {
    fn read(bytes: &[u8]) -> Option<Self> {
        let trailer = bytes.len().checked_sub(TRAILER).filter(|at| *at >= 8)?;
        let (offset, reference) = (bytes[trailer + 6] as usize, bytes[trailer + 7] as usize);
        if !(1..=8).contains(&offset) || !(1..=8).contains(&reference) {
            return None;
        }
        let count = big(bytes, trailer + 8, 8)? as usize;
        let top = big(bytes, trailer + 16, 8)? as usize;
        let table = big(bytes, trailer + 24, 8)? as usize;
        if table < 8
            || count > bytes.len()
            || table.checked_add(count.checked_mul(offset)?)? > trailer
        {
            return None;
        }
        let mut objects = Vec::with_capacity(count);
        for index in 0..count {
            let at = big(bytes, table + index * offset, offset)? as usize;
            objects.push(object(bytes, at, table)?);
        }
        let tables = Self {
            objects,
            reference,
            offset,
            table,
            top,
        };
        let fits = |object: &Object| {
            object
                .start
                .checked_add(object.length(reference))
                .is_some_and(|end| end <= table)
        };
        (top < count && tables.objects.iter().all(fits)).then_some(tables)
    }

    /// The objects that are parts, in order: strings that may name a place, and data that may
    /// be a document.
    fn parts(&self, bytes: &[u8]) -> Option<Vec<usize>> {
        let mut parts = Vec::new();
        for (index, object) in self.objects.iter().enumerate() {
            let content = self.content(bytes, object)?;
            let part = match object.kind {
                ASCII | UTF_16 => may_hold_place(&text_of(object.kind, content)),
                DATA => content.len() > 4,
                _ => false,
            };
            if part {
                parts.push(index);
            }
        }
        Some(parts)
    }

    fn content<'a>(&self, bytes: &'a [u8], object: &Object) -> Option<&'a [u8]> {
        bytes.get(object.start..object.start + object.length(self.reference))
    }

    fn reference_at(&self, bytes: &[u8], object: &Object, index: usize) -> Option<usize> {
        big(bytes, object.start + index * self.reference, self.reference).map(|n| n as usize)
    }

    /// The way to each object by which it is first reached, and whether it is a key.
    fn uses(&self, bytes: &[u8]) -> HashMap<usize, Use> {
        let mut uses: HashMap<usize, Use> = HashMap::new();
        let mut left = vec![(self.top, Use::default())];
        while let Some((index, used)) = left.pop() {
            let Some(object) = self.objects.get(index).copied() else {
                continue;
            };
            let key = used.key;
            if let Some(known) = uses.get_mut(&index) {
                known.key |= key;
                continue;
            }
            let way = used.way.clone();
            uses.insert(index, used);
            // A way that goes on and on is meant to cost memory.
            if way.len() >= 64 {
                continue;
            }
            let further = |step: Step| Use {
                way: way.iter().cloned().chain([step]).collect(),
                key: false,
            };
            match object.kind {
                ARRAY | SET => {
                    let items = (0..object.count).rev().filter_map(|n| {
                        Some((
                            self.reference_at(bytes, &object, n)?,
                            further(Step::Index(n)),
                        ))
                    });
                    left.extend(items);
                }
                DICTIONARY => {
                    for n in (0..object.count).rev() {
                        let (Some(key), Some(value)) = (
                            self.reference_at(bytes, &object, n),
                            self.reference_at(bytes, &object, object.count + n),
                        ) else {
                            continue;
                        };
                        let name = self.objects.get(key).and_then(|object| {
                            Some(text_of(object.kind, self.content(bytes, object)?))
                        });
                        left.push((value, further(Step::Key(name.unwrap_or_default()))));
                        left.push((
                            key,
                            Use {
                                way: way.clone(),
                                key: true,
                            },
                        ));
                    }
                }
                _ => {}
            }
        }
        uses
    }
}

/// The object whose marker is at `at`; objects end before the table at `end`.
fn object(bytes: &[u8], at: usize, end: usize) -> Option<Object> {
    if at < 8 || at >= end {
        return None;
    }
    let marker = bytes[at];
    let (kind, low) = (marker >> 4, usize::from(marker & 0xF));
    let counted = matches!(kind, DATA | ASCII | UTF_16 | ARRAY | SET | DICTIONARY);
    let (start, count) = if counted && low == 0xF {
        let width = 1usize << (bytes.get(at + 1)? & 3);
        (at + 2 + width, big(bytes, at + 2, width)? as usize)
    } else {
        (at + 1, low)
    };
    (count <= bytes.len()).then_some(Object {
        at,
        kind,
        start,
        count,
    })
}
