//! Which elements hold text that is cut into runs, as office documents cut it where its look,
//! its spelling or its history changes: Office Open XML (ECMA-376) and OpenDocument.

use std::ops::Range;
use std::sync::Arc;

use super::reader::{Element, Reader};
use crate::codec::{Runs, Torn};
use crate::format::{Role, may_matter};
use crate::layer::{Layer, Layers};
use crate::place::Hint;

/// Text whose runs, one behind the other, are one string.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Dialect {
    /// The elements that hold the text.
    texts: &'static [&'static str],
    /// The elements at whose borders a string ends.
    paragraphs: &'static [&'static str],
    /// What parts two strings as a blank does.
    breaks: &'static [&'static str],
    /// What may stand within a string and is no text, so that it ends there although it reads
    /// on.
    tears: &'static [&'static str],
    /// The roots of the documents in which the names mean this; any if empty.
    roots: &'static [&'static str],
    /// Whether it is running text.
    pub(super) prose: bool,
}

const DIALECTS: [Dialect; 5] = [
    Dialect {
        texts: &["w:t"],
        paragraphs: &["w:p"],
        breaks: WORD_BREAKS,
        tears: WORD_TEARS,
        roots: &[],
        prose: true,
    },
    // Field codes, which have quotes and backslashes of their own.
    Dialect {
        texts: FIELD_CODES,
        paragraphs: &["w:p"],
        breaks: WORD_BREAKS,
        tears: WORD_TEARS,
        roots: &[],
        prose: true,
    },
    Dialect {
        texts: &["a:t"],
        paragraphs: &["a:p"],
        breaks: &["a:br", "a:tab"],
        tears: &["a:fld"],
        roots: &[],
        prose: true,
    },
    Dialect {
        texts: &["text:p", "text:h", "text:span", "text:a"],
        paragraphs: &["text:p", "text:h"],
        breaks: &["text:tab", "text:line-break", "text:s"],
        tears: &["text:note", "text:ruby", "office:annotation", "draw:frame"],
        roots: &[],
        prose: true,
    },
    // Cells; what says how they sound is no part of them.
    Dialect {
        texts: &["t"],
        paragraphs: &["si", "is", "text"],
        breaks: &["rPh", "phoneticPr"],
        tears: &[],
        roots: &["sst", "worksheet", "comments"],
        prose: false,
    },
];

const FIELD_CODES: &[&str] = &["w:instrText"];
const WORD_BREAKS: &[&str] = &["w:br", "w:tab", "w:cr"];
const WORD_TEARS: &[&str] = &[
    "w:noBreakHyphen",
    "w:softHyphen",
    "w:sym",
    "w:delText",
    "w:fldChar",
    "w:drawing",
    "w:pict",
    "w:object",
    "w:footnoteReference",
    "w:endnoteReference",
];

/// The dialect of the text that stands right in an element, in a document with this root.
pub(super) fn dialect_of(element: &str, root: &str) -> Option<&'static Dialect> {
    DIALECTS.iter().find(|dialect| {
        let known = dialect.roots.is_empty() || dialect.roots.contains(&root);
        known && dialect.texts.contains(&element)
    })
}

impl Dialect {
    /// Whether a string is over where this element begins or ends.
    pub(super) fn ends_at(&self, element: &str) -> bool {
        self.paragraphs.contains(&element) || self.breaks.contains(&element)
    }

    /// Whether a string is torn where this element begins.
    pub(super) fn is_torn_at(&self, element: &str) -> bool {
        self.tears.contains(&element)
    }
}

/// The runs of one string, while they are read.
#[derive(Debug)]
pub(super) struct Gathered {
    pub(super) dialect: &'static Dialect,
    /// Whether it stands in a cell, and is the whole of it.
    pub(super) value: bool,
    pub(super) runs: Vec<Range<usize>>,
    /// What it goes on from, if it is the end of a torn string.
    pub(super) torn: Option<String>,
}

/// The beginning of a torn string that may be a place, which the next string may go on from.
#[derive(Debug)]
pub(super) struct Tail {
    pub(super) dialect: &'static Dialect,
    text: String,
}

impl Tail {
    /// The last word of `text`, if it may be the beginning of a place.
    pub(super) fn of(dialect: &'static Dialect, text: &str) -> Option<Self> {
        let word = text.rsplit(char::is_whitespace).next()?;
        // Text behind entities would have to be decoded first.
        let begins = crate::place::may_hold_place(word) && !word.contains('&');
        begins.then(|| Self {
            dialect,
            text: word.to_owned(),
        })
    }

    /// The tail, if a string that begins with `text` may go on from it.
    pub(super) fn before(self, text: &str) -> Option<String> {
        let on = text.starts_with(|c: char| c.is_alphanumeric() || "\\/:_-".contains(c));
        on.then_some(self.text)
    }
}

impl Gathered {
    /// From the first run to the last.
    pub(super) fn span(&self) -> Range<usize> {
        let start = self.runs.first().map_or(0, |run| run.start);
        start..self.runs.last().map_or(start, |run| run.end)
    }
}

impl Reader<'_, '_> {
    /// Adds a run to the string that is being read, or begins one.
    pub(super) fn gather(&mut self, dialect: &'static Dialect, run: Range<usize>) {
        if self
            .gathered
            .as_ref()
            .is_some_and(|known| known.dialect != dialect)
        {
            self.end_string();
        }
        let cell = |element: &Element| &self.text[element.name.clone()] == "table:table-cell";
        let value = !dialect.prose || self.open.iter().rev().take(4).any(cell);
        let text = &self.text[run.clone()];
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
    pub(super) fn end_string_at(&mut self, element: &str) {
        let Some(dialect) = self
            .gathered
            .as_ref()
            .map(|known| known.dialect)
            .or_else(|| self.tail.as_ref().map(|tail| tail.dialect))
        else {
            return;
        };
        if dialect.ends_at(element) {
            self.end_string();
            self.tail = None;
        } else if dialect.is_torn_at(element) {
            self.end_string();
        }
    }

    /// Yields the string whose runs have been read: as it stands if it is one run.
    pub(super) fn end_string(&mut self) {
        let Some(gathered) = self.gathered.take() else {
            return;
        };
        let span = gathered.span();
        let text: String = gathered
            .runs
            .iter()
            .map(|run| &self.text[run.clone()])
            .collect();
        if !text.is_empty() {
            self.tail = Tail::of(gathered.dialect, &text);
        }
        let whole = || gathered.torn.clone().unwrap_or_default() + &text;
        if text.trim().is_empty() || !may_matter(&whole()) {
            return;
        }
        let (mut role, hint) = match (gathered.value, gathered.dialect.texts) {
            (_, FIELD_CODES) => (Role::Value, Hint::COMMAND),
            (true, _) => (Role::Value, Hint::Name),
            (false, _) => (Role::Prose, Hint::Prose),
        };
        let mut layers: Vec<Arc<dyn Layer>> = Vec::new();
        if gathered.runs.len() > 1 {
            let inside = |run: &Range<usize>| run.start - span.start..run.end - span.start;
            let runs = gathered.runs.iter().map(inside).collect();
            layers.push(Arc::new(Runs(runs)));
        }
        layers.extend(self.content.iter().cloned());
        if let Some(tail) = gathered.torn {
            role = Role::Torn { tail: tail.len() };
            layers.push(Arc::new(Torn(tail)));
        }
        let layers: Layers = layers.into();
        self.pass(span, &layers, (role, hint), &[]);
    }
}
