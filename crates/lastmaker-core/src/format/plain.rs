//! Plain text: the whole document is one passage that wears nothing.

use std::sync::Arc;

use super::{About, Claim, Format, Grammar, Passage, Role};
use crate::layer::Layers;
use crate::place::Hint;
use crate::text::Encoding;

/// Text of no particular syntax.
pub(super) struct PlainText;

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

    fn own_encoding(&self) -> Option<Encoding> {
        None
    }

    fn passages(
        &self,
        text: &str,
        _encoding: Encoding,
        each: &mut dyn FnMut(Passage<'_>),
    ) -> Grammar {
        let no_layers: Layers = Arc::new([]);
        if !text.is_empty() {
            each(Passage {
                span: 0..text.len(),
                layers: &no_layers,
                role: Role::Prose,
                hint: Hint::default(),
                site: &[],
            });
        }
        Grammar::Kept
    }
}
