//! Variables at whose value a place begins: `%NAME%`, `$NAME`, `${NAME}`, `$env:NAME`, `$(NAME)`,
//! `~`.

use super::root::RootAt;
use crate::place::{Form, Place, is_separator};

/// Where the name of a variable ends at the start of `text`; none is longer than some hundred
/// letters.
fn name_end(text: &str, close: char) -> Option<usize> {
    const LONGEST: usize = 256;
    let mut letters = text.bytes().take(LONGEST);
    letters.position(|letter| letter == close as u8)
}

/// One of these variables that begins in `content[from..to]`.
pub(super) fn variable_between(
    variables: &[(String, Place)],
    content: &str,
    from: usize,
    to: usize,
) -> Option<(RootAt, Vec<String>)> {
    if variables.is_empty() {
        return None;
    }
    memchr::memchr3_iter(b'%', b'$', b'~', &content.as_bytes()[from..to])
        .find_map(|at| variable_at(variables, content, from + at))
}

fn variable_at(
    variables: &[(String, Place)],
    content: &str,
    at: usize,
) -> Option<(RootAt, Vec<String>)> {
    let Named {
        name,
        length,
        ignore_case,
    } = named_at(content, at)?;
    let next = content[at + length..].chars().next();
    if next.is_some_and(|c| !is_separator(c)) {
        return None;
    }
    let (_, place) = variables.iter().find(|(known, _)| {
        if ignore_case {
            known.eq_ignore_ascii_case(name)
        } else {
            known == name
        }
    })?;
    let root = RootAt {
        start: at,
        end: at + length,
        root: place.root.clone(),
        form: Form::Variable,
        lead_doubling: None,
        lead_separator: None,
    };
    Some((root, place.components.clone()))
}

/// A variable's name as it is written at `at`.
struct Named<'c> {
    name: &'c str,
    /// With the signs around it.
    length: usize,
    ignore_case: bool,
}

fn named_at(content: &str, at: usize) -> Option<Named<'_>> {
    let rest = &content[at..];
    let composite = "%HOMEDRIVE%%HOMEPATH%";
    let env = |rest: &str| {
        rest.get(..5)
            .is_some_and(|lead| lead.eq_ignore_ascii_case("$env:"))
    };
    let (name, length, ignore_case) = if let Some(inner) = rest.strip_prefix('~') {
        let before = content[..at].chars().next_back();
        let free = before.is_none_or(|c| c.is_whitespace() || "\"'=:;,([<>".contains(c));
        if !free || !inner.starts_with(is_separator) {
            return None;
        }
        ("~", 1, false)
    } else if rest
        .get(..composite.len())
        .is_some_and(|lead| lead.eq_ignore_ascii_case(composite))
    {
        ("USERPROFILE", composite.len(), true)
    } else if env(rest) {
        let inner = &rest[5..];
        let close = inner
            .find(|c: char| !(c.is_ascii_alphanumeric() || c == '_'))
            .unwrap_or(inner.len());
        (&inner[..close], close + 5, true)
    } else if let Some(inner) = rest
        .get(..6)
        .filter(|lead| lead.eq_ignore_ascii_case("${env:"))
        .map(|_| &rest[6..])
    {
        let close = name_end(inner, '}')?;
        (&inner[..close], close + 7, true)
    } else if let Some(inner) = rest.strip_prefix("$(") {
        let close = name_end(inner, ')')?;
        (&inner[..close], close + 3, false)
    } else if let Some(inner) = rest.strip_prefix('%') {
        let close = name_end(inner, '%')?;
        (&inner[..close], close + 2, true)
    } else if let Some(inner) = rest.strip_prefix("${") {
        let close = name_end(inner, '}')?;
        (&inner[..close], close + 3, false)
    } else {
        let inner = rest.strip_prefix('$')?;
        let close = inner
            .find(|c: char| !(c.is_ascii_alphanumeric() || c == '_'))
            .unwrap_or(inner.len());
        (&inner[..close], close + 1, false)
    };
    Some(Named {
        name,
        length,
        ignore_case,
    })
}
