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
/// values.
pub(super) fn tag_at(text: &str, at: usize, html: bool) -> Option<Tag> {
    let bytes = text.as_bytes();
    let name = name_at(text, at + 1)?;
    let mut tag = Tag {
        name: name.clone(),
        attributes: Vec::new(),
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

fn name_at(text: &str, at: usize) -> Option<Range<usize>> {
    let rest = text.get(at..)?;
    let ascii_end = |b: &u8| {
        matches!(
            b,
            b'=' | b'/' | b'>' | b'"' | b'\'' | b'<' | b' ' | 0x09..=0x0d
        ) || !b.is_ascii()
    };
    let plain = rest.bytes().take_while(|b| !ascii_end(b)).count();
    let length = match rest.as_bytes().get(plain) {
        Some(letter) if !letter.is_ascii() => rest
            .find(|c: char| c.is_whitespace() || "=/>\"'<".contains(c))
            .unwrap_or(rest.len()),
        _ => plain,
    };
    (length > 0).then_some(at..at + length)
}
