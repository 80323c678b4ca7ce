//! What every walk through a document has.

use std::ops::Range;

use super::{Grammar, Passage, Role, Step};
use crate::layer::Layers;
use crate::scan::Hint;

/// The text that is walked through, how far it keeps its format's grammar, and who takes its passages.
pub(super) struct Cursor<'a, 'e> {
    pub(super) text: &'a str,
    pub(super) grammar: Grammar,
    pub(super) each: &'e mut dyn FnMut(Passage<'_>),
}

impl<'a, 'e> Cursor<'a, 'e> {
    /// A walk through `text`, whose passages `each` takes.
    pub(super) fn new(text: &'a str, each: &'e mut dyn FnMut(Passage<'_>)) -> Self {
        Self {
            text,
            grammar: Grammar::Kept,
            each,
        }
    }

    /// Notes what one string, or one turn of the walk, shows of the grammar.
    pub(super) fn note(&mut self, fine: bool, otherwise: Grammar) {
        self.grammar.note(fine, otherwise);
    }

    /// Yields a passage, if there is any text in it.
    pub(super) fn emit(
        &mut self,
        span: Range<usize>,
        layers: &Layers,
        role: Role,
        hint: Hint,
        site: &[Step],
    ) {
        if span.is_empty() || self.text.get(span.clone()).is_none() {
            return;
        }
        (self.each)(Passage {
            span,
            layers,
            role,
            hint,
            site,
        });
    }
}
