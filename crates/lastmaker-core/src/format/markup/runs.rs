//! Strings that are cut into runs, put together.

use std::ops::Range;
use std::sync::Arc;

use super::dialect::{Dialect, Gathered, Tail};
use super::walk::{Element, Walk};
use super::wrappings::Wrapped;
use crate::codec::{Runs, Torn};
use crate::format::{Role, may_matter};
use crate::layer::{Layer, Layers};
use crate::scan::Hint;

impl Walk<'_, '_> {
    /// Adds a run to the string that is being read, or begins one.
    pub(super) fn gather(&mut self, dialect: &'static Dialect, run: Range<usize>) {
        if self
            .gathered
            .as_ref()
            .is_some_and(|known| known.dialect != dialect)
        {
            self.end_string();
        }
        let cell =
            |element: &Element| &self.cursor.text[element.name.clone()] == "table:table-cell";
        let value = !dialect.prose || self.open.iter().rev().take(4).any(cell);
        let text = &self.cursor.text[run.clone()];
        let torn = match self.gathered {
            None if !text.is_empty() => self
                .tail
                .take()
                .filter(|tail| tail.dialect == dialect)
                .and_then(|tail| tail.before(text)),
            _ => None,
        };
        let gathered = self.gathered.get_or_insert_with(|| Gathered {
            dialect,
            value,
            runs: Vec::new(),
            torn,
        });
        gathered.runs.push(run);
    }

    /// Ends the string that is being read if it does not go on beyond a tag of `element`.
    #[inline(always)]
    pub(super) fn end_string_at(&mut self, element: &str) {
        // Most documents have no runs.
        if self.gathered.is_none() && self.tail.is_none() {
            return;
        }
        let gathered = self.gathered.as_ref().map(|known| known.dialect);
        let known = gathered.or_else(|| self.tail.as_ref().map(|tail| tail.dialect));
        if let Some(dialect) = known {
            self.end_string_of(dialect, element);
        }
    }

    fn end_string_of(&mut self, dialect: &'static Dialect, element: &str) {
        if dialect.ends_at(element) {
            self.end_string();
            self.tail = None;
        } else if dialect.is_torn_at(element) {
            self.end_string();
        }
    }

    /// Yields the string whose runs have been read, if any were.
    #[inline(always)]
    pub(super) fn end_string(&mut self) {
        if self.gathered.is_some() {
            self.end_gathered();
        }
    }

    /// Yields the string of these runs: as it is written if it is one run.
    fn end_gathered(&mut self) {
        let Some(gathered) = self.gathered.take() else {
            return;
        };
        let span = gathered.span();
        let text: String = gathered
            .runs
            .iter()
            .map(|run| &self.cursor.text[run.clone()])
            .collect();
        if !text.is_empty() {
            self.tail = Tail::of(gathered.dialect, &text);
        }
        let whole = || gathered.torn.clone().unwrap_or_default() + &text;
        if text.trim().is_empty() || !may_matter(&whole()) {
            return;
        }
        let (mut role, hint) = match gathered.value {
            _ if gathered.dialect.is_field_code() => (Role::Value, Hint::COMMAND),
            true => (Role::Value, Hint::Name),
            false => (Role::Prose, Hint::Prose),
        };
        let mut layers: Vec<Arc<dyn Layer>> = Vec::new();
        if gathered.runs.len() > 1 {
            let inside = |run: &Range<usize>| run.start - span.start..run.end - span.start;
            let runs = gathered.runs.iter().map(inside).collect();
            layers.push(Arc::new(Runs(runs)));
        }
        layers.extend(self.wear.of_string(Wrapped::Text).iter().cloned());
        if let Some(tail) = gathered.torn {
            role = Role::Torn { tail: tail.len() };
            layers.push(Arc::new(Torn(tail)));
        }
        let layers: Layers = layers.into();
        self.pass(span, &layers, role, hint, &[]);
    }
}
