//! The surroundings of a change, before and after, short enough to read.

use std::ops::Range;

use crate::layer::Edit;

/// Letters shown at most on either side of a change in a long line.
const AROUND: usize = 70;
/// Letters shown at most on either side of the string that a change is in, in a long line.
const AROUND_STRING: usize = 24;

/// The surroundings of a change.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Excerpt {
    /// As they are.
    pub(super) before: String,
    /// As they will.
    pub(super) after: String,
    /// Where each change is in `before`, and where in `after`, in bytes.
    pub(super) marks: Vec<(Range<usize>, Range<usize>)>,
    /// What part of the text is shown.
    pub(super) window: Range<usize>,
}

/// The line around `at` in `text`, before and after `edits`. A long line is cut short, with
/// an ellipsis where something is left out; little is shown of it that is outside of `string`.
pub(super) fn excerpt(
    text: &str,
    edits: &[Edit],
    at: Range<usize>,
    string: Range<usize>,
) -> Excerpt {
    let window = window(text, edits, at, string);
    let mut made = Excerpt {
        window: window.clone(),
        ..Excerpt::default()
    };
    let cut_before = !line_breaks_before(text, window.start);
    let cut_after = !line_breaks_after(text, window.end);
    if cut_before {
        made.before.push('\u{2026}');
        made.after.push('\u{2026}');
    }
    let mut done = window.start;
    if !cut_before {
        let shown = &text[window.clone()];
        done += shown.len() - shown.trim_start().len();
    }
    let first = done;
    let inside = |edit: &&Edit| edit.span.start >= first && edit.span.end <= window.end;
    for edit in edits.iter().filter(inside) {
        let kept = &text[done.min(edit.span.start)..edit.span.start];
        made.before.push_str(kept);
        made.after.push_str(kept);
        let (old, new) = (made.before.len(), made.after.len());
        made.before.push_str(&text[edit.span.clone()]);
        made.after.push_str(&String::from_utf8_lossy(&edit.with));
        made.marks
            .push((old..made.before.len(), new..made.after.len()));
        done = edit.span.end;
    }
    let rest = &text[done..window.end.max(done)];
    let rest = if cut_after { rest } else { rest.trim_end() };
    for side in [&mut made.before, &mut made.after] {
        side.push_str(rest);
        if cut_after {
            side.push('\u{2026}');
        }
    }
    made
}

fn is_break(byte: u8) -> bool {
    matches!(byte, b'\n' | b'\r' | 0)
}

fn line_breaks_before(text: &str, at: usize) -> bool {
    at == 0 || is_break(text.as_bytes()[at - 1])
}

fn line_breaks_after(text: &str, at: usize) -> bool {
    text.as_bytes().get(at).is_none_or(|byte| is_break(*byte))
}

/// What is shown: no edit is cut in two, and no letter.
fn window(text: &str, edits: &[Edit], at: Range<usize>, string: Range<usize>) -> Range<usize> {
    let bytes = text.as_bytes();
    let reach = AROUND * 4;
    let lowest = at.start.saturating_sub(reach);
    let highest = (at.end + reach).min(bytes.len());
    let mut start = (lowest..at.start)
        .rev()
        .find(|index| is_break(bytes[*index]))
        .map_or(lowest, |index| index + 1);
    let mut end = (at.end..highest)
        .find(|index| is_break(bytes[*index]))
        .unwrap_or(highest);
    if at.start - start > AROUND {
        let near = string.start.saturating_sub(AROUND_STRING).min(at.start);
        start = near.max(at.start - AROUND);
    }
    if end - at.end > AROUND {
        let near = (string.end + AROUND_STRING).max(at.end);
        end = near.min(at.end + AROUND);
    }
    for edit in edits {
        if edit.span.start < start && edit.span.end > start {
            start = edit.span.start;
        }
        if edit.span.start < end && edit.span.end > end {
            end = edit.span.end;
        }
    }
    while !text.is_char_boundary(start) {
        start -= 1;
    }
    while !text.is_char_boundary(end) {
        end += 1;
    }
    start..end
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_are_shown_whole_or_cut_with_an_ellipsis() {
        let edit = |span: Range<usize>| {
            vec![Edit {
                span,
                with: b"NEW".to_vec(),
            }]
        };
        let made = excerpt("a\n  x=OLD;  \nb", &edit(6..9), 6..9, 6..9);
        assert_eq!(
            (made.before.as_str(), made.after.as_str()),
            ("x=OLD;", "x=NEW;")
        );
        assert_eq!(made.marks, [(2..5, 2..5)]);
        let long = format!("{}OLD{}", "\u{e9}".repeat(200), ".".repeat(200));
        let Excerpt { before, after, .. } =
            excerpt(&long, &edit(400..403), 400..403, 0..long.len());
        assert!(before.starts_with("\u{2026}\u{e9}") && before.ends_with(".\u{2026}"));
        assert!(after.contains("\u{e9}NEW.") && before.chars().count() < 160);
        let made = excerpt(&long, &edit(400..403), 400..403, 400..403);
        assert!(made.after.contains("\u{e9}NEW.") && made.before.chars().count() < 60);
    }
}
