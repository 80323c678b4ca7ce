//! Start tags and their attributes.

use std::ops::Range;

use crate::base::chunk::{CHUNK, Chunk, Marks, length_until};
use crate::format::is_lone_letter;
use crate::scan::{OF_PLACES, may_name_file};

/// An attribute with a value.
pub(super) struct Attribute {
    pub(super) name: Range<usize>,
    pub(super) value: Range<usize>,
    /// The quote around the value; HTML does without.
    pub(super) quote: Option<char>,
    /// What its value may tell.
    pub(super) tells: Tells,
}

/// What a value may tell.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Tells {
    Nothing,
    /// A drive, for it is a lone letter.
    Drive,
    /// Where something is: a letter that every place has is in it, or it is the address of a file beside the document.
    Place,
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

    /// Whether it names its element, or says what another attribute of that holds:
    /// `<add key="root" value="D:\x"/>`.
    pub(super) fn is_label(&self, text: &str) -> bool {
        let name = &text.as_bytes()[self.name.clone()];
        matches!(
            name,
            [b'i' | b'I', b'd' | b'D']
                | [b'k' | b'K', b'e' | b'E', b'y' | b'Y']
                | [b'n' | b'N', b'a' | b'A', b'm' | b'M', b'e' | b'E']
        )
    }
}

/// Attributes of pages and of packages' parts that hold the address of one file.
const ADDRESSES: [&str; 6] = ["href", "src", "poster", "data", "xlink:href", "Target"];

/// A start tag.
pub(super) struct Tag {
    pub(super) name: Range<usize>,
    /// Whether it ends with `/>`.
    pub(super) empty: bool,
    /// Where it is over.
    pub(super) end: usize,
}

/// The start tag at `at`, whose attributes with a value go to `each`; none if what is there is none. HTML may
/// leave out quotes and values.
#[inline(always)]
pub(super) fn tag_at(
    text: &str,
    at: usize,
    html: bool,
    mut each: impl FnMut(Attribute),
) -> Option<Tag> {
    let bytes = text.as_bytes();
    let name = name_at(text, at + 1)?;
    let mut tag = Tag {
        name: name.clone(),
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
                let tells = tells(text, &name, &value, seen);
                each(Attribute {
                    name,
                    value,
                    quote: quote.map(char::from),
                    tells,
                });
                at += length + usize::from(quote.is_some());
            }
        }
    }
}

/// What the value of an attribute may tell in which these letters were `seen`.
fn tells(text: &str, name: &Range<usize>, value: &Range<usize>, seen: u8) -> Tells {
    let value = || &text[value.clone()];
    let is_address = || {
        let mut known = ADDRESSES.iter();
        known.any(|one| one.eq_ignore_ascii_case(&text[name.clone()]))
    };
    if seen & IN_PLACE != 0 || (seen & DOT != 0 && is_address() && may_name_file(value())) {
        Tells::Place
    } else if is_lone_letter(value()) {
        Tells::Drive
    } else {
        Tells::Nothing
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
#[inline(always)]
fn value_at(bytes: &[u8], quote: Option<u8>) -> (usize, u8) {
    let (mut length, mut seen) = (0, 0);
    if let Some(quote) = quote {
        while let Some(letters) = Chunk::at(bytes, length) {
            let (before, end) = before(letters.equal(quote));
            let places = in_places(letters);
            let (opens, dots) = (letters.equal(b'<'), letters.equal(b'.'));
            // There is none of them in most.
            if places.or(opens).or(dots).bits() & before != 0 {
                seen |= u8::from(opens.bits() & before != 0) * OPENS;
                seen |= u8::from(places.bits() & before != 0) * IN_PLACE;
                seen |= u8::from(dots.bits() & before != 0) * DOT;
            }
            length += end;
            if end < CHUNK {
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
#[inline(always)]
pub(super) fn text_length(bytes: &[u8]) -> (usize, bool) {
    let (mut length, mut signs) = (0, 0);
    while let Some(letters) = Chunk::at(bytes, length) {
        let (before, end) = before(letters.equal(b'<'));
        signs |= in_places(letters).bits() & before;
        length += end;
        if end < CHUNK {
            return (length, signs != 0);
        }
    }
    let (rest, seen) = value_at(&bytes[length..], Some(b'<'));
    (length + rest, signs != 0 || seen & IN_PLACE != 0)
}

/// Those that every place has one of.
#[inline(always)]
fn in_places(letters: Chunk) -> Marks {
    let [one, two, three] = OF_PLACES.map(|letter| letters.equal(letter));
    one.or(two).or(three)
}

/// Bits for the letters before the first of these, and how many they are; all sixteen if there is none.
#[inline(always)]
fn before(marks: Marks) -> (u64, usize) {
    let length = marks.first();
    ((1 << length) - 1, length)
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

#[inline(always)]
fn name_at(text: &str, start: usize) -> Option<Range<usize>> {
    let bytes = text.as_bytes();
    // All that end a name are among these, beside dashes, dots and the like.
    let marked = |letters: Chunk| {
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

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// How long a value is and what is in it is what each letter tells.
        #[test]
        fn a_value_is_told_the_same_letter_by_letter(inside in "[ab./<]{0,50}", more in "[/.<\"]{0,20}") {
            let text = format!("{inside}\"{more}");
            let flag = |letter: char, flag: u8| if inside.contains(letter) { flag } else { 0 };
            let seen = flag('<', OPENS) | flag('/', IN_PLACE) | flag('.', DOT);
            prop_assert_eq!(value_at(text.as_bytes(), Some(b'"')), (inside.len(), seen));
        }

        /// Text ends at the next tag, or with the document.
        #[test]
        fn a_text_is_told_the_same_letter_by_letter(inside in "[ab.:]{0,50}", more in "(<[:a]{0,20})?") {
            let text = format!("{inside}{more}");
            let expected = (inside.len(), inside.contains(':'));
            prop_assert_eq!(text_length(text.as_bytes()), expected);
        }
    }
}
