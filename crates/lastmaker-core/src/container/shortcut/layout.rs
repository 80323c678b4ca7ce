//! The order of a shortcut's parts on disk, read and written.

use super::super::bytes::{from_utf16, to_utf16, u16_at, u32_at};
use super::blocks::Block;
use super::fault::ShortcutFault;
use super::info::Info;

/// Length of the head.
const HEAD: usize = 76;
/// Where the head's flags are.
const FLAGS: usize = 20;
const HAS_ITEMS: usize = 1;
const HAS_INFO: usize = 2;
const IS_UNICODE: usize = 0x80;
const NO_INFO: usize = 0x100;
/// The first string's flag; each next one is the next bit.
const FIRST_STRING: usize = 4;

/// What the strings are called, in the order in which they come.
pub(super) const STRINGS: [&str; 5] = [
    "description",
    "relative path",
    "working folder",
    "arguments",
    "icon",
];
/// Which of them is the relative path.
pub(super) const RELATIVE: usize = 1;

/// Whether `bytes` begin as a shortcut does: its length and its class.
pub(super) fn is_link(bytes: &[u8]) -> bool {
    const START: &[u8] = b"\x4c\0\0\0\x01\x14\x02\0\0\0\0\0\xc0\0\0\0\0\0\0\x46";
    bytes.len() >= HEAD && bytes.starts_with(START)
}

/// A string preceded by its count of letters.
#[derive(Clone, Debug)]
pub(super) struct Counted {
    raw: Vec<u8>,
    unicode: bool,
}

impl Counted {
    /// The text; none if its letters are not known.
    pub(super) fn text(&self) -> Option<String> {
        if self.unicode {
            from_utf16(&self.raw)
        } else {
            self.raw.is_ascii().then(|| self.lossy())
        }
    }

    /// The text as far as its letters are known.
    pub(super) fn lossy(&self) -> String {
        if self.unicode {
            crate::text::Encoding::Utf16Le
                .decode(&self.raw)
                .into_owned()
        } else {
            crate::text::Encoding::Utf8.decode(&self.raw).into_owned()
        }
    }

    pub(super) fn set(&mut self, text: &str) -> Result<(), ShortcutFault> {
        if !self.unicode && !text.is_ascii() {
            return Err(ShortcutFault::UnnamedCodePage);
        }
        self.raw = if self.unicode {
            to_utf16(text)
        } else {
            text.as_bytes().to_vec()
        };
        let count = self.raw.len() / if self.unicode { 2 } else { 1 };
        if count > usize::from(u16::MAX) {
            return Err(ShortcutFault::StringTooLong);
        }
        Ok(())
    }
}

/// A shortcut taken apart.
#[derive(Debug)]
pub(super) struct Layout {
    head: Vec<u8>,
    /// The items of the target, each without its length.
    pub(super) items: Option<Vec<Vec<u8>>>,
    pub(super) info: Option<Info>,
    pub(super) strings: [Option<Counted>; 5],
    pub(super) blocks: Vec<Block>,
    /// What follows the last block.
    rest: Vec<u8>,
}

impl Layout {
    /// Takes `bytes` apart; none unless putting them together gives the same bytes.
    pub(super) fn read(bytes: &[u8]) -> Option<Self> {
        let head = bytes.get(..HEAD).filter(|_| is_link(bytes))?.to_vec();
        let flags = u32_at(&head, FLAGS)?;
        let mut at = HEAD;
        let mut items = None;
        if flags & HAS_ITEMS != 0 {
            let end = at + 2 + u16_at(bytes, at)?;
            items = Some(super::items::split(bytes.get(at + 2..end)?)?);
            at = end;
        }
        let mut info = None;
        if flags & HAS_INFO != 0 && flags & NO_INFO == 0 {
            let end = at.checked_add(u32_at(bytes, at)?)?;
            info = Some(Info::read(bytes.get(at..end)?)?);
            at = end;
        }
        let unicode = flags & IS_UNICODE != 0;
        let mut strings: [Option<Counted>; 5] = Default::default();
        for (index, string) in strings.iter_mut().enumerate() {
            if flags & (FIRST_STRING << index) != 0 {
                let length = u16_at(bytes, at)? * if unicode { 2 } else { 1 };
                let raw = bytes.get(at + 2..at + 2 + length)?.to_vec();
                at += 2 + length;
                *string = Some(Counted { raw, unicode });
            }
        }
        let mut blocks = Vec::new();
        while let Some(length) = u32_at(bytes, at).filter(|length| *length >= 8) {
            blocks.push(Block::new(bytes.get(at..at.checked_add(length)?)?.to_vec()));
            at += length;
        }
        let rest = bytes.get(at..)?.to_vec();
        let link = Self {
            head,
            items,
            info,
            strings,
            blocks,
            rest,
        };
        (link.write() == bytes).then_some(link)
    }

    /// Puts the shortcut together again.
    pub(super) fn write(&self) -> Vec<u8> {
        let mut head = self.head.clone();
        let mut flags = u32_at(&head, FLAGS).unwrap_or_default();
        let mut tell = |bit: usize, there: bool| {
            flags = if there { flags | bit } else { flags & !bit };
        };
        tell(HAS_ITEMS, self.items.is_some());
        for (index, string) in self.strings.iter().enumerate() {
            tell(FIRST_STRING << index, string.is_some());
        }
        head[FLAGS..FLAGS + 4].copy_from_slice(&(flags as u32).to_le_bytes());
        let mut all = head;
        if let Some(items) = &self.items {
            let list = super::items::join(items);
            all.extend((list.len() as u16).to_le_bytes());
            all.extend(list);
        }
        if let Some(info) = &self.info {
            all.extend(info.write());
        }
        for string in self.strings.iter().flatten() {
            let count = string.raw.len() / if string.unicode { 2 } else { 1 };
            all.extend((count as u16).to_le_bytes());
            all.extend(&string.raw);
        }
        for block in &self.blocks {
            all.extend(block.bytes());
        }
        all.extend(&self.rest);
        all
    }
}
