//! The objects and lists that a value of a JSON document is in, and the way to it through them.

use std::ops::Range;

use super::super::Step;
use super::super::way::Way;

/// What is open.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Kind {
    /// The document itself, of which one may follow another.
    Document,
    Object,
    List,
}

/// Something open.
pub(super) struct Frame {
    pub(super) kind: Kind,
    /// Its number among the objects and lists; the document's is 0.
    pub(super) scope: usize,
    /// Where its last key is.
    key: Range<usize>,
    /// How many items came before this one.
    items: usize,
}

impl Frame {
    fn new(kind: Kind, scope: usize) -> Self {
        Self {
            kind,
            scope,
            key: 0..0,
            items: 0,
        }
    }
}

/// All that is open.
pub(super) struct Frames<'t> {
    text: &'t str,
    last: Frame,
    /// Those around the last, outermost first.
    around: Vec<Frame>,
    scopes: usize,
    /// A step for each but the document; most are never told, so they are made only then.
    way: Way,
    /// How many of the steps say what is so now.
    told: usize,
}

impl<'t> Frames<'t> {
    pub(super) fn new(text: &'t str) -> Self {
        Self {
            text,
            last: Frame::new(Kind::Document, 0),
            around: Vec::new(),
            scopes: 0,
            way: Way::default(),
            told: 0,
        }
    }

    /// The innermost.
    #[inline(always)]
    pub(super) fn last(&self) -> &Frame {
        &self.last
    }

    /// Its last key.
    pub(super) fn key(&self) -> &'t str {
        &self.text[self.last.key.clone()]
    }

    /// Begins one more.
    #[inline(always)]
    pub(super) fn begin(&mut self, kind: Kind) {
        self.scopes += 1;
        let new = Frame::new(kind, self.scopes);
        self.around.push(std::mem::replace(&mut self.last, new));
    }

    /// Ends the innermost and says of which kind it was; none if it is the document.
    #[inline(always)]
    pub(super) fn end(&mut self) -> Option<Kind> {
        let around = self.around.pop()?;
        self.told = self.told.min(self.around.len());
        Some(std::mem::replace(&mut self.last, around).kind)
    }

    /// Whether nothing but the document is open.
    pub(super) fn are_closed(&self) -> bool {
        self.around.is_empty()
    }

    /// Notes the next item of a list.
    #[inline(always)]
    pub(super) fn item(&mut self) {
        self.last.items += 1;
        self.forget();
    }

    /// Notes the next key of an object.
    #[inline(always)]
    pub(super) fn named(&mut self, key: Range<usize>) {
        self.last.key = key;
        self.forget();
    }

    /// The last step is another now.
    #[inline(always)]
    fn forget(&mut self) {
        self.told = self.told.min(self.around.len().saturating_sub(1));
    }

    /// The way to where the text is.
    pub(super) fn way(&mut self) -> &[Step] {
        let open = self.around.iter().chain([&self.last]).skip(1);
        for (at, frame) in open.enumerate().skip(self.told) {
            match frame.kind {
                Kind::List => self.way.set_index(at, frame.items),
                _ => self.way.set_key(at, &self.text[frame.key.clone()]),
            }
        }
        self.told = self.around.len();
        self.way.up_to(self.told)
    }
}
