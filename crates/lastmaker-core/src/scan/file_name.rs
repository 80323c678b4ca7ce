//! What a raw text may be, as far as its letters tell: something that holds a place, or a file's name.

use super::upcoming::OF_PLACES;

/// Whether a raw text holds a letter that every place has in it in every codec.
pub fn may_hold_place(raw: &str) -> bool {
    let [one, two, three] = OF_PLACES;
    memchr::memchr3(one, two, three, raw.as_bytes()).is_some()
}

/// The letters that are in no file's name, or show that a text is more than one.
const IN_NO_NAME: [bool; 256] = {
    let mut all = [false; 256];
    let mut at = 0;
    while at < 0x20 {
        all[at] = true;
        at += 1;
    }
    all[0x7f] = true;
    let signs = b"/\\:*?\"<>|{}$";
    let mut at = 0;
    while at < signs.len() {
        all[signs[at] as usize] = true;
        at += 1;
    }
    all
};

/// Whether a text is a file's name with an extension and no folder, as far as its letters tell.
pub fn is_file_name(raw: &str) -> bool {
    const LONGEST: usize = 255;
    const LONGEST_EXTENSION: usize = 5;
    // Most texts have no extension, so that is asked first.
    let end = &raw.as_bytes()[raw.len().saturating_sub(LONGEST_EXTENSION + 1)..];
    let Some(dot) = end.iter().rposition(|byte| *byte == b'.') else {
        return false;
    };
    let extension = &end[dot + 1..];
    let stem = &raw[..raw.len() - extension.len() - 1];
    extension.iter().all(u8::is_ascii_alphanumeric)
        && extension.iter().any(u8::is_ascii_alphabetic)
        && raw.len() <= LONGEST
        && !stem.trim().is_empty()
        && !raw.bytes().any(|byte| IN_NO_NAME[usize::from(byte)])
}

/// Whether a text may be a reference to a file beside its document: a file's name, behind which an address may
/// go on.
pub fn may_name_file(raw: &str) -> bool {
    let path = || memchr::memchr2(b'?', b'#', raw.as_bytes()).map(|end| &raw[..end]);
    is_file_name(raw) || path().is_some_and(is_file_name)
}
