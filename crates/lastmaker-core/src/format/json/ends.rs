//! Where strings, blanks and words of JSON end.

use crate::sixteen::{SIXTEEN, Sixteen, length_until};

/// What is in a string: an escape, …
pub(super) const ESCAPE: u8 = 1;
/// … a letter that every place has in it, …
pub(super) const SIGN: u8 = 2;
/// … or one that most names of files have.
pub(super) const DOT: u8 = 4;

/// The inside of a string.
pub(super) struct Inside {
    pub(super) end: usize,
    /// Whether a quote ends it.
    pub(super) closed: bool,
    /// What is in it.
    pub(super) seen: u8,
}

/// The inside of the string that begins at `start`, behind its quote.
pub(super) fn inside_of(bytes: &[u8], start: usize) -> Inside {
    let (mut end, mut seen) = (start, 0);
    let closed = loop {
        let (length, of_stretch) = stretch(&bytes[end..]);
        end += length;
        seen |= of_stretch;
        match bytes.get(end) {
            None | Some(b'\n') => break false,
            Some(b'"') => break true,
            // The escaped letter is skipped; a line's end never is.
            Some(_) => {
                seen |= ESCAPE;
                let letter = bytes.get(end + 1);
                let skipped = letter.is_some_and(|byte| *byte != b'\n' && byte.is_ascii());
                end += if skipped { 2 } else { 1 };
            }
        }
    };
    Inside { end, closed, seen }
}

/// How many letters there are before the next quote, backslash or line end, and what is among them.
fn stretch(bytes: &[u8]) -> (usize, u8) {
    // Beyond so many letters it is better searched.
    const SHORT: usize = 3 * SIXTEEN;
    let (mut at, mut seen) = (0, 0);
    while at < SHORT
        && let Some(letters) = Sixteen::at(bytes, at)
    {
        let stops = letters.equal(b'"').or(letters.equal(b'\\'));
        let stop = stops.or(letters.equal(b'\n')).first();
        let sign = letters.equal(b':').or(letters.equal(b'/')).first();
        seen |= u8::from(sign < stop) * SIGN;
        seen |= u8::from(letters.equal(b'.').first() < stop) * DOT;
        at += stop;
        if stop < SIXTEEN {
            return (at, seen);
        }
    }
    // What is told of a string must not depend on how much follows it.
    let rest = &bytes[at..];
    let stop = memchr::memchr3(b'"', b'\\', b'\n', rest).unwrap_or(rest.len());
    let before = &rest[..stop];
    seen |= u8::from(memchr::memchr2(b':', b'/', before).is_some()) * SIGN;
    seen |= u8::from(memchr::memchr(b'.', before).is_some()) * DOT;
    (at + stop, seen)
}

/// Where the blanks end that are at `at`.
pub(super) fn behind_blanks(bytes: &[u8], at: usize) -> usize {
    let blank = |letter: u8| matches!(letter, b' ' | b'\t' | b'\r' | b'\n');
    let others = |letters: Sixteen| {
        let lines = letters.equal(b'\r').or(letters.equal(b'\n'));
        let blanks = letters.equal(b' ').or(letters.equal(b'\t'));
        lines.or(blanks).not()
    };
    at + length_until(&bytes[at..], others, |letter| !blank(letter))
}

/// How many letters there are before the end of a number or a literal.
pub(super) fn word_length(bytes: &[u8]) -> usize {
    // All that end it are among these, beside a plus and some that never are in it.
    let marked = |letters: Sixteen| {
        let brackets = letters.equal(b'[').or(letters.equal(b']'));
        let braces = letters.equal(b'{').or(letters.equal(b'}'));
        let signs = letters.equal(b':').or(letters.equal(b'/'));
        letters.up_to(b',').or(signs).or(brackets).or(braces)
    };
    length_until(bytes, marked, |letter| {
        b" \t\r\n,:]}{[\"/".contains(&letter)
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Where a string ends and what is in it is what each letter tells, whatever follows.
        #[test]
        fn a_string_is_told_the_same_wherever_it_stands(
            inside in "([a :/.]|\\\\[\"n]){0,70}", more in 0..70_usize,
        ) {
            let bytes = format!("{inside}\"{}", " ".repeat(more)).into_bytes();
            let got = inside_of(&bytes, 0);
            let flag = |is: bool, flag: u8| if is { flag } else { 0 };
            let seen = flag(inside.contains('\\'), ESCAPE)
                | flag(inside.contains([':', '/']), SIGN)
                | flag(inside.contains('.'), DOT);
            prop_assert_eq!((got.end, got.closed, got.seen), (inside.len(), true, seen));
        }
    }
}
