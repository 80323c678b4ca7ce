//! What a string or a script shows of what it is.

use super::{Namespace, Role};
use crate::codec::{Escaped, Escapes, Style, Unknown, typed_by_hand};
use crate::layer::Layer;
use crate::scan::Hint;

/// Whether a string can name a place at all: without a separator or a colon only a lone letter
/// beside a key can. Readers need not yield what cannot.
pub(super) fn may_matter(raw: &str) -> bool {
    crate::scan::may_hold_place(raw) || is_lone_letter(raw)
}

/// Whether there is one letter in a string, and beside it few blanks and signs at the most.
pub(super) fn is_lone_letter(raw: &str) -> bool {
    if raw.len() > 4 {
        return false;
    }
    let mut letters = raw.bytes().filter(u8::is_ascii_alphanumeric);
    letters
        .next()
        .is_some_and(|letter| letter.is_ascii_alphabetic())
        && letters.next().is_none()
}

/// What an address in a page is: one that begins at the root counts from the root of a web site, or from that of
/// the machine where the page is opened as a file (RFC 3986, section 5.2).
pub(super) fn address_role(raw: &str) -> Role {
    if raw.starts_with('/') && !raw.starts_with("//") {
        Role::Foreign(Namespace::Page)
    } else {
        Role::Value
    }
}

/// The program that the first line of a script names as its interpreter (`#!`), without its folder
/// and its version.
pub(super) fn interpreter(text: &str) -> Option<&str> {
    let line = text.strip_prefix("#!")?.lines().next()?;
    let mut words = line.split_whitespace();
    let mut program = without_folder(words.next()?);
    if matches!(program, "env" | "busybox") {
        program = without_folder(words.find(|word| !word.starts_with('-') && !word.contains('='))?);
    }
    Some(program.trim_end_matches(|c: char| c.is_ascii_digit() || c == '.'))
}

fn without_folder(program: &str) -> &str {
    program.rsplit(['/', '\\']).next().unwrap_or(program)
}

/// Whether a string is a letter and a colon: in a program's source that may be a label or the
/// letters of options as well as a drive.
pub(super) fn is_drive_alone(raw: &str) -> bool {
    let inside = raw.trim_matches([' ', '"', '\'']);
    matches!(inside.as_bytes(), [letter, b':'] if letter.is_ascii_alphabetic())
}

/// The role of a string with escapes that would have the role `normal`, and whether its escapes
/// are sound: a path with single backslashes was typed by hand.
pub(super) fn string_role(raw: &str, escapes: &'static Escapes, normal: Role) -> (Role, bool) {
    if memchr::memchr(escapes.mark, raw.as_bytes()).is_none() {
        return (normal, true);
    }
    let sound = escapes.is_sound(raw);
    let by_hand = escapes.mark == b'\\' && typed_by_hand(raw) && {
        // Where unknown escapes are kept, only a known one makes something else of it.
        let reads_right = || {
            let layer = Escaped {
                escapes,
                document: Style::default(),
            };
            let Ok(opened) = layer.open(raw.as_bytes()) else {
                return false;
            };
            // The pair before a share's server would become one.
            escapes.unknown == Unknown::Keeps
                && !raw.starts_with(r"\\")
                && !String::from_utf8_lossy(&opened.content).contains(char::is_control)
        };
        !reads_right()
    };
    match (sound, by_hand) {
        (_, true) => (Role::Undoubled, sound),
        (false, false) if looks_like_place(raw) => (Role::Undoubled, false),
        (false, false) => (Role::Stray, false),
        (true, false) => (normal, true),
    }
}

/// In a string that breaks the grammar anyway, any drive or share counts.
fn looks_like_place(raw: &str) -> bool {
    !crate::scan::Finder::default()
        .find(raw, Hint::Name)
        .is_empty()
}
