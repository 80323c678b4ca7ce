//! Letters of ASCII, told without a branch, so that blocks of them can be asked at once by vector instructions.

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
