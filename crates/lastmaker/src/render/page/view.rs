//! What the page shows of a document.

use std::collections::BTreeMap;

use serde::Serialize;
use serde_json::Value;

use super::About;
use super::document::{at, counted, digits, items, number, text};
use crate::render::{bytes, count, grouped};
use crate::ui::shown;

/// How many items of one list to do by hand are on the page.
const BY_HAND: usize = 200;

/// How many differences of one pair are on the page.
const DIFFERENCES: usize = 500;

/// How many references name what is gone.
const NAMED: usize = 6;

#[derive(Default, Serialize)]
pub(super) struct View {
    title: String,
    version: &'static str,
    when: String,
    lead: Vec<String>,
    counts: Vec<Counted>,
    sections: Vec<Section>,
    moves: Vec<Move>,
    pairs: Vec<Pair>,
    missing: Vec<Missing>,
    dangling: Vec<Dangling>,
    by_hand: Vec<ByHand>,
    left: Vec<Left>,
    changed: Vec<Changed>,
    changed_title: &'static str,
    take_back: Option<TakeBack>,
}

#[derive(Serialize)]
struct Counted {
    number: String,
    label: &'static str,
    mind: bool,
}

#[derive(Serialize)]
struct Section {
    id: &'static str,
    title: &'static str,
}

#[derive(Serialize)]
struct Move {
    from: String,
    to: String,
    references: String,
    files: String,
    new_places: String,
    existing: String,
    mind: bool,
}

#[derive(Serialize)]
struct Pair {
    old: String,
    new: String,
    sizes: String,
    verdict: &'static str,
    mind: bool,
    differences: Vec<Difference>,
    more: String,
}

#[derive(Serialize)]
struct Difference {
    kind: &'static str,
    path: String,
    why: String,
}

#[derive(Serialize)]
struct Missing {
    folder: String,
    places: String,
}

#[derive(Serialize)]
struct Dangling {
    place: String,
    cause: &'static str,
    references: String,
    cures: Vec<Cure>,
    named_in: String,
}

#[derive(Serialize)]
struct Cure {
    place: String,
    why: String,
}

#[derive(Serialize)]
struct ByHand {
    title: &'static str,
    advice: &'static str,
    items: Vec<Item>,
    more: String,
}

#[derive(Serialize)]
struct Item {
    at: String,
    text: String,
    why: String,
    right: String,
}

#[derive(Serialize)]
struct Left {
    file: String,
    why: String,
}

#[derive(Serialize)]
struct Changed {
    name: String,
    format: String,
    changes: Vec<Change>,
}

#[derive(Serialize)]
struct Change {
    at: String,
    before: [String; 3],
    after: [String; 3],
}

#[derive(Serialize)]
struct TakeBack {
    words: &'static str,
    command: String,
    folder: String,
}

impl View {
    /// The view of a document; none if there is none.
    pub(super) fn of(document: &Value, about: &About) -> Option<Self> {
        let mut view = Self {
            version: env!("CARGO_PKG_VERSION"),
            moves: items(document, "moves").iter().map(moved).collect(),
            left: [items(document, "left"), items(document, "failed")]
                .concat()
                .iter()
                .map(left)
                .collect(),
            ..Self::default()
        };
        match document["command"].as_str()? {
            "preview" => view.plan(document, false),
            "rewrite" => view.plan(document, true),
            "check" => view.check(document),
            "compare" => view.compare(document),
            _ => return None,
        }
        view.take_back(document, about);
        view.list_sections();
        Some(view)
    }

    fn count(&mut self, number: usize, label: &'static str, mind: bool) {
        if number > 0 {
            let number = grouped(number);
            self.counts.push(Counted {
                number,
                label,
                mind,
            });
        }
    }

    /// What a rewrite would change, or has changed.
    fn plan(&mut self, document: &Value, done: bool) {
        let totals = &document["totals"];
        let references = counted(totals, "to_move", "reference");
        let files = counted(totals, "changing_files", "file");
        let looked_at = counted(totals, "files", "file");
        (self.title, self.changed_title) = match done {
            true => (
                "Files that name the new place now".to_owned(),
                "What was changed",
            ),
            false => (
                "What a rewrite would change".to_owned(),
                "What would be changed",
            ),
        };
        self.lead.push(match done {
            true => format!(
                "Data has moved, and {looked_at} were searched for references to where it was: {references} in {files} \
                 had to be changed. Of every changed file the original is kept."
            ),
            false => format!(
                "Data has moved, and {looked_at} were searched for references to where it was: {references} in {files} \
                 would be changed. Nothing has been changed yet."
            ),
        });
        let places = &totals["new_places"];
        let made = &document["done"];
        match made.is_object() {
            true => {
                self.count(
                    number(made, "rewritten_references"),
                    "references changed",
                    false,
                );
                self.count(number(made, "rewritten_files"), "files changed", false);
            }
            false => {
                let label = if done {
                    "references changed"
                } else {
                    "references to change"
                };
                self.count(number(totals, "to_move"), label, false);
                self.count(number(totals, "changing_files"), "files", false);
            }
        }
        self.count(number(places, "live"), "new places that exist", false);
        self.count(
            number(places, "dangling"),
            "new places that do not exist",
            true,
        );
        self.count(
            number(places, "unreachable"),
            "new places not seen from here",
            true,
        );
        self.count(by_hand_in(totals), "references to look at by hand", true);
        let folders = items(document, "missing").iter();
        self.missing = folders
            .map(|one| Missing {
                folder: text(one, "folder"),
                places: digits(one, "places"),
            })
            .collect();
        self.list_by_hand(items(document, "references"));
        self.list_changes(items(document, "references"));
    }

    fn list_changes(&mut self, references: &[Value]) {
        let mut files: BTreeMap<String, Changed> = BTreeMap::new();
        let changes = references.iter().filter(|one| one["standing"] == "to-move");
        for one in changes {
            let (Some(before), Some(after)) = (one["before"].as_str(), one["after"].as_str())
            else {
                continue;
            };
            let name = text(one, "file");
            let file = files.entry(name.clone()).or_insert_with(|| Changed {
                name,
                format: text(one, "format"),
                changes: Vec::new(),
            });
            let (before, after) = parted(before, after);
            let shows = |change: &&mut Change| change.before == before && change.after == after;
            // Several references of one line are shown together.
            match file.changes.last_mut().filter(shows) {
                Some(same) => same.at.push_str(&format!(", {}", at(one))),
                None => file.changes.push(Change {
                    at: at(one),
                    before,
                    after,
                }),
            }
        }
        self.changed = files.into_values().collect();
    }

    /// What is left to people, by how it stands.
    fn list_by_hand(&mut self, references: &[Value]) {
        const KINDS: [(&str, &str, &str); 5] = [
            (
                "doubtful",
                "Could be read two ways",
                "These were left as they are. Whoever knows what is meant can change them, or have them changed.",
            ),
            (
                "malformed",
                "Mistyped",
                "The program cannot have read these as they stand. They were left as they are.",
            ),
            (
                "collision",
                "Would become the same as another entry",
                "Decide which of the two is to stay.",
            ),
            (
                "leftover",
                "Still name the old place",
                "No rewrite has reached these, or they came later.",
            ),
            (
                "sealed",
                "Cannot be rewritten safely",
                "Change these in the program that they belong to, or keep the old place working by a link.",
            ),
        ];
        for (standing, title, advice) in KINDS {
            let all: Vec<&Value> = references
                .iter()
                .filter(|one| one["standing"] == standing)
                .collect();
            if all.is_empty() {
                continue;
            }
            self.by_hand.push(ByHand {
                title,
                advice,
                items: all.iter().take(BY_HAND).map(|one| item(one)).collect(),
                more: more(all.len(), BY_HAND),
            });
        }
    }

    fn check(&mut self, document: &Value) {
        let totals = &document["totals"];
        self.title = "What the files name, and what of it is there".to_owned();
        self.lead.push(format!(
            "{} in {} were followed to what they name.",
            counted(totals, "judged", "reference"),
            counted(totals, "files", "file")
        ));
        for (field, label, mind) in [
            ("live", "lead to something", false),
            ("dangling", "lead nowhere", true),
            ("unreachable", "not seen from here", true),
            ("bridged", "lead there through a link", false),
            ("to_move", "to be moved by a rewrite", true),
            ("leftover", "still name the old place", true),
            ("malformed", "mistyped", true),
        ] {
            self.count(number(totals, field), label, mind);
        }
        let references = items(document, "references");
        self.dangling = items(document, "groups")
            .iter()
            .map(|group| dangling(group, references))
            .collect();
        self.list_by_hand(references);
    }

    fn compare(&mut self, document: &Value) {
        let whole = document["whole"] == true;
        self.title = "Is the copy whole?".to_owned();
        let how = match document["content"] == true {
            true => "by names, sizes and contents",
            false => "by names and sizes",
        };
        self.lead.push(match whole {
            true => format!("Yes: both sides hold the same, compared {how}."),
            false => format!("Not quite: the two sides differ, compared {how}."),
        });
        self.pairs = items(document, "pairs").iter().map(pair).collect();
        let differences = items(document, "pairs").iter();
        let differences = differences
            .map(|pair| items(pair, "differences").len())
            .sum();
        self.count(self.pairs.len(), "pairs compared", false);
        self.count(differences, "differences", true);
    }

    fn take_back(&mut self, document: &Value, about: &About) {
        let (record, folder) = match &about.record {
            Some(record) => {
                self.when.clone_from(&record.when);
                (record.id.clone(), record.folder.clone())
            }
            None => (
                text(&document["done"], "record"),
                text(&document["done"], "folder"),
            ),
        };
        if !record.is_empty() {
            self.take_back = Some(TakeBack {
                words: "This puts every original back. Files that were saved since are left and named; --changed edits \
                        takes only the changes back in those.",
                command: format!("lastmaker restore {record}{}", about.records),
                folder: shown(&folder),
            });
        }
    }

    fn list_sections(&mut self) {
        let all = [
            (!self.moves.is_empty(), "moves", "What moved"),
            (!self.pairs.is_empty(), "pairs", "What was compared"),
            (
                !self.missing.is_empty(),
                "missing",
                "New places that are not there",
            ),
            (!self.dangling.is_empty(), "dangling", "What leads nowhere"),
            (
                !self.by_hand.is_empty() || !self.left.is_empty(),
                "by-hand",
                "To do by hand",
            ),
            (!self.changed.is_empty(), "changed", self.changed_title),
            (self.take_back.is_some(), "take-back", "How to take it back"),
        ];
        let shown = all.into_iter().filter(|(is_there, ..)| *is_there);
        self.sections = shown.map(|(_, id, title)| Section { id, title }).collect();
    }
}

fn by_hand_in(totals: &Value) -> usize {
    let kinds = ["doubtful", "malformed", "collision", "sealed"];
    kinds.iter().map(|kind| number(totals, kind)).sum()
}

/// How many of a list are not on the page.
fn more(all: usize, most: usize) -> String {
    match all.saturating_sub(most) {
        0 => String::new(),
        rest => format!("{} more; --format csv lists all.", grouped(rest)),
    }
}

fn moved(one: &Value) -> Move {
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

fn left(one: &Value) -> Left {
    Left {
        file: text(one, "file"),
        why: text(one, "why"),
    }
}

fn item(one: &Value) -> Item {
    let first = items(one, "suggestions").first();
    let before = text(one, "before");
    Item {
        at: format!("{} {}", text(one, "file"), at(one)),
        text: match before.is_empty() {
            true => text(one, "written"),
            false => before,
        },
        why: text(one, "why"),
        right: first.map(|one| text(one, "place")).unwrap_or_default(),
    }
}

fn dangling(group: &Value, references: &[Value]) -> Dangling {
    let place = text(group, "place");
    let folded = place.to_lowercase();
    let below = |one: &&Value| {
        let rest = text(one, "place").to_lowercase();
        let rest = rest.strip_prefix(&folded).map(str::to_owned);
        rest.is_some_and(|rest| rest.is_empty() || rest.starts_with(['\\', '/']))
    };
    let named = references.iter().filter(below);
    let mut files: Vec<String> = named.map(|one| text(one, "file")).collect();
    files.dedup();
    let more = files.len().saturating_sub(NAMED);
    files.truncate(NAMED);
    let mut named_in = files.join(", ");
    if more > 0 {
        named_in.push_str(&format!(" and {}", count(more, "other file")));
    }
    Dangling {
        place,
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

fn cure(one: &Value) -> Cure {
    let doubt = match one["certain"] == true {
        true => "",
        false => "; not certain",
    };
    Cure {
        place: text(one, "place"),
        why: format!("{}{doubt}", text(one, "why")),
    }
}

fn pair(one: &Value) -> Pair {
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

fn difference(one: &Value) -> Difference {
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
fn parted(before: &str, after: &str) -> ([String; 3], [String; 3]) {
    let same = |(a, b): &(char, char)| a == b;
    let width = |(letter, _): (char, char)| letter.len_utf8();
    let pairs = before.chars().zip(after.chars());
    let head: usize = pairs.take_while(same).map(width).sum();
    let back = before[head..]
        .chars()
        .rev()
        .zip(after[head..].chars().rev());
    let tail: usize = back.take_while(same).map(width).sum();
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

    #[test]
    fn nothing_else_has_a_page() {
        let document = serde_json::json!({"command": "formats"});
        assert!(View::of(&document, &About::default()).is_none());
    }
}
