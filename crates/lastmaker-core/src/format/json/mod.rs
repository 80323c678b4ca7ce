//! JSON (RFC 8259), with comments and trailing commas tolerated, and one document after
//! another (JSON lines).
//!
//! Yields keys, string values and comments. Leaves numbers and literals. A document that
//! breaks the grammar is read on: its sound strings are yielded as always, text outside of
//! strings as stray, and strings with evidently undoubled backslashes as typed by hand.

mod frames;
mod walk;

use std::sync::Arc;

use self::walk::Walk;
use super::{Claim, Format, Grammar, Passage, Reader, Records, Sample, Subject};
use crate::about::About;
use crate::codec::{Escaped, JSON, Style};
use crate::layer::{Layers, alone};
use crate::text::Encoding;

/// JSON and its tolerated dialects.
pub(super) struct Json;

const ABOUT: About = About {
    name: "json",
    what: "JSON, with comments and trailing commas tolerated, and JSON lines",
    content: "a brace or bracket at its start, and the grammar kept",
    names: &[".json", ".jsonc", ".jsonl", ".ndjson", ".geojson"],
    read: "keys, strings and comments, with escapes as the document has them",
    limits: "a string with undoubled backslashes is malformed (rewrite --repair mends it)",
};

impl Format for Json {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let (text, file_name) = (subject.text, subject.file_name);
        if ABOUT.is_named(file_name) {
            return Claim::Certain;
        }
        if begins(text) {
            Claim::Perhaps
        } else {
            Claim::No
        }
    }

    // One document may follow another, line by line.
    fn is_local(&self) -> bool {
        true
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[Sample::new(
            "a.json",
            "{\"a\": \"b\"}\n",
            "{\"a\": \"",
            "\"}\n",
        )];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        let document = Style::of(text, &JSON, Style::default());
        Box::new(Wrappings {
            string: alone(Escaped {
                escapes: &JSON,
                document,
            }),
            plain: Arc::new([]),
        })
    }
}

/// A document's reader: the layers of each kind of string in it.
struct Wrappings {
    string: Layers,
    plain: Layers,
}

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        Walk::new(self, text, each).read(false)
    }

    fn passages_if_kept(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        Walk::new(self, text, each).read(true)
    }

    fn whole_records(&self, text: &str, _: u64) -> Option<Records> {
        let end = Walk::new(self, text, &mut |_| {}).last_line_outside()?;
        Some(Records { end, count: 0 })
    }
}

/// The text after the blanks and comments that it begins with.
fn behind_comments(text: &str) -> &str {
    let mut rest = text.trim_start();
    loop {
        let end = if rest.starts_with("//") {
            rest.find('\n')
        } else if rest.starts_with("/*") {
            rest.find("*/").map(|at| at + 2)
        } else {
            return rest;
        };
        rest = end.map_or("", |end| &rest[end..]).trim_start();
    }
}

/// Whether `text` begins as an object or a list does; the head of a section is no list.
fn begins(text: &str) -> bool {
    let text = behind_comments(text);
    let Some(object) = text.strip_prefix('{') else {
        let item = |rest: &str| {
            let words = ["true", "false", "null"];
            rest.is_empty()
                || rest.starts_with(|c: char| "\"{[]-".contains(c) || c.is_ascii_digit())
                || words.iter().any(|word| rest.starts_with(word))
        };
        let list = text.strip_prefix('[').map(behind_comments);
        return list.is_some_and(item);
    };
    let first = behind_comments(object);
    first.is_empty() || first.starts_with(['"', '}'])
}

#[cfg(test)]
mod tests {
    use super::super::{Role, recognise, site_text};
    use super::*;

    fn read(text: &str) -> (Vec<(String, String, &'static str)>, bool) {
        let mut all = Vec::new();
        let grammar = Json.passages(text, Encoding::Utf8, &mut |passage| {
            let role = match passage.role {
                Role::Value => "value",
                Role::Name { .. } => "name",
                Role::Prose => "prose",
                Role::Stray => "stray",
                Role::Undoubled => "by hand",
                Role::Torn { .. } | Role::Mixed | Role::Counted | Role::Foreign(_) => "mixed",
            };
            all.push((
                site_text(passage.site),
                text[passage.span.clone()].to_owned(),
                role,
            ));
        });
        (all, grammar == Grammar::Kept)
    }

    #[test]
    fn passages_and_their_sites() {
        let text = r#"{"a": {"b": ["x", "y"], "c": 1}, /* note */ "d": "z"}"#;
        let (all, fine) = read(text);
        assert!(fine);
        let got: Vec<_> = all
            .iter()
            .map(|(s, t, r)| (s.as_str(), t.as_str(), *r))
            .collect();
        assert_eq!(
            got,
            [
                ("a", "a", "name"),
                ("a.b", "b", "name"),
                ("a.b[0]", "x", "value"),
                ("a.b[1]", "y", "value"),
                ("a.c", "c", "name"),
                ("", " note ", "prose"),
                ("d", "d", "name"),
                ("d", "z", "value"),
            ]
        );
    }

    #[test]
    fn documents_that_break_the_grammar_are_read_on() {
        let cases = [
            (r#"{"a": "D:\new"}"#, "by hand", true),
            (r#"{"a": "D:\Herbarium"}"#, "by hand", false),
            (r#"{"a": 'D:\x', "b": 1}"#, "stray", false),
            ("{\"a\": \"D:\\\\x\n}", "stray", false),
            (r#"{"a": "\q"}"#, "stray", false),
        ];
        for (text, role, fine) in cases {
            let (all, got) = read(text);
            assert_eq!((all[1].2, got), (role, fine), "{text}");
        }
        assert!(!read(r#"{"a": [1, 2}"#).1);
        assert!(!read(r#"{"a" 1}"#).1);
        assert!(!read(r#"[1,,2]"#).1);
        assert!(read(r#"[1,2,]"#).1);
    }

    #[test]
    fn ways_of_kept_passages_are_bounded() {
        let strings = vec!["\"/x\""; 3000].join(",");
        let deep = "[".repeat(3000) + &strings + &"]".repeat(3000);
        let known = recognise(&deep, "a.dat", Encoding::Utf8, None);
        let mut count = 0;
        known.passages.unwrap().each(&mut |passage| {
            count += 1;
            assert!(passage.site.len() < 40, "{}", passage.site.len());
            assert!(site_text(passage.site).starts_with('\u{2026}'));
        });
        assert_eq!(count, 3000);
    }

    #[test]
    fn nesting_costs_no_stack() {
        let deep = "[".repeat(200_000) + &"]".repeat(200_000);
        assert!(read(&deep).1);
    }
}
