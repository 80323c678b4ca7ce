//! The layers that strings of one document wear.

use std::sync::{Arc, OnceLock};

use super::lexer::Beginnings;
use super::{Between, Delimiters, Inside, Quote, Syntax};
use crate::codec::{
    BYTES, BareText, Doubled, Escaped, Escapes, FORMATTED, RAW_DOUBLE, RAW_OTHER, RAW_PYTHON,
    RAW_SINGLE, RAW_TEMPLATE, Style,
};
use crate::layer::{Layer, Layers, alone};

/// A document's reader: its syntax, and the layers of each kind of string in it.
pub(super) struct Wrappings {
    pub(super) syntax: &'static Syntax,
    /// What may begin with each byte.
    pub(super) beginnings: Beginnings,
    /// The layers of each of the syntax's quotes, made when first met.
    quotes: Vec<OnceLock<Layers>>,
    /// What a word of a command wears.
    pub(super) word: Layers,
    /// What is written as it is.
    pub(super) plain: Layers,
}

impl Wrappings {
    pub(super) fn of(syntax: &'static Syntax) -> Self {
        let word = match syntax.between {
            Between::Words(escapes) => alone(Escaped {
                escapes,
                document: Style::default(),
            }),
            Between::Text | Between::Code | Between::CodeWithPatterns => Arc::new([]),
        };
        Self {
            syntax,
            beginnings: Beginnings::of(syntax),
            quotes: syntax.quotes.iter().map(|_| OnceLock::new()).collect(),
            word,
            plain: Arc::new([]),
        }
    }

    /// Makes all layers now, as `start` shows how its strings are written.
    pub(super) fn made_by(self, start: &str) -> Self {
        for kind in 0..self.quotes.len() {
            self.of_quote(kind, start);
        }
        self
    }

    /// The layers of strings in the syntax's quote number `kind`, in the document `text`.
    pub(super) fn of_quote(&self, kind: usize, text: &str) -> &Layers {
        self.quotes[kind].get_or_init(|| layers(self.syntax.quotes[kind], text))
    }
}

fn layers(quote: Quote, text: &str) -> Layers {
    let close = match quote.delimiters {
        Delimiters::OneLine(_, close)
        | Delimiters::Lines(_, close)
        | Delimiters::Bare(_, close) => close.as_bytes(),
        Delimiters::LongBrackets => return Arc::new([]),
    };
    let escaped = |escapes: &'static Escapes| -> Arc<dyn Layer> {
        Arc::new(Escaped {
            escapes,
            document: Style::of(text, escapes, Style::default()),
        })
    };
    match quote.inside {
        Inside::Raw => alone(BareText(match close {
            [.., b'"'] => &RAW_DOUBLE,
            [.., b'\''] => &RAW_SINGLE,
            _ => &RAW_OTHER,
        })),
        Inside::RawTemplate => alone(BareText(&RAW_TEMPLATE)),
        Inside::RawJoined => alone(BareText(&RAW_PYTHON)),
        Inside::RawBytes => Arc::new([
            Arc::new(BareText(&RAW_PYTHON)) as Arc<dyn Layer>,
            Arc::new(BareText(&BYTES)),
        ]),
        Inside::Doubled(quote) => alone(Doubled(quote)),
        Inside::Escaped(escapes) => Arc::new([escaped(escapes)]),
        Inside::Formatted(escapes) => Arc::new([escaped(escapes), Arc::new(BareText(&FORMATTED))]),
        Inside::Bytes(escapes) => Arc::new([escaped(escapes), Arc::new(BareText(&BYTES))]),
    }
}
