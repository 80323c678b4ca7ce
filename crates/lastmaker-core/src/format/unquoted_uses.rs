//! Variables of scripts that are used without quotes: a blank in the value of one would part it where
//! it is used.

use std::collections::HashSet;

use crate::scan::{Letters, lines_with};

/// How a variable is used in a script.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Use {
    /// `$NAME` and `${NAME}`.
    Shell,
    /// `%NAME%`, in any case.
    Batch,
}

/// The names of the variables that `text` uses without quotes around them; those of batch files in
/// upper case.
pub(super) fn used_bare(text: &str, how: Use) -> HashSet<String> {
    let (sign, signs): (_, &'static [Letters]) = match how {
        Use::Shell => ('$', &[[b'$'; 3]]),
        Use::Batch => ('%', &[[b'%'; 3]]),
    };
    let mut names = HashSet::new();
    for line in lines_with(text, signs, [b'\n'; 3]) {
        let line = &text[line];
        let (mut double, mut single) = (false, false);
        let mut before = '\n';
        for (at, letter) in line.char_indices() {
            match letter {
                '"' if !single && before != '\\' => double = !double,
                '\'' if !double && how == Use::Shell => single = !single,
                _ if letter == sign && !double && !single && !is_safe(line, at, before, how) => {
                    names.extend(name(&line[at + 1..], how));
                }
                _ => {}
            }
            before = letter;
        }
    }
    names
}

/// Whether a value is not parted at this place of a line although no quotes are around it: it is
/// assigned, or shown.
fn is_safe(line: &str, at: usize, before: char, how: Use) -> bool {
    let word = line[..at].split_whitespace().next_back().unwrap_or("");
    let assigned = before == '=' && !word.starts_with('-');
    let start = line.trim_start_matches(['@', ' ', '\t']);
    let first = start.split([' ', '.', '(']).next().unwrap_or("");
    assigned
        || (how == Use::Batch
            && ["echo", "set", "cd", "rem", "title"]
                .iter()
                .any(|known| first.eq_ignore_ascii_case(known)))
}

/// The name behind the sign.
fn name(rest: &str, how: Use) -> Option<String> {
    let inner = rest.strip_prefix('{').unwrap_or(rest);
    let end = inner.find(|c: char| !(c.is_alphanumeric() || c == '_'));
    let name = &inner[..end.unwrap_or(inner.len())];
    match how {
        _ if name.is_empty() => None,
        Use::Shell => Some(name.to_owned()),
        Use::Batch => inner[name.len()..]
            .starts_with(['%', ':'])
            .then(|| name.to_uppercase()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn uses_without_quotes() {
        let cases: [(&str, Use, &[&str]); 8] = [
            ("cp $A/x \"$B/y\"\n", Use::Shell, &["A"]),
            ("cp ${A}/x '$B'\n", Use::Shell, &["A"]),
            ("B=$A/x; cp \"$B\" y\n", Use::Shell, &[]),
            ("v --in=$A\n", Use::Shell, &["A"]),
            ("copy %A% x\r\n", Use::Batch, &["A"]),
            ("copy \"%a%\\x\" y\r\n", Use::Batch, &[]),
            ("cd %a%\r\nset B=%A%\\x\r\n", Use::Batch, &[]),
            ("echo 50% off\r\n", Use::Batch, &[]),
        ];
        for (text, how, expected) in cases {
            let mut got: Vec<String> = used_bare(text, how).into_iter().collect();
            got.sort();
            assert_eq!(got, expected, "{text}");
        }
    }
}
