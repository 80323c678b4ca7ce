//! The parts of a page, each of an item of a document.

use std::collections::HashMap;

use serde::Serialize;
use serde_json::Value;

use super::document::{at, counted, digits, items, number, text};
use crate::render::check::on_way;
use crate::render::common::common;
use crate::render::{bytes, count, grouped};
use crate::ui::shown;

/// How many differences of one pair are on the page.
const DIFFERENCES: usize = 500;

/// How many files are named that name what is gone.
const NAMED: usize = 6;

#[derive(Serialize)]
pub(super) struct Move {
    pub(super) from: String,
    pub(super) to: String,
    pub(super) references: String,
    pub(super) files: String,
    pub(super) new_places: String,
    pub(super) existing: String,
    pub(super) mind: bool,
}

#[derive(Serialize)]
pub(super) struct Pair {
    pub(super) old: String,
    pub(super) new: String,
    pub(super) sizes: String,
    pub(super) verdict: &'static str,
    pub(super) mind: bool,
    pub(super) differences: Vec<Difference>,
    pub(super) more: String,
}

#[derive(Serialize)]
pub(super) struct Difference {
    pub(super) kind: &'static str,
    pub(super) path: String,
    pub(super) why: String,
}

#[derive(Serialize)]
pub(super) struct Missing {
    pub(super) folder: String,
    pub(super) places: String,
}

#[derive(Serialize)]
pub(super) struct Dangling {
    pub(super) place: String,
    pub(super) cause: &'static str,
    pub(super) references: String,
    pub(super) cures: Vec<Cure>,
    pub(super) named_in: String,
}

#[derive(Serialize)]
pub(super) struct Cure {
    pub(super) place: String,
    pub(super) why: String,
}

#[derive(Serialize)]
pub(super) struct Item {
    pub(super) at: String,
    pub(super) text: String,
    pub(super) why: String,
    pub(super) right: String,
}

#[derive(Serialize)]
pub(super) struct Left {
    pub(super) file: String,
    pub(super) why: String,
}

#[derive(Serialize)]
pub(super) struct Changed {
    pub(super) name: String,
    pub(super) format: String,
    pub(super) changes: Vec<Change>,
}

#[derive(Serialize)]
pub(super) struct Change {
    pub(super) at: String,
    pub(super) before: [String; 3],
    pub(super) after: [String; 3],
}

/// How many of a list are not on the page.
pub(super) fn more(all: usize, most: usize) -> String {
    match all.saturating_sub(most) {
        0 => String::new(),
        rest => format!("{} more; --format csv lists all.", grouped(rest)),
    }
}

pub(super) fn moved(one: &Value) -> Move {
    Move {
        from: text(one, "from"),
        to: text(one, "to"),
        references: digits(one, "references"),
        files: digits(one, "files"),
        new_places: digits(one, "new_places"),
        existing: digits(one, "existing"),
        mind: number(one, "existing") < number(one, "new_places"),
    }
}

pub(super) fn left(one: &Value) -> Left {
    Left {
        file: text(one, "file"),
        why: text(one, "why"),
    }
}

pub(super) fn item(one: &Value) -> Item {
    let first = items(one, "suggestions").first();
    let before = text(one, "before");
    Item {
        at: format!("{} {}", text(one, "file"), at(one)),
        text: if before.is_empty() {
            text(one, "written")
        } else {
            before
        },
        why: text(one, "why"),
        right: first.map(|one| text(one, "place")).unwrap_or_default(),
    }
}

/// What leads nowhere, by what is gone.
pub(super) fn dangling(groups: &[Value], references: &[Value]) -> Vec<Dangling> {
    let mut naming: HashMap<String, Vec<String>> = HashMap::new();
    for group in groups {
        naming.insert(text(group, "place").to_lowercase(), Vec::new());
    }
    for one in references {
        for place in on_way(&text(one, "place")) {
            if let Some(files) = naming.get_mut(&place) {
                files.push(text(one, "file"));
            }
        }
    }
    let naming = |group: &Value| naming.get(&text(group, "place").to_lowercase());
    let group = |group| gone(group, naming(group).cloned().unwrap_or_default());
    groups.iter().map(group).collect()
}

fn gone(group: &Value, mut files: Vec<String>) -> Dangling {
    files.dedup();
    let more = files.len().saturating_sub(NAMED);
    files.truncate(NAMED);
    let mut named_in = files.join(", ");
    if more > 0 {
        named_in.push_str(&format!(" and {}", count(more, "other file")));
    }
    Dangling {
        place: text(group, "place"),
        cause: match group["cause"].as_str() {
            Some("missing-folder") => "This folder is gone",
            Some("missing-file") => "This file is gone",
            _ => "This is not to be seen from the machine on which it was looked for",
        },
        references: format!(
            "{} in {} to it",
            counted(group, "references", "reference"),
            counted(group, "files", "file")
        ),
        cures: items(group, "cures").iter().map(cure).collect(),
        named_in,
    }
}

pub(super) fn cure(one: &Value) -> Cure {
    let doubt = if one["certain"] == true {
        ""
    } else {
        "; not certain"
    };
    Cure {
        place: text(one, "place"),
        why: format!("{}{doubt}", text(one, "why")),
    }
}

pub(super) fn pair(one: &Value) -> Pair {
    let side = |files: &str, size: &str| {
        let size = one[size].as_u64().unwrap_or_default();
        format!("{}, {}", counted(one, files, "file"), bytes(size))
    };
    let differences = items(one, "differences");
    let same = differences.is_empty() && items(one, "left").is_empty();
    Pair {
        old: text(one, "old"),
        new: text(one, "new"),
        sizes: format!(
            "{} and {}",
            side("old_files", "old_bytes"),
            side("new_files", "new_bytes")
        ),
        verdict: match (same, one["one_folder"].is_string()) {
            (_, true) => "Both are one and the same folder, so there was nothing to compare.",
            (true, false) => "Both sides hold the same.",
            (false, false) => "The two sides differ.",
        },
        mind: !same || one["one_folder"].is_string(),
        differences: differences
            .iter()
            .take(DIFFERENCES)
            .map(difference)
            .collect(),
        more: more(differences.len(), DIFFERENCES),
    }
}

pub(super) fn difference(one: &Value) -> Difference {
    Difference {
        kind: match one["kind"].as_str() {
            Some("missing") => "only at the old place",
            Some("extra") => "only at the new place",
            Some("size") => "another size",
            Some("content") => "another content",
            Some("kind") => "a file here, a folder there",
            Some("name") => "another name",
            _ => "another link",
        },
        path: text(one, "path"),
        why: text(one, "why"),
    }
}

/// Two texts, each as what both begin with, what is its own, and what both end with.
pub(super) fn parted(before: &str, after: &str) -> ([String; 3], [String; 3]) {
    let (head, tail) = common(before, after);
    let cut = |text: &str| {
        let end = text.len() - tail;
        [&text[..head], &text[head..end], &text[end..]].map(shown)
    };
    (cut(before), cut(after))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_two_lines_have_of_their_own() {
        let cases = [
            (
                r"a=D:\x\y",
                r"a=H:\C\x\y",
                ["a=", "D:", r"\x\y"],
                ["a=", r"H:\C", r"\x\y"],
            ),
            ("aa", "aaa", ["aa", "", ""], ["aa", "a", ""]),
            ("\u{e9}", "\u{e8}", ["", "\u{e9}", ""], ["", "\u{e8}", ""]),
        ];
        for (before, after, expected, new) in cases {
            let (old, made) = parted(before, after);
            assert_eq!(
                (old, made),
                (expected.map(str::to_owned), new.map(str::to_owned))
            );
        }
    }
}
