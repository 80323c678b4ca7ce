//! What shows that a text is of a dialect of settings lines.

use crate::codec::{HEX_SETTINGS, typed_by_hand};

/// How many lines near the start may show a dialect.
const HEAD: usize = 40;

/// The lines of a text that are not empty, without the blanks around them. Every text that may be settings
/// is asked for them, so line ends are looked for by vector instructions.
fn lines(text: &str) -> impl Iterator<Item = &str> {
    let ends = memchr::memchr_iter(b'\n', text.as_bytes()).chain([text.len()]);
    let mut start = 0;
    let lines = ends.map(move |end| {
        let line = text[start..end].trim();
        start = end + 1;
        line
    });
    lines.filter(|line| !line.is_empty())
}

/// Whether one of `signs` is among the first lines.
pub(super) fn has_sign(text: &str, signs: &[&str]) -> bool {
    !signs.is_empty() && lines(text).take(HEAD).any(|line| signs.contains(&line))
}

/// A section's head in the first lines, and a key with `=` under it.
pub(super) fn looks_sectioned(text: &str) -> bool {
    let mut lines = lines(text)
        .filter(|line| !line.starts_with([';', '#']))
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
    const MARKS: [&str; 4] = ["@Variant(", "@ByteArray(", "@Invalid()", "@Point("];
    let marked = memchr::memchr_iter(b'@', text.as_bytes())
        .any(|at| MARKS.iter().any(|mark| text[at..].starts_with(mark)));
    if marked || memchr::memmem::find(text.as_bytes(), b"[%General]").is_some() {
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
