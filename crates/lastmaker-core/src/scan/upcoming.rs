//! Where the next of some letters is: what stands between two of them need not be looked at line by line.

use std::ops::Range;

/// Letters that are looked for together.
pub(crate) type Letters = [u8; 3];

/// Every place has one of these in it, in every codec.
pub(crate) const OF_PLACES: Letters = [b':', b'\\', b'/'];

/// A variable begins with one of these.
pub(crate) const OF_VARIABLES: Letters = [b'%', b'$', b'~'];

/// The next letter of one or two sets, remembered until it is passed, so that each stretch of a text is
/// looked through once.
pub(crate) struct Upcoming<'t> {
    bytes: &'t [u8],
    sets: &'static [Letters],
    next: [usize; 2],
}

impl<'t> Upcoming<'t> {
    /// Looks from `at` on for the letters of these sets, of which there are at most two.
    pub(crate) fn new(text: &'t str, at: usize, sets: &'static [Letters]) -> Self {
        let mut all = Self {
            bytes: text.as_bytes(),
            sets,
            next: [0; 2],
        };
        all.look(at, |_| true);
        all
    }

    /// Looks again for the sets whose next letter is `passed`.
    fn look(&mut self, at: usize, passed: impl Fn(usize) -> bool) {
        for (next, [one, two, three]) in self.next.iter_mut().zip(self.sets) {
            if passed(*next) {
                let rest = &self.bytes[at..];
                *next = at + memchr::memchr3(*one, *two, *three, rest).unwrap_or(rest.len());
            }
        }
    }

    /// The first of all letters at or after `at`, which must not fall from one call to the next; the
    /// text's end if there is none.
    pub(crate) fn sign(&mut self, at: usize) -> usize {
        self.look(at, |next| next < at);
        let next = self.next.iter().take(self.sets.len()).copied();
        next.fold(self.bytes.len(), usize::min)
    }
}

/// The lines of `text` that have a letter of these sets in them, without their ends, of which `ends` are
/// the letters.
pub(crate) fn lines_with<'t>(
    text: &'t str,
    sets: &'static [Letters],
    [one, two, three]: Letters,
) -> impl Iterator<Item = Range<usize>> + 't {
    let bytes = text.as_bytes();
    let mut upcoming = Upcoming::new(text, 0, sets);
    let mut at = 0;
    std::iter::from_fn(move || {
        let sign = upcoming.sign(at);
        if sign == bytes.len() {
            return None;
        }
        let before = memchr::memrchr3(one, two, three, &bytes[at..sign]);
        let start = before.map_or(at, |end| at + end + 1);
        let rest = &bytes[sign..];
        let end = sign + memchr::memchr3(one, two, three, rest).unwrap_or(rest.len());
        at = (end + 1).min(bytes.len());
        Some(start..end)
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// What is passed over is what has no such letter in it.
        #[test]
        fn lines_with_letters_are_all_found(text in "[a:%\\n\\r\\\\ \u{f6}]{0,40}") {
            let got: Vec<Range<usize>> =
                lines_with(&text, &[OF_PLACES, OF_VARIABLES], [b'\n', b'\r', 0]).collect();
            let mut at = 0;
            let mut expected = Vec::new();
            for line in text.split(['\n', '\r']) {
                if line.contains([':', '\\', '/', '%', '$', '~']) {
                    expected.push(at..at + line.len());
                }
                at += line.len() + 1;
            }
            prop_assert_eq!(got, expected);
        }
    }
}
