//! The layers that strings of one document wear.

use std::cell::OnceCell;
use std::sync::Arc;

use crate::codec::{Markup, MarkupLetters, Percent, UriPart};
use crate::layer::{Layer, Layers, alone};

/// What is around a string.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Wrapped {
    /// Nothing that escapes anything: a comment, CDATA.
    Nothing,
    /// Tags.
    Text,
    /// Double quotes.
    Double,
    /// Single quotes.
    Single,
    /// An attribute's name and a blank, as HTML has it.
    Unquoted,
}

/// A document's reader: the layers of each kind of string in it.
pub(super) struct Wrappings {
    pub(super) html: bool,
    plain: Layers,
    content: Layers,
    double: Layers,
    single: Layers,
    unquoted: Layers,
    /// How the document encodes the URLs in its attributes.
    url: Arc<dyn Layer>,
    /// The layers of URLs, for each thing that may be around them.
    urls: [OnceCell<Layers>; 5],
    /// Whether it encodes them where nothing shows it.
    pub(super) encodes: bool,
}

impl Wrappings {
    pub(super) fn of(text: &str, html: bool) -> Self {
        let letters = MarkupLetters::of(text, MarkupLetters::Raw);
        let layer = |quote| alone(Markup { quote, letters });
        let bytes = text.as_bytes();
        let mut percents = memchr::memchr_iter(b'%', bytes).map(|at| &bytes[at + 1..]);
        let part = if percents.any(|code| matches!(code, [b'C' | b'c', ..])) {
            UriPart::Path
        } else {
            UriPart::Link
        };
        Self {
            html,
            plain: Arc::new([]),
            content: layer(None),
            double: layer(Some('"')),
            single: layer(Some('\'')),
            unquoted: layer(Some(' ')),
            url: Arc::new(Percent { part }),
            urls: Default::default(),
            encodes: html && memchr::memmem::find(bytes, b"%20").is_some(),
        }
    }

    /// The layers of a string.
    pub(super) fn of_string(&self, wrapped: Wrapped) -> &Layers {
        match wrapped {
            Wrapped::Nothing => &self.plain,
            Wrapped::Text => &self.content,
            Wrapped::Double => &self.double,
            Wrapped::Single => &self.single,
            Wrapped::Unquoted => &self.unquoted,
        }
    }

    /// The layers of a URL, in which a blank is encoded.
    pub(super) fn of_url(&self, wrapped: Wrapped) -> &Layers {
        let markup = self.of_string(wrapped).iter().cloned();
        let layers = || markup.chain([self.url.clone()]).collect();
        self.urls[wrapped as usize].get_or_init(layers)
    }
}
