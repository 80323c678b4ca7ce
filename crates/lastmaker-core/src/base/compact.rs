//! Long lists kept small: items lie one after another in segments of bytes, and full segments are
//! compressed. A run may find a million references, and what is told of one would take a kilobyte.

use std::borrow::Cow;
use std::fmt;

use serde::de::{SeqAccess, Visitor};
use serde::{Deserialize, Deserializer, Serialize};

/// How long a segment grows before it is compressed, in bytes.
const SEGMENT: usize = 64 << 10;
/// How hard it is compressed: what is alike in neighbours is found at once.
const LEVEL: i32 = 1;

/// What can be kept as bytes. Every item is kept by itself.
pub trait Compact: Sized {
    /// It as it is written down.
    type Written<'a>: Serialize + Deserialize<'a>;

    /// It as it is written down; words that are many times the same go to `words`.
    fn written<'a>(&'a self, words: &mut Words) -> Self::Written<'a>;

    /// It as it was.
    fn read(written: Self::Written<'_>, words: &Words) -> Self;
}

/// Words of the program itself, each written down once in a segment.
#[derive(Clone, Debug, Default)]
pub struct Words(Vec<&'static str>);

impl Words {
    /// The number of a word.
    pub fn number(&mut self, word: &'static str) -> usize {
        let known = self.0.iter().position(|known| *known == word);
        known.unwrap_or_else(|| {
            self.0.push(word);
            self.0.len() - 1
        })
    }

    /// The word of a number.
    pub fn word(&self, number: usize) -> &'static str {
        self.0.get(number).copied().unwrap_or_default()
    }
}

/// A list of items, kept as bytes, in order.
#[derive(Clone, Debug)]
pub struct CompactList<T> {
    full: Vec<Segment>,
    /// What is being added to.
    open: Segment,
    of: std::marker::PhantomData<T>,
}

/// Some items one after another.
#[derive(Clone, Debug, Default)]
struct Segment {
    items: usize,
    words: Words,
    bytes: Vec<u8>,
    /// How many bytes they are without compression, if they are compressed.
    unpacked: Option<usize>,
}

impl Segment {
    fn compress(mut self) -> Self {
        if let Ok(small) = zstd::bulk::compress(&self.bytes, LEVEL) {
            self.unpacked = Some(self.bytes.len());
            self.bytes = small;
        }
        self.bytes.shrink_to_fit();
        self
    }

    fn unpacked(&self) -> Cow<'_, [u8]> {
        let Some(length) = self.unpacked else {
            return Cow::Borrowed(&self.bytes);
        };
        let bytes = zstd::bulk::decompress(&self.bytes, length);
        Cow::Owned(bytes.expect("what was compressed here is whole"))
    }
}

impl<T> Default for CompactList<T> {
    fn default() -> Self {
        Self {
            full: Vec::new(),
            open: Segment::default(),
            of: std::marker::PhantomData,
        }
    }
}

impl<T: Compact> CompactList<T> {
    /// How many items there are.
    pub fn len(&self) -> usize {
        let full: usize = self.full.iter().map(|segment| segment.items).sum();
        full + self.open.items
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// Adds an item.
    pub fn push(&mut self, item: &T) {
        let open = &mut self.open;
        let written = item.written(&mut open.words);
        let bytes = std::mem::take(&mut open.bytes);
        open.bytes =
            postcard::to_extend(&written, bytes).expect("memory takes all that is written");
        open.items += 1;
        if open.bytes.len() >= SEGMENT {
            self.close();
        }
    }

    /// Adds the items of another list.
    pub fn append(&mut self, other: Self) {
        if other.full.is_empty() {
            other.iter().for_each(|item| self.push(&item));
            return;
        }
        if self.open.items > 0 {
            self.close();
        }
        self.full.extend(other.full);
        self.open = other.open;
    }

    /// Gives back the memory that further items would go to.
    pub fn shrink(&mut self) {
        self.open.bytes.shrink_to_fit();
    }

    fn close(&mut self) {
        let segment = std::mem::take(&mut self.open);
        self.full.push(segment.compress());
    }

    /// The items in order, each made anew.
    pub fn iter(&self) -> impl Iterator<Item = T> + '_ {
        let segments = self.full.iter().chain(std::iter::once(&self.open));
        segments.flat_map(|segment| Items {
            bytes: segment.unpacked(),
            at: 0,
            left: segment.items,
            words: &segment.words,
            of: std::marker::PhantomData,
        })
    }

    /// Changes every item.
    pub fn change(&mut self, mut change: impl FnMut(&mut T)) {
        let old = std::mem::take(self);
        for mut item in old.iter() {
            change(&mut item);
            self.push(&item);
        }
        self.shrink();
    }
}

/// The items of one segment.
struct Items<'b, T> {
    bytes: Cow<'b, [u8]>,
    at: usize,
    left: usize,
    words: &'b Words,
    of: std::marker::PhantomData<T>,
}

impl<T: Compact> Iterator for Items<'_, T> {
    type Item = T;

    fn next(&mut self) -> Option<T> {
        self.left = self.left.checked_sub(1)?;
        let from = &self.bytes[self.at..];
        let (written, rest) =
            postcard::take_from_bytes(from).expect("what was written here can be read");
        self.at = self.bytes.len() - rest.len();
        Some(T::read(written, self.words))
    }
}

impl<T: Compact + Serialize> Serialize for CompactList<T> {
    fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        to.collect_seq(self.iter())
    }
}

impl<'de, T: Compact + Deserialize<'de>> Deserialize<'de> for CompactList<T> {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        from.deserialize_seq(Compacting(Self::default()))
    }
}

/// Packs items as they are read.
struct Compacting<T>(CompactList<T>);

impl<'de, T: Compact + Deserialize<'de>> Visitor<'de> for Compacting<T> {
    type Value = CompactList<T>;

    fn expecting(&self, to: &mut fmt::Formatter<'_>) -> fmt::Result {
        to.write_str("a list")
    }

    fn visit_seq<A: SeqAccess<'de>>(mut self, mut items: A) -> Result<CompactList<T>, A::Error> {
        while let Some(item) = items.next_element()? {
            self.0.push(&item);
        }
        self.0.shrink();
        Ok(self.0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[derive(Clone, Debug, PartialEq)]
    struct Note(String, &'static str);

    impl Compact for Note {
        type Written<'a> = (&'a str, usize);

        fn written<'a>(&'a self, words: &mut Words) -> (&'a str, usize) {
            (&self.0, words.number(self.1))
        }

        fn read((text, word): (&str, usize), words: &Words) -> Self {
            Self(text.to_owned(), words.word(word))
        }
    }

    fn notes() -> impl Strategy<Value = Vec<Note>> {
        let word = prop::sample::select(vec!["sheet", "label", ""]);
        let text = prop_oneof!["[a-z\u{e9}]{0,9}", Just("x".repeat(SEGMENT / 2 + 1))];
        prop::collection::vec((text, word).prop_map(|(text, word)| Note(text, word)), 0..9)
    }

    fn packed(notes: &[Note]) -> CompactList<Note> {
        let mut all = CompactList::default();
        notes.iter().for_each(|note| all.push(note));
        all
    }

    proptest! {
        #[test]
        fn a_packed_list_is_the_list(mut a in notes(), b in notes()) {
            let mut both = packed(&a);
            both.append(packed(&b));
            a.extend(b);
            prop_assert_eq!(both.len(), a.len());
            prop_assert_eq!(both.iter().collect::<Vec<_>>(), a.clone());
            both.change(|note| note.0.push('!'));
            a.iter_mut().for_each(|note| note.0.push('!'));
            prop_assert_eq!(both.iter().collect::<Vec<_>>(), a);
        }
    }

    #[test]
    fn what_is_alike_takes_little() {
        let mut all = CompactList::default();
        for number in 0..10_000 {
            all.push(&Note(
                format!(r"H:\Collections\Herbarium\Sheets\{number}.tif"),
                "to-move",
            ));
        }
        let kept: usize = all
            .full
            .iter()
            .map(|segment| segment.bytes.capacity())
            .sum();
        assert!(kept < 10_000 * 12, "{kept}");
    }
}
