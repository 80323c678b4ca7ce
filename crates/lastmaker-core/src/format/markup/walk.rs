//! Where a reader of markup is, and what it yields there.

use std::ops::Range;

use super::dialect::{Dialect, Gathered, Tail};
use super::tag::Attribute;
use super::urls::has_scheme;
use super::wrappings::{Wrapped, Wrappings};
use crate::format::cursor::Cursor;
use crate::format::way::Way;
use crate::format::{Passage, Role, address_role};
use crate::layer::Layers;
use crate::scan::Hint;

/// An element whose end tag is still to come.
pub(super) struct Element<'a> {
    pub(super) name: Range<usize>,
    /// Where its start tag is over.
    pub(super) start: usize,
    /// How its text is cut into runs, if it is.
    pub(super) runs: Option<&'static Dialect>,
    /// What the element's text is filed under, where an attribute says so.
    pub(super) label: Option<&'a str>,
}

/// One walk through a document.
pub(super) struct Walk<'a, 'e> {
    pub(super) wear: &'a Wrappings,
    pub(super) cursor: Cursor<'a, 'e>,
    pub(super) open: Vec<Element<'a>>,
    /// The text of the last `<key>`, which names the next value.
    pub(super) key: Option<String>,
    pub(super) roots: usize,
    pub(super) root: &'a str,
    /// The runs of the string that is being read.
    pub(super) gathered: Option<Gathered>,
    /// What the next string may go on from.
    pub(super) tail: Option<Tail>,
    /// Those of the attributes of the last tag that may tell something.
    pub(super) telling: Vec<Attribute>,
    pub(super) way: Way,
}

impl<'a, 'e> Walk<'a, 'e> {
    pub(super) fn new(
        wear: &'a Wrappings,
        text: &'a str,
        each: &'e mut dyn FnMut(Passage<'_>),
    ) -> Self {
        Self {
            wear,
            cursor: Cursor::new(text, each),
            open: Vec::new(),
            key: None,
            roots: 0,
            root: "",
            gathered: None,
            tail: None,
            telling: Vec::new(),
            way: Way::default(),
        }
    }

    /// The dialect of runs that text in an element of this name is cut into.
    pub(super) fn dialect_of(&self, element: &str) -> Option<&'static Dialect> {
        Dialect::of(element, self.root)
    }

    /// Yields a passage.
    pub(super) fn emit(
        &mut self,
        span: Range<usize>,
        role: Role,
        hint: Hint,
        wrapped: Wrapped,
        tail: &[&str],
    ) {
        if span.is_empty() {
            return;
        }
        let layers = self.wear.of_string(wrapped).clone();
        self.pass(span, &layers, role, hint, tail);
    }

    /// Yields a URL, in which a blank is encoded.
    pub(super) fn emit_url(
        &mut self,
        span: Range<usize>,
        hint: Hint,
        wrapped: Wrapped,
        tail: &[&str],
    ) {
        // A URI with a scheme encodes its own letters.
        let layers = if has_scheme(&self.cursor.text[span.clone()]) {
            self.wear.of_string(wrapped).clone()
        } else {
            self.wear.of_url(wrapped).clone()
        };
        let role = address_role(&self.cursor.text[span.clone()]);
        self.pass(span, &layers, role, hint, tail);
    }

    /// Yields a passage that wears `layers`.
    pub(super) fn pass(
        &mut self,
        span: Range<usize>,
        layers: &Layers,
        role: Role,
        hint: Hint,
        tail: &[&str],
    ) {
        // The names of the innermost elements tell enough.
        let open = &self.open[self.open.len().saturating_sub(8)..];
        let names = open
            .iter()
            .map(|element| &self.cursor.text[element.name.clone()]);
        let site = match role {
            Role::Prose => &[],
            _ => self.way.through(names.chain(tail.iter().copied())),
        };
        self.cursor.emit(span, layers, role, hint, site);
    }
}
