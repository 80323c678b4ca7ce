//! Start tags and their attributes.

use std::ops::Range;

/// An attribute with a value.
pub(super) struct Attribute {
    pub(super) name: Range<usize>,
    pub(super) value: Range<usize>,
    /// The quote around the value; HTML does without.
    pub(super) quote: Option<char>,
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
                let (value, quote) = match bytes.get(at)? {
                    quote @ (b'"' | b'\'') => {
                        let length = memchr::memchr(*quote, &bytes[at + 1..])?;
                        (at + 1..at + 1 + length, Some(*quote as char))
                    }
                    _ if html => {
                        let length = bytes[at..]
                            .iter()
                            .position(|b| b.is_ascii_whitespace() || *b == b'>')?;
                        (at..at + length, None)
                    }
                    _ => return None,
                };
                if !html && memchr::memchr(b'<', &bytes[value.clone()]).is_some() {
                    return None;
                }
                at = value.end + usize::from(quote.is_some());
                tag.attributes.push(Attribute { name, value, quote });
            }
        }
    }
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
