//! What the page shows of a document.

use std::collections::BTreeMap;

use serde::Serialize;
use serde_json::Value;

use super::About;
use super::document::{at, counted, digits, items, number, text};
use super::parts::{
    Change, Changed, Dangling, Item, Left, Missing, Move, Pair, dangling, item, left, more, moved,
    pair, parted,
};
use crate::render::grouped;
use crate::ui::shown;

/// How many items of one list to do by hand are on the page.
const BY_HAND: usize = 200;

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
struct ByHand {
    title: &'static str,
    advice: &'static str,
    items: Vec<Item>,
    more: String,
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
            left: items(document, "left")
                .iter()
                .chain(items(document, "failed"))
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
        (self.title, self.changed_title) = if done {
            (
                "Files that name the new place now".to_owned(),
                "What was changed",
            )
        } else {
            (
                "What a rewrite would change".to_owned(),
                "What would be changed",
            )
        };
        self.lead.push(if done { format!(
            "Data has moved, and {looked_at} were searched for references to where it was: {references} in {files} \
             had to be changed. Of every changed file the original is kept."
        ) } else { format!(
            "Data has moved, and {looked_at} were searched for references to where it was: {references} in {files} \
             would be changed. Nothing has been changed yet."
        ) });
        let places = &totals["new_places"];
        let made = &document["done"];
        if made.is_object() {
            self.count(
                number(made, "rewritten_references"),
                "references changed",
                false,
            );
            self.count(number(made, "rewritten_files"), "files changed", false);
        } else {
            let label = if done {
                "references changed"
            } else {
                "references to change"
            };
            self.count(number(totals, "to_move"), label, false);
            self.count(number(totals, "changing_files"), "files", false);
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
        self.dangling = dangling(items(document, "groups"), references);
        self.list_by_hand(references);
    }

    fn compare(&mut self, document: &Value) {
        let whole = document["whole"] == true;
        self.title = "Is the copy whole?".to_owned();
        let how = if document["content"] == true {
            "by names, sizes and contents"
        } else {
            "by names and sizes"
        };
        self.lead.push(if whole {
            format!("Yes: both sides hold the same, compared {how}.")
        } else {
            format!("Not quite: the two sides differ, compared {how}.")
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_else_has_a_page() {
        let document = serde_json::json!({"command": "formats"});
        assert!(View::of(&document, &About::default()).is_none());
    }
}
