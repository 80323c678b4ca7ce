//! Where the next line ends with a lone letter, which may name a drive.
//!
//! Most lines of most settings end with a word, and to see that of one after the other was most of the reading.
//! So a block of letters is asked at once whether any line in it may end otherwise.

use std::ops::Range;

use multiversion::multiversion;

use crate::base::ascii::is_alphanumeric;

/// So many letters are looked at together.
const BLOCK: usize = 64;
/// So many letters before a line's end tell how it ends: two, and a carriage return.
const BEFORE: usize = 3;

/// The end of the first line at or after the line start `from` and before `to` that ends with a letter which no
/// letter or digit stands before, or has no two letters.
pub(super) fn next_lone_end(bytes: &[u8], from: usize, to: usize) -> Option<usize> {
    let mut at = (from + BEFORE).min(to);
    let mut found = lone_end_in(bytes, from, from..at);
    while found.is_none() && at < to {
        let block = next_block(&bytes[..to], at);
        at = (block + BLOCK).min(to);
        found = lone_end_in(bytes, from, block..at);
    }
    found
}

/// The same of lines that end in `range`.
fn lone_end_in(bytes: &[u8], from: usize, range: Range<usize>) -> Option<usize> {
    let newlines = memchr::memchr_iter(b'\n', &bytes[range.clone()]);
    let mut ends = newlines.map(|newline| range.start + newline);
    ends.find(|end| {
        let before = memchr::memrchr(b'\n', &bytes[from..*end]);
        let start = before.map_or(from, |newline| from + newline + 1);
        ends_alone(&bytes[start..*end])
    })
}

/// Whether a line ends so.
fn ends_alone(line: &[u8]) -> bool {
    match line.strip_suffix(b"\r").unwrap_or(line) {
        [.., before, last] if !last.is_ascii_whitespace() => !before.is_ascii_alphanumeric(),
        _ => {
            let mut back = line.trim_ascii_end().iter().rev();
            back.nth(1).is_none_or(|byte| !byte.is_ascii_alphanumeric())
        }
    }
}

/// The start of the next block at or after `from` in which a line may end so, or of what is less than a block.
#[multiversion(targets("x86_64+avx2"))]
fn next_block(bytes: &[u8], from: usize) -> usize {
    let mut at = from;
    // A loop of iterators would be compiled for narrow vectors all the same.
    while let Some(block) = bytes.get(at - BEFORE..at + BLOCK) {
        if has_lone_end(block) {
            break;
        }
        at += BLOCK;
    }
    at
}

/// Whether a line may end so in a block, before which there are the letters that tell it. It is asked of all
/// letters at once, without a branch for each, so that vector instructions do it.
#[inline(always)]
fn has_lone_end(block: &[u8]) -> bool {
    let (third, second) = (&block[..BLOCK], &block[1..=BLOCK]);
    let (last, letters) = (&block[2..BLOCK + 2], &block[BEFORE..BLOCK + BEFORE]);
    let mut any = false;
    for at in 0..BLOCK {
        let (third, second, last) = (third[at], second[at], last[at]);
        let word = is_alphanumeric(second) & (last > b' ');
        let word_and_return = is_alphanumeric(third) & (second > b' ') & (last == b'\r');
        any |= (letters[at] == b'\n') & !(word | word_and_return);
    }
    any
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use proptest::{collection, sample};

    proptest! {
        /// Blocks pass over no line that ends alone, wherever it ends in them.
        #[test]
        fn blocks_find_what_each_line_tells(
            pieces in collection::vec(sample::select(vec![
                "\n", "\r\n", "d", "=D", "sheet", "sheet and label and loan", " ", "\t", "\u{f6}", "7", "\r",
            ]), 0..60),
        ) {
            let text = pieces.concat();
            let mut start = 0;
            let mut expected = None;
            for line in text.split_inclusive('\n').filter(|line| line.ends_with('\n')) {
                let end = start + line.len() - 1;
                if expected.is_none() && ends_alone(&text.as_bytes()[start..end]) {
                    expected = Some(end);
                }
                start += line.len();
            }
            prop_assert_eq!(next_lone_end(text.as_bytes(), 0, text.len()), expected);
        }
    }
}
