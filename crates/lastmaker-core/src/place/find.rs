//! Finding places inside a decoded string, and telling them from what only looks like one.

use std::ops::Range;

use super::context::{Field, FieldKind, Hint, argument_at, fields};
use super::parse::{Components, is_separator};
use super::root::{RootAt, next_candidate, root_at, run};
use super::{DriveFolder, Form, OPAQUE, Place, Root, Spelling};

/// Why a find is no plain place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Doubt {
    /// `D:name`: relative to whatever folder is current on that drive.
    DriveRelative,
    /// A lone letter beside a key such as *drive*.
    LoneLetter,
}

/// What is evidently wrong with how a place is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Flaw {
    /// `D:D:\x`
    DoubledDrive,
    /// A quote without a second one.
    StrayQuote,
    /// A blank at the end of a value, which belongs to no name.
    TrailingBlank,
}

impl Flaw {
    /// A sentence for people.
    pub fn sentence(self) -> &'static str {
        match self {
            Self::DoubledDrive => "its drive is written twice, so no program finds it",
            Self::StrayQuote => "a quote stands beside it that nothing closes",
            Self::TrailingBlank => "a blank stands behind it that belongs to no name",
        }
    }
}

/// A name between separators, as a byte range of the content; never empty.
pub type Token = Range<usize>;

/// A place as it stands in a decoded string. All offsets are bytes of the content.
#[derive(Clone, Debug)]
pub struct Found {
    /// Where the spelling of the place begins.
    pub start: usize,
    /// Where its root ends: behind `D:`, behind the share's name, before the `/`.
    pub root_end: usize,
    /// The root.
    pub root: Root,
    /// Components that the root stands for already: those of a variable's value.
    pub base: Vec<String>,
    /// How it is written.
    pub spelling: Spelling,
    /// The names up to `hard_end`.
    pub tokens: Vec<Token>,
    /// Where the place ends at the latest.
    pub hard_end: usize,
    /// Where the next place of the same field begins: in running text this one, if it is a
    /// place by itself, ends before.
    pub next: Option<usize>,
    /// Where it ends for certain, if its surroundings say so.
    pub firm_end: Option<usize>,
    /// Whether it is an argument without quotes, so that a blank would cut it in two.
    pub bare_argument: bool,
    /// Whether the field is this place and nothing else, or the place stands in quotes.
    pub delimited: bool,
    /// Why it is no plain place.
    pub doubt: Option<Doubt>,
    /// What is evidently wrong with it, and the letters that are too many.
    pub flaw: Option<(Flaw, Range<usize>)>,
}

impl Found {
    /// The place as it reads if it ends at offset `end` of `content`.
    pub fn place_until(&self, content: &str, end: usize) -> Place {
        let windows = self.root.is_windows();
        let mut components = Components::new(self.spelling.form.folds(), windows);
        components.names.clone_from(&self.base);
        for token in &self.tokens {
            if token.start >= end {
                break;
            }
            components.push(&content[token.start..token.end.min(end)]);
        }
        Place {
            root: self.root.clone(),
            components: components.names,
        }
    }

    /// What else it may name: a drive where it is written as a folder among other systems'
    /// places (`/mnt/d/x`), and the drive behind an administrative share (`\\host\D$\x`).
    pub fn other_reading(&self, content: &str) -> Option<Self> {
        let drive = |text: &str| match text.as_bytes() {
            [letter] if letter.is_ascii_alphabetic() => Some(*letter as char),
            _ => None,
        };
        if self.spelling.form != Form::Plain || !self.base.is_empty() {
            return None;
        }
        if let Root::Share { share, .. } = &self.root {
            let letter = drive(share.strip_suffix('$')?)?;
            return Some(Self {
                root: Root::Drive(letter.to_ascii_uppercase()),
                ..self.clone()
            });
        }
        if self.root.is_windows() {
            return None;
        }
        let name = |index: usize| self.tokens.get(index).map(|token| &content[token.clone()]);
        let (folder, skip) = match name(0)? {
            "mnt" => (DriveFolder::Mnt, 1),
            "cygdrive" => (DriveFolder::Cygdrive, 1),
            _ => (DriveFolder::Root, 0),
        };
        let letter = drive(name(skip)?)?;
        Some(Self {
            root_end: self.tokens[skip].end,
            root: Root::Drive(letter.to_ascii_uppercase()),
            spelling: Spelling {
                form: Form::Folder(folder),
                separator: Some('/'),
                doubling: 1,
                lower_drive: letter.is_ascii_lowercase(),
            },
            tokens: self.tokens[skip + 1..].to_vec(),
            ..self.clone()
        })
    }

    /// The same find seen from `end`, behind its first `tokens` names, as if `base` were
    /// written up to there.
    pub fn translated(&self, end: usize, tokens: usize, base: &Place) -> Self {
        Self {
            spelling: Spelling {
                form: match self.spelling.form {
                    Form::Variable => Form::Plain,
                    form => form,
                },
                ..self.spelling
            },
            root_end: end,
            root: base.root.clone(),
            base: base.components.clone(),
            tokens: self.tokens[tokens..].to_vec(),
            ..self.clone()
        }
    }
}

/// Whether no name goes on behind this letter.
fn is_hard(letter: char) -> bool {
    letter.is_control() || matches!(letter, '"' | '<' | '>' | '|' | '*' | '?' | ':')
}

/// A string with as many places in it is meant to exhaust the memory; the rest of it is not
/// looked at.
pub const MOST_FINDS: usize = 1_000_000;

/// Finds places in decoded strings.
#[derive(Clone, Copy, Debug, Default)]
pub struct Finder<'a> {
    /// Names of variables and the places that they stand for.
    pub variables: &'a [(String, Place)],
}

impl Finder<'_> {
    /// Every place in `content`, in order of where it begins.
    pub fn find(&self, content: &str, hint: Hint) -> Vec<Found> {
        let mut all = Vec::new();
        if memchr::memchr3(b':', b'\\', b'/', content.as_bytes()).is_none() && !hint.drive {
            return all;
        }
        for field in fields(content, hint) {
            if all.len() >= MOST_FINDS {
                break;
            }
            self.find_in_field(content, &field, hint, &mut all);
        }
        all
    }

    fn find_in_field(&self, content: &str, field: &Field, hint: Hint, all: &mut Vec<Found>) {
        if field.kind == FieldKind::Whole
            && let Some(found) = lone(content, field, hint)
        {
            all.push(found);
            return;
        }
        let mut at = field.range.start;
        let first = all.len();
        let end = field.range.end;
        let mut upcoming = self.next_root(content, at, end, hint);
        while let Some((root, base)) = upcoming.take() {
            if at >= end || all.len() >= MOST_FINDS {
                break;
            }
            let behind = root.end.max(root.start + 1);
            // In running text no more than the start of the next place matters.
            if field.kind == FieldKind::Prose {
                upcoming = self.next_root(content, behind, end, hint);
            }
            let next = upcoming.as_ref().map(|(next, _)| next.end);
            let mut found = self.measure(content, (field, next), &root, base, hint);
            found.flaw = flaw(content, field, &root, hint);
            if let Some((Flaw::DoubledDrive, extra)) = &found.flaw {
                found.start = extra.start;
            }
            // Inside a place that ends for certain nothing else begins.
            at = match found.firm_end {
                Some(firm) if !found.bare_argument => firm.min(found.hard_end).max(root.end),
                _ => root.end,
            }
            .max(root.start + 1);
            all.push(found);
            let passed = upcoming.as_ref().is_none_or(|(next, _)| next.start < at);
            if passed && (at > behind || field.kind != FieldKind::Prose) {
                upcoming = self.next_root(content, at, end, hint);
            }
        }
        for index in first..all.len().saturating_sub(1) {
            all[index].next = Some(all[index + 1].start);
        }
    }

    /// The next root in `content[at..end]` before which a place may begin.
    fn next_root(
        &self,
        content: &str,
        mut at: usize,
        end: usize,
        hint: Hint,
    ) -> Option<(RootAt, Vec<String>)> {
        let bytes = &content.as_bytes()[..end];
        while at < end {
            let next = next_candidate(bytes, at);
            let stop = next.as_ref().map_or(end, |next| next.mark);
            if let Some(found) = self.variable_between(content, at, stop) {
                return Some(found);
            }
            let next = next?;
            if let Some(root) = root_at(content, next.start)
                && root.end <= end
                && root.stands_free(content, hint.behind_backslash)
            {
                return Some((root, Vec::new()));
            }
            at = next.behind;
        }
        None
    }

    /// How far the place at `root` reaches, and how it is spelled.
    fn measure(
        &self,
        content: &str,
        (field, next): (&Field, Option<usize>),
        root: &RootAt,
        base: Vec<String>,
        hint: Hint,
    ) -> Found {
        let bytes = content.as_bytes();
        let windows = root.root.is_windows();
        let (limit, mut firm_end, bare_argument) = match field.kind {
            FieldKind::Whole => (field.range.end, Some(field.range.end), false),
            FieldKind::Command => {
                let argument = argument_at(content, &field.range, root.start);
                if argument.quoted {
                    (argument.end, Some(argument.end), false)
                } else {
                    (field.range.end, Some(argument.end), true)
                }
            }
            FieldKind::Prose => match closing_quote(content, root.start, field.range.end) {
                Some(close) => (close, Some(close), false),
                None => (field.range.end, None, false),
            },
        };
        let delimited = firm_end.is_some() && !bare_argument;
        let longest = if delimited { LONGEST } else { LONGEST_IN_PROSE };
        let mut limit = limit.min(root.end.saturating_add(longest));
        if let (None, Some(next)) = (firm_end, next) {
            limit = limit.min(next + char::MAX.len_utf8());
        }
        let limit = floor_boundary(content, limit);
        let limit = limit.max(root.end);
        let hard_end = content[root.end..limit]
            .char_indices()
            .find(|(_, c)| is_hard(*c))
            .map_or(limit, |(at, _)| root.end + at);
        firm_end = firm_end.map(|firm| firm.min(hard_end));
        let parts = |b: u8| b == b'/' || (b == b'\\' && windows);
        let mut tokens = Vec::new();
        let mut at = root.end;
        while at < hard_end {
            let start = at
                + bytes[at..hard_end]
                    .iter()
                    .take_while(|b| parts(**b))
                    .count();
            let end = start
                + bytes[start..hard_end]
                    .iter()
                    .take_while(|b| !parts(**b))
                    .count();
            if end > start {
                tokens.push(start..end);
            }
            at = end;
        }
        let behind = bytes.get(root.end).copied().filter(|b| parts(*b));
        let spelling = Spelling {
            form: root.form,
            separator: if windows {
                root.lead_separator.or(behind.map(char::from))
            } else {
                None
            }
            .or(hint.slashes.then_some('/')),
            doubling: if windows {
                root.lead_doubling
                    .or(behind.map(|b| run(bytes, root.end, b)))
                    .unwrap_or(1)
            } else {
                1
            },
            lower_drive: matches!(root.root, Root::Drive(_))
                && content[root.start..root.end]
                    .trim_end_matches(':')
                    .ends_with(|c: char| c.is_ascii_lowercase()),
        };
        Found {
            start: root.start,
            root_end: root.end,
            root: root.root.clone(),
            base,
            spelling,
            tokens,
            hard_end,
            next: None,
            firm_end,
            bare_argument,
            delimited,
            doubt: None,
            flaw: None,
        }
    }
}

/// What is evidently wrong with the place at `root`.
fn flaw(content: &str, field: &Field, root: &RootAt, hint: Hint) -> Option<(Flaw, Range<usize>)> {
    let start = root.start;
    if let Root::Drive(letter) = root.root
        && root.form == Form::Plain
        && let Some(extra) = start.checked_sub(2)
        && content.is_char_boundary(extra)
        && content[extra..start].eq_ignore_ascii_case(&format!("{letter}:"))
    {
        // Behind a slash or a dash it is an option: `/D:D:\x`.
        let before = content[..extra].chars().next_back();
        if before.is_none_or(|c| !c.is_alphanumeric() && !"/-_\\".contains(c)) {
            return Some((Flaw::DoubledDrive, extra..start));
        }
    }
    if field.kind != FieldKind::Whole || !root.root.is_windows() {
        return None;
    }
    if let Some(quote) = &field.stray_quote {
        return Some((Flaw::StrayQuote, quote.clone()));
    }
    let text = &content[field.range.clone()];
    let blank = field.range.start + text.trim_end_matches(' ').len();
    // Only what is alone in its value is measured so exactly.
    let alone = field.range.end == content.len() && hint.exact && !content.contains(['\n', ';']);
    (alone && blank < field.range.end && blank > root.end)
        .then_some((Flaw::TrailingBlank, blank..field.range.end))
}

/// No place is longer than this, in bytes: Windows stops at 32,767 UTF-16 units.
const LONGEST: usize = 96 * 1024;
/// In running text one is given up sooner, so that a line of a million letters costs little.
const LONGEST_IN_PROSE: usize = 4096;

/// The last boundary of a letter at or before `at`.
fn floor_boundary(content: &str, at: usize) -> usize {
    (0..=at.min(content.len()))
        .rev()
        .find(|at| content.is_char_boundary(*at))
        .unwrap_or(0)
}

/// The quote that closes the one right before `start`, on the same line.
fn closing_quote(content: &str, start: usize, end: usize) -> Option<usize> {
    let open = content[..start].chars().next_back()?;
    let close = match open {
        '"' | '\'' | '`' => open,
        '\u{201C}' | '\u{201E}' => '\u{201D}',
        '\u{2018}' => '\u{2019}',
        '\u{ab}' => '\u{bb}',
        _ => return None,
    };
    // A double quote stands in no name, so it is soon found; others may stand in many.
    let longest = if close == '"' {
        LONGEST
    } else {
        LONGEST_IN_PROSE
    };
    let end = floor_boundary(content, end.min(start + longest)).max(start);
    content[start..end]
        .match_indices(close)
        .map(|(at, _)| start + at)
        .find(|at| {
            // An apostrophe inside a name closes nothing.
            close != '\''
                || !content[at + 1..].starts_with(|c: char| c.is_alphanumeric() || c == OPAQUE)
        })
}

/// A field that is only `D:`, `D:name`, or a letter beside a key that says drive.
fn lone(content: &str, field: &Field, hint: Hint) -> Option<Found> {
    let text = &content[field.range.clone()];
    let letter = text.chars().next().filter(char::is_ascii_alphabetic)?;
    let rest = &text[1..];
    let (root_end, doubt) = match rest.strip_prefix(':') {
        Some(tail) if tail.trim_end().is_empty() => (2, None),
        Some(tail) if tail.starts_with(is_separator) => return None,
        Some(tail) => {
            // More colons or an odd letter: a time, a ratio, a label, but no path.
            let named = tail.starts_with(|c: char| c.is_alphanumeric() || c == '.' || c == '_');
            if !named || tail.contains(is_hard) {
                return None;
            }
            (2, Some(Doubt::DriveRelative))
        }
        None if hint.drive && rest.trim_end().is_empty() => (1, Some(Doubt::LoneLetter)),
        None => return None,
    };
    let start = field.range.start;
    let token = start + root_end..field.range.end;
    Some(Found {
        start,
        root_end: start + root_end,
        root: Root::Drive(letter.to_ascii_uppercase()),
        base: Vec::new(),
        spelling: Spelling {
            form: Form::Plain,
            separator: None,
            doubling: 1,
            lower_drive: letter.is_ascii_lowercase(),
        },
        tokens: if doubt == Some(Doubt::DriveRelative) {
            vec![token]
        } else {
            Vec::new()
        },
        hard_end: field.range.end,
        next: None,
        firm_end: Some(field.range.end),
        bare_argument: false,
        delimited: true,
        doubt,
        flaw: None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn found(content: &str, hint: Hint) -> Vec<String> {
        Finder::default()
            .find(content, hint)
            .iter()
            .map(|f| {
                let end = f
                    .firm_end
                    .unwrap_or(f.hard_end.min(f.next.unwrap_or(f.hard_end)));
                f.place_until(content, end).to_string()
            })
            .collect()
    }

    #[test]
    fn places_in_running_text() {
        let cases: [(&str, &[&str]); 26] = [
            (r"root=D:\Herbarium\2019", &[r"D:\Herbarium\2019"]),
            (r"d:/herbarium", &[r"D:\herbarium"]),
            (r"see 'D:\a b' there", &[r"D:\a b"]),
            (r"don't D:\a's", &[r"D:\a's"]),
            (r#"x="D:\a b\c" y"#, &[r"D:\a b\c"]),
            (r"\\mossbank\press\x", &[r"\\mossbank\press\x"]),
            (r"\\\\mossbank\\press\\x", &[r"\\mossbank\press\x"]),
            ("//mossbank/press/x", &[r"\\mossbank\press\x"]),
            (r"\\?\D:\x", &[r"D:\x"]),
            (r"\\\\?\\D:\\x", &[r"D:\x"]),
            (r"\\?\UNC\mossbank\press\x", &[r"\\mossbank\press\x"]),
            (r"\??\D:\x and \\.\E:\y", &[r"D:\x and", r"E:\y"]),
            ("in /srv/herbarium", &["/srv/herbarium"]),
            (r"jdbc:sqlite:D:/x", &[r"D:\x"]),
            (r"D:\a|E:\b", &[r"D:\a", r"E:\b"]),
            (r"D:\Herbarium\*.tif", &[r"D:\Herbarium"]),
            // Decoys.
            ("http://d:/x", &[]),
            ("https://mossbank/press", &[]),
            ("Grade D: fair", &[]),
            (r"abcD:\x", &[]),
            ("std::fs", &[]),
            ("12:30/45", &[]),
            (r"foo\\bar\baz", &[]),
            ("and/or", &[]),
            ("</b> ./x ../y ~/z", &[]),
            ("\u{e9}D:\\x", &[]),
        ];
        for (content, expected) in cases {
            assert_eq!(found(content, Hint::default()), expected, "{content}");
        }
    }

    #[test]
    fn places_in_values() {
        let value = Hint::for_value("root");
        let cases: [(&str, Hint, &[&str]); 9] = [
            (r"D:\Herbarium Old, 2", value, &[r"D:\Herbarium Old, 2"]),
            (r"D:\a;E:\b c", value, &[r"D:\a", r"E:\b c"]),
            ("/srv/a:/srv/b", value, &["/srv/a", "/srv/b"]),
            ("D:", value, &[r"D:\"]),
            ("D", Hint::for_value("drive"), &[r"D:\"]),
            ("D", value, &[]),
            (r"--data=D:\a -v", value, &[r"D:\a"]),
            (
                r#""D:\p q\v.exe" --in D:\a --out "E:\b c""#,
                value,
                &[r"D:\p q\v.exe", r"D:\a", r"E:\b c"],
            ),
            ("D: 12:30", value, &[]),
        ];
        for (content, hint, expected) in cases {
            assert_eq!(found(content, hint), expected, "{content}");
        }
        let key = Hint {
            behind_backslash: true,
            ..Hint::for_name()
        };
        assert_eq!(found(r"Software\Recent\D:/Sheets/x", key), [r"D:\Sheets\x"]);
    }

    #[test]
    fn spelling_is_read_from_the_prefix() {
        let cases = [
            (r"D:\x", Some('\\'), 1, false),
            ("d:/x", Some('/'), 1, true),
            (r"D:\\\\x\\\\y", Some('\\'), 4, false),
            (r"\\\\mossbank\\press", Some('\\'), 2, false),
            (r"\\\\?\\d:\\x", Some('\\'), 2, true),
        ];
        for (content, separator, doubling, lower_drive) in cases {
            let found = &Finder::default().find(content, Hint::default())[0];
            let s = found.spelling;
            assert_eq!(
                (s.separator, s.doubling, s.lower_drive),
                (separator, doubling, lower_drive),
                "{content}"
            );
        }
    }

    #[test]
    fn variables_stand_for_their_places() {
        let variables = [(
            "USERPROFILE".to_owned(),
            Place::parse(r"C:\Users\ines").unwrap(),
        )];
        let finder = Finder {
            variables: &variables,
        };
        for content in [
            r"%UserProfile%\Sheets",
            "${USERPROFILE}/Sheets",
            "$USERPROFILE/Sheets",
        ] {
            let found = &finder.find(content, Hint::default())[0];
            let place = found.place_until(content, found.hard_end);
            assert_eq!(place.to_string(), r"C:\Users\ines\Sheets", "{content}");
        }
        assert!(finder.find(r"%OTHER%\Sheets", Hint::default()).is_empty());
    }

    proptest! {
        #[test]
        fn finds_are_in_order_and_in_bounds(
            content in r#"([A-Za-z0-9é :;=,.'"\\/?%$\n\x00-]|[DE]:\\|\\\\srv\\|\\\\\?\\){0,40}"#,
            value: bool, command: bool, drive: bool,
        ) {
            let hint = Hint { value, command, drive, ..Hint::default() };
            let mut last = 0;
            for found in Finder::default().find(&content, hint) {
                prop_assert!(last <= found.start && found.start <= found.root_end);
                prop_assert!(found.root_end <= found.hard_end && found.hard_end <= content.len());
                prop_assert!(found.firm_end.is_none_or(|firm| firm <= found.hard_end));
                for token in &found.tokens {
                    prop_assert!(content.get(token.clone()).is_some_and(|name| !name.is_empty()));
                }
                last = found.start;
            }
        }
    }
}
