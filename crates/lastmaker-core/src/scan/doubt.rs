//! What is no plain place: names that merely look like one, and places that are mistyped.

use std::ops::Range;

use super::extent::is_hard;
use super::field::{Field, FieldKind};
use super::found::{Doubt, Flaw, Found, Stands};
use super::hint::Hint;
use super::root::RootAt;
use crate::place::is_separator;
use crate::place::{Form, Root, Spelling};

/// What is evidently wrong with the place at `root`.
pub(super) fn flaw(
    content: &str,
    field: &Field,
    root: &RootAt,
    hint: Hint,
) -> Option<(Flaw, Range<usize>)> {
    let start = root.start;
    if let Root::Drive(letter) = root.root
        && root.form == Form::Plain
        && let Some(extra) = start.checked_sub(2)
        && let [before, b':'] = content.as_bytes()[extra..start]
        && letter.eq_ignore_ascii_case(&char::from(before))
    {
        // After a slash or a dash it is an option: `/D:D:\x`.
        let before = content[..extra].chars().next_back();
        if before.is_none_or(|c| !c.is_alphanumeric() && !"/-_\\".contains(c)) {
            return Some((Flaw::DoubledDrive, extra..start));
        }
    }
    if field.kind != FieldKind::Whole || !root.root.is_windows() {
        return None;
    }
    if let Some(quote) = &field.stray_quote {
        return Some((Flaw::StrayQuote, quote.clone()));
    }
    let text = &content[field.range.clone()];
    let blank = field.range.start + text.trim_end_matches(' ').len();
    // Only what is alone in its value is measured so exactly.
    let more = || memchr::memchr2(b'\n', b';', content.as_bytes()).is_some();
    let behind = blank < field.range.end && blank > root.end;
    (behind && field.range.end == content.len() && hint.is_exact() && !more())
        .then_some((Flaw::TrailingBlank, blank..field.range.end))
}

/// A field that is only `D:`, `D:name`, or a letter beside a key that says drive.
pub(super) fn lone(content: &str, field: &Field, hint: Hint) -> Option<Found> {
    let text = &content[field.range.clone()];
    let letter = text.chars().next().filter(char::is_ascii_alphabetic)?;
    let rest = &text[1..];
    let (root_end, doubt) = match rest.strip_prefix(':') {
        // In a program's source it may be a label or the letters of options just as well.
        Some(tail) if tail.trim_end().is_empty() => {
            (2, (hint == Hint::Literal).then_some(Doubt::LoneLetter))
        }
        Some(tail) if tail.starts_with(is_separator) => return None,
        Some(tail) => {
            // More colons or an odd letter: a time, a ratio, a label, but no path.
            let named = tail.starts_with(|c: char| c.is_alphanumeric() || c == '.' || c == '_');
            if !named || tail.contains(is_hard) {
                return None;
            }
            (2, Some(Doubt::DriveRelative))
        }
        None if hint.names_drive() && rest.trim_end().is_empty() => (1, Some(Doubt::LoneLetter)),
        None => return None,
    };
    let start = field.range.start;
    let token = start + root_end..field.range.end;
    Some(Found {
        start,
        root_end: start + root_end,
        root: Root::Drive(letter.to_ascii_uppercase()),
        base: Vec::new(),
        spelling: Spelling {
            form: Form::Plain,
            separator: None,
            doubling: 1,
            lower_drive: letter.is_ascii_lowercase(),
        },
        tokens: if doubt == Some(Doubt::DriveRelative) {
            vec![token]
        } else {
            Vec::new()
        },
        hard_end: field.range.end,
        next: None,
        firm_end: Some(field.range.end),
        stands: Stands::Alone(None),
        doubt,
        flaw: None,
    })
}
