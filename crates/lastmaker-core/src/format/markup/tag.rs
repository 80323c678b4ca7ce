//! Start tags and their attributes.

use std::ops::Range;

use crate::format::is_lone_letter;
use crate::place::{OF_PLACES, may_name_file};
use crate::sixteen::{SIXTEEN, Sixteen, length_until};

/// An attribute with a value.
pub(super) struct Attribute {
    pub(super) name: Range<usize>,
    pub(super) value: Range<usize>,
    /// The quote around the value; HTML does without.
    pub(super) quote: Option<char>,
    /// Whether a letter that every place has in it is in the value.
    pub(super) may_hold_place: bool,
    /// Whether it is the address of a file beside the document.
    pub(super) names_file: bool,
}

impl Attribute {
    /// Its name in `text`, of which it is one.
    pub(super) fn name<'t>(&self, text: &'t str) -> &'t str {
        &text[self.name.clone()]
    }

    /// Its value in `text`.
    pub(super) fn value<'t>(&self, text: &'t str) -> &'t str {
        &text[self.value.clone()]
    }

    /// Whether its value may tell something: it may hold a place or a lone letter, or be the address of a file
    /// beside the document.
    pub(super) fn matters(&self, text: &str) -> bool {
        self.may_hold_place || self.names_file || is_lone_letter(self.value(text))
    }

    /// Whether it names its element, or says what another attribute of that holds:
    /// `<add key="root" value="D:\x"/>`.
    pub(super) fn is_label(&self, text: &str) -> bool {
        let name = self.name(text);
        match name.len() {
            2 => name.eq_ignore_ascii_case("id"),
            3 => name.eq_ignore_ascii_case("key"),
            4 => name.eq_ignore_ascii_case("name"),
            _ => false,
        }
    }
}

/// Attributes of pages and of packages' parts that hold the address of one file.
const ADDRESSES: [&str; 6] = ["href", "src", "poster", "data", "xlink:href", "Target"];

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
                let (length, seen) = value_at(&bytes[at..], quote);
                // Something ends it.
                bytes.get(at + length)?;
                if !html && seen & OPENS != 0 {
                    return None;
                }
                let value = at..at + length;
                let is_address = |name: &str| {
                    let mut known = ADDRESSES.iter();
                    known.any(|one| one.eq_ignore_ascii_case(name))
                };
                tag.attributes.push(Attribute {
                    names_file: seen & DOT != 0
                        && is_address(&text[name.clone()])
                        && may_name_file(&text[value.clone()]),
                    name,
                    value,
                    quote: quote.map(char::from),
                    may_hold_place: seen & IN_PLACE != 0,
                });
                at += length + usize::from(quote.is_some());
            }
        }
    }
}

/// Of a letter in a value: that it opens a tag, that every place has one like it, that most names of files do,
/// and that it ends a value without quotes.
const OPENS: u8 = 1;
const IN_PLACE: u8 = 2;
const DOT: u8 = 4;
const ENDS_BARE: u8 = 8;

const IN_VALUE: [u8; 256] = {
    let mut all = [0; 256];
    all[b'<' as usize] = OPENS;
    all[b'>' as usize] = ENDS_BARE;
    all[b'.' as usize] = DOT;
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

/// How long the value is that `bytes` begin with, and what is in it; all of them if nothing ends it.
fn value_at(bytes: &[u8], quote: Option<u8>) -> (usize, u8) {
    let mut seen = 0;
    let mut length = 0;
    if let Some(quote) = quote {
        while let Some(letters) = Sixteen::at(bytes, length) {
            let end = letters.equal(quote).first();
            let [one, two, three] = OF_PLACES;
            let in_place = letters
                .equal(one)
                .or(letters.equal(two))
                .or(letters.equal(three));
            seen |= u8::from(letters.equal(b'<').first() < end) * OPENS;
            seen |= u8::from(in_place.first() < end) * IN_PLACE;
            seen |= u8::from(letters.equal(b'.').first() < end) * DOT;
            length += end;
            if end < SIXTEEN {
                return (length, seen);
            }
        }
    }
    for byte in &bytes[length..] {
        let letter = IN_VALUE[usize::from(*byte)];
        let ends = match quote {
            Some(quote) => *byte == quote,
            None => letter & ENDS_BARE != 0,
        };
        if ends {
            break;
        }
        seen |= letter;
        length += 1;
    }
    (length, seen)
}

/// How long the text is that `bytes` begin with, up to the next tag, and whether it may hold a place.
pub(super) fn text_length(bytes: &[u8]) -> (usize, bool) {
    let (length, seen) = value_at(bytes, Some(b'<'));
    (length, seen & IN_PLACE != 0)
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

fn name_at(text: &str, start: usize) -> Option<Range<usize>> {
    let bytes = text.as_bytes();
    // All that end a name are among these, beside dashes, dots and the like.
    let marked = |letters: Sixteen| {
        let signs = letters.up_to(b'/').or(letters.beyond_ascii());
        let signs = signs.or(letters.equal(b'=')).or(letters.equal(b'>'));
        signs.or(letters.equal(b'<'))
    };
    let ends = |letter: u8| ENDS_NAME[usize::from(letter)];
    let mut at = start + length_until(bytes.get(start..)?, marked, ends);
    if bytes.get(at).is_some_and(|letter| !letter.is_ascii()) {
        let rest = text.get(at..)?;
        let ends = rest.find(|c: char| c.is_whitespace() || "=/>\"'<".contains(c));
        at += ends.unwrap_or(rest.len());
    }
    (at > start).then_some(start..at)
}
