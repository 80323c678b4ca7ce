//! The list of items by which the shell finds a target: drive or share, then a folder each,
//! then the file (MS-SHLLINK 2.2; the items' forms are those that shells write).

use super::super::bytes::{from_utf16, little, to_utf16, u16_at};
use super::info::root;

/// Takes a list apart into items without their lengths; none if it does not end as it must.
pub(super) fn split(list: &[u8]) -> Option<Vec<Vec<u8>>> {
    let mut items = Vec::new();
    let mut at = 0;
    loop {
        match u16_at(list, at)? {
            0 if at + 2 == list.len() => return Some(items),
            length @ 3.. => {
                items.push(list.get(at + 2..at + length)?.to_vec());
                at += length;
            }
            _ => return None,
        }
    }
}

/// Puts a list together.
pub(super) fn join(items: &[Vec<u8>]) -> Vec<u8> {
    let mut list = Vec::new();
    for item in items {
        list.extend((item.len() as u16 + 2).to_le_bytes());
        list.extend(item);
    }
    list.extend([0, 0]);
    list
}

/// What one item stands for.
#[derive(Debug, PartialEq, Eq)]
enum Item {
    /// The desk, this machine, the network.
    Root,
    /// A drive, `D:\`.
    Drive(String),
    /// A server or a share, `\\server\share`.
    Network(String),
    /// A folder or a file, by its long name.
    Name(String),
    /// Something else.
    Unknown,
}

/// The first byte of a folder, of a file, and of what everything hangs on.
const FOLDER: u8 = 0x31;
const FILE: u8 = 0x32;
const ROOT: u8 = 0x1F;
/// The block after a name that holds the long one.
const LONG_NAME: u64 = 0xBEEF_0004;

fn text(bytes: &[u8]) -> Option<String> {
    let end = memchr::memchr(0, bytes).unwrap_or(bytes.len());
    let text = &bytes[..end];
    text.is_ascii()
        .then(|| String::from_utf8_lossy(text).into_owned())
}

fn read(item: &[u8]) -> Item {
    let known = match item.first() {
        Some(&ROOT) => Some(Item::Root),
        Some(kind) if kind & 0x70 == 0x20 && item.len() > 3 && item[2] == b':' => {
            text(&item[1..]).map(Item::Drive)
        }
        Some(kind) if kind & 0x70 == 0x40 => item.get(3..).and_then(text).map(Item::Network),
        Some(kind) if kind & 0x70 == 0x30 => name(item).map(Item::Name),
        _ => None,
    };
    known.unwrap_or(Item::Unknown)
}

/// The long name of a folder or file, else its short one.
fn name(item: &[u8]) -> Option<String> {
    // The last two bytes say where the blocks after the short name begin, counted with the
    // item's length.
    let blocks = item.len().checked_sub(2).and_then(|at| u16_at(item, at));
    if let Some(at) = blocks
        .and_then(|at| at.checked_sub(2))
        .filter(|at| *at > 12)
        && little(item, at + 4, 4) == Some(LONG_NAME)
    {
        let version = u16_at(item, at + 2)?;
        let start = at
            + match version {
                0..=2 => return None,
                3..=6 => 20,
                7 => 38,
                8 => 42,
                _ => 46,
            };
        let rest = item.get(start..)?;
        let length = rest.chunks_exact(2).position(|pair| pair == [0, 0])?;
        return from_utf16(&rest[..length * 2]);
    }
    let short = item.get(12..)?;
    // A flag says that the short name is in UTF-16.
    if item[0] & 4 != 0 {
        let length = short.chunks_exact(2).position(|pair| pair == [0, 0])?;
        return from_utf16(&short[..length * 2]);
    }
    text(short)
}

/// The path that a list leads to; none if it leads elsewhere than into folders.
pub(super) fn path(items: &[Vec<u8>]) -> Option<String> {
    let mut path = String::new();
    for item in items {
        match read(item) {
            Item::Root if path.is_empty() => {}
            Item::Drive(drive) => path = drive,
            Item::Network(place) => path = place,
            Item::Name(name) if !path.is_empty() => {
                if !path.ends_with('\\') {
                    path.push('\\');
                }
                path.push_str(&name);
            }
            _ => return None,
        }
    }
    (!path.is_empty()).then_some(path)
}

/// The list for `new`, made of the one for `old`; none if it has no form for that. Items of the
/// names that both paths end with stay as they are.
pub(super) fn retarget(items: &[Vec<u8>], old: &str, new: &str) -> Option<Vec<Vec<u8>>> {
    if old.starts_with(r"\\") != new.starts_with(r"\\") {
        return None;
    }
    let names = |path: &str| -> Vec<String> {
        let rest = &path[root(path).len()..];
        let parts = rest.split(['\\', '/']).filter(|part| !part.is_empty());
        parts.map(str::to_owned).collect()
    };
    let (old_names, new_names) = (names(old), names(new));
    let first = items
        .iter()
        .position(|item| matches!(read(item), Item::Name(_)));
    let (lead, named) = items.split_at(first.unwrap_or(items.len()));
    if named.len() != old_names.len()
        || !named.iter().all(|item| matches!(read(item), Item::Name(_)))
    {
        return None;
    }
    let mut list = Vec::new();
    for item in lead {
        match read(item) {
            Item::Drive(_) => {
                let mut item = item.clone();
                item[1] = *new.as_bytes().first()?;
                list.push(item);
            }
            Item::Network(place) => {
                let share = root(new);
                let whole = place.eq_ignore_ascii_case(root(old));
                let server = share.rfind('\\').map_or(share, |at| &share[..at]);
                list.push(renamed_network(
                    item,
                    &place,
                    if whole { share } else { server },
                )?);
            }
            Item::Root => list.push(item.clone()),
            _ => return None,
        }
    }
    let shared = old_names
        .iter()
        .rev()
        .zip(new_names.iter().rev())
        .take_while(|(a, b)| a == b)
        .count();
    let fresh = &new_names[..new_names.len() - shared];
    for (index, name) in fresh.iter().enumerate() {
        let last = index + 1 == new_names.len();
        let kind = if last {
            named.last().map_or(FOLDER, |item| item[0] & !4)
        } else {
            FOLDER
        };
        list.push(made(kind, name));
    }
    list.extend_from_slice(&named[named.len() - shared..]);
    let total: usize = list.iter().map(|item| item.len() + 2).sum();
    (total < usize::from(u16::MAX)).then_some(list)
}

/// A server's or share's item with another name.
fn renamed_network(item: &[u8], old: &str, new: &str) -> Option<Vec<u8>> {
    let mut renamed = item.get(..3)?.to_vec();
    renamed.extend(new.is_ascii().then_some(new.as_bytes())?);
    renamed.extend(item.get(3 + old.len()..)?);
    Some(renamed)
}

/// An item for a folder or file of which only the name is known.
fn made(kind: u8, name: &str) -> Vec<u8> {
    let attributes: u16 = if kind == FILE { 0x20 } else { 0x10 };
    let mut item = vec![kind, 0];
    // Size, date and time of last change: not known.
    item.extend([0; 8]);
    item.extend(attributes.to_le_bytes());
    item.extend(
        name.chars()
            .map(|c| if c.is_ascii() { c as u8 } else { b'?' }),
    );
    item.push(0);
    if item.len() % 2 != 0 {
        item.push(0);
    }
    let at = item.len() as u16 + 2;
    let wide = to_utf16(name);
    let length = 20 + wide.len() + 2 + 2;
    item.extend((length as u16).to_le_bytes());
    item.extend(3u16.to_le_bytes());
    item.extend((LONG_NAME as u32).to_le_bytes());
    // Times of making and of last use: not known.
    item.extend([0; 8]);
    item.extend(0x14u16.to_le_bytes());
    item.extend([0, 0]);
    item.extend(wide);
    item.extend([0, 0]);
    item.extend(at.to_le_bytes());
    item
}

#[cfg(test)]
mod tests {
    use super::*;

    fn list(path: &str) -> Vec<Vec<u8>> {
        let root = [vec![ROOT, 0x50], vec![0xE0; 16]].concat();
        let drive = [&[0x2F], &path.as_bytes()[..3], &[0; 19]].concat();
        let names = path[3..].split('\\');
        let mut items = vec![root, drive];
        items.extend(names.map(|name| made(FOLDER, name)));
        items
    }

    #[test]
    fn lists_follow_their_target() {
        let cases = [
            (r"D:\Herbarium\a", r"H:\Collections\Herbarium\a", 2),
            (r"D:\Herbarium", r"H:\Linden", 0),
            (r"D:\Herbarium\a", r"E:\a", 1),
            ("D:\\H\u{f6}rb\\a", "H:\\Gr\u{fc}n\\\u{6a19}\\a", 1),
        ];
        for (old, new, kept) in cases {
            let before = list(old);
            assert_eq!(path(&before).as_deref(), Some(old));
            assert_eq!(split(&join(&before)).as_ref(), Some(&before));
            let after = retarget(&before, old, new).unwrap();
            assert_eq!(path(&after).as_deref(), Some(new));
            assert_eq!(after[after.len() - kept..], before[before.len() - kept..]);
        }
        assert_eq!(
            retarget(&list(r"D:\a"), r"D:\a", r"\\fernhall\press\a"),
            None
        );
    }
}
