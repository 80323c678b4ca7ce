//! Which format reads a document.

use std::rc::Rc;

use super::{Claim, FORMATS, Format, Passages, Reader, Subject, plain};
use crate::text::Encoding;

/// What reads a document.
pub struct Recognised {
    /// The format.
    pub format: &'static dyn Format,
    /// The document's reader.
    pub reader: Rc<dyn Reader>,
    /// Its passages, if they had to be read to know it and are not too many.
    pub passages: Option<Box<Passages>>,
    /// The name of the format that it claims to be of, and whose grammar it breaks.
    pub broke: Option<&'static str>,
}

/// How much of a text shows how its strings are written, in bytes, where the rules of its format are local.
const START: usize = 1 << 20;

/// The start of a text, from which a format whose rules are local tells how its strings are written, so that a
/// large one is read alike as a whole and in windows.
pub(crate) fn start(text: &str) -> &str {
    if text.len() <= START {
        return text;
    }
    let cut = text.floor_char_boundary(START);
    let line = memchr::memrchr(b'\n', &text.as_bytes()[..cut]);
    &text[..line.map_or(cut, |newline| newline + 1)]
}

/// How many bytes of a file surely hold the [`start`] of its text, whatever its encoding.
pub(crate) const START_BYTES: usize = 2 * START + 8;

/// The format that reads a document: the one that the technician says if the document keeps its
/// grammar, else the first that claims it.
pub fn recognise(
    text: &str,
    file_name: &str,
    encoding: Encoding,
    said: Option<&'static dyn Format>,
) -> Recognised {
    let lower = file_name.to_lowercase();
    let mut broke = None;
    if let Some(format) = said {
        return well_formed(format, text, encoding)
            .unwrap_or_else(|| as_unknown_text(text, encoding, Some(format.name())));
    }
    let subject = Subject::new(text, &lower);
    for format in FORMATS.iter().copied() {
        match format.claims(&subject) {
            Claim::No => {}
            Claim::Certain => {
                return Recognised {
                    broke,
                    ..unread(format, text, encoding)
                };
            }
            claim => match well_formed(format, text, encoding) {
                Some(known) => return Recognised { broke, ..known },
                None if claim == Claim::IfWellFormed => broke = broke.or(Some(format.name())),
                None => {}
            },
        }
    }
    as_unknown_text(text, encoding, broke)
}

/// The formats that may have a text of which only the start is known, the likeliest first, and how surely.
/// `elsewhere` are the marks of formats that are somewhere in the rest.
pub(crate) fn claimants(
    start: &str,
    file_name: &str,
    said: Option<&'static dyn Format>,
    elsewhere: &[&'static str],
) -> Vec<(&'static dyn Format, Claim)> {
    if let Some(format) = said {
        let rest = &plain::UnknownText as &dyn Format;
        return vec![(format, Claim::IfWellFormed), (rest, Claim::Certain)];
    }
    let lower = file_name.to_lowercase();
    let subject = Subject::of_start(start, &lower, elsewhere);
    let claims = FORMATS
        .iter()
        .map(|format| (*format, format.claims(&subject)));
    let mut all: Vec<_> = claims.filter(|(_, claim)| *claim != Claim::No).collect();
    let certain = all.iter().position(|(_, claim)| *claim == Claim::Certain);
    all.truncate(certain.map_or(all.len(), |certain| certain + 1));
    all
}

/// A document that need not be read to know it.
fn unread(format: &'static dyn Format, text: &str, encoding: Encoding) -> Recognised {
    let shows = if format.is_local() { start(text) } else { text };
    Recognised {
        format,
        reader: format.reader(shows, encoding).into(),
        passages: None,
        broke: None,
    }
}

fn as_unknown_text(text: &str, encoding: Encoding, broke: Option<&'static str>) -> Recognised {
    Recognised {
        broke,
        ..unread(&plain::UnknownText, text, encoding)
    }
}

/// A text that keeps the grammar of `format`.
fn well_formed(format: &'static dyn Format, text: &str, encoding: Encoding) -> Option<Recognised> {
    let known = unread(format, text, encoding);
    let (kept, passages) = Passages::read(&*known.reader, text);
    kept.then_some(Recognised { passages, ..known })
}
