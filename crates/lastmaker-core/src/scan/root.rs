//! Roots as they are spelled, and whether what is before one lets a place begin there.

use super::hint::Hint;
use crate::place::Lead;
use crate::place::is_separator;
use crate::place::{Form, OPAQUE, Root};

/// A root as it is written at some offset.
#[derive(Clone, Debug)]
pub(super) struct RootAt {
    pub(super) start: usize,
    pub(super) end: usize,
    pub(super) root: Root,
    pub(super) form: Form,
    /// How often a separator is written where one would do, as far as the root's lead shows it.
    pub(super) lead_doubling: Option<usize>,
    /// The separator of the root's lead.
    pub(super) lead_separator: Option<char>,
}

impl RootAt {
    /// Whether it is a word, a colon and an escape of a string (`"match x:\n"`): one letter that an
    /// escape may have, and no name.
    pub(super) fn is_escape(&self, content: &str) -> bool {
        let plain = matches!(self.root, Root::Drive(_)) && self.form == Form::Plain;
        let escape = |rest: &str| {
            let letter = rest.strip_prefix('\\')?;
            letter
                .starts_with(['n', 'r', 't', 'f', 'v', '0'])
                .then(|| &letter[1..])
                .map(str::len)
        };
        let mut rest = &content[self.end..];
        let all = rest.len();
        let breaks = ["\\n\\n", "\\r\\n", "\\n\\t"];
        if plain && breaks.iter().any(|two| rest.starts_with(two)) {
            return true;
        }
        while let Some(left) = escape(rest) {
            rest = &rest[rest.len() - left..];
        }
        let over = rest
            .chars()
            .next()
            .is_none_or(|c| !(c.is_alphanumeric() || "_-. \\/".contains(c)));
        plain && rest.len() < all && over
    }

    /// Whether what is before it lets a place begin here.
    pub(super) fn stands_free(&self, content: &str, hint: Hint) -> bool {
        let Some(before) = content[..self.start].chars().next_back() else {
            return true;
        };
        if before == '/' && is_behind_scheme(&content[..self.start]) {
            return true;
        }
        // A sign at the start of a word may say how the path is treated.
        let posix = !self.root.is_windows();
        let signed = self.start == 1 && "-+".contains(before) && posix;
        // What a shell reads in: `$(</x)`.
        let read_in = before == '<' && posix && is_read_in(content, self.start);
        // The sign of a list in an expansion: `${PATH:+$PATH:}/x`.
        let listed = before == '}' && content[..self.start].ends_with(":}");
        if signed || read_in || (listed && posix) || expansion_end(content, self.start).is_some() {
            return true;
        }
        let further = content[..self.start - before.len_utf8()]
            .chars()
            .next_back();
        if before.is_alphanumeric() || before == '_' || before == OPAQUE {
            return is_option_letter(&content[..self.start]);
        }
        match (&self.root, self.form) {
            // `%l:\ ` is a field of a format, `(s:/:)` a flag of an expansion.
            (Root::Drive(_), Form::Plain) if matches!(before, '%' | '.') => false,
            (Root::Drive(_), Form::Plain) if content[self.end..].starts_with("/:") => false,
            // The end of a host's name, or a host behind a user's: `node-d:/x`, `ines@d:/x`.
            (Root::Drive(_), Form::Plain) if matches!(before, '-' | '@') => {
                !further.is_some_and(char::is_alphanumeric)
            }
            (Root::Drive(_), Form::Plain) => {
                !is_separator(before) || (hint == Hint::KeyPath && before == '\\')
            }
            // A sign that turns a pattern round stands at a word's start.
            (Root::Posix, _) if matches!(before, '!' | '^') => {
                // `#!` names the interpreter of a script.
                further.is_none_or(|c| c.is_whitespace() || "\"'`=:,(#{".contains(c))
            }
            // What a build system fills in before it: `$<TARGET:x>/y`.
            (Root::Posix, _) if before == '>' && fills_in(&content[..self.start]) => false,
            // A file of arguments, or a path between signs.
            (Root::Posix, _) if matches!(before, '@' | '#') => {
                let begins = further.is_none_or(|c| c.is_whitespace() || "\"'`=,(".contains(c));
                let command = further.is_some_and(|c| "smyq".contains(c));
                let closed = closing_sign(content, self.start, content.len()).is_some();
                // In the strings of a program `@/` may stand for its own folder.
                let argument = match further {
                    None => matches!(hint, Hint::Word | Hint::Command { .. }),
                    Some(letter) => letter.is_whitespace() || letter == '=',
                };
                (closed && (begins || command)) || (before == '@' && argument)
            }
            (Root::Posix, _) if before == ':' => is_of_this_machine(&content[..self.start - 1]),
            (Root::Drive(_), Form::Slashed) => !"/\\.~}%$<-+&?#@)]*".contains(before),
            (Root::Posix, _) => !"/\\.~}%$<-+&?#@)]*".contains(before),
            // An address has two slashes behind its scheme, an option may have a share.
            (Root::Share { .. }, _) if before == ':' && self.lead_separator == Some('\\') => {
                let text = &content[..self.start - 1];
                let word = text.len() - text.trim_end_matches(char::is_alphanumeric).len();
                word > 1
            }
            _ => !is_separator(before) && before != ':' && before != ')' && before != ']',
        }
    }
}

/// What may come before a colon and a POSIX place without naming another machine: schemes of
/// local things, and the words of service managers.
const LOCAL_SCHEMES: [&str; 22] = [
    "append",
    "dir",
    "directory",
    "exec",
    "fd",
    "jar",
    "jdbc",
    "local",
    "path",
    "pipe",
    "regexp",
    "sqlite",
    "sqlite3",
    "socket",
    "static",
    "tee",
    "truncate",
    "unix",
    "vfs",
    "war",
    "yaml",
    "json",
];

/// Whether a POSIX place behind a colon is one of this machine, by what `text` has before the
/// colon: another place of a list, a variable, a scheme of local things. Anything else names
/// another machine (`host:/x`), or is a drive or a `file:` URI.
fn is_of_this_machine(text: &str) -> bool {
    let ends = |letter: char| letter.is_whitespace() || "\"'`=,;(|<>[{".contains(letter);
    let word = text.rsplit(ends).next().unwrap_or(text);
    let last = word.rsplit(['/', ':', '\\']).next().unwrap_or(word);
    if last.len() == 1 && last.as_bytes()[0].is_ascii_alphabetic() {
        // A drive, unless it is a name in a place of a list.
        let named = word.len() > 2 && word.ends_with(&format!("/{last}"));
        return named && !word.ends_with(&format!("//{last}"));
    }
    if word.contains("://") {
        return false;
    }
    let name = word.trim_start_matches('-');
    word.is_empty()
        || word.contains(['/', '\\'])
        || word.starts_with(['.', '~'])
        || word.contains(['$', '}', '%', '*'])
        || name.len() < word.len()
        || LOCAL_SCHEMES
            .iter()
            .any(|scheme| last.eq_ignore_ascii_case(scheme))
}

/// Whether `text` ends with a scheme of local databases and three slashes, behind which a path begins.
fn is_behind_scheme(text: &str) -> bool {
    const SCHEMES: [&str; 4] = ["sqlite", "sqlite3", "duckdb", "h2"];
    let scheme = text.strip_suffix(":///").unwrap_or("");
    let name = scheme.rsplit(|c: char| !c.is_ascii_alphanumeric()).next();
    SCHEMES.iter().any(|known| name == Some(known))
}

/// Where the expansion of a variable is closed in whose word a place begins at `start`:
/// `${V:-/x}`, `${V#/x}`.
pub(super) fn expansion_end(content: &str, start: usize) -> Option<usize> {
    let before = &content.as_bytes()[..start];
    let sign = before.last()?;
    if !b"-=+?#%".contains(sign) {
        return None;
    }
    const LONGEST: usize = 80;
    let from = start.saturating_sub(LONGEST);
    let open = memchr::memmem::rfind(&before[from..], b"${")? + from;
    let name = &before[open + 2..];
    let letters = |byte: &&u8| byte.is_ascii_alphanumeric() || **byte == b'_';
    let length = name.iter().take_while(letters).count();
    let operator = &name[length..];
    let known = matches!(operator, [b':', _] | [_] | [b'#', b'#'] | [b'%', b'%']);
    if length == 0 || !known {
        return None;
    }
    memchr::memchr(b'}', &content.as_bytes()[start..]).map(|close| start + close)
}

/// Where the sign right before `start` comes again in the same word: what opens a path closes it
/// (`@D:/x@`, `s#/x#/y#`). A word is looked at no further than 4,096 bytes.
pub(super) fn closing_sign(content: &str, start: usize, end: usize) -> Option<usize> {
    let open = content[..start].chars().next_back()?;
    if !"@#|!+".contains(open) {
        return None;
    }
    let mut word = content[start..end]
        .char_indices()
        .take_while(|(at, _)| *at < 4096);
    let ends = |c: char| c == open || c.is_whitespace() || "\"'".contains(c);
    let (close, letter) = word.find(|(_, letter)| ends(*letter))?;
    (letter == open).then_some(start + close)
}

/// Whether `text` ends with an expression of a build system: `$<TARGET:x>`.
fn fills_in(text: &str) -> bool {
    let word = text.rsplit(char::is_whitespace).next().unwrap_or(text);
    word.contains("$<")
}

/// Whether the `<` right before `start` is no bracket of a tag: a shell reads the file in
/// (`$(</x)`, `cat </x`), or a text marks a file by it (`F</x>`).
fn is_read_in(content: &str, start: usize) -> bool {
    let before = &content[..start - 1];
    let rest = &content[start..];
    let ends = |c: char| c.is_whitespace() || "\"'`)>".contains(c);
    let end = rest.find(ends).unwrap_or(rest.len());
    let bracket = rest[end..].starts_with('>');
    let mut back = before.chars().rev();
    match back.next() {
        Some('(') => before.ends_with("$("),
        Some('F' | 'C' | 'L') => bracket && !back.next().is_some_and(char::is_alphanumeric),
        Some(letter) => letter.is_whitespace() && !bracket && rest[1..end].contains('/'),
        None => false,
    }
}

/// Whether `text` ends with an option of one letter, after which its argument may come at once:
/// `-ID:\x`, `-L/srv/x`.
fn is_option_letter(text: &str) -> bool {
    let mut back = text.chars().rev();
    let letter = back.next().is_some_and(|c| c.is_ascii_alphabetic());
    let dash = back.next() == Some('-');
    let free = back
        .next()
        .is_none_or(|c| c.is_whitespace() || "\"'`=,;(".contains(c));
    letter && dash && free
}

/// The root that is spelled at offset `at` of `content`, whatever is before it.
#[inline]
pub(super) fn root_at(content: &str, at: usize) -> Option<RootAt> {
    let bytes = content.as_bytes();
    match bytes.get(at)? {
        // One backslash parts names, unless a prefix begins with it.
        b'\\' if !matches!(bytes.get(at + 1), Some(b'\\' | b'?' | b'.')) => None,
        b'\\' => backslash_root(content, at),
        b'/' => slash_root(content, at),
        letter if letter.is_ascii_alphabetic() => drive_at(bytes, at).map(|end| RootAt {
            start: at,
            end,
            root: Root::Drive(letter.to_ascii_uppercase() as char),
            form: Form::Plain,
            lead_doubling: None,
            lead_separator: None,
        }),
        _ => None,
    }
}

/// The end of `D:` at `at`, if a separator follows it.
fn drive_at(bytes: &[u8], at: usize) -> Option<usize> {
    (bytes.get(at)?.is_ascii_alphabetic()
        && bytes.get(at + 1) == Some(&b':')
        && matches!(bytes.get(at + 2), Some(b'\\' | b'/')))
    .then_some(at + 2)
}

/// A letter that every root has in it: where it is, where the root would begin, and where to
/// look on if none does.
pub(super) struct Candidate {
    pub(super) mark: usize,
    pub(super) start: usize,
    pub(super) beyond: usize,
}

/// The next place at or after `at` where a root may begin.
pub(super) fn next_candidate(bytes: &[u8], at: usize) -> Option<Candidate> {
    let mark = at + memchr::memchr3(b':', b'\\', b'/', bytes.get(at..)?)?;
    Some(match bytes[mark] {
        // A drive begins one before its colon.
        b':' => Candidate {
            mark,
            start: if mark > at { mark - 1 } else { mark },
            beyond: mark + 1,
        },
        // A run of separators is one thing: a place begins at its first or not at all.
        separator => Candidate {
            mark,
            start: mark,
            beyond: mark + run(bytes, mark, separator),
        },
    })
}

/// How often `letter` comes in a row from `at` on.
pub(super) fn run(bytes: &[u8], at: usize, letter: u8) -> usize {
    bytes[at.min(bytes.len())..]
        .iter()
        .take_while(|b| **b == letter)
        .count()
}

fn backslash_root(content: &str, at: usize) -> Option<RootAt> {
    let bytes = content.as_bytes();
    let lead = run(bytes, at, b'\\');
    let mark = at + lead;
    let found = |end, root, form, doubling| {
        Some(RootAt {
            start: at,
            end,
            root,
            form,
            lead_doubling: Some(doubling),
            lead_separator: Some('\\'),
        })
    };
    let Some(Lead {
        form,
        sign,
        doubling,
    }) = Form::of_lead(lead, &bytes[mark..])
    else {
        if lead < 2 {
            return None;
        }
        let (end, root) = share_at(content, mark, b'\\')?;
        return found(end, root, Form::Plain, (lead / 2).max(1));
    };
    let parting = run(bytes, mark + sign, b'\\');
    if parting == 0 {
        return None;
    }
    let name = mark + sign + parting;
    if bytes.get(name)?.is_ascii_alphabetic() && bytes.get(name + 1) == Some(&b':') {
        let letter = bytes[name].to_ascii_uppercase() as char;
        return found(name + 2, Root::Drive(letter), form, doubling);
    }
    let unc = content.get(name..name + 3)?;
    if form == Form::Device || !unc.eq_ignore_ascii_case("UNC") {
        return None;
    }
    let parting = run(bytes, name + 3, b'\\');
    if parting == 0 {
        return None;
    }
    let (end, root) = share_at(content, name + 3 + parting, b'\\')?;
    found(end, root, form, doubling)
}

fn slash_root(content: &str, at: usize) -> Option<RootAt> {
    let bytes = content.as_bytes();
    match run(bytes, at, b'/') {
        2 => {
            let (end, root) = share_at(content, at + 2, b'/')?;
            Some(RootAt {
                start: at,
                end,
                root,
                form: Form::Plain,
                lead_doubling: Some(1),
                lead_separator: Some('/'),
            })
        }
        1 if drive_at(bytes, at + 1).is_some_and(|end| bytes.get(end) == Some(&b'/')) => {
            Some(RootAt {
                start: at,
                end: at + 3,
                root: Root::Drive(bytes[at + 1].to_ascii_uppercase() as char),
                form: Form::Slashed,
                lead_doubling: None,
                lead_separator: Some('/'),
            })
        }
        // The absolute path of a database's address: `sqlite:////x`.
        4 if is_behind_scheme(&content[..at + 3]) => Some(RootAt {
            start: at + 3,
            end: at + 3,
            root: Root::Posix,
            form: Form::Plain,
            lead_doubling: None,
            lead_separator: None,
        }),
        1 => Some(RootAt {
            start: at,
            end: at,
            root: Root::Posix,
            form: Form::Plain,
            lead_doubling: None,
            lead_separator: None,
        }),
        _ => None,
    }
}

/// Server and share names from `at` on, and where the second ends.
fn share_at(content: &str, at: usize, separator: u8) -> Option<(usize, Root)> {
    let bytes = content.as_bytes();
    let server_end = at + name_length(&content[at..], false);
    let parting = run(bytes, server_end, separator);
    if server_end == at || parting == 0 {
        return None;
    }
    let share_start = server_end + parting;
    let share_end = share_start + name_length(&content[share_start..], true);
    let server = &content[at..server_end];
    let named = server.starts_with(|c: char| c.is_alphanumeric());
    if share_end == share_start || !named {
        return None;
    }
    Some((
        share_end,
        Root::Share {
            server: server.to_owned(),
            share: content[share_start..share_end].to_owned(),
        },
    ))
}

/// Length in bytes of a server's or share's name; the latter may end in `$`.
fn name_length(text: &str, share: bool) -> usize {
    text.char_indices()
        .find(|(_, c)| {
            !(c.is_alphanumeric() || "-_.".contains(*c) || (share && *c == '$')) || *c == OPAQUE
        })
        .map_or(text.len(), |(at, _)| at)
}
