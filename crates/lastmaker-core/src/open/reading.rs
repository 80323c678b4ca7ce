//! How a document is to be read.

use crate::format::Format;
use crate::scan::Hint;
use crate::text::Encoding;

/// What the technician says of documents that do not show it themselves.
#[derive(Clone, Copy, Default)]
pub struct Reading {
    /// The encoding of eight-bit text.
    pub encoding: Option<Encoding>,
    /// The format.
    pub format: Option<&'static dyn Format>,
    /// The encoding in which the eight-bit text names an old place, if it does.
    pub likely: Option<Encoding>,
    /// That it is a string by itself, in UTF-8, and what is known of it.
    pub value: Option<Hint>,
}

impl Reading {
    /// The reading of a part of a container: what is said of the file's format is not said of
    /// its parts.
    pub(crate) fn of_part(self) -> Self {
        Self {
            format: None,
            value: None,
            ..self
        }
    }

    /// The reading of a string by itself.
    pub(crate) fn of_string(hint: Hint) -> Self {
        Self {
            value: Some(hint),
            ..Self::default()
        }
    }
}

impl std::fmt::Debug for Reading {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Reading")
            .field("encoding", &self.encoding)
            .field("likely", &self.likely)
            .field("format", &self.format.map(Format::name))
            .field("value", &self.value)
            .finish()
    }
}
