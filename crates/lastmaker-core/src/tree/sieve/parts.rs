//! Which parts of containers are read.

use super::Sieve;
use crate::container::PartContent;

impl Sieve {
    /// Whether a part of a container is read.
    pub fn lets_part_through(&self, holding: &PartContent<'_>) -> bool {
        match holding {
            PartContent::Unreadable(_) => false,
            PartContent::Text { bytes, .. } => self.lets_through(bytes),
            PartContent::Document { bytes, cut, .. } => {
                self.lets_through(bytes)
                    || Self::must_read(bytes)
                    || (*cut && self.lets_through(&without_tags(bytes)))
            }
        }
    }
}

/// Markup without its tags, so that a string of a document that cuts it into runs is in one
/// piece.
fn without_tags(markup: &[u8]) -> Vec<u8> {
    let mut text = Vec::with_capacity(markup.len());
    let mut rest = markup;
    while let Some(open) = memchr::memchr(b'<', rest) {
        text.extend_from_slice(&rest[..open]);
        rest = &rest[open..];
        let Some(close) = memchr::memchr(b'>', rest) else {
            return text;
        };
        let deleted = rest.starts_with(b"<w:delText");
        rest = &rest[close + 1..];
        if deleted {
            rest = &rest[memchr::memchr(b'<', rest).unwrap_or(rest.len())..];
        }
    }
    text.extend_from_slice(rest);
    text
}
