//! Letters of ASCII: told without a branch, so that blocks of them can be asked at once by vector instructions, and
//! passed without being decoded.

/// Whether a byte is a letter.
#[inline(always)]
pub(crate) fn is_letter(byte: u8) -> bool {
    (byte | 0x20).wrapping_sub(b'a') < 26
}

/// Whether a byte is a letter or a digit.
#[inline(always)]
pub(crate) fn is_alphanumeric(byte: u8) -> bool {
    is_letter(byte) | (byte.wrapping_sub(b'0') < 10)
}

/// How many bytes `text` begins with before the first letter that `ends` it. Letters of ASCII that are `plain` end
/// nothing, and those that it begins with need not be asked as letters: mostly that is all.
pub(crate) fn length_before(
    text: &str,
    plain: impl Fn(u8) -> bool,
    ends: impl Fn(char) -> bool,
) -> usize {
    let Some(passed) = text.bytes().position(|byte| !plain(byte)) else {
        return text.len();
    };
    let more = text[passed..].find(ends);
    more.map_or(text.len(), |more| passed + more)
}
