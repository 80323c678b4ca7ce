//! Blocks after a shortcut's strings (MS-SHLLINK 2.5), and the property store among them
//! (MS-PROPSTORE).

use super::super::bytes::{from_utf16, to_utf16, u16_at, u32_at};
use super::fault::ShortcutFault;

/// What a block tells.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Kind {
    /// A path with variables, of the target or of the icon.
    Environment,
    /// Properties, some of them strings.
    Properties,
    /// By what a moved target is found again on its volume.
    Tracker,
    /// Something that describes the target as it was: its known folder, another item list.
    OldTarget,
}

/// One block, its length included.
#[derive(Clone, Debug)]
pub(super) struct Block(Vec<u8>);

/// Length of the path in a code page, and of the whole block, of an environment block.
const NARROW: usize = 260;
const WHOLE: usize = 8 + NARROW + NARROW * 2;

impl Block {
    pub(super) fn new(bytes: Vec<u8>) -> Self {
        Self(bytes)
    }

    pub(super) fn bytes(&self) -> &[u8] {
        &self.0
    }

    pub(super) fn kind(&self) -> Option<Kind> {
        match u32_at(&self.0, 4)? {
            0xA000_0001 | 0xA000_0007 if self.0.len() == WHOLE => Some(Kind::Environment),
            0xA000_0009 => Some(Kind::Properties),
            0xA000_0003 => Some(Kind::Tracker),
            0xA000_0005 | 0xA000_000B | 0xA000_000C => Some(Kind::OldTarget),
            _ => None,
        }
    }

    /// The path of an environment block.
    pub(super) fn environment(&self) -> Option<String> {
        let wide = self.0.get(8 + NARROW..)?;
        let length = wide.chunks_exact(2).position(|pair| pair == [0, 0])?;
        if length > 0 {
            return from_utf16(&wide[..length * 2]);
        }
        let narrow = &self.0[8..8 + NARROW];
        let end = memchr::memchr(0, narrow)?;
        let known = narrow[..end].is_ascii() && end > 0;
        known.then(|| String::from_utf8_lossy(&narrow[..end]).into_owned())
    }

    pub(super) fn set_environment(&mut self, new: &str) -> Result<(), ShortcutFault> {
        let wide = to_utf16(new);
        if wide.len() >= NARROW * 2 {
            return Err(ShortcutFault::BlockTooShort);
        }
        let letter = |c: char| if c.is_ascii() { c as u8 } else { b'?' };
        let narrow: Vec<u8> = new.chars().map(letter).collect();
        let put = |room: &mut [u8], text: &[u8], before: usize| {
            // What was after the old text's end is no text, and stays where it can.
            let end = before.max(text.len());
            room[..end].fill(0);
            room[..text.len()].copy_from_slice(text);
        };
        let old_narrow = memchr::memchr(0, &self.0[8..8 + NARROW]).unwrap_or(NARROW);
        let old_wide = self.0[8 + NARROW..]
            .chunks_exact(2)
            .position(|pair| pair == [0, 0]);
        put(&mut self.0[8..8 + NARROW], &narrow, old_narrow);
        put(
            &mut self.0[8 + NARROW..],
            &wide,
            old_wide.unwrap_or(NARROW) * 2,
        );
        // A longer text may have met what was after the old end.
        for (at, width) in [(8 + narrow.len(), 1), (8 + NARROW + wide.len(), 2)] {
            if let Some(end) = self.0.get_mut(at..at + width) {
                end.fill(0);
            }
        }
        Ok(())
    }

    /// The strings of a property store, in order.
    pub(super) fn properties(&self) -> Vec<String> {
        let strings = self.strings();
        strings
            .iter()
            .filter_map(|found| from_utf16(&self.0[found.text.clone()]))
            .collect()
    }

    /// Puts another string in the place of the one counted `number`.
    pub(super) fn set_property(&mut self, number: usize, new: &str) {
        let strings = self.strings();
        let readable = |found: &&Found| from_utf16(&self.0[found.text.clone()]).is_some();
        let Some(found) = strings.iter().filter(readable).nth(number) else {
            return;
        };
        let mut value = to_utf16(new);
        value.extend([0, 0]);
        let count = (value.len() / 2) as u32;
        while !value.len().is_multiple_of(4) {
            value.push(0);
        }
        let grown = value.len() as i64 - (found.padded_end - found.text.start) as i64;
        for at in [0, found.storage, found.value] {
            let length = u32_at(&self.0, at).unwrap_or_default() as i64 + grown;
            self.0[at..at + 4].copy_from_slice(&(length as u32).to_le_bytes());
        }
        self.0[found.text.start - 4..found.text.start].copy_from_slice(&count.to_le_bytes());
        self.0.splice(found.text.start..found.padded_end, value);
    }

    /// Where the strings of a property store are.
    fn strings(&self) -> Vec<Found> {
        let mut all = Vec::new();
        let bytes = &self.0;
        let mut storage = 8;
        while let Some(length) = u32_at(bytes, storage).filter(|length| *length > 24) {
            let end = storage.saturating_add(length).min(bytes.len());
            let mut value = storage + 24;
            while let Some(size) =
                u32_at(bytes, value).filter(|size| *size >= 13 && value + 4 < end)
            {
                all.extend(string(bytes, storage, value, (value + size).min(end)));
                value += size;
            }
            storage = end;
        }
        all
    }
}

/// A string of a property store: where the lengths are that count it, and where it is.
struct Found {
    storage: usize,
    value: usize,
    /// Without the zero that ends it.
    text: std::ops::Range<usize>,
    padded_end: usize,
}

/// The string that a value is, if it is one: type 31, a count of letters, UTF-16, a zero.
fn string(bytes: &[u8], storage: usize, value: usize, end: usize) -> Option<Found> {
    if u16_at(bytes, value + 9)? != 31 {
        return None;
    }
    let start = value + 17;
    let count = u32_at(bytes, value + 13)?;
    let text_end = start.checked_add(count.checked_sub(1)?.checked_mul(2)?)?;
    let ends = bytes.get(text_end..text_end + 2) == Some(&[0, 0]);
    (ends && text_end + 2 <= end).then_some(Found {
        storage,
        value,
        text: start..text_end,
        padded_end: end,
    })
}
