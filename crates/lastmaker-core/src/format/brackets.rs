//! The brackets that a stretch of a text is in, where no grammar has them at hand.

/// Where the bracket is opened that the text at `at` is directly in; none within reach.
pub(crate) fn open_bracket(text: &str, at: usize) -> Option<usize> {
    const FURTHEST: usize = 4096;
    let from = at.saturating_sub(FURTHEST);
    let before = &text.as_bytes()[from..at];
    let mut closing = memchr::memrchr3_iter(b']', b')', b'}', before).peekable();
    let mut depth = 0usize;
    for open in memchr::memrchr3_iter(b'[', b'(', b'{', before) {
        while closing.next_if(|close| *close > open).is_some() {
            depth += 1;
        }
        if depth == 0 {
            return Some(from + open);
        }
        depth -= 1;
    }
    None
}
