//! How far a found place reaches at the most, its names, and how it is spelled.

use std::ops::Range;

use super::command::argument_at;
use super::field::{Field, FieldKind, another_root};
use super::found::{Found, Stands, Token};
use super::hint::Hint;
use super::root::{RootAt, closing_sign, expansion_end, run};
use crate::base::ascii::{is_alphanumeric, length_before};
use crate::place::{OPAQUE, Root, Spelling};

/// How far the place at `root` reaches, and how it is spelled. `next` is where the root of the
/// next place of the field ends, as far as that is known.
pub(super) fn measure(
    content: &str,
    field: &Field,
    next: Option<usize>,
    root: &RootAt,
    base: Vec<String>,
    hint: Hint,
) -> Found {
    let bounds = Bounds::of(content, field, root.start);
    let delimited = matches!(bounds.stands, Stands::Alone(_) | Stands::Quoted(_));
    let root = &if delimited {
        with_whole_share(content, root, bounds.limit)
    } else {
        root.clone()
    };
    let longest = if delimited { LONGEST } else { LONGEST_IN_PROSE };
    let mut limit = bounds.limit.min(root.end.saturating_add(longest));
    if let (None, Some(next)) = (bounds.firm_end, next) {
        limit = limit.min(next + char::MAX.len_utf8());
    }
    let limit = content.floor_char_boundary(limit).max(root.end);
    // A POSIX name may hold any letter, where it is clear how far the place goes.
    let ends = if delimited && !root.root.is_windows() {
        char::is_control
    } else {
        is_hard
    };
    let plain = |byte| is_alphanumeric(byte) || b"\\/. _-".contains(&byte);
    let hard_end = root.end + length_before(&content[root.end..limit], plain, ends);
    Found {
        start: root.start,
        root_end: root.end,
        root: root.root.clone(),
        base,
        spelling: spelling(content, root, hint),
        tokens: tokens(content, root.end..hard_end, root.root.is_windows()),
        hard_end,
        next: None,
        firm_end: bounds.firm_end.map(|firm| firm.min(hard_end)),
        stands: bounds.stands,
        doubt: None,
        flaw: None,
    }
}

/// The root with all of its share's name, where it is clear how far the place goes: a share may have
/// blanks and signs in its name.
fn with_whole_share(content: &str, root: &RootAt, limit: usize) -> RootAt {
    let mut whole = root.clone();
    if let Root::Share { share, .. } = &mut whole.root {
        let rest = content.get(root.end..limit).unwrap_or("");
        let ends = |c: char| is_hard(c) || matches!(c, '\\' | '/' | OPAQUE);
        let more = rest[..rest.find(ends).unwrap_or(rest.len())].trim_end();
        share.push_str(more);
        whole.end += more.len();
    }
    whole
}

/// What ends a place in a field.
struct Bounds {
    /// Where it ends at the latest.
    limit: usize,
    /// Where it ends for certain.
    firm_end: Option<usize>,
    /// What is around it.
    stands: Stands,
}

impl Bounds {
    /// The bounds of a place that begins at `start`.
    fn of(content: &str, field: &Field, start: usize) -> Self {
        let end = field.range.end;
        if let Some(close) = expansion_end(content, start).filter(|close| *close <= end) {
            return Self {
                limit: close,
                firm_end: Some(close),
                stands: Stands::Quoted('}'),
            };
        }
        let (limit, firm_end, stands) = match field.kind {
            FieldKind::Whole => (end, Some(end), Stands::Alone(field.sign)),
            FieldKind::Command => {
                let argument = argument_at(content, &field.range, start);
                if !argument.quoted {
                    (end, Some(argument.end), Stands::Argument)
                } else if another_root(&content[start..argument.end]) {
                    // What is in the quotes may be a command for another shell.
                    (argument.end, None, Stands::Bare)
                } else {
                    (argument.end, Some(argument.end), Stands::Quoted('"'))
                }
            }
            FieldKind::Prose => match closing_quote(content, start, end) {
                Some((open, close)) if !another_root(&content[start..close]) => {
                    (close, Some(close), Stands::Quoted(open))
                }
                Some((_, close)) => (close, None, Stands::Bare),
                None => (
                    closing_sign(content, start, end).unwrap_or(end),
                    None,
                    Stands::Bare,
                ),
            },
        };
        Self {
            limit,
            firm_end,
            stands,
        }
    }
}

/// The names in `span`, which separators part.
fn tokens(content: &str, span: Range<usize>, windows: bool) -> Vec<Token> {
    let bytes = &content.as_bytes()[..span.end];
    let run = |from: usize, separators: bool| {
        let same = |b: &&u8| is_separator_byte(**b, windows) == separators;
        bytes[from..].iter().take_while(same).count()
    };
    let mut tokens = Vec::new();
    let mut at = span.start;
    while at < span.end {
        let start = at + run(at, true);
        let end = start + run(start, false);
        if end > start {
            tokens.push(start..end);
        }
        at = end;
    }
    tokens
}

fn is_separator_byte(byte: u8, windows: bool) -> bool {
    byte == b'/' || (byte == b'\\' && windows)
}

/// How the place at `root` is written: by its prefix, else by what follows that.
fn spelling(content: &str, root: &RootAt, hint: Hint) -> Spelling {
    let bytes = content.as_bytes();
    let windows = root.root.is_windows();
    let following = bytes
        .get(root.end)
        .copied()
        .filter(|b| is_separator_byte(*b, windows));
    let written = root.lead_separator.or(following.map(char::from));
    let usual = (hint == Hint::UriPath).then_some('/');
    let doubling = root
        .lead_doubling
        .or(following.map(|b| run(bytes, root.end, b)));
    Spelling {
        form: root.form,
        separator: written.filter(|_| windows).or(usual),
        doubling: doubling.filter(|_| windows).unwrap_or(1),
        lower_drive: matches!(root.root, Root::Drive(_))
            && content[root.start..root.end]
                .trim_end_matches(':')
                .ends_with(|c: char| c.is_ascii_lowercase()),
    }
}

/// Whether no name goes on beyond this letter.
pub(super) fn is_hard(letter: char) -> bool {
    letter.is_control() || matches!(letter, '"' | '<' | '>' | '|' | '*' | '?' | ':')
}

/// No place is longer than this, in bytes: Windows stops at 32,767 UTF-16 units.
const LONGEST: usize = 96 * 1024;

/// In running text one is given up sooner, so that a line of a million letters costs little.
const LONGEST_IN_PROSE: usize = 4096;

/// The quote right before `start`, and where the one is that closes it on the same line.
fn closing_quote(content: &str, start: usize, end: usize) -> Option<(char, usize)> {
    let open = content[..start].chars().next_back()?;
    let close = match open {
        '"' | '\'' | '`' => open,
        '\u{201C}' | '\u{201E}' => '\u{201D}',
        '\u{2018}' => '\u{2019}',
        '\u{ab}' => '\u{bb}',
        _ => return None,
    };
    // A double quote is in no name, so it is soon found; others may be in many.
    let longest = if close == '"' {
        LONGEST
    } else {
        LONGEST_IN_PROSE
    };
    let end = content
        .floor_char_boundary(end.min(start + longest))
        .max(start);
    content[start..end]
        .match_indices(close)
        .map(|(at, _)| start + at)
        .find(|at| {
            // An apostrophe inside a name closes nothing.
            close != '\''
                || !content[at + 1..].starts_with(|c: char| c.is_alphanumeric() || c == OPAQUE)
        })
        .map(|at| (open, at))
}
