//! Finding places inside a decoded string, and telling them from what only looks like one.

use super::doubt::{flaw, lone};
use super::extent::measure;
use super::field::{Field, FieldKind, fields};
use super::found::{Flaw, Found, Stands};
use super::hint::Hint;
use super::may_hold_place;
use super::root::{RootAt, next_candidate, root_at};
use super::variable_root::variable_between;
use crate::place::Place;

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
        if !may_hold_place(content) && !hint.names_drive() {
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
            let beyond = root.end.max(root.start + 1);
            // In running text no more than the start of the next place matters.
            if field.kind == FieldKind::Prose {
                upcoming = self.next_root(content, beyond, end, hint);
            }
            let next = upcoming.as_ref().map(|(next, _)| next.end);
            let mut found = measure(content, field, next, &root, base, hint);
            found.flaw = flaw(content, field, &root, hint);
            if let Some((Flaw::DoubledDrive, extra)) = &found.flaw {
                found.start = extra.start;
            }
            // Inside a place that ends for certain nothing else begins.
            at = match found.firm_end {
                Some(firm) if found.stands != Stands::Argument => {
                    firm.min(found.hard_end).max(root.end)
                }
                _ => root.end,
            }
            .max(root.start + 1);
            all.push(found);
            let passed = upcoming.as_ref().is_none_or(|(next, _)| next.start < at);
            if passed && (at > beyond || field.kind != FieldKind::Prose) {
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
            if let Some(found) = variable_between(self.variables, content, at, stop) {
                return Some(found);
            }
            let next = next?;
            if let Some(root) = root_at(content, next.start)
                && root.end <= end
                && root.stands_free(content, hint)
                && !(hint.may_hold_escapes() && root.is_escape(content))
            {
                return Some((root, Vec::new()));
            }
            at = next.beyond;
        }
        None
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::scan::Key;
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
        let cases: [(&str, &[&str]); 55] = [
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
            ("sqlite:///D:/x", &[r"D:\x"]),
            ("sqlite:////srv/x", &["/srv/x"]),
            ("$(</srv/x)", &["/srv/x)"]),
            (r#""match x:\n""#, &[]),
            (r#""x:\n\n""#, &[]),
            (r#""%s:\n""#, &[]),
            (r"x:\new", &[r"X:\new"]),
            // Other machines.
            ("host:/srv/x", &[]),
            ("ines@host:/srv/x", &[]),
            ("s3:/srv/x", &[]),
            ("/srv/a:/srv/b", &["/srv/a", "/srv/b"]),
            (r"D:\a|E:\b", &[r"D:\a", r"E:\b"]),
            (r"D:\Herbarium\*.tif", &[r"D:\Herbarium"]),
            // Decoys.
            (r"%f:%l:\ %m", &[]),
            ("${(s:/:)x}", &[]),
            ("node-d:/srv/x", &[]),
            ("ines@d:/srv/x", &[]),
            (r"(main.c:\ 12)", &[]),
            (r"o:\n\nPress", &[]),
            (r"x -D:\a", &[r"D:\a"]),
            ("@D:/a/x@ @/srv/x@", &[r"D:\a\x", "/srv/x"]),
            ("curl -d @/srv/x", &["/srv/x"]),
            ("s#/srv/x#/y#", &["/srv/x"]),
            ("x#/srv/x", &[]),
            ("from '@/srv/x'", &[]),
            ("ines@/srv/x", &[]),
            ("tr a b </srv/x/y", &["/srv/x/y"]),
            ("see F</srv/x>, <b> </srv/x> and </b>", &["/srv/x"]),
            ("${PATH:+$PATH:}/srv/x", &["/srv/x"]),
            ("<p> </p> </div", &[]),
            ("${A}/srv/x", &[]),
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
            assert_eq!(found(content, Hint::Prose), expected, "{content}");
        }
    }

    #[test]
    fn places_in_values() {
        let value = Hint::for_value("root");
        let cases: [(&str, Hint, &[&str]); 10] = [
            (r"D:\Herbarium Old, 2", value, &[r"D:\Herbarium Old, 2"]),
            (r"D:\a;E:\b c", value, &[r"D:\a", r"E:\b c"]),
            (
                r"\\mossbank\plant press (old)\x",
                value,
                &[r"\\mossbank\plant press (old)\x"],
            ),
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
        let found = found(r"Software\Recent\D:/Sheets/x", Hint::KeyPath);
        assert_eq!(found, [r"D:\Sheets\x"]);
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
            let found = &Finder::default().find(content, Hint::Prose)[0];
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
            let found = &finder.find(content, Hint::Prose)[0];
            let place = found.place_until(content, found.hard_end);
            assert_eq!(place.to_string(), r"C:\Users\ines\Sheets", "{content}");
        }
        assert!(finder.find(r"%OTHER%\Sheets", Hint::Prose).is_empty());
    }

    const HINTS: [Hint; 6] = [
        Hint::Prose,
        Hint::Name,
        Hint::KeyPath,
        Hint::COMMAND,
        Hint::Word,
        Hint::Value(Key {
            command: true,
            drive: true,
        }),
    ];

    proptest! {
        #[test]
        fn finds_are_in_order_and_in_bounds(
            content in r#"([A-Za-z0-9é :;=,.'"\\/?%$\n\x00-]|[DE]:\\|\\\\srv\\|\\\\\?\\){0,40}"#,
            hint in prop::sample::select(HINTS.to_vec()),
        ) {
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
