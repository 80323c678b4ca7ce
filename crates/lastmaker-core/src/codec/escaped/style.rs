//! What a document shows of how it escapes.

use super::{Escapes, Unit};
use crate::place::OPAQUE;

/// How a document writes what it need not escape.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Style {
    /// Whether `/` is escaped.
    pub slash: bool,
    /// Whether letters outside ASCII are escaped.
    pub letters: bool,
    /// Whether the hex digits of escapes are in upper case.
    pub upper_hex: bool,
    /// Whether the mark is doubled where it would mean itself anyway.
    pub mark: bool,
    /// Whether a colon is escaped.
    pub colon: bool,
}

impl Style {
    /// Nothing is escaped that need not be.
    pub const PLAIN: Self = Self {
        slash: false,
        letters: false,
        upper_hex: false,
        mark: false,
        colon: false,
    };

    /// Reads the style from the raw text of a document; `fallback` where it has no example.
    pub fn of(raw: &str, escapes: &Escapes, fallback: Self) -> Self {
        let bytes = raw.as_bytes();
        let (mut escaped, mut plain_letters) = (0usize, 0usize);
        let (mut upper, mut lower) = (0usize, 0usize);
        let (mut slashes, mut escaped_slashes) = (0usize, 0usize);
        let (mut marks, mut doubled) = (0usize, 0usize);
        let (mut colons, mut escaped_colons) = (0usize, 0usize);
        let colon_matters = escapes.simple.iter().any(|(letter, _)| *letter == b':');
        let third = if colon_matters { b':' } else { b'/' };
        let mut at = 0;
        while let Some(next) = memchr::memchr3(escapes.mark, b'/', third, &bytes[at..]) {
            let here = at + next;
            plain_letters += letters(&raw[at..here]);
            at = here + 1;
            match bytes[here] {
                b'/' => {
                    slashes += 1;
                    continue;
                }
                b':' => {
                    colons += 1;
                    continue;
                }
                _ => {}
            }
            match bytes.get(here + 1) {
                Some(b'/') => {
                    escaped_slashes += 1;
                    at = here + 2;
                }
                Some(b':') => {
                    escaped_colons += 1;
                    at = here + 2;
                }
                Some(b'u' | b'U' | b'x') => {
                    if let Some(Unit::Letter(letter, width)) = escapes.escape(&bytes[here..]) {
                        escaped += usize::from(!letter.is_ascii());
                        let text = bytes.get(here + 2..here + width).unwrap_or(b"");
                        upper += text.iter().filter(|b| b.is_ascii_uppercase()).count();
                        lower += text.iter().filter(|b| b.is_ascii_lowercase()).count();
                        at = here + width;
                    }
                }
                // The escaped mark is no escape of what follows it.
                Some(letter) if *letter == escapes.mark => {
                    doubled += 1;
                    at = here + 2;
                }
                Some(b'"') => at = here + 2,
                _ => marks += 1,
            }
        }
        plain_letters += letters(&raw[at..]);
        Self {
            slash: choose(escaped_slashes, slashes, fallback.slash),
            letters: choose(escaped, plain_letters, fallback.letters),
            upper_hex: choose(upper, lower, fallback.upper_hex),
            mark: choose(doubled, marks, fallback.mark),
            colon: choose(escaped_colons, colons, fallback.colon),
        }
    }
}

fn choose(yes: usize, no: usize, fallback: bool) -> bool {
    if yes + no == 0 { fallback } else { yes > no }
}

fn letters(text: &str) -> usize {
    if text.is_ascii() {
        return 0;
    }
    text.chars()
        .filter(|c| !c.is_ascii() && *c != OPAQUE)
        .count()
}
