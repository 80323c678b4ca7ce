//! The passages of a document as one reading yields them, so that what recognised the document need not
//! read it again.

use std::sync::Arc;

use super::way::{Way, Ways};
use super::{Grammar, Passage, Reader, Role};
use crate::layer::Layers;
use crate::scan::{Hint, may_hold_place};

/// Of a document with more passages than these none are kept: it is read again when they are wanted.
const MOST: usize = 1 << 14;

/// Nor are they if the names on the ways to them are longer together, in bytes.
const LONGEST_NAMES: usize = 1 << 22;

/// Every passage of a document, in order.
pub struct Passages {
    all: Vec<Known>,
    /// The layers of passages; mostly many wear the same.
    layers: Vec<Layers>,
    ways: Ways,
    grammar: Grammar,
}

#[derive(Clone, Copy)]
struct Known {
    start: u32,
    end: u32,
    /// Its layers, by number.
    layers: u32,
    /// The way to it, by number.
    way: u32,
    role: Role,
    hint: Hint,
}

impl Passage<'_> {
    /// Whether a place may be in the passage, of which `raw` is the text as it is written.
    pub fn may_hold_place(&self, raw: &str) -> bool {
        let plain = match &self.layers[..] {
            [] => true,
            [layer] => !layer.hides_separators(),
            _ => false,
        };
        // In running text a whole place may be percent-encoded.
        let encoded = || !self.hint.is_value() && memchr::memchr(b'%', raw.as_bytes()).is_some();
        !plain || may_hold_place(raw) || self.hint.names_drive() || encoded()
    }
}

impl Passages {
    /// Reads `text` once. Gives whether it keeps the grammar, or breaks it in escapes at the most, and its
    /// passages if they are few enough.
    pub(super) fn read(reader: &dyn Reader, text: &str) -> (bool, Option<Box<Self>>) {
        let mut known = Box::new(Self {
            all: Vec::new(),
            layers: Vec::new(),
            ways: Ways::default(),
            grammar: Grammar::Kept,
        });
        let mut complete = true;
        known.grammar = reader.passages_if_kept(text, &mut |passage| {
            complete = complete && known.push(&passage).is_some();
        });
        let kept = known.grammar != Grammar::Broken;
        (kept, complete.then_some(known))
    }

    /// Keeps one more passage; none if there are too many.
    fn push(&mut self, passage: &Passage<'_>) -> Option<()> {
        if self.all.len() == MOST || self.ways.length() > LONGEST_NAMES {
            return None;
        }
        let number = |of: usize| u32::try_from(of).ok();
        let known = Known {
            start: number(passage.span.start)?,
            end: number(passage.span.end)?,
            layers: self.worn(passage.layers),
            way: number(self.ways.keep(passage.site))?,
            role: passage.role,
            hint: passage.hint,
        };
        self.all.push(known);
        Some(())
    }

    /// The number of these layers, which are mostly among the last that were worn.
    fn worn(&mut self, layers: &Layers) -> u32 {
        const LAST: usize = 4;
        let from = self.layers.len().saturating_sub(LAST);
        let mut last = self.layers[from..].iter();
        let at = match last.position(|known| Arc::ptr_eq(known, layers)) {
            Some(at) => from + at,
            None => {
                self.layers.push(layers.clone());
                self.layers.len() - 1
            }
        };
        // There are no more of them than passages.
        at as u32
    }

    /// Yields each passage, and says whether the document keeps its format's grammar.
    pub fn each(&self, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let mut room = Way::default();
        for known in &self.all {
            each(Passage {
                span: known.start as usize..known.end as usize,
                layers: &self.layers[known.layers as usize],
                role: known.role,
                hint: known.hint,
                site: self.ways.tell(known.way as usize, &mut room),
            });
        }
        self.grammar
    }
}
