//! Sixteen letters looked at together: most names and strings are shorter, and to go through them letter by
//! letter costs more in wrong guesses of where they end than in looking.

use wide::u8x16;

/// So many letters.
pub(crate) const CHUNK: usize = 16;

/// The letters, each a byte.
#[derive(Clone, Copy)]
pub(crate) struct Chunk(u8x16);

/// Which of sixteen letters are meant: all bits of their bytes are set.
#[derive(Clone, Copy)]
pub(crate) struct Marks(u8x16);

impl Chunk {
    /// The letters at `at`; none if there are fewer.
    #[inline(always)]
    pub(crate) fn at(bytes: &[u8], at: usize) -> Option<Self> {
        let letters = bytes.get(at..)?.first_chunk()?;
        Some(Self(u8x16::new(*letters)))
    }

    /// Those that are this one.
    #[inline(always)]
    pub(crate) fn equal(self, letter: u8) -> Marks {
        Marks(self.0.simd_eq(u8x16::splat(letter)))
    }

    /// Those that are the same as those of the others.
    #[inline(always)]
    pub(crate) fn same(self, others: Self) -> Marks {
        Marks(self.0.simd_eq(others.0))
    }

    /// Those up to this one.
    #[inline(always)]
    pub(crate) fn up_to(self, letter: u8) -> Marks {
        Marks(self.0.min(u8x16::splat(letter)).simd_eq(self.0))
    }

    /// Those that no letter of ASCII is.
    #[inline(always)]
    pub(crate) fn beyond_ascii(self) -> Marks {
        self.up_to(0x7f).not()
    }
}

impl Marks {
    /// These and the others.
    #[inline(always)]
    pub(crate) fn or(self, others: Self) -> Self {
        Self(self.0 | others.0)
    }

    /// All but these.
    #[inline(always)]
    pub(crate) fn not(self) -> Self {
        Self(!self.0)
    }

    /// A bit for each letter, the first one's the lowest.
    #[inline(always)]
    pub(crate) fn bits(self) -> u64 {
        u64::from(self.0.to_bitmask())
    }

    /// Which letter is the first; sixteen if there is none.
    #[inline(always)]
    pub(crate) fn first(self) -> usize {
        (self.0.to_bitmask() | 1 << CHUNK).trailing_zeros() as usize
    }
}

/// Whether what is at two places of `bytes` is the same for so many letters.
#[inline(always)]
pub(crate) fn is_same(bytes: &[u8], one: usize, other: usize, length: usize) -> bool {
    if length <= CHUNK
        && let (Some(one), Some(other)) = (Chunk::at(bytes, one), Chunk::at(bytes, other))
    {
        // Bits are set where they differ; those behind do not count.
        return one.same(other).not().bits() & ((1 << length) - 1) == 0;
    }
    let at = |start: usize| bytes.get(start..start + length);
    at(one).is_some_and(|letters| at(other) == Some(letters))
}

/// How many letters `bytes` begin with before one at which it `ends`, which is always one of those that are
/// marked.
#[inline(always)]
pub(crate) fn length_until(
    bytes: &[u8],
    marked: impl Fn(Chunk) -> Marks,
    ends: impl Fn(u8) -> bool,
) -> usize {
    let mut at = 0;
    while let Some(letters) = Chunk::at(bytes, at) {
        let first = marked(letters).first();
        at += first;
        if first < CHUNK {
            if ends(bytes[at]) {
                return at;
            }
            at += 1;
        }
    }
    let rest = &bytes[at..];
    at + rest
        .iter()
        .position(|byte| ends(*byte))
        .unwrap_or(rest.len())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn byte() -> impl Strategy<Value = u8> {
        prop_oneof![
            any::<u8>(),
            prop::sample::select(b"\"!#</=\x7f\x80".to_vec())
        ]
    }

    proptest! {
        #[test]
        fn sixteen_letters_tell_what_each_tells(bytes in prop::array::uniform16(byte()), letter: u8) {
            let sixteen = Chunk::at(&bytes, 0).unwrap();
            let each = |is: &dyn Fn(u8) -> bool| {
                bytes.map(|byte| if is(byte) { 0xff } else { 0 })
            };
            prop_assert_eq!(sixteen.equal(letter).0.to_array(), each(&|byte| byte == letter));
            prop_assert_eq!(sixteen.up_to(letter).0.to_array(), each(&|byte| byte <= letter));
            prop_assert_eq!(sixteen.beyond_ascii().0.to_array(), each(&|byte| !byte.is_ascii()));
            prop_assert_eq!(sixteen.equal(letter).not().0.to_array(), each(&|byte| byte != letter));
            let others = Chunk::at(&[letter; CHUNK], 0).unwrap();
            prop_assert_eq!(sixteen.same(others).0.to_array(), each(&|byte| byte == letter));
            let first = bytes.iter().position(|byte| *byte == letter);
            prop_assert_eq!(sixteen.equal(letter).first(), first.unwrap_or(CHUNK));
            prop_assert!(Chunk::at(&bytes, 1).is_none());
        }

        #[test]
        fn what_is_the_same_is_so_letter_by_letter(
            letters in "[ab]{1,3}", behind in "[ab]{0,40}",
            one in 0..40_usize, other in 0..40_usize, length in 0..40_usize,
        ) {
            let text = letters.repeat(12) + &behind;
            let at = |start: usize| text.get(start..start + length);
            let got = is_same(text.as_bytes(), one, other, length);
            prop_assert_eq!(got, at(one).is_some() && at(one) == at(other));
        }

        #[test]
        fn lengths_are_what_each_letter_tells(bytes in prop::collection::vec(byte(), 0..60), letter: u8) {
            let ends = |byte: u8| byte == letter;
            let got = length_until(&bytes, |letters| letters.up_to(letter), ends);
            prop_assert_eq!(got, bytes.iter().position(|byte| ends(*byte)).unwrap_or(bytes.len()));
        }
    }
}
