//! The brackets that a stretch of a text is in, where no grammar has them at hand.

/// Where the bracket is opened that the text at `at` is directly in; none within reach.
pub(crate) fn open_bracket(text: &str, at: usize) -> Option<usize> {
    const FURTHEST: usize = 4096;
    let mut depth = 0usize;
    let before = text.as_bytes()[..at].iter().enumerate().rev();
    for (at, byte) in before.take(FURTHEST) {
        match byte {
            b']' | b')' | b'}' => depth += 1,
            b'[' | b'(' | b'{' if depth == 0 => return Some(at),
            b'[' | b'(' | b'{' => depth -= 1,
            _ => {}
        }
    }
    None
}
