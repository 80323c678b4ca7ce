//! Start tags and their attributes.

use std::ops::Range;

use crate::place::OF_PLACES;

/// An attribute with a value.
pub(super) struct Attribute {
    pub(super) name: Range<usize>,
    pub(super) value: Range<usize>,
    /// The quote around the value; HTML does without.
    pub(super) quote: Option<char>,
    /// Whether a letter that every place has in it is in the value.
    pub(super) may_hold_place: bool,
}

/// A start tag.
pub(super) struct Tag {
    pub(super) name: Range<usize>,
    pub(super) attributes: Vec<Attribute>,
    /// Whether it ends with `/>`.
    pub(super) empty: bool,
    /// Where it is over.
    pub(super) end: usize,
}

/// The start tag at `at`; none if what is there is none. HTML may leave out quotes and
/// values. `room` is where its attributes are kept.
pub(super) fn tag_at(text: &str, at: usize, html: bool, mut room: Vec<Attribute>) -> Option<Tag> {
    room.clear();
    let bytes = text.as_bytes();
    let name = name_at(text, at + 1)?;
    let mut tag = Tag {
        name: name.clone(),
        attributes: room,
        empty: false,
        end: 0,
    };
    let mut at = name.end;
    loop {
        at += blanks(bytes, at);
        match bytes.get(at)? {
            b'>' => {
                tag.end = at + 1;
                return Some(tag);
            }
            b'/' => {
                if bytes.get(at + 1) == Some(&b'>') {
                    tag.empty = true;
                    tag.end = at + 2;
                    return Some(tag);
                }
                if !html {
                    return None;
                }
                at += 1;
            }
            _ => {
                let name = name_at(text, at)?;
                at = name.end + blanks(bytes, name.end);
                if bytes.get(at) != Some(&b'=') {
                    if html {
                        continue;
                    }
                    return None;
                }
                at += 1;
                at += blanks(bytes, at);
                let quote = match bytes.get(at)? {
                    quote @ (b'"' | b'\'') => Some(*quote),
                    _ if html => None,
                    _ => return None,
                };
                at += usize::from(quote.is_some());
                let (length, seen) = value_at(&bytes[at..], quote)?;
                if !html && seen & OPENS != 0 {
                    return None;
                }
                tag.attributes.push(Attribute {
                    name,
                    value: at..at + length,
                    quote: quote.map(char::from),
                    may_hold_place: seen & IN_PLACE != 0,
                });
                at += length + usize::from(quote.is_some());
            }
        }
    }
}

/// Of a letter in a value: that it opens a tag, that every place has one like it, and that it ends a value
/// without quotes.
const OPENS: u8 = 1;
const IN_PLACE: u8 = 2;
const ENDS_BARE: u8 = 4;

const IN_VALUE: [u8; 256] = {
    let mut all = [0; 256];
    all[b'<' as usize] = OPENS;
    all[b'>' as usize] = ENDS_BARE;
    let mut at = 0;
    while at < OF_PLACES.len() {
        all[OF_PLACES[at] as usize] = IN_PLACE;
        at += 1;
    }
    let mut at = 0;
    while at < 0x80 {
        if (at as u8).is_ascii_whitespace() {
            all[at] = ENDS_BARE;
        }
        at += 1;
    }
    all
};

/// How long the value is that `bytes` begin with, and what is in it; none if nothing ends it. Most values are
/// short, so one look at each letter tells all of it.
fn value_at(bytes: &[u8], quote: Option<u8>) -> Option<(usize, u8)> {
    let mut seen = 0;
    for (length, byte) in bytes.iter().enumerate() {
        let letter = IN_VALUE[usize::from(*byte)];
        let ends = match quote {
            Some(quote) => *byte == quote,
            None => letter & ENDS_BARE != 0,
        };
        if ends {
            return Some((length, seen));
        }
        seen |= letter;
    }
    None
}

fn blanks(bytes: &[u8], at: usize) -> usize {
    bytes[at.min(bytes.len())..]
        .iter()
        .take_while(|b| b.is_ascii_whitespace())
        .count()
}

/// The letters of ASCII that end a name, and all beyond ASCII.
const ENDS_NAME: [bool; 256] = {
    let mut all = [false; 256];
    let mut at = 0;
    while at < 256 {
        all[at] = at > 0x7f
            || matches!(
                at as u8,
                b'=' | b'/' | b'>' | b'"' | b'\'' | b'<' | b' ' | 0x09..=0x0d
            );
        at += 1;
    }
    all
};

fn name_at(text: &str, at: usize) -> Option<Range<usize>> {
    let rest = text.get(at..)?;
    let plain = rest
        .bytes()
        .take_while(|b| !ENDS_NAME[usize::from(*b)])
        .count();
    let length = match rest.as_bytes().get(plain) {
        Some(letter) if !letter.is_ascii() => rest
            .find(|c: char| c.is_whitespace() || "=/>\"'<".contains(c))
            .unwrap_or(rest.len()),
        _ => plain,
    };
    (length > 0).then_some(at..at + length)
}
