//! Whether a text may name one of some whole drives.
//!
//! Of a drive there is only a letter to look for. In every spelling something else than a letter follows it,
//! and mostly something else stands before it, so few are left to be looked at.

use multiversion::multiversion;

use super::{is_part, may_begin};
use crate::base::ascii::is_letter;

/// A drive that is looked for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Drive {
    /// In lower case.
    pub(super) letter: u8,
    /// Whether all of it moves: then the letter alone counts beside a word that says drive, and else as a
    /// folder right at the root.
    pub(super) whole: bool,
}

/// What stands behind the letter: a colon, raw, escaped or encoded, or what stands for it. In lower case.
pub(super) const COLONS: [&str; 11] = [
    ":", "\\:", "|", "$", "%3a", "%253a", "&#58", "&#x3a", "\\u003a", "\\x3a", "\\072",
];

/// The folders in which drives are seen.
pub(super) const TOPS: [&str; 2] = ["mnt", "cygdrive"];

/// Words beside which a lone letter is a drive.
pub(super) const KEYS: [&str; 3] = ["drive", "volume", "disk"];

/// So many letters are looked at together.
const BLOCK: usize = 64;

/// So near behind such a folder, and so far behind such a word, a letter belongs to it, in bytes.
pub(super) const NEAR: usize = 12;
pub(super) const FAR: usize = 48;

impl Drive {
    /// Whether `bytes`, which are text of one byte for each letter of ASCII, may name it.
    pub(super) fn may_be_in(self, bytes: &[u8]) -> bool {
        let mut may_be_at = |at: usize| self.may_be_at(bytes, at);
        // Blocks leave out the first letter and the last.
        let Some(last_block) = bytes.len().checked_sub(BLOCK + 2) else {
            return (0..bytes.len()).any(may_be_at);
        };
        if may_be_at(0) || may_be_at(bytes.len() - 1) {
            return true;
        }
        let mut from = 0;
        while let Some(block) = next_block(bytes, from, self.letter) {
            if (block + 1..=block + BLOCK).any(&mut may_be_at) {
                return true;
            }
            from = block + BLOCK;
        }
        next_block(bytes, last_block, self.letter)
            .is_some_and(|block| (block + 1..=block + BLOCK).any(may_be_at))
    }

    /// Whether the letter at `at` may be the drive's.
    fn may_be_at(self, bytes: &[u8], at: usize) -> bool {
        let behind = &bytes[at + 1..];
        if (bytes[at] | 0x20) != self.letter {
            return false;
        }
        if behind.first().is_some_and(|next| is_part(*next)) {
            return false;
        }
        let is_colon = |colon: &str| {
            let there = behind.get(..colon.len());
            there.is_some_and(|there| there.eq_ignore_ascii_case(colon.as_bytes()))
        };
        let colon = matches!(
            behind.first(),
            Some(b':' | b'\\' | b'|' | b'$' | b'%' | b'&')
        ) && COLONS.iter().any(|colon| is_colon(colon));
        if colon && may_begin(&bytes[..at]) {
            return true;
        }
        let before = &bytes[..at];
        let Some(last) = before.last() else {
            return false;
        };
        if is_part(*last) {
            // It may be the end of an escape.
            const ESCAPE: usize = 4;
            let near = &before[at.saturating_sub(ESCAPE)..];
            return near.iter().any(|byte| b"%\\=".contains(byte)) && follows(before, &TOPS, NEAR);
        }
        follows(before, &TOPS, NEAR)
            || if self.whole {
                follows(before, &KEYS, FAR)
            } else {
                *last == b'/'
            }
    }
}

/// The start of the next block at or after `from` of which a letter may be the drive's. A block's letters have
/// one more before them and one more behind.
#[multiversion(targets("x86_64+avx2"))]
fn next_block(bytes: &[u8], from: usize, drive: u8) -> Option<usize> {
    let mut at = from;
    // A loop of iterators would be compiled for narrow vectors all the same.
    while let Some(block) = bytes.get(at..at + BLOCK + 2) {
        if ends_word_in(block, drive) && is_alone_in(block, drive) {
            return Some(at);
        }
        at += BLOCK;
    }
    None
}

/// Whether one of the letters of a block is the drive's and no other letter follows it, which rules out most
/// blocks in a third of the time. It is told of all of them at once, without a branch for each, so that vector
/// instructions do it.
#[inline(always)]
fn ends_word_in(block: &[u8], drive: u8) -> bool {
    let (letters, behind) = (&block[1..=BLOCK], &block[2..BLOCK + 2]);
    let mut any = false;
    for at in 0..BLOCK {
        any |= ((letters[at] | 0x20) == drive) & !is_letter(behind[at]);
    }
    any
}

/// Whether one of the letters of a block may be the drive's; likewise.
#[inline(always)]
fn is_alone_in(block: &[u8], drive: u8) -> bool {
    let (before, behind) = (&block[..BLOCK], &block[2..BLOCK + 2]);
    let mut any = false;
    for at in 0..BLOCK {
        let (last, letter, next) = (before[at], block[at + 1], behind[at]);
        let colon = (next == b':')
            | (next == b'\\')
            | (next == b'|')
            | (next == b'$')
            | (next == b'%')
            | (next == b'&');
        // The last digits of an escaped separator.
        let digit = last | 0x20;
        let escape = (digit == b'f') | (digit == b'c') | (last == b'7') | (last == b'4');
        any |= ((letter | 0x20) == drive) & !is_part(next) & (!is_part(last) | colon | escape);
    }
    any
}

/// Whether one of `words` ends less than `distance` bytes before the end of `bytes`, but not right there.
fn follows(bytes: &[u8], words: &[&str], distance: usize) -> bool {
    let longest = words.iter().map(|word| word.len()).max().unwrap_or(0);
    let near = &bytes[bytes.len().saturating_sub(distance + longest - 1)..];
    words.iter().any(|word| {
        let word = word.as_bytes();
        let ends_near = |start: usize| near.len() - start - word.len() < distance;
        let mut starts = 0..near.len().saturating_sub(word.len());
        starts.any(|start| {
            near[start..start + word.len()].eq_ignore_ascii_case(word) && ends_near(start)
        })
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use proptest::{collection, sample};

    proptest! {
        /// Blocks pass over no letter that counts, wherever it stands in them.
        #[test]
        fn blocks_find_what_each_letter_tells(
            pieces in collection::vec(sample::select(vec![
                "d", "D", "drive", "/", ":", "\\", "%3A", "%2F", " ", "grid", "=", "\n", "loan of a map ",
            ]), 0..40),
            whole: bool,
        ) {
            let text = pieces.concat();
            let drive = Drive { letter: b'd', whole };
            let each = (0..text.len()).any(|at| drive.may_be_at(text.as_bytes(), at));
            prop_assert_eq!(drive.may_be_in(text.as_bytes()), each);
        }
    }

    #[test]
    fn letters_that_may_be_a_drive() {
        let whole = Drive {
            letter: b'd',
            whole: true,
        };
        let names = Drive {
            whole: false,
            ..whole
        };
        let cases = [
            (r"D:\x", true, true),
            ("x=d:/y", true, true),
            (r"\nD:\x", true, true),
            (r"-ID:\x", true, true),
            ("D%3A%5C", true, true),
            ("D&#58;x", true, true),
            (r"D\u003a", true, true),
            ("/mnt/d", true, true),
            ("/mnt%2Fd/x", true, true),
            ("/cygdrive/D/x", true, true),
            ("drive = D", true, false),
            ("Volume\": \"d\"", true, false),
            ("/d/x", false, true),
            ("driver and disk", false, false),
            ("enabled: yes", false, false),
            ("D is a letter", false, false),
            ("mnt read", false, false),
            ("disk data/d1", false, false),
        ];
        for (text, of_whole, of_names) in cases {
            let got = [whole, names].map(|drive| drive.may_be_in(text.as_bytes()));
            assert_eq!(got, [of_whole, of_names], "{text}");
        }
    }
}
