//! What shows that a text is of a dialect of settings lines.

use crate::codec::{HEX_SETTINGS, typed_by_hand};

/// Whether a section's head comes first but for comments, and a key with `=` under it.
pub(super) fn looks_sectioned(text: &str) -> bool {
    let lines = text.lines().map(str::trim);
    let mut lines = lines
        .filter(|line| !line.is_empty() && !line.starts_with([';', '#']))
        .take(20);
    let head = lines.by_ref().find(|line| line.starts_with('['));
    head.is_some_and(|head| head.ends_with(']') && head.len() > 2)
        && lines
            .next()
            .is_none_or(|line| line.contains('=') || line.starts_with('['))
}

/// Whether the values of settings lines are escaped: what only that dialect writes, or
/// doubled backslashes throughout.
pub(super) fn looks_escaped(text: &str) -> bool {
    const MARKS: [&str; 5] = [
        "@Variant(",
        "@ByteArray(",
        "@Invalid()",
        "@Point(",
        "%General]",
    ];
    let bytes = text.as_bytes();
    let marked = memchr::memchr2_iter(b'@', b'%', bytes).any(|at| {
        let marked = MARKS.iter().any(|mark| text[at..].starts_with(mark));
        marked && (bytes[at] == b'@' || bytes[..at].ends_with(b"["))
    });
    if marked {
        return true;
    }
    let mut doubled = false;
    // Only lines with a backslash tell anything.
    let mut at = 0;
    while let Some(next) = memchr::memchr(b'\\', &text.as_bytes()[at..]) {
        let start = text[..at + next].rfind('\n').map_or(0, |line| line + 1);
        let line = text[start..].lines().next().unwrap_or("");
        at = start + line.len();
        let Some((_, value)) = line.split_once('=') else {
            continue;
        };
        if !HEX_SETTINGS.is_sound(value) || typed_by_hand(value) {
            return false;
        }
        let mut marks = memchr::memchr_iter(b'\\', value.as_bytes());
        doubled |= marks.any(|at| matches!(value.as_bytes().get(at + 1), Some(b'\\' | b'x')));
    }
    doubled
}
