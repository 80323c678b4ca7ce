//! PreviewTeller regular expressions and commands of editors from places.

use crate::base::ascii::length_before;
use crate::scan::Found;

/// Whether what is around a place shows that it stands in a regular expression, of a drive whether
/// it is none: where `root_alone`, no name of what moves speaks for it.
pub(super) fn is_in_pattern(found: &Found, content: &str, root_alone: bool) -> bool {
    let before = &content[..found.start];
    let rest = &content[found.root_end..];
    let no_drive =
        || before.ends_with(']') || begins_with_sign(rest, found) || is_delimiter(found, content);
    if before.ends_with('^') || (root_alone && found.root.is_drive() && no_drive()) {
        return true;
    }
    let word = word_of(near(rest));
    // Every one of them has such a letter, and most words have none.
    let general_letter = |byte: u8| b"^?+*$|".contains(&byte);
    let general = [
        "[^", "(?", ".+", ").*", ")$", "\\|", "\\w+", "\\d+", "\\s+", "\\S+",
    ];
    let posix = ["\\.", "\\d", "\\w", "\\s", "\\/", "\\b"];
    (word.bytes().any(general_letter) && general.iter().any(|sign| word.contains(sign)))
        || (!found.root.is_windows() && posix.iter().any(|sign| word.contains(sign)))
}

/// What `text` begins with before a blank or a quote.
fn word_of(text: &str) -> &str {
    let plain = |byte: u8| byte.is_ascii_graphic() && !b"\"'`".contains(&byte);
    let ends = |c: char| c.is_whitespace() || "\"'`".contains(c);
    &text[..length_before(text, plain, ends)]
}

/// So much of what follows a place as shows what it stands in: a list of a thousand places is one word.
fn near(rest: &str) -> &str {
    const FURTHEST: usize = 1024;
    &rest[..rest.floor_char_boundary(FURTHEST)]
}

/// Whether what follows a drive is a separator and a sign that this takes the meaning from, or
/// gives one to, rather than a name: `\)`, `\%(`, `\ x`.
fn begins_with_sign(rest: &str, found: &Found) -> bool {
    let name = rest.trim_start_matches('\\');
    let bare = !found.is_delimited();
    if name.len() == rest.len() {
        return bare && (rest.starts_with("/ ") || rest.starts_with("/}"));
    }
    let end = name.find(['\\', '/', '\n']).unwrap_or(name.len());
    let (name, beyond) = name.split_at(end);
    match name.chars().next() {
        Some(' ') => !name.trim().is_empty() || !beyond.trim().is_empty(),
        Some('(') => !name.contains(')'),
        Some('%') => name[1..].starts_with(['(', '[', '{']),
        Some('"') => bare,
        // Where a value is all of it, a name may begin so.
        Some(sign) if bare => ")|<>@=&+^".contains(sign),
        Some(sign) => ")|<>=".contains(sign),
        None => false,
    }
}

/// Whether a drive in bare text is the letter of a command whose parts colons set apart, as editors
/// and scripts have them: `s:/x:/y:`, `m:/x:`.
fn is_delimiter(found: &Found, content: &str) -> bool {
    let drive = &content[found.start..found.root_end];
    if found.is_delimited() || !matches!(drive, "s:" | "m:" | "y:") {
        return false;
    }
    let rest = &content[found.root_end..];
    let word = near(rest).split(char::is_whitespace).next().unwrap_or("");
    word.split_once(':')
        .is_some_and(|(_, behind)| !behind.starts_with(|c: char| c.is_ascii_digit()))
}
