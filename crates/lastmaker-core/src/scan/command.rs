//! Command lines: what shows that a text is one, and where its arguments end.

use std::ops::Range;

use super::root::root_at;

/// Whether what a key calls a command is a query of a database, which has quotes of its own.
pub(super) fn is_query(content: &str) -> bool {
    let word = content.trim_start().split(char::is_whitespace).next();
    ["select", "insert", "update", "delete", "transform"]
        .iter()
        .any(|verb| word.is_some_and(|word| word.eq_ignore_ascii_case(verb)))
}

pub(super) fn begins_with_option(text: &str) -> bool {
    let text = text.trim_start();
    let text = text.strip_prefix('"').unwrap_or(text);
    text.strip_prefix('-').is_some_and(|rest| {
        rest.trim_start_matches('-')
            .starts_with(|c: char| c.is_ascii_alphabetic())
    })
}

const PROGRAM_SUFFIXES: [&str; 9] = [
    ".exe", ".com", ".bat", ".cmd", ".msi", ".scr", ".ps1", ".sh", ".jar",
];

/// The end of a program's name that begins at the start of `text`, quotes included.
pub(super) fn program_end(text: &str) -> Option<usize> {
    let (open, inner) = match text.strip_prefix('"') {
        Some(inner) => (1, inner),
        None => (0, text),
    };
    root_at(inner, 0)?;
    let quote = memchr::memchr(b'"', inner.as_bytes());
    let limit = match open {
        1 => quote?,
        _ => quote.unwrap_or(inner.len()),
    };
    let bytes = inner.as_bytes();
    let suffix_end = |dot: usize| {
        let behind = &bytes[dot..limit];
        PROGRAM_SUFFIXES.iter().find_map(|suffix| {
            let there = behind.get(..suffix.len())?;
            there
                .eq_ignore_ascii_case(suffix.as_bytes())
                .then_some(dot + suffix.len())
        })
    };
    memchr::memchr_iter(b'.', &bytes[..limit])
        .filter_map(suffix_end)
        .find(|&end| match bytes.get(end) {
            _ if open == 1 => end == limit,
            next => matches!(next, None | Some(b' ' | b'\t')),
        })
        .map(|end| open + end + open)
}

pub(super) fn is_program_with_arguments(text: &str) -> bool {
    let text = text.trim_start();
    program_end(text).is_some_and(|end| !text[end..].trim().is_empty())
}

/// In running text a program counts only with an argument that looks like one.
pub(super) fn is_command_in_prose(line: &str) -> bool {
    let text = line.trim_start();
    let Some(end) = program_end(text) else {
        return false;
    };
    let rest = text[end..].trim_start();
    begins_with_option(rest)
        || rest.starts_with('"')
        || (rest.len() > 1 && rest.starts_with('/'))
        || root_at(rest, 0).is_some()
}

/// An argument of a command line.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Argument {
    /// Where a place inside it must end.
    pub(super) end: usize,
    /// Whether the place is in quotes already.
    pub(super) quoted: bool,
}

/// The argument of `field` in which offset `at` of the content is.
pub(super) fn argument_at(content: &str, field: &Range<usize>, at: usize) -> Argument {
    let text = &content[field.clone()];
    let lead = text.len() - text.trim_start().len();
    let first = field.start + lead;
    let mut from = first;
    if let Some(end) = program_end(&text[lead..]) {
        if at < first + end && !text[lead..].starts_with('"') {
            return Argument {
                end: first + end,
                // A program's name with blanks already does without quotes.
                quoted: content[first..first + end].contains(' '),
            };
        }
        from = first + end;
    }
    let mut quoted = false;
    if from > at {
        from = first;
    }
    for letter in content[from..at].bytes() {
        quoted ^= letter == b'"';
    }
    let rest = &content[at..field.end];
    let end = if quoted {
        rest.find('"')
    } else {
        rest.find([' ', '\t', '"'])
    };
    Argument {
        end: at + end.unwrap_or(rest.len()),
        quoted,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn arguments_end_where_their_syntax_says() {
        let cases = [
            (r"--data=D:\a -v", 7, r"D:\a", false),
            (r#"--data="D:\a b" -v"#, 8, r"D:\a b", true),
            (r#""--data=D:\a b" -v"#, 8, r"D:\a b", true),
            (r"D:\p q\v.exe -x", 0, r"D:\p q\v.exe", true),
            (r"D:\v.exe -x", 0, r"D:\v.exe", false),
            (r#""D:\p q\v.exe" D:\a"#, 15, r"D:\a", false),
        ];
        for (line, at, text, quoted) in cases {
            let argument = argument_at(line, &(0..line.len()), at);
            assert_eq!(
                (&line[at..argument.end], argument.quoted),
                (text, quoted),
                "{line}"
            );
        }
    }
}
