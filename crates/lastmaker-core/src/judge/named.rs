//! What a survey takes for a place where no sheet says what to look for: the names that are
//! plainly names, and nothing that is more likely an escape, a pattern or an address.

use super::pattern::is_in_pattern;
use crate::place::{Form, Place, Root};
use crate::scan::{Found, Token};

/// Where the plain names of a found place end, at `end` at the latest: before a pattern, a variable,
/// an option behind it or a column. None where what comes right after the root is no name.
pub(super) fn plain_end(found: &Found, content: &str, end: usize) -> Option<usize> {
    let windows = found.root.is_windows();
    stops(found, content, end, |name| name_stop(name, windows))
}

/// The same where it is clear how far the place goes: only what a program fills in, or takes for a pattern, is no
/// name, and an option behind the last name is none of it.
pub(super) fn value_end(found: &Found, content: &str, end: usize) -> Option<usize> {
    let windows = found.root.is_windows();
    let pattern: &[char] = if windows {
        &[]
    } else {
        &['*', '?', '`', '\\', '<', '>']
    };
    let variable = |name: &str| {
        let mut behind = name.split('$').skip(1);
        !windows
            && behind.any(|rest| rest.starts_with(|c: char| c.is_ascii_alphabetic() || c == '_'))
    };
    let end = option_at_end(found, content, end).unwrap_or(end);
    stops(found, content, end, |name| {
        let odd = name.starts_with([' ', '\t']) || name.contains(pattern);
        if odd || is_filled_in(name) || variable(name) {
            Stop::Name
        } else {
            Stop::None
        }
    })
}

/// Where an option begins behind the last name of a place that ends at `end` at the latest.
fn option_at_end(found: &Found, content: &str, end: usize) -> Option<usize> {
    let tokens = found.tokens.iter().take_while(|token| token.start < end);
    let last = tokens.last()?;
    let name = &content[last.start..last.end.min(end)];
    let options = name.match_indices(" -").map(|(at, _)| at);
    let option = |at: &usize| name[at + 2..].starts_with(|c: char| c.is_alphanumeric() || c == '-');
    let mut options = options.filter(option).filter(|at| *at > 0);
    Some(last.start + options.next()?)
}

/// Where an option begins behind a name, in a place that ends at `end` at the latest.
pub(super) fn option_end(found: &Found, content: &str, end: usize) -> Option<usize> {
    let of_name = |token: &Token| {
        let name = &content[token.start..token.end.min(end)];
        Some(token.start + option_behind(name)?)
    };
    let tokens = found.tokens.iter().take_while(|token| token.start < end);
    tokens.filter_map(of_name).next()
}

fn stops(found: &Found, content: &str, end: usize, stop: impl Fn(&str) -> Stop) -> Option<usize> {
    let mut last = found.root_end;
    for token in found.tokens.iter().take_while(|token| token.start < end) {
        let name = &content[token.start..token.end.min(end)];
        let head = match stop(name) {
            Stop::None => {
                last = token.start + name.len();
                continue;
            }
            Stop::Behind(at) => name[..at].trim_end(),
            Stop::Name => "",
        };
        if !head.is_empty() {
            return Some(token.start + head.len());
        }
        let first = last == found.root_end;
        return (!first || !found.base.is_empty()).then_some(last);
    }
    Some(end)
}

/// Where a name stops being one.
enum Stop {
    /// Nowhere.
    None,
    /// At this offset something else follows it.
    Behind(usize),
    /// All of it is a pattern or a variable.
    Name,
}

fn name_stop(name: &str, windows: bool) -> Stop {
    // Most names are of these letters alone, at which none stops.
    let plain = |byte: u8| byte.is_ascii_alphanumeric() || b"._-".contains(&byte);
    if name.bytes().all(plain) {
        return Stop::None;
    }
    if let Some(at) = option_behind(name).or_else(|| apostrophe(name)) {
        return match at {
            0 => Stop::Name,
            at => Stop::Behind(at),
        };
    }
    let signs: &[char] = if windows {
        &['^', '`', '|', '<', '>']
    } else {
        &[
            '\\', '[', ']', '{', '}', '*', '?', '^', '|', '$', '`', '<', '>', '"',
        ]
    };
    // A number in braces names an installed product.
    let product = name.starts_with('{') && name.len() >= 38;
    let odd = name.starts_with([' ', ')', '=', '&', '+', ',', ';', '\'']);
    if name.contains(signs) || is_filled_in(name) || odd || (name.contains('{') && !product) {
        return Stop::Name;
    }
    let mut open = 0_usize;
    for (at, letter) in name.char_indices() {
        match letter {
            '(' => open += 1,
            ')' if open == 0 => return Stop::Behind(at),
            ')' => open -= 1,
            _ => {}
        }
    }
    let over = name.trim_end_matches([',', ';', ':']).len();
    match name.rfind('(').filter(|_| open > 0) {
        Some(at) => Stop::Behind(at),
        None if over < name.len() && over > 0 => Stop::Behind(over),
        None => Stop::None,
    }
}

/// Whether a program puts something into a name: `%s`, `${x}`.
fn is_filled_in(name: &str) -> bool {
    name.bytes().zip(name.bytes().skip(1)).any(|two| match two {
        (b'%', next) => next.is_ascii_alphabetic() || b"([{%".contains(&next),
        (b'$', next) => b"({$".contains(&next),
        _ => false,
    })
}

/// Where columns, an option, quotes or a redirection follow a name.
fn option_behind(name: &str) -> Option<usize> {
    name.match_indices([' ', '\t']).find_map(|(at, _)| {
        let mut rest = name[at + 1..].chars();
        let (sign, next) = (rest.next()?, rest.next());
        let option = sign == '-' && next.is_some_and(|c| c.is_alphanumeric() || c == '-');
        let here = sign == '.' && next.is_none();
        let starts = name[..at] == *"env";
        (sign.is_whitespace() || "\"'<>|#&~".contains(sign) || option || here || starts)
            .then_some(at)
    })
}

/// Where a quote or an apostrophe ends a name: `sh's`, `sh' if`.
fn apostrophe(name: &str) -> Option<usize> {
    name.match_indices('\'').find_map(|(at, _)| {
        let rest = name[at + 1..].trim_start_matches('s');
        let over = !rest.starts_with(|c: char| c.is_alphanumeric());
        (over && at > 0).then_some(at)
    })
}

/// Whether a find with these names is a place as far as its form goes.
pub(super) fn is_plausible(found: &Found, content: &str, place: &Place) -> bool {
    if is_in_pattern(found, content, true) {
        return false;
    }
    match &found.root {
        Root::Posix => true,
        Root::Drive(_) => {
            let behind = content[found.root_end..].trim_start_matches(['\\', '/']);
            let ends = |c: char| c.is_whitespace() || "\"'`.,;)]>|".contains(c);
            !place.components.is_empty() || found.is_delimited() || behind.is_empty() || {
                behind.starts_with(ends)
            }
        }
        Root::Share { server, share } => is_share(found, content, server, share, place),
    }
}

/// Whether a share's names look like those of a server and of a share on it, rather than like
/// escapes (`\\d\d`), commands of a typesetter (`\\textbf\s`) or an address (`//host.org/x`).
fn is_share(found: &Found, content: &str, server: &str, share: &str, place: &Place) -> bool {
    let written = &content[found.start..found.root_end];
    let separator = found.spelling.separator.unwrap_or('\\');
    let run = |text: &str| text.len() - text.trim_start_matches(separator).len();
    let lead = run(written);
    let behind_server = written[lead..].trim_start_matches(|c: char| c != separator);
    let even = found.spelling.form != Form::Plain || lead == 2 * run(behind_server);
    let numbered = |name: &str| name.split('.').all(|part| part.parse::<u8>().is_ok());
    let address = server.contains('.') && numbered(server);
    let named = server.len() > 1
        && (address || server.contains(|c: char| c.is_alphabetic()))
        && !server.contains('_')
        && !(server.len() < 4 && server.starts_with(|c: char| c.is_ascii_digit()))
        && !(server.len() == 3 && server.starts_with('x') && share.len() == 3);
    let shared = match share.len() {
        1 => place.components.iter().any(|name| name.len() > 2),
        _ => {
            let mut letters = share.chars();
            let begins = letters.next().is_some_and(char::is_alphanumeric)
                && letters
                    .next()
                    .is_some_and(|c| c.is_alphanumeric() || c == '$');
            let plain = |c: char| c.is_alphanumeric() || "-_.$ ()&+!#".contains(c);
            begins && share.contains(char::is_alphabetic) && share.chars().all(plain)
        }
    };
    let ends = |c: char| c.is_whitespace() || "\\/\"'`.,;:)]>|".contains(c);
    let over = found.is_delimited()
        || content[found.root_end..].is_empty()
        || content[found.root_end..].starts_with(ends);
    // With slashes it is an address without a scheme, a remark or a pattern just as well.
    let slashed = separator == '/' && (!found.is_delimited() || (server.contains('.') && !address));
    even && named && shared && over && !slashed
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::scan::{Finder, Hint, readings};

    /// What a survey takes the first find of `content` for.
    fn named(content: &str, hint: Hint) -> Option<String> {
        let found = Finder::default().find(content, hint).into_iter().next()?;
        let end = plain_end(&found, content, readings(&found, content)[0])?;
        let place = found.place_until(content, end);
        is_plausible(&found, content, &place).then(|| place.to_string())
    }

    #[test]
    fn names_and_what_only_looks_like_one() {
        let value = Hint::for_value("root");
        let cases = [
            (
                r"D:\Herbarium\Sheets (2019)",
                value,
                Some(r"D:\Herbarium\Sheets (2019)"),
            ),
            (r"D:\Herbarium\#1 R&D", value, Some(r"D:\Herbarium\#1 R&D")),
            (
                r"see \\mossbank\press\x",
                Hint::Prose,
                Some(r"\\mossbank\press\x"),
            ),
            (
                r"path:\\mossbank\c$\x",
                Hint::Code,
                Some(r"\\mossbank\c$\x"),
            ),
            (r"\\10.0.0.7\press", value, Some(r"\\10.0.0.7\press")),
            ("/usr/bin/label --all", value, Some("/usr/bin/label")),
            ("/srv/herb/%s.tif", value, Some("/srv/herb")),
            ("/srv/herb/$name", value, Some("/srv/herb")),
            ("/srv/herb/{a,b}/c", Hint::Code, Some("/srv/herb")),
            ("/srv/herb/x(12).c", value, Some("/srv/herb/x(12).c")),
            ("/srv/herb/x.c(12", value, Some("/srv/herb/x.c")),
            ("/srv/herb's are", Hint::Prose, Some("/srv/herb")),
            ("/srv/x     ext4", value, Some("/srv/x")),
            (r"C:\      path\dir", value, None),
            (r"L:\ %.%#\ error", value, None),
            (r"\\d\d\d", value, None),
            (r"\\textbf\s", value, None),
            (r"\\n\\t", Hint::Code, None),
            (r"\\376\117\202", value, None),
            ("//compute.example.org/projects", value, None),
            (r"\\fP\n.fi", value, None),
        ];
        for (content, hint, expected) in cases {
            assert_eq!(named(content, hint).as_deref(), expected, "{content}");
        }
    }
}
