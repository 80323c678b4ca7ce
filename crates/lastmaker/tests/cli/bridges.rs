//! Links at old places: what is worked out, made, refused, listed and taken away.
#![cfg(unix)]

use std::fs;
use std::os::unix::fs::symlink;
use std::path::{Path, PathBuf};

use serde_json::Value;

use crate::desk::{Desk, Ran};

/// A signed text cannot be rewritten, so it goes on naming the old place.
fn signed(lines: &[String]) -> String {
    let head = "-----BEGIN PGP SIGNED MESSAGE-----\n";
    let lines = lines.iter().map(|line| format!("\"{line}\"\n"));
    format!("{head}{}", lines.collect::<String>())
}

/// A collection that moved from `old/herbarium` to `new/herbarium`, and a signed text that names it.
struct Moved {
    desk: Desk,
    base: PathBuf,
}

impl Moved {
    fn new() -> Self {
        let desk = Desk::new()
            .file("new/herbarium/sheets/a.tif", "sheet")
            .file("new/herbarium/maps/b.map", "map")
            .file("new/herbarium/labels/c.txt", "label");
        let base = desk.path(".").canonicalize().unwrap();
        Self { desk, base }
    }

    fn naming(self, below: &[&str]) -> Self {
        let lines: Vec<String> = below.iter().map(|name| self.old(name)).collect();
        self.desk.put("files/signed.txt", signed(&lines));
        self
    }

    fn old(&self, below: &str) -> String {
        let path = self.base.join("old/herbarium").join(below);
        path.to_str().unwrap().trim_end_matches('/').to_owned()
    }

    fn new_place(&self) -> String {
        self.base.join("new/herbarium").to_str().unwrap().to_owned()
    }

    /// What stands below a folder of the desk, links with where they lead.
    fn stands(&self, folder: &str) -> Vec<String> {
        let mut all = Vec::new();
        walk(&self.base.join(folder), &mut all);
        let base = format!("{}/", self.base.display());
        let mut all: Vec<String> = all.iter().map(|line| line.replace(&base, "")).collect();
        all.sort();
        all
    }

    fn bridge(&self, more: &[&str]) -> Ran {
        let moved = format!("{}={}", self.old(""), self.new_place());
        let mut all = vec!["bridge", "--no-sheet", "--record-dir", "records"];
        if !more.contains(&"--by-hand") {
            all.extend(["--move", &moved, "--in", "files"]);
        }
        all.extend(more.iter().copied().filter(|one| *one != "--by-hand"));
        self.desk.run(all)
    }

    /// Each link as `old state [reason]`.
    fn states(&self, more: &[&str]) -> Vec<String> {
        let mut all = vec!["--format", "json"];
        all.extend(more);
        told(&self.bridge(&all).json(), &self.base)
    }
}

fn told(report: &Value, base: &Path) -> Vec<String> {
    let base = format!("{}/", base.display());
    let lines = report["bridges"].as_array().unwrap().iter();
    let text = |line: &Value, field: &str| line[field].as_str().unwrap_or("").replace(&base, "");
    let told = lines.map(|line| {
        let told = format!(
            "{} {} {}",
            text(line, "old"),
            text(line, "state"),
            text(line, "reason")
        );
        told.trim_end().to_owned()
    });
    told.collect()
}

fn walk(folder: &Path, all: &mut Vec<String>) {
    for entry in fs::read_dir(folder).into_iter().flatten() {
        let path = entry.unwrap().path();
        if let Ok(target) = fs::read_link(&path) {
            all.push(format!("{} -> {}", path.display(), target.display()));
        } else if path.is_dir() {
            all.push(format!("{}/", path.display()));
            walk(&path, all);
        } else {
            let content = fs::read(&path).unwrap();
            all.push(format!("{} {}", path.display(), blake3::hash(&content)));
        }
    }
}

#[test]
fn the_highest_folder_serves_everything_and_goes_back_without_a_trace() {
    let moved = Moved::new().naming(&["sheets/a.tif", "maps/b.map"]);
    let before = moved.stands(".");
    assert_eq!(moved.states(&[]), ["old/herbarium possible"]);
    assert_eq!(moved.stands("."), before, "looking changes nothing");
    let ran = moved.bridge(&["--make"]).ends_with(0);
    assert!(ran.out.contains("2 references in 1 file"), "{}", ran.out);
    let through = fs::read_to_string(moved.old("sheets/a.tif")).unwrap();
    assert_eq!(through, "sheet");
    // A second run finds it, a check sees through it, and the list knows what goes through it.
    assert_eq!(moved.states(&["--make"]), ["old/herbarium stands"]);
    assert_eq!(moved.states(&["--list"]), ["old/herbarium needed"]);
    let one = format!("{}={}", moved.old(""), moved.new_place());
    let checked = moved
        .desk
        .run(["check", "files", "--no-sheet", "--move", &one]);
    let checked = checked.ends_with(0);
    let live = "0 live, 2 live through a bridge.";
    assert!(checked.out.contains(live), "{}", checked.out);
    let ids = moved.desk.ids();
    assert_eq!(ids.len(), 1, "what stands already needs no record");
    moved.desk.restore(&[&ids[0]]).ends_with(0);
    fs::remove_dir_all(moved.desk.path("records")).unwrap();
    assert_eq!(moved.stands("."), before);
}

#[test]
fn where_a_folder_stands_the_links_go_below_it() {
    let moved = Moved::new().naming(&["sheets/a.tif", "maps/b.map", "labels/c.txt"]);
    // Something stays at the old place, and a program has made an empty folder anew.
    moved.desk.put("old/herbarium/loans/x.txt", "stays");
    fs::create_dir(moved.old("labels")).unwrap();
    let expected = [
        "old/herbarium/labels/c.txt possible",
        "old/herbarium/maps possible",
        "old/herbarium/sheets possible",
    ];
    assert_eq!(moved.states(&[]), expected);
    moved.bridge(&["--make"]).ends_with(0);
    for (name, content) in [("sheets/a.tif", "sheet"), ("maps/b.map", "map")] {
        assert_eq!(fs::read_to_string(moved.old(name)).unwrap(), content);
    }
    assert_eq!(
        fs::read_to_string(moved.old("loans/x.txt")).unwrap(),
        "stays"
    );
    // What nobody names any more can go, and only that.
    moved
        .desk
        .put("files/signed.txt", signed(&[moved.old("maps/b.map")]));
    let listed = moved.states(&["--list"]);
    assert!(
        listed.contains(&"old/herbarium/maps needed".to_owned()),
        "{listed:?}"
    );
    assert!(listed.contains(&"old/herbarium/sheets needless".to_owned()));
    let sheets = moved.old("sheets");
    moved
        .bridge(&["--by-hand", "--remove", &sheets])
        .ends_with(0);
    assert!(!Path::new(&sheets).exists());
    assert_eq!(moved.desk.text("new/herbarium/sheets/a.tif"), "sheet");
    // A link whose target is gone is broken.
    fs::rename(
        moved.desk.path("new/herbarium/maps"),
        moved.desk.path("maps"),
    )
    .unwrap();
    assert!(
        moved
            .states(&["--list"])
            .contains(&"old/herbarium/maps broken".to_owned())
    );
}

#[test]
fn each_child_that_is_chosen_gets_a_link_and_another_choice_adds_and_takes_away() {
    let moved = Moved::new();
    moved.desk.put("old/herbarium/own.txt", "the program's own");
    let before = moved.stands("old");
    let (old, new) = (moved.old(""), moved.new_place());
    let each = |more: &[&str]| {
        let mut all = vec!["--by-hand", "--each", &old, &new, "--make"];
        all.extend(more);
        moved.bridge(&all)
    };
    let links = |stands: Vec<String>| -> Vec<String> {
        let links = stands.into_iter().filter(|line| line.contains(" -> "));
        links
            .map(|line| line.split(" -> ").next().unwrap().to_owned())
            .collect()
    };
    each(&["--only", "sheets", "--only", "maps"]).ends_with(0);
    let both = ["old/herbarium/maps", "old/herbarium/sheets"];
    assert_eq!(links(moved.stands("old")), both);
    let ran = each(&["--skip", "maps"]).ends_with(0);
    assert!(ran.out.contains("taken away"), "{}", ran.out);
    let other = ["old/herbarium/labels", "old/herbarium/sheets"];
    assert_eq!(links(moved.stands("old")), other);
    for id in moved.desk.ids().iter().rev() {
        moved.desk.restore(&[id]).ends_with(0);
    }
    assert_eq!(moved.stands("old"), before);
}

/// What is prepared in the old place, what is linked, and what is said of it.
type Refused = (&'static str, fn(&Moved), &'static str);

#[test]
fn what_stands_in_the_way_is_named_and_left() {
    let cases: &[Refused] = &[
        (
            "folder",
            |moved| moved.desk.put("old/herbarium/own.txt", "x"),
            "a folder with one entry stands there",
        ),
        (
            "empty-folder",
            |moved| fs::create_dir_all(moved.old("")).unwrap(),
            "an empty folder stands there",
        ),
        (
            "file",
            |moved| moved.desk.put("old/herbarium", "x"),
            "a file stands there",
        ),
        (
            "other-link",
            |moved| {
                fs::create_dir_all(moved.desk.path("old")).unwrap();
                symlink(moved.desk.path("files"), moved.old("")).unwrap();
            },
            "a link stands there that leads to",
        ),
        (
            "barred",
            |moved| moved.desk.put("old", "x"),
            "on the way to it is no folder",
        ),
        (
            "loop",
            |moved| {
                // The new place is reached through the old one.
                fs::create_dir_all(moved.desk.path("old")).unwrap();
                fs::rename(moved.desk.path("new/herbarium"), moved.old("")).unwrap();
                symlink(moved.old(""), moved.new_place()).unwrap();
            },
            "would lead into itself",
        ),
        (
            "new-missing",
            |moved| fs::remove_dir_all(moved.new_place()).unwrap(),
            "the new place is not there",
        ),
    ];
    for (reason, prepare, words) in cases {
        let moved = Moved::new();
        prepare(&moved);
        let before = moved.stands(".");
        let (old, new) = (moved.old(""), moved.new_place());
        let ran = moved
            .bridge(&["--by-hand", &old, &new, "--make"])
            .ends_with(1);
        assert!(ran.out.contains(words), "{reason}: {}", ran.out);
        assert_eq!(
            moved.states(&["--by-hand", &old, &new]),
            [format!("old/herbarium refused {reason}")]
        );
        assert_eq!(moved.stands("."), before, "{reason}");
    }
    let moved = Moved::new();
    let inside = format!("{}/herbarium", moved.new_place());
    let ran = moved.bridge(&["--by-hand", &inside, &moved.new_place()]);
    assert!(ran.ends_with(1).out.contains("would lead into itself"));
    let shares = [r"\\mossbank\press", r"\\fernhall\press"];
    let ran = moved.bridge(&["--by-hand", shares[0], shares[1]]);
    assert!(ran.ends_with(1).out.contains("at the name of a server"));
    // What is no link is never taken away.
    let ran = moved.bridge(&["--by-hand", "--remove", &moved.new_place()]);
    assert!(ran.ends_with(1).out.contains("no link stands there"));
    assert_eq!(moved.desk.text("new/herbarium/sheets/a.tif"), "sheet");
}

#[test]
fn what_stands_in_the_way_can_be_set_aside_and_comes_back() {
    let moved = Moved::new();
    moved.desk.put("old/herbarium/fresh.ini", "made anew");
    let before = moved.stands("old");
    let (old, new) = (moved.old(""), moved.new_place());
    let make = ["--by-hand", &old, &new, "--make", "--set-aside"];
    moved.bridge(&make).ends_with(0);
    assert_eq!(
        fs::read_to_string(moved.old("sheets/a.tif")).unwrap(),
        "sheet"
    );
    let aside = "old/herbarium (set aside)/fresh.ini";
    assert_eq!(moved.desk.text(aside), "made anew");
    moved.desk.restore(&[&moved.desk.ids()[0]]).ends_with(0);
    assert_eq!(moved.stands("old"), before);
    // A restore can be taken back as well.
    moved.desk.restore(&[&moved.desk.ids()[1]]).ends_with(0);
    assert_eq!(moved.desk.text(aside), "made anew");
    // Nothing is renamed onto something else.
    moved.desk.restore(&[&moved.desk.ids()[2]]).ends_with(0);
    moved.desk.put(aside, "older");
    let ran = moved.bridge(&make).ends_with(1);
    assert!(ran.out.contains("that name is taken"), "{}", ran.out);
    assert_eq!(moved.desk.text(aside), "older");
}

#[test]
fn a_link_that_leads_elsewhere_by_now_is_not_taken_back() {
    let moved = Moved::new().naming(&["sheets/a.tif"]);
    moved.bridge(&["--make"]).ends_with(0);
    fs::remove_file(moved.old("")).unwrap();
    symlink(moved.desk.path("files"), moved.old("")).unwrap();
    let stands = moved.stands("old");
    let ran = moved.desk.restore(&[&moved.desk.ids()[0]]);
    assert_eq!(moved.stands("old"), stands, "{}", ran.out);
}

#[test]
fn a_run_that_was_broken_off_is_settled_and_taken_back() {
    let moved = Moved::new().naming(&["sheets/a.tif"]);
    let before = moved.stands("old");
    moved.bridge(&["--make"]).ends_with(0);
    // As if it had been killed right behind the step that makes the link, or right before it.
    let manifest = moved.desk.records()[0].join("manifest.jsonl");
    let text = fs::read_to_string(&manifest).unwrap();
    let lines: Vec<&str> = text.split_inclusive('\n').collect();
    for made in [true, false] {
        fs::write(&manifest, lines[..lines.len() - 2].concat()).unwrap();
        if !made {
            // The first round has taken the link and its folder away.
            fs::create_dir(moved.desk.path("old")).unwrap();
        }
        let history = ["history", "--record-dir", "records"];
        assert!(moved.desk.run(history).out.contains("broken off"));
        moved.desk.restore(&[&moved.desk.ids()[0]]).ends_with(0);
        assert_eq!(moved.stands("old"), before);
        assert!(
            !moved.desk.path("old").exists(),
            "the folder that was made went too"
        );
    }
}

#[test]
fn places_that_are_one_by_other_names_make_no_loop() {
    let moved = Moved::new();
    // `other` is the new folder by another name, so a link in it would lead to the folder around it.
    symlink(moved.new_place(), moved.desk.path("other")).unwrap();
    let old = moved.base.join("other/again");
    let old = old.to_str().unwrap();
    assert_eq!(
        moved.states(&["--by-hand", old, &moved.new_place()]),
        ["other/again refused loop"]
    );
}

#[test]
fn a_link_on_the_way_is_one_only_if_it_leads_to_the_new_place() {
    let moved = Moved::new();
    // The folder above the old one is a link of the system's own.
    fs::create_dir_all(moved.desk.path("real/herbarium")).unwrap();
    symlink(moved.desk.path("real"), moved.desk.path("old")).unwrap();
    let (old, new) = (moved.old(""), moved.new_place());
    let list = |moved: &Moved| moved.states(&["--by-hand", "--list", &old, &new]);
    assert!(list(&moved).is_empty());
    // Another one leads to the folder around the new place.
    fs::remove_file(moved.desk.path("old")).unwrap();
    symlink(moved.desk.path("new"), moved.desk.path("old")).unwrap();
    assert_eq!(list(&moved), ["old stands"]);
}

#[test]
fn a_shell_script_makes_and_takes_away_and_can_be_run_twice() {
    for name in ["plain", "it's", "a b \u{e9}", "$x `y` \\n", "100%!\"", "-n"] {
        let desk = Desk::new().file(&format!("new/{name}/x"), "content");
        let base = desk.path(".").canonicalize().unwrap();
        let old = base.join("old").join(name).to_str().unwrap().to_owned();
        let new = base.join("new").join(name).to_str().unwrap().to_owned();
        let script = |more: &[&str]| {
            let mut all = vec!["bridge", "--no-sheet", "--script", "sh", &old, &new];
            all.extend(more);
            desk.run(all).ends_with(0).out
        };
        let run = |script: &str| {
            let run = std::process::Command::new("/bin/sh")
                .arg("-c")
                .arg(script)
                .output();
            let run = run.unwrap();
            assert!(
                run.status.success(),
                "{}",
                String::from_utf8_lossy(&run.stderr)
            );
            String::from_utf8(run.stdout).unwrap()
        };
        let (make, take) = (script(&[]), script(&["--reverse"]));
        assert!(run(&make).starts_with("Made: "));
        assert_eq!(fs::read(format!("{old}/x")).unwrap(), b"content", "{name}");
        assert!(run(&make).starts_with("The link stands there already: "));
        assert!(run(&take).starts_with("Taken away: "));
        assert!(run(&take).starts_with("Left: "));
        assert!(!Path::new(&old).exists());
        assert_eq!(fs::read(format!("{new}/x")).unwrap(), b"content");
    }
}

#[test]
fn places_of_another_machine_are_left_to_a_script() {
    let desk = Desk::new().file(
        "files/signed.txt",
        signed(&[r"D:\Herbarium\Sheets".to_owned()]),
    );
    let seen = [
        "--no-sheet",
        "--in",
        "files",
        "--move",
        crate::desk::MOVE,
        "--seen-at",
        r"H:\=disks/h",
    ];
    let run = |more: &[&str]| {
        let mut all = vec!["bridge", "--record-dir", "records"];
        all.extend(seen);
        all.extend(more);
        desk.run(all)
    };
    let report = run(&["--make", "--format", "json"]).json();
    assert_eq!(told(&report, Path::new("")), [r"D:\Herbarium unseen"]);
    assert!(desk.records().is_empty(), "nothing was done");
    for (language, expected) in [
        ("cmd", r#"set "old=D:\Herbarium""#),
        (
            "powershell",
            r"Add-OldPlace 'D:\Herbarium' 'H:\Collections\Herbarium'",
        ),
        (
            "sh",
            r"# Left out: D:\Herbarium: it is no place of this system",
        ),
    ] {
        let text = run(&["--script", language]).out;
        assert!(text.contains(expected), "{text}");
    }
}
