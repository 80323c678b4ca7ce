//! Where strings in double quotes end that escape with backslashes, and the blanks between them.
//!
//! The text is looked at in blocks of sixty-four letters, each once: a bit for each letter says what it is, and
//! where the next one of a kind is, or whether there is one in between, is asked of the bits.

use crate::base::chunk::{CHUNK, Chunk};

/// What is in a string: an escape, …
pub(super) const ESCAPE: u8 = 1;
/// … a letter that every place has in it, …
pub(super) const SIGN: u8 = 2;
/// … or one that most names of files have.
pub(super) const DOT: u8 = 4;

/// So many letters are a block: one for each bit.
const BLOCK: usize = u64::BITS as usize;

/// The inside of a string.
pub(super) struct Inside {
    pub(super) end: usize,
    /// Whether a quote ends it.
    pub(super) closed: bool,
    /// What is in it.
    pub(super) seen: u8,
}

/// A text, and the block of it that was asked about last.
pub(super) struct Blocks<'t> {
    bytes: &'t [u8],
    /// Where the block begins.
    start: usize,
    block: Block,
}

/// What the letters of a block are, the first one's bit the lowest. What is beyond the text is no blank, and
/// nothing else either.
#[derive(Default)]
struct Block {
    /// Quotes, backslashes and line ends, one of which ends each stretch of a string.
    stops: u64,
    signs: u64,
    dots: u64,
    /// All but blanks.
    others: u64,
}

impl Block {
    fn of(letters: &[u8; BLOCK]) -> Self {
        let mut block = Self::default();
        let mut at = 0;
        while let Some(letters) = Chunk::at(letters, at) {
            let line_ends = letters.equal(b'\n');
            let stops = letters.equal(b'"').or(letters.equal(b'\\')).or(line_ends);
            let signs = letters.equal(b':').or(letters.equal(b'/'));
            let blanks = letters.equal(b' ').or(letters.equal(b'\t'));
            let blanks = blanks.or(letters.equal(b'\r')).or(line_ends);
            block.stops |= stops.bits() << at;
            block.signs |= signs.bits() << at;
            block.dots |= letters.equal(b'.').bits() << at;
            block.others |= blanks.not().bits() << at;
            at += CHUNK;
        }
        block
    }
}

impl<'t> Blocks<'t> {
    pub(super) fn of(bytes: &'t [u8]) -> Self {
        let mut all = Self {
            bytes,
            start: 0,
            block: Block::default(),
        };
        all.look(0);
        all
    }

    /// Which letter of its block the one at `at` is.
    #[inline(always)]
    fn within(&mut self, at: usize) -> usize {
        if at.wrapping_sub(self.start) >= BLOCK {
            self.look(at);
        }
        at - self.start
    }

    /// Looks at the block in which the letter at `at` is.
    fn look(&mut self, at: usize) {
        self.start = at - at % BLOCK;
        let rest = &self.bytes[self.start.min(self.bytes.len())..];
        self.block = match rest.first_chunk() {
            Some(letters) => Block::of(letters),
            None => {
                let mut letters = [0; BLOCK];
                letters[..rest.len()].copy_from_slice(rest);
                Block::of(&letters)
            }
        };
    }

    /// Where the blanks end that are at `at`.
    #[inline(always)]
    pub(super) fn behind_blanks(&mut self, mut at: usize) -> usize {
        loop {
            let within = self.within(at);
            let others = self.block.others >> within;
            if others != 0 {
                return at + others.trailing_zeros() as usize;
            }
            at = self.start + BLOCK;
        }
    }

    /// The inside of the string that begins at `start`, behind its quote.
    #[inline(always)]
    pub(super) fn inside_of(&mut self, start: usize) -> Inside {
        let (mut end, mut seen) = (start, 0);
        let closed = loop {
            let (stop, of_stretch) = self.stretch(end);
            end = stop;
            seen |= of_stretch;
            match self.bytes.get(end) {
                None | Some(b'\n') => break false,
                Some(b'"') => break true,
                // The escaped letter is skipped; a line's end never is.
                Some(_) => {
                    seen |= ESCAPE;
                    let letter = self.bytes.get(end + 1);
                    let skipped = letter.is_some_and(|byte| *byte != b'\n' && byte.is_ascii());
                    end += if skipped { 2 } else { 1 };
                }
            }
        };
        Inside { end, closed, seen }
    }

    /// Where the next quote, backslash or line end at or after `at` is, and what is before it.
    #[inline(always)]
    fn stretch(&mut self, mut at: usize) -> (usize, u8) {
        let mut seen = 0;
        loop {
            let within = self.within(at);
            let stops = self.block.stops >> within;
            // The bits below the lowest that is set; all if none is.
            let before = (stops & stops.wrapping_neg()).wrapping_sub(1);
            let is_there = |bits: u64| u8::from(bits >> within & before != 0);
            seen |= is_there(self.block.signs) * SIGN;
            seen |= is_there(self.block.dots) * DOT;
            if stops != 0 {
                return (at + stops.trailing_zeros() as usize, seen);
            }
            at = self.start + BLOCK;
            if at >= self.bytes.len() {
                return (self.bytes.len(), seen);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Where a string ends and what is in it is what each letter tells, whatever is around it.
        #[test]
        fn a_string_is_told_the_same_wherever_it_stands(
            before in 0..70_usize, inside in "([a :/.]|\\\\[\"n]){0,140}", more in 0..70_usize,
        ) {
            let blanks = " ".repeat(before);
            let text = format!("{blanks}{inside}\"{}", ":".repeat(more));
            let got = Blocks::of(text.as_bytes()).inside_of(before);
            let flag = |is: bool, flag: u8| if is { flag } else { 0 };
            let seen = flag(inside.contains('\\'), ESCAPE)
                | flag(inside.contains([':', '/']), SIGN)
                | flag(inside.contains('.'), DOT);
            let end = before + inside.len();
            prop_assert_eq!((got.end, got.closed, got.seen), (end, true, seen));
        }

        /// Blanks end where the first other letter is, or the text.
        #[test]
        fn blanks_end_where_they_do(blanks in "[ \\t\\r\\n]{0,140}", more in "[a\u{0}\u{b}]{0,3}", at in 0..140_usize) {
            let text = format!("{blanks}{more}");
            let at = at.min(text.len());
            let got = Blocks::of(text.as_bytes()).behind_blanks(at);
            prop_assert_eq!(got, at.max(blanks.len()));
        }

        /// A string that nothing closes goes on to the end of its line.
        #[test]
        fn a_string_ends_with_its_line(inside in "([a:.]|\\\\[a\\\\]){0,140}", more in "(\\n.{0,9})?") {
            let text = format!("{inside}{more}");
            let got = Blocks::of(text.as_bytes()).inside_of(0);
            prop_assert_eq!((got.end, got.closed), (inside.len(), false));
        }
    }
}
