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
use super::upcoming::{Letters, OF_PLACES, OF_VARIABLES, lines_with};

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
    /// The sign that parts it from others, if it is an item of a list.
    pub sign: Option<char>,
    /// A quote at its one end that nothing closes at the other.
    pub stray_quote: Option<Range<usize>>,
}

impl Field {
    fn new(range: Range<usize>, kind: FieldKind) -> Self {
        Self {
            range,
            kind,
            sign: None,
            stray_quote: None,
        }
    }
}

/// No system takes a longer command line, in bytes; what is longer is read as running text.
const LONGEST_COMMAND: usize = 64 * 1024;

/// Cuts a passage into fields, in order. Blank ones are left out.
pub fn fields(content: &str, hint: Hint) -> Vec<Field> {
    if !hint.is_value() {
        // Most lines of a long text can name nothing.
        let lines = lines_with(content, &[OF_PLACES, OF_VARIABLES], LINE_ENDS);
        return lines.map(|line| prose_field(content, line)).collect();
    }
    let mut fields = Vec::new();
    for line in lines(content) {
        let text = &content[line.clone()];
        if text.trim().is_empty() {
            continue;
        }
        if let Some((sign, items)) = list_items(text) {
            fields.extend(items.into_iter().map(|item| Field {
                sign: Some(sign),
                ..Field::new(
                    line.start + item.start..line.start + item.end,
                    FieldKind::Whole,
                )
            }));
        } else {
            fields.push(value_field(content, line, hint));
        }
    }
    fields
}

/// A line of running text, which may be a command.
fn prose_field(content: &str, line: Range<usize>) -> Field {
    let text = &content[line.clone()];
    let command = text.len() <= LONGEST_COMMAND && is_command_in_prose(text);
    let kind = if command {
        FieldKind::Command
    } else {
        FieldKind::Prose
    };
    Field::new(line, kind)
}

/// What ends a line; a NUL does too, as in the registry's lists.
const LINE_ENDS: Letters = [b'\n', b'\r', 0];

/// Lines without their ends.
fn lines(content: &str) -> impl Iterator<Item = Range<usize>> + '_ {
    let bytes = content.as_bytes();
    let mut start = 0;
    let mut done = false;
    std::iter::from_fn(move || {
        if done {
            return None;
        }
        let from = start;
        let [one, two, three] = LINE_ENDS;
        match memchr::memchr3(one, two, three, &bytes[from..]) {
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
        stray_quote,
        ..Field::new(range, FieldKind::Whole)
    };
    let inner = content[whole.range.clone()].trim_start();
    let quoted_whole =
        (whole.range.start > line.start && !inner.contains('"')) || whole.stray_quote.is_some();
    let another = another_root(inner);
    // As a command it makes the drive the current one.
    let switches = is_lone_drive(inner) && inner.trim_end().len() == 2;
    let command = !switches && is_command(text, inner, quoted_whole, another, hint);
    if line.len() <= LONGEST_COMMAND && command {
        return Field::new(line, FieldKind::Command);
    }
    if (starts_root(inner) && !another) || is_lone_drive(inner.trim_end()) {
        return whole;
    }
    if hint.names_drive() && inner.trim_end().len() == 1 {
        return whole;
    }
    Field::new(line, FieldKind::Prose)
}

/// Whether a value is a command line, by its format or by what it shows itself. `inner` is the
/// value without the quotes around it, `another` the second root in it.
fn is_command(text: &str, inner: &str, quoted_whole: bool, another: bool, hint: Hint) -> bool {
    if hint.is_command() {
        return true;
    }
    // A word is one argument already; what it holds for another shell is for that to read.
    if hint == Hint::Word {
        return false;
    }
    if is_program_with_arguments(text) {
        return true;
    }
    let words = text.trim().contains([' ', '\t']);
    if begins_with_option(text) {
        // One option by itself may be an argument, which no quotes belong to.
        return words || hint.may_be_command();
    }
    if !hint.may_be_command() || quoted_whole || is_query(text) {
        return false;
    }
    // A bare place under such a key is its only argument, however many blanks it has.
    text.contains(" -")
        || text.contains('"')
        || (starts_root(inner) && words && (another || text.contains(" /")))
}

/// The place beside a quote that nothing closes, and that quote.
fn stray_quote(text: &str) -> Option<(Range<usize>, Range<usize>)> {
    let first = memchr::memchr(b'"', text.as_bytes())?;
    if memchr::memchr(b'"', &text.as_bytes()[first + 1..]).is_some() {
        return None;
    }
    let trimmed = text.trim();
    let start = text.len() - text.trim_start().len();
    let end = start + trimmed.len();
    let (range, quote) = if trimmed.starts_with('"') {
        (start + 1..end, start..start + 1)
    } else if trimmed.ends_with('"') {
        (start..end - 1, end - 1..end)
    } else {
        return None;
    };
    let inner = &text[range.clone()];
    let one = root_at(inner, 0).is_some_and(|root| root.root.is_windows())
        && !another_root(inner)
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

/// Whether there is another root in `text` behind its start; a POSIX one counts only where the
/// text does not begin with a drive or a share, in whose names such a slash may stand.
pub(super) fn another_root(text: &str) -> bool {
    let mut at = 1;
    while let Some(next) = next_candidate(text.as_bytes(), at) {
        if let Some(root) = root_at(text, next.start)
            && root.stands_free(text, Hint::Prose)
        {
            if root.root.is_windows() {
                return true;
            }
            let parted = text[..next.start]
                .ends_with(|c: char| c.is_whitespace() || ",;|&:=(\"'".contains(c));
            let named = parted && text[next.start + 1..].starts_with(|c: char| c.is_alphanumeric());
            let windows = || root_at(text, 0).is_some_and(|root| root.root.is_windows());
            if named && !windows() {
                return true;
            }
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

/// The sign that parts a list, and its items, if each is empty or begins at a root: those of
/// Windows are parted by `;`, those of POSIX by `:`.
fn list_items(text: &str) -> Option<(char, Vec<Range<usize>>)> {
    let parted = |sign: char, begins: fn(&str) -> bool| {
        if !text.contains(sign) {
            return None;
        }
        let mut items = Vec::new();
        let mut at = 0;
        for item in text.split(sign) {
            let range = unquoted(text, at..at + item.len());
            at += item.len() + sign.len_utf8();
            let inner = &text[range.clone()];
            if inner.trim().is_empty() {
                continue;
            }
            if !begins(inner) {
                return None;
            }
            items.push(range);
        }
        (items.len() > 1 || text.trim_end().ends_with(sign)).then_some((sign, items))
    };
    let posix = |item: &str| {
        let drive = item.len() == 2 && item.as_bytes()[1].is_ascii_alphabetic();
        let begins = item.starts_with(['/', '$', '~', '.']) && !item.starts_with("//");
        begins && !drive && !item.contains(' ')
    };
    parted(';', |item| starts_root(item) || is_lone_drive(item)).or_else(|| parted(':', posix))
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
                &[(r"D:\v.exe", Whole)],
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
