//! The edits that put the new place where the old one is.

use std::ops::Range;

use crate::judge::{FoundIn, Unwritable};
use crate::layer::Edit;
use crate::place::Root;
use crate::scan::{Found, Hint, Stands};
use crate::sheet::Relocation;

use super::letters::{needs_quotes, unsafe_letter};

/// The edits of the content that put the new place where the old one is, and the quotes that it
/// needs; `end` is where the reference ends by its likeliest reading. `accepted` says that letters
/// which might mean something else are written all the same.
pub(in crate::plan) fn change(
    case: FoundIn<'_>,
    relocation: &Relocation,
    end: usize,
    accepted: bool,
) -> Result<Vec<Edit>, Unwritable> {
    let FoundIn { found, content, .. } = case;
    let mut with = prefix(found, relocation, &content[relocation.end..end])?;
    let mut edits = turned_tail(case, relocation, end)?;
    // In a formula or a query the quotes are in the text itself.
    let around = content[..found.start].chars().next_back();
    if let Some(quote) = around.filter(|c| "'\"`".contains(*c))
        && with.contains(quote)
    {
        return Err(Unwritable::HoldsQuote(quote));
    }
    let old = &content[found.start..relocation.end];
    let means = || unsafe_letter(case, &relocation.to, old);
    if let Some(letter) = (!accepted).then(means).flatten() {
        return Err(Unwritable::Means(letter));
    }
    if found.stands == Stands::Argument && needs_quotes(&relocation.to, old) {
        let firm = found.firm_end.unwrap_or(end).max(relocation.end);
        let close = closing_quote(case, relocation.end..firm)?;
        with.insert(0, '"');
        if firm == relocation.end {
            with.push_str(&close);
        } else {
            edits.push(Edit {
                span: firm..firm,
                with: close.into_bytes(),
            });
        }
    }
    edits.push(Edit {
        span: found.start..relocation.end,
        with: with.into_bytes(),
    });
    Ok(edits)
}

/// The new place as the reference writes it, before its `tail`.
fn prefix(found: &Found, relocation: &Relocation, tail: &str) -> Result<String, Unwritable> {
    let to = &relocation.to;
    let mut with = found.spelling.write(to)?;
    let rooted = to.components.is_empty() && !matches!(to.root, Root::Share { .. });
    // What becomes a root needs the root's own separator, but for a bare `D:`.
    let bare_drive = matches!(found.root, Root::Drive(_)) && relocation.end == found.root_end;
    let folder = found.spelling.is_folder();
    if rooted && !bare_drive && !folder && !tail.starts_with(['\\', '/']) {
        with.push(found.spelling.separator_for(to));
    }
    Ok(with)
}

/// Where the place crosses from one family of systems to the other, the edits that turn the
/// separators of its tail.
fn turned_tail(
    case: FoundIn<'_>,
    relocation: &Relocation,
    end: usize,
) -> Result<Vec<Edit>, Unwritable> {
    let FoundIn { found, content, .. } = case;
    let folder = found.spelling.is_folder();
    let windows = found.root.is_windows() && !folder;
    if windows == (relocation.to.root.is_windows() && !folder) {
        return Ok(Vec::new());
    }
    let beyond = &content[end..found.hard_end.max(end)];
    if found.firm_end.is_none() && beyond.contains(['\\', '/']) {
        return Err(Unwritable::TailUnclear);
    }
    let separator = found.spelling.separator_for(&relocation.to);
    Ok(turned(content, relocation.end..end, separator, windows))
}

/// The quote that closes an argument which now needs quotes and whose rest is `tail`, with what
/// must come before it.
fn closing_quote(case: FoundIn<'_>, tail: Range<usize>) -> Result<String, Unwritable> {
    let FoundIn { found, content, .. } = case;
    let before = &content[..found.start];
    if found.spelling.doubling > 1 {
        return Err(Unwritable::UnknownSyntax);
    }
    if before.ends_with(['`', '[']) {
        return Err(Unwritable::UnknownQuotes);
    }
    let titled = case.site.hint == Hint::Command { titled: true };
    if titled && before.trim().eq_ignore_ascii_case("start") {
        return Err(Unwritable::WindowTitle);
    }
    // A backslash before the closing quote would escape it, but not to a command interpreter.
    if matches!(case.site.hint, Hint::Command { .. }) {
        return Ok("\"".to_owned());
    }
    let backslashes = content[tail]
        .bytes()
        .rev()
        .take_while(|b| *b == b'\\')
        .count();
    Ok(format!("{}\"", "\\".repeat(backslashes)))
}

/// Edits that turn the separators of a tail.
fn turned(content: &str, tail: Range<usize>, separator: char, windows: bool) -> Vec<Edit> {
    let parts = |b: u8| b == b'/' || (windows && b == b'\\');
    let bytes = content.as_bytes();
    let mut edits = Vec::new();
    let mut at = tail.start;
    while at < tail.end {
        let run = bytes[at..tail.end]
            .iter()
            .take_while(|b| parts(**b))
            .count();
        if run > 0 {
            edits.push(Edit {
                span: at..at + run,
                with: separator.to_string().into_bytes(),
            });
        }
        at += run.max(1);
    }
    edits
}
