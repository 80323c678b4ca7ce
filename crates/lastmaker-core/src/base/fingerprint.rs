//! Numbers that stand for bytes, where there are too many of those to keep.

/// A number that is equal for equal bytes, and for others hardly ever.
pub(crate) fn fingerprint(bytes: &[u8]) -> u64 {
    let mut first = [0; 8];
    first.copy_from_slice(&blake3::hash(bytes).as_bytes()[..8]);
    u64::from_le_bytes(first)
}
