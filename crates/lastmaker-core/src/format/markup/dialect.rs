//! Which elements hold text that is cut into runs, as office documents cut it where its look,
//! its spelling or its history changes: Office Open XML (ECMA-376) and OpenDocument.

use std::ops::Range;

/// Text whose runs, one after the other, are one string.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Dialect {
    /// The elements that hold the text.
    texts: &'static [&'static str],
    /// The elements at whose borders a string ends.
    paragraphs: &'static [&'static str],
    /// What parts two strings as a blank does.
    breaks: &'static [&'static str],
    /// What may be within a string and is no text, so that it ends there although it reads
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

/// Whether an element's name is like those of elements with runs, which most are not.
fn may_hold_runs(element: &str) -> bool {
    matches!(
        element.as_bytes(),
        [b't'] | [_, b':', ..] | [b't', b'e', b'x', b't', b':', ..]
    )
}

impl Dialect {
    /// The dialect of the text that is right in an element, in a document with this root.
    pub(super) fn of(element: &str, root: &str) -> Option<&'static Self> {
        if !may_hold_runs(element) {
            return None;
        }
        DIALECTS.iter().find(|dialect| {
            let known = dialect.roots.is_empty() || dialect.roots.contains(&root);
            known && dialect.texts.contains(&element)
        })
    }

    /// Whether it is that of field codes.
    pub(super) fn is_field_code(&self) -> bool {
        self.texts == FIELD_CODES
    }

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
    /// Whether it is in a cell, and is the whole of it.
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
        // Text after entities would have to be decoded first.
        let begins = crate::scan::may_hold_place(word) && !word.contains('&');
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_element_with_runs_is_known_at_a_glance() {
        for element in DIALECTS.iter().flat_map(|dialect| dialect.texts) {
            assert!(may_hold_runs(element), "{element}");
        }
    }
}
