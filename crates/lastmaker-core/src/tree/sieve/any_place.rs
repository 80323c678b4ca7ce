//! Whether a text may name any place at all: what a survey asks, which knows no old place to look for.
//!
//! A place begins at a drive's colon, a separator or a variable, raw or escaped. Most colons and slashes of
//! files begin none: they end a key, close a tag, part a date or belong to an address. Only what surely is of
//! that kind is passed over, so this errs towards reading.

use super::{is_part, may_begin};
use crate::place::Place;

/// So far around a letter it is looked for what it belongs to, in bytes.
pub(super) const AROUND: usize = 80;

/// Tells which texts may name a place.
#[derive(Debug)]
pub(super) struct AnyPlace {
    /// The names of the variables that stand for places.
    variables: Vec<String>,
}

impl AnyPlace {
    /// For a search that knows these variables.
    pub(super) fn new(variables: &[(String, Place)]) -> Self {
        let names = variables.iter().map(|(name, _)| name.clone());
        Self {
            variables: names.collect(),
        }
    }

    /// Whether a place may be named in `bytes`. What is cut off by the end of them counts as one.
    pub(super) fn may_be_in(&self, bytes: &[u8]) -> bool {
        // Not text, or in UTF-16.
        if memchr::memchr(0, bytes).is_some() || crate::container::is_claimed(bytes) {
            return true;
        }
        // The kind of name that has dashes for its separators.
        let dashed = || memchr::memmem::find(bytes, b"mount").is_some();
        let roots = memchr::memchr3_iter(b':', b'\\', b'/', bytes);
        let encoded = memchr::memchr2_iter(b'%', b'&', bytes);
        let variables = memchr::memchr2_iter(b'$', b'~', bytes);
        roots.into_iter().any(|at| match bytes[at] {
            b':' => ends_drive(bytes, at),
            b'/' => may_be_root(bytes, at),
            _ => true,
        }) || dashed()
            || encoded.into_iter().any(|at| match bytes[at] {
                b'%' => is_encoded(&bytes[at + 1..]) || self.is_variable(&bytes[at + 1..]),
                _ => is_entity(&bytes[at + 1..]),
            })
            || variables.into_iter().any(|at| match bytes[at] {
                b'$' => self.is_variable(&bytes[at + 1..]),
                _ => matches!(bytes.get(at + 1), None | Some(b'/' | b'%' | b'&')),
            })
    }

    /// Whether what follows a variable's sign is the name of one.
    fn is_variable(&self, behind: &[u8]) -> bool {
        let name = match behind {
            [b'{', rest @ ..] => rest,
            rest => rest,
        };
        let begins = |word: &[u8]| {
            let there = &name[..name.len().min(word.len())];
            there.eq_ignore_ascii_case(&word[..there.len()])
        };
        begins(b"env:") || begins(b"homedrive") || {
            let mut names = self.variables.iter();
            names.any(|known| begins(known.as_bytes()))
        }
    }
}

/// Whether a colon may end the root of a drive: behind a letter by itself, before what is no other name.
fn ends_drive(bytes: &[u8], at: usize) -> bool {
    let Some(letter) = at.checked_sub(1) else {
        return false;
    };
    if !bytes[letter].is_ascii_alphabetic() || !may_begin(&bytes[..letter]) {
        return false;
    }
    // A name right behind it is one of the drive's current folder, which nobody counts.
    bytes
        .get(at + 1)
        .is_none_or(|next| !(is_part(*next) || *next == b'.'))
}

/// Whether a slash may begin a place.
fn may_be_root(bytes: &[u8], at: usize) -> bool {
    // What is before it may have been cut off.
    let before = at.checked_sub(1).map(|before| bytes[before]);
    if before == Some(b'/') {
        // Of a run the first one was asked about.
        return false;
    }
    let run = bytes[at..].iter().take_while(|byte| **byte == b'/').count();
    let behind = &bytes[at + run..];
    let drive = before == Some(b':')
        && at
            .checked_sub(2)
            .is_some_and(|it| bytes[it].is_ascii_alphabetic());
    match behind.first() {
        None => return true,
        Some(_) if drive && !is_address(&bytes[..at - 1]) => return true,
        // A name begins with none of these.
        Some(b' ' | b'\t' | b'\r' | b'\n' | b'>' | b'<' | b'*' | b')' | b',' | b';') => {
            return false;
        }
        _ => {}
    }
    match before {
        Some(b'.') => false,
        Some(b'<') => !closes_tag(behind),
        Some(b':') if run == 2 => !is_address(&bytes[..at - 1]),
        Some(before) if is_part(before) => {
            // Within a word nothing begins but behind an option of one letter, or an escape.
            let near = &bytes[at.saturating_sub(7)..at - 1];
            matches!(near, [] | [.., b'-']) || near.iter().any(|byte| b"%=&$#".contains(byte))
        }
        _ => true,
    }
}

/// Whether `bytes` end with the scheme of addresses that name no place.
fn is_address(bytes: &[u8]) -> bool {
    [&b"http"[..], b"https"].iter().any(|scheme| {
        let start = bytes.len().checked_sub(scheme.len());
        let there = start.and_then(|start| bytes.get(start..));
        there.is_some_and(|there| there.eq_ignore_ascii_case(scheme))
    })
}

/// Whether an end tag goes on with a name and is over.
fn closes_tag(behind: &[u8]) -> bool {
    let part = |byte: &u8| is_part(*byte) || b":.-".contains(byte);
    let near = &behind[..behind.len().min(AROUND)];
    let name = near.iter().take_while(|byte| part(byte)).count();
    near.get(name) == Some(&b'>')
}

/// Whether a percent sign encodes a colon, a separator or itself.
fn is_encoded(behind: &[u8]) -> bool {
    match behind.get(..2) {
        None => true,
        Some(digits) => [b"3a", b"2f", b"5c", b"25", b"7c"]
            .iter()
            .any(|known| digits.eq_ignore_ascii_case(*known)),
    }
}

/// Whether an entity is written by its number, or is a separator.
fn is_entity(behind: &[u8]) -> bool {
    match behind {
        [] | [b'#', ..] => true,
        _ => [&b"sol"[..], b"bsol"].iter().any(|name| {
            let there = &behind[..behind.len().min(name.len())];
            there == &name[..there.len()]
        }),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_may_name_a_place_and_what_does_not() {
        let variables = [("PRESS".to_owned(), Place::parse("/srv/press").unwrap())];
        let any = AnyPlace::new(&variables);
        let telling = [
            r"D:\x",
            "d:/x",
            "root=D:",
            "x \"D:\" y",
            "/srv/x",
            "a=/srv",
            "(/srv/x)",
            "-I/srv/x",
            "a%20/srv",
            "sqlite:////srv/x",
            "file:///D:/x",
            "//host/x",
            "x=//host/x",
            "D%3A%5Cx",
            "p=%2Fsrv",
            "&#47;srv",
            "&sol;srv",
            "$PRESS/x",
            "${press}/x",
            "%PRESS%",
            "$env:x",
            "~/x",
            "cat </srv/x",
            "a\\n",
            "srv-press.mount",
            "\0",
            "\u{201c}/srv/x",
            "/",
            "x:",
            "<a>/srv</a>",
            "x (c:",
        ];
        for text in telling {
            assert!(any.may_be_in(text.as_bytes()), "{text}");
        }
        let idle = [
            "",
            "a=b\n",
            "{\"a\": 1, \"b\": [\"c\"]}",
            "<a b='c'>d</a>\n<e/>\n",
            "https://x.org/a/b?c=d ",
            "12:30 1/2",
            "and/or text/html ",
            "../x ./y ",
            "// remark\n",
            "/* remark */ ",
            "key: value",
            "std::fs ",
            "50% off",
            "a&amp;b",
            "$x ${y} ~x",
            "x:y ",
        ];
        for text in idle {
            assert!(!any.may_be_in(text.as_bytes()), "{text}");
        }
    }
}
