//! Plain text: the whole document is one passage that wears nothing.

use std::sync::Arc;

use super::{Claim, Format, Grammar, Passage, Reader, Role, Sample};
use crate::about::About;
use crate::layer::Layers;
use crate::place::Hint;
use crate::text::Encoding;

/// Text of no particular syntax.
pub(super) struct PlainText;

/// A string that a container holds by itself. It is in no table: no document is one.
pub(crate) struct Value;

const A_VALUE: About = About {
    name: "value",
    what: "a string by itself",
    content: "its container says so",
    names: &[],
    read: "the whole string",
    limits: "",
};

impl Format for Value {
    fn about(&self) -> &About {
        &A_VALUE
    }

    fn claims(&self, _text: &str, _file_name: &str) -> Claim {
        Claim::No
    }

    fn samples(&self) -> &'static [Sample] {
        &[]
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn reader(&'static self, _: &str, _: Encoding) -> Box<dyn Reader> {
        Box::new(Whole)
    }
}

const ABOUT: About = About {
    name: "plain-text",
    what: "text of no syntax that is known, read as it stands",
    content: "it is text, and nothing above reads it",
    names: &[],
    read: "whatever spells a place, with the doubling that it has",
    limits: "a place followed by a blank is doubtful; escapes other than doubling are not known",
};

impl Format for PlainText {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, _text: &str, _file_name: &str) -> Claim {
        Claim::Certain
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[
            Sample::new("a.txt", "", "", "\n"),
            Sample::new("a.txt", "a:1:{i:0;", "s:14:\"", "\";}\n"),
        ];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        None
    }

    fn reader(&'static self, _: &str, _: Encoding) -> Box<dyn Reader> {
        Box::new(Whole)
    }
}

/// Reads a text as one passage.
struct Whole;

impl Reader for Whole {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let no_layers: Layers = Arc::new([]);
        if !text.is_empty() {
            each(Passage {
                span: 0..text.len(),
                layers: &no_layers,
                role: Role::Prose,
                hint: Hint::Prose,
                site: &[],
            });
        }
        Grammar::Kept
    }
}
