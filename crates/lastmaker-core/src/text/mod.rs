//! Bytes and text: byte-order marks, UTF-8, UTF-16, code pages.
//!
//! A file's text is decoded once; what cannot be decoded becomes [`OPAQUE`](crate::place::OPAQUE)
//! and is never touched. Edits of the text are lifted to edits of the bytes by walking the
//! bytes once more, so that no map of a large file has to be kept.

mod byte_map;
mod declared;
mod detect;
mod dos;
mod encoding;

pub use byte_map::ByteMap;
pub use declared::{code_page_set, declared};
pub use detect::{Detected, detect, encoding_of_names};
pub(crate) use detect::{SAMPLE, Shown, detect_by};
pub use dos::{DOS_PAGES, DosPage};
pub use encoding::{Encoded, Encoding};

use std::borrow::Cow;
use std::ops::Range;

use crate::layer::{ByteEdits, ByteSpan, Edit, Edits, Span, TextEdits, TextSpan, Unfit};

/// A decoded file or member.
#[derive(Debug)]
pub struct Text<'a> {
    raw: &'a [u8],
    /// The encoding that was declared or found.
    pub encoding: Encoding,
    /// Whether that is beyond doubt.
    pub sure: bool,
    /// Length of the byte-order mark in bytes; 0 without one.
    pub mark: usize,
    /// The text after the mark.
    pub content: Cow<'a, str>,
}

impl<'a> Text<'a> {
    /// Decodes `raw`; none if it is not text. `forced` is taken for eight-bit text without
    /// a mark.
    pub fn open(raw: &'a [u8], forced: Option<Encoding>) -> Option<Self> {
        Self::open_likely(raw, forced, None)
    }

    /// The same; `likely` is taken for eight-bit text where its bytes alone leave it open.
    pub fn open_likely(
        raw: &'a [u8],
        forced: Option<Encoding>,
        likely: Option<Encoding>,
    ) -> Option<Self> {
        let found = detect(raw, forced)?.or_likely(forced, likely);
        Some(Self::of_part(raw, found.encoding, found.sure, found.mark))
    }

    /// A part of a text in this encoding; `mark` is the length of the mark that it begins with.
    pub(crate) fn of_part(raw: &'a [u8], encoding: Encoding, sure: bool, mark: usize) -> Self {
        Self {
            raw,
            encoding,
            sure,
            mark,
            content: encoding.decode(&raw[mark..]),
        }
    }

    /// What was found out of its encoding.
    pub(crate) fn detected(&self) -> Detected {
        Detected {
            encoding: self.encoding,
            mark: self.mark,
            sure: self.sure,
        }
    }

    /// A string in UTF-8 by itself: nothing at its start is a mark.
    pub fn of_string(raw: &'a [u8]) -> Self {
        Self {
            raw,
            encoding: Encoding::Utf8,
            sure: true,
            mark: 0,
            content: Encoding::Utf8.decode(raw),
        }
    }

    /// Turns edits of the text into edits of the file's bytes.
    ///
    /// # Errors
    /// Where the encoding lacks a letter of a replacement, or nothing shows which it is.
    pub fn lift(&self, edits: TextEdits) -> Result<ByteEdits, Unfit> {
        if let (Cow::Borrowed(_), Encoding::Utf8) = (&self.content, self.encoding) {
            return Ok(edits.at_level(self.mark));
        }
        let body = &self.raw[self.mark..];
        let spans = edits.as_slice().iter().map(|edit| edit.span.clone());
        let located = self.locate(body, spans)?;
        let mut lifted = Vec::with_capacity(located.len());
        for (span, edit) in located.into_iter().zip(edits.into_vec()) {
            let text = std::str::from_utf8(&edit.with).map_err(|_| Unfit::InsideUnit)?;
            lifted.push(Edit {
                span: span.start + self.mark..span.end + self.mark,
                with: self.encoding.encode(text)?,
            });
        }
        Edits::new(lifted).map_err(|_| Unfit::Overlap)
    }

    /// The bytes, with their mark.
    pub fn raw(&self) -> &'a [u8] {
        self.raw
    }

    /// A span of the file's bytes.
    pub fn bytes(&self, span: &ByteSpan) -> &'a [u8] {
        self.raw.get(span.range()).unwrap_or_default()
    }

    /// Where its letters are in its bytes; none if they are where they are in the text.
    pub fn byte_map(&self) -> Option<ByteMap> {
        match self.content {
            Cow::Borrowed(_) => None,
            Cow::Owned(_) => Some(ByteMap::of(self.encoding, &self.raw[self.mark..])),
        }
    }

    /// Where a span of the text is in the file's bytes, by [`Self::byte_map`]; none if it cuts a letter in
    /// two.
    pub fn byte_span(&self, map: Option<&ByteMap>, span: &TextSpan) -> Option<ByteSpan> {
        let body = &self.raw[self.mark..];
        let byte = |at| match map {
            Some(map) => map.byte_at(self.encoding, body, at),
            None => Some(at),
        };
        let range = span.range();
        Some(Span::new(
            byte(range.start)? + self.mark..byte(range.end)? + self.mark,
        ))
    }

    /// Byte spans of sorted, disjoint spans of the text.
    fn locate(
        &self,
        body: &[u8],
        spans: impl Iterator<Item = Range<usize>>,
    ) -> Result<Vec<Range<usize>>, Unfit> {
        if let Cow::Borrowed(_) = self.content {
            return Ok(spans.collect());
        }
        let (mut inner, mut outer) = (0, 0);
        let mut walk = |target: usize| {
            while inner < target {
                let (letter, width) = self.encoding.unit(&body[outer..]);
                inner += letter.len_utf8();
                outer += width;
            }
            (inner == target).then_some(outer)
        };
        spans
            .map(|span| {
                let start = walk(span.start).ok_or(Unfit::InsideUnit)?;
                let end = walk(span.end).ok_or(Unfit::InsideUnit)?;
                Ok(start..end)
            })
            .collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::splice;
    use proptest::prelude::*;

    fn encodings() -> impl Strategy<Value = (Encoding, bool)> {
        prop_oneof![
            Just((Encoding::Utf8, false)),
            Just((Encoding::Utf8, true)),
            Just((Encoding::Utf16Le, true)),
            Just((Encoding::Utf16Be, true)),
        ]
    }

    proptest! {
        #[test]
        fn what_is_outside_the_edits_stays(
            before in "\\PC{0,12}", after in "\\PC{0,12}", new in "\\PC{0,6}",
            (encoding, marked) in encodings(),
        ) {
            let mut raw = if marked { encoding.encode("\u{feff}").unwrap() } else { Vec::new() };
            raw.extend(encoding.encode(&format!("{before}OLD{after}")).unwrap());
            let Some(text) = Text::open(&raw, None) else { return Ok(()) };
            prop_assume!(marked || text.mark == 0);
            let edit = Edit { span: before.len()..before.len() + 3, with: new.clone().into_bytes() };
            let edits = Edits::new(vec![edit]).unwrap();
            let Ok(lifted) = text.lift(edits) else { return Ok(()) };
            let mut expected = if marked { encoding.encode("\u{feff}").unwrap() } else { Vec::new() };
            expected.extend(encoding.encode(&format!("{before}{new}{after}")).unwrap());
            prop_assert_eq!(splice(&raw, &lifted), expected);
        }

        #[test]
        fn any_bytes_decode_without_loss_of_place(raw in prop::collection::vec(any::<u8>(), 0..60)) {
            if let Some(text) = Text::open(&raw, None) {
                let all = 0..text.content.len();
                let edits = Edits::new(vec![Edit { span: all, with: Vec::new() }]).unwrap();
                let lifted = text.lift(edits).unwrap();
                prop_assert_eq!(lifted.as_slice()[0].span.clone(), text.mark..raw.len());
            }
        }
    }
}
