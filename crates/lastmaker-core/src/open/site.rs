//! A passage that holds places, and where it is.

use crate::format::Role;
use crate::layer::{Layers, OpenedChain, TextOffset, TextSpan};
use crate::scan::{Found, Hint};

/// A passage that holds places.
#[derive(Clone, Debug)]
pub struct SitePassage {
    /// Which passage of the document it is, counted from 0.
    pub ordinal: usize,
    /// Its span in the document's text.
    pub span: TextSpan,
    /// What it is.
    pub role: Role,
    /// What its format knows of it beside its text.
    pub hint: Hint,
    /// The way to it, as people read it.
    pub site: String,
    /// What wraps it, also where it is raw because it was typed by hand.
    pub layers: Layers,
    /// The passage with its layers taken off.
    pub chain: OpenedChain,
    /// The places in it, in order.
    pub finds: Vec<Found>,
}

impl SitePassage {
    /// Whether a find begins before the passage, in what that goes on from.
    pub(crate) fn begins_elsewhere(&self, found: &Found) -> bool {
        matches!(self.role, Role::Torn { tail } if found.start < tail)
    }

    /// Where the letter at `offset` of the content begins in the document's text.
    pub fn in_text(&self, offset: usize) -> TextOffset {
        self.span.start().advanced(self.chain.outer_offset(offset))
    }
}

/// One way after another.
pub(crate) fn join_ways(outer: &str, inner: &str) -> String {
    match (outer.is_empty(), inner.is_empty()) {
        (_, true) => outer.to_owned(),
        (true, false) => inner.to_owned(),
        (false, false) => format!("{outer} > {inner}"),
    }
}
