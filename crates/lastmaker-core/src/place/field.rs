//! The fields of a passage: whole values, list items, command lines, running text.
//!
//! A decoded passage is cut into fields, one a line or list item. The kind of a field says
//! what ends a place in it for certain, and what merely might.

use std::ops::Range;

use super::command::{
    begins_with_option, is_command_in_prose, is_program_with_arguments, is_query,
};
use super::hint::Hint;
use super::root::{next_candidate, root_at};

/// What ends a place in a field.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FieldKind {
    /// The field is one place, and ends where the place ends.
    Whole,
    /// Arguments parted by blanks, some in quotes.
    Command,
    /// Running text: a blank may end the place or belong to it.
    Prose,
}

/// A stretch of a passage that is read by itself, as byte offsets into its content.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Field {
    /// Where it is.
    pub range: Range<usize>,
    /// What ends a place in it.
    pub kind: FieldKind,
    /// A quote at its one end that nothing closes at the other.
    pub stray_quote: Option<Range<usize>>,
}

/// No system takes a longer command line, in bytes; what is longer is read as running text.
const LONGEST_COMMAND: usize = 64 * 1024;

/// Cuts a passage into fields, in order. Blank ones are left out.
pub fn fields(content: &str, hint: Hint) -> Vec<Field> {
    let mut fields = Vec::new();
    for line in lines(content) {
        let text = &content[line.clone()];
        if text.trim().is_empty() {
            continue;
        }
        if !hint.is_value() {
            let kind = if text.len() <= LONGEST_COMMAND && is_command_in_prose(text) {
                FieldKind::Command
            } else {
                FieldKind::Prose
            };
            fields.push(Field {
                range: line,
                kind,
                stray_quote: None,
            });
        } else if let Some(items) = list_items(text) {
            fields.extend(items.into_iter().map(|item| Field {
                range: line.start + item.start..line.start + item.end,
                kind: FieldKind::Whole,
                stray_quote: None,
            }));
        } else {
            fields.push(value_field(content, line, hint));
        }
    }
    fields
}

/// Lines without their ends; a NUL ends one too, as it does in the registry's lists.
fn lines(content: &str) -> impl Iterator<Item = Range<usize>> + '_ {
    let bytes = content.as_bytes();
    let mut start = 0;
    let mut done = false;
    std::iter::from_fn(move || {
        if done {
            return None;
        }
        let from = start;
        match memchr::memchr3(b'\n', b'\r', 0, &bytes[from..]) {
            Some(at) => {
                start = from + at + 1;
                Some(from..from + at)
            }
            None => {
                done = true;
                Some(from..bytes.len())
            }
        }
    })
}

fn value_field(content: &str, line: Range<usize>, hint: Hint) -> Field {
    let text = &content[line.clone()];
    let (range, stray_quote) = match stray_quote(text) {
        Some((range, quote)) => (
            line.start + range.start..line.start + range.end,
            Some(line.start + quote.start..line.start + quote.end),
        ),
        None => (unquoted(content, line.clone()), None),
    };
    let whole = Field {
        range,
        kind: FieldKind::Whole,
        stray_quote,
    };
    let command = Field {
        range: line.clone(),
        kind: FieldKind::Command,
        stray_quote: None,
    };
    let inner = content[whole.range.clone()].trim_start();
    let starts_with_root = starts_root(inner);
    let another_root = another_windows_root(inner);
    let quoted_whole =
        (whole.range.start > line.start && !inner.contains('"')) || whole.stray_quote.is_some();
    let short = line.len() <= LONGEST_COMMAND;
    // A word may hold a command line for another shell, but is no option's argument by itself.
    let option = match hint == Hint::Word {
        true => !starts_with_root && !begins_with_option(text) && text.contains(" -"),
        false => begins_with_option(text),
    };
    if short && (hint.is_command() || option || is_program_with_arguments(text)) {
        return command;
    }
    if short && hint.may_be_command() && !quoted_whole && !is_query(content) {
        // A bare place under such a key is its only argument, however many blanks it has.
        let more = text.contains(" -") || text.contains(" /") || text.contains('"') || another_root;
        if starts_with_root && !more && text.trim().contains(' ') {
            return whole;
        }
        return command;
    }
    if (starts_with_root && !another_root) || is_lone_drive(inner.trim_end()) {
        return whole;
    }
    if hint.names_drive() && inner.trim_end().len() == 1 {
        return whole;
    }
    Field {
        range: line,
        kind: FieldKind::Prose,
        stray_quote: None,
    }
}

/// The place beside a quote that nothing closes, and that quote.
fn stray_quote(text: &str) -> Option<(Range<usize>, Range<usize>)> {
    let trimmed = text.trim();
    let start = text.len() - text.trim_start().len();
    let end = start + trimmed.len();
    if trimmed.matches('"').count() != 1 {
        return None;
    }
    let (range, quote) = if trimmed.starts_with('"') {
        (start + 1..end, start..start + 1)
    } else if trimmed.ends_with('"') {
        (start..end - 1, end - 1..end)
    } else {
        return None;
    };
    let inner = &text[range.clone()];
    let one = root_at(inner, 0).is_some_and(|root| root.root.is_windows())
        && !another_windows_root(inner)
        && !is_program_with_arguments(inner);
    one.then_some((range, quote))
}

/// `D:` and nothing else, or a drive with a name right after it.
fn is_lone_drive(text: &str) -> bool {
    let bytes = text.as_bytes();
    bytes.len() >= 2
        && bytes[0].is_ascii_alphabetic()
        && bytes[1] == b':'
        && !matches!(bytes.get(2), Some(b'\\' | b'/'))
}

fn starts_root(text: &str) -> bool {
    root_at(text, 0).is_some() || text.starts_with(['%', '$']) || text.starts_with("~/")
}

fn another_windows_root(text: &str) -> bool {
    let mut at = 1;
    while let Some(next) = next_candidate(text.as_bytes(), at) {
        if let Some(root) = root_at(text, next.start)
            && root.root.is_windows()
            && root.stands_free(text, false)
        {
            return true;
        }
        at = next.beyond;
    }
    false
}

/// The range without blanks and one pair of double quotes around it.
fn unquoted(content: &str, range: Range<usize>) -> Range<usize> {
    let text = &content[range.clone()];
    let start = range.start + (text.len() - text.trim_start().len());
    let trimmed = text.trim();
    if trimmed.len() >= 2 && trimmed.starts_with('"') && trimmed.ends_with('"') {
        start + 1..start + trimmed.len() - 1
    } else {
        // Trailing blanks fold, so they may stay inside.
        start..range.end
    }
}

/// The items of a list parted by `;`, if each is empty or begins at a root.
fn list_items(text: &str) -> Option<Vec<Range<usize>>> {
    if !text.contains(';') {
        return None;
    }
    let mut items = Vec::new();
    let mut at = 0;
    for item in text.split(';') {
        let range = unquoted(text, at..at + item.len());
        at += item.len() + 1;
        let inner = &text[range.clone()];
        if inner.trim().is_empty() {
            continue;
        }
        if !starts_root(inner) && !is_lone_drive(inner) {
            return None;
        }
        items.push(range);
    }
    (items.len() > 1 || text.trim_end().ends_with(';')).then_some(items)
}

#[cfg(test)]
mod tests {
    use super::*;
    use FieldKind::{Command, Prose, Whole};

    #[test]
    fn fields_of_values() {
        let value = Hint::for_value("root");
        let cases: [(&str, Hint, &[(&str, FieldKind)]); 14] = [
            (r"D:\Herbarium Old", value, &[(r"D:\Herbarium Old", Whole)]),
            (r#""D:\My Data""#, value, &[(r"D:\My Data", Whole)]),
            (r"D:\a;E:\b;", value, &[(r"D:\a", Whole), (r"E:\b", Whole)]),
            (r"D:\a;b", value, &[(r"D:\a;b", Whole)]),
            (
                "D:\\a\0D:\\b\0\0",
                value,
                &[(r"D:\a", Whole), (r"D:\b", Whole)],
            ),
            (r"see D:\a there", value, &[(r"see D:\a there", Prose)]),
            (r"D:\a and E:\b", value, &[(r"D:\a and E:\b", Prose)]),
            (r"--data=D:\a -v", value, &[(r"--data=D:\a -v", Command)]),
            (
                r"D:\p q\v.exe D:\a",
                value,
                &[(r"D:\p q\v.exe D:\a", Command)],
            ),
            (
                r#""D:\p q\v.exe" -x"#,
                value,
                &[(r#""D:\p q\v.exe" -x"#, Command)],
            ),
            (
                r"D:\v.exe",
                Hint::for_value("launchCommand"),
                &[(r"D:\v.exe", Command)],
            ),
            (
                r"D:\p q\v.dat",
                Hint::for_value("run"),
                &[(r"D:\p q\v.dat", Whole)],
            ),
            ("D:", value, &[("D:", Whole)]),
            ("D", Hint::for_value("scanDrive"), &[("D", Whole)]),
        ];
        for (content, hint, expected) in cases {
            let got: Vec<_> = fields(content, hint)
                .into_iter()
                .map(|field| (&content[field.range], field.kind))
                .collect();
            assert_eq!(got, expected, "{content:?}");
        }
    }

    #[test]
    fn running_text_is_a_command_only_on_evidence() {
        let cases = [
            (r"start D:\v.exe now", Prose),
            (r"D:\v.exe and wait", Prose),
            (r"D:\v.exe --sheets D:\a", Command),
            (r#""D:\v.exe" "D:\a""#, Command),
        ];
        for (line, kind) in cases {
            assert_eq!(fields(line, Hint::Prose)[0].kind, kind, "{line}");
        }
    }
}
