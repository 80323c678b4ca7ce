//! Numbers and text among bytes, in either order.

/// A number of `width` bytes, at most eight, at `at`; the low byte first.
pub(super) fn little(bytes: &[u8], at: usize, width: usize) -> Option<u64> {
    let slice = bytes.get(at..at.checked_add(width)?)?;
    Some(slice.iter().rev().fold(0, |n, b| n << 8 | u64::from(*b)))
}

/// A number of `width` bytes, at most eight, at `at`; the high byte first.
pub(super) fn big(bytes: &[u8], at: usize, width: usize) -> Option<u64> {
    let slice = bytes.get(at..at.checked_add(width)?)?;
    Some(slice.iter().fold(0, |n, b| n << 8 | u64::from(*b)))
}

/// Two bytes, the low one first.
pub(super) fn u16_at(bytes: &[u8], at: usize) -> Option<usize> {
    little(bytes, at, 2).map(|n| n as usize)
}

/// Four bytes, the low one first.
pub(super) fn u32_at(bytes: &[u8], at: usize) -> Option<usize> {
    little(bytes, at, 4).map(|n| n as usize)
}

/// Text in UTF-16 with the low byte first, as UTF-8; none if it is not sound.
pub(super) fn from_utf16(bytes: &[u8]) -> Option<String> {
    let units: Vec<u16> = bytes
        .chunks_exact(2)
        .map(|pair| u16::from_le_bytes([pair[0], pair[1]]))
        .collect();
    String::from_utf16(&units).ok()
}

/// `text` in UTF-16 with the low byte first.
pub(super) fn to_utf16(text: &str) -> Vec<u8> {
    text.encode_utf16().flat_map(u16::to_le_bytes).collect()
}
