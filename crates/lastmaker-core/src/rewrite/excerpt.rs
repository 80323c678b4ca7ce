//! The surroundings of a change, before and after, short enough to read.

use std::ops::Range;

use crate::layer::{Edit, Edits, splice};

/// Letters shown at most on either side of a change in a long line.
const AROUND: usize = 70;

/// The line around `at` in `text`, before and after `edits`. A long line is cut short, with
/// an ellipsis where something is left out.
pub(super) fn excerpt(text: &str, edits: &[Edit], at: Range<usize>) -> (String, String) {
    let window = window(text, edits, at);
    let inside: Vec<Edit> = edits
        .iter()
        .filter(|edit| edit.span.start >= window.start && edit.span.end <= window.end)
        .map(|edit| Edit {
            span: edit.span.start - window.start..edit.span.end - window.start,
            with: edit.with.clone(),
        })
        .collect();
    let before = &text[window.clone()];
    let after = Edits::new(inside).map_or_else(
        |_| before.as_bytes().to_vec(),
        |edits| splice(before.as_bytes(), &edits),
    );
    let cut_before = !line_breaks_before(text, window.start);
    let cut_after = !line_breaks_after(text, window.end);
    let show = |text: &str| {
        let mut shown = String::new();
        if cut_before {
            shown.push('\u{2026}');
        }
        shown.push_str(if cut_before { text } else { text.trim_start() });
        let kept = if cut_after {
            shown.len()
        } else {
            shown.trim_end().len()
        };
        shown.truncate(kept);
        if cut_after {
            shown.push('\u{2026}');
        }
        shown
    };
    (show(before), show(&String::from_utf8_lossy(&after)))
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
fn window(text: &str, edits: &[Edit], at: Range<usize>) -> Range<usize> {
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
        start = at.start - AROUND;
    }
    if end - at.end > AROUND {
        end = at.end + AROUND;
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
        assert_eq!(
            excerpt("a\n  x=OLD;  \nb", &edit(6..9), 6..9),
            ("x=OLD;".into(), "x=NEW;".into())
        );
        let long = format!("{}OLD{}", "\u{e9}".repeat(200), ".".repeat(200));
        let (before, after) = excerpt(&long, &edit(400..403), 400..403);
        assert!(before.starts_with("\u{2026}\u{e9}") && before.ends_with(".\u{2026}"));
        assert!(after.contains("\u{e9}NEW.") && before.chars().count() < 160);
    }
}
