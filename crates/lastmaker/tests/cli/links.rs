//! Links of the file system, where making them needs no right of its own.
#![cfg(unix)]

use std::fs;
use std::os::unix::fs::symlink;
use std::path::PathBuf;

use crate::desk::Desk;

struct Linked {
    desk: Desk,
    old: PathBuf,
    new: PathBuf,
}

impl Linked {
    /// A link to an old place, one in a hidden folder, and some that no move touches.
    fn new() -> Self {
        let desk = Desk::new()
            .file("new/sheets/a.tif", "")
            .file("files/.hidden/x", "");
        let (old, new) = (desk.path("old"), desk.path("new"));
        for (name, target) in [
            ("files/sheets", old.join("sheets")),
            ("files/.hidden/all", old.clone()),
            ("files/other", old.with_file_name("older")),
            ("files/near", PathBuf::from("sheets")),
            ("files/gone", PathBuf::from("../nothing")),
            ("files/round", PathBuf::from("round")),
        ] {
            symlink(target, desk.path(name)).unwrap();
        }
        Self { desk, old, new }
    }

    fn run(&self, command: &str, more: &[&str]) -> crate::desk::Ran {
        let moved = format!("{}={}", self.old.display(), self.new.display());
        let mut all = vec![command, "files", "--move", &moved];
        if command != "check" {
            all.extend(["--record-dir", "records"]);
        }
        all.extend(more);
        self.desk.run(all)
    }

    fn leads(&self, name: &str) -> PathBuf {
        fs::read_link(self.desk.path(name)).unwrap()
    }
}

#[test]
fn links_are_references_and_are_rewritten_and_restored() {
    let linked = Linked::new();
    let ran = linked.run("preview", &[]).ends_with(0);
    assert!(
        ran.out.contains("2 references in 2 files would change"),
        "{}",
        ran.out
    );
    assert_eq!(linked.leads("files/sheets"), linked.old.join("sheets"));
    linked.run("rewrite", &["--yes"]).ends_with(0);
    assert_eq!(linked.leads("files/sheets"), linked.new.join("sheets"));
    assert_eq!(linked.leads("files/.hidden/all"), linked.new);
    for (name, target) in [
        ("files/near", "sheets"),
        ("files/gone", "../nothing"),
        ("files/round", "round"),
    ] {
        assert_eq!(linked.leads(name), PathBuf::from(target));
    }
    assert_eq!(
        linked.leads("files/other"),
        linked.old.with_file_name("older")
    );
    let ran = linked.run("preview", &[]).ends_with(0);
    assert!(ran.out.contains("0 references"), "{}", ran.out);
    linked.desk.restore(&[]).ends_with(0);
    assert_eq!(linked.leads("files/sheets"), linked.old.join("sheets"));
    assert_eq!(linked.leads("files/.hidden/all"), linked.old);
    // A restore can be taken back, too.
    linked
        .desk
        .restore(&[linked.desk.records()[1]
            .file_name()
            .unwrap()
            .to_str()
            .unwrap()])
        .ends_with(0);
    assert_eq!(linked.leads("files/sheets"), linked.new.join("sheets"));
}

#[test]
fn what_leads_nowhere_is_reported() {
    let linked = Linked::new();
    linked.run("rewrite", &["--yes"]).ends_with(0);
    let ran = linked.run("check", &["--format", "json"]).ends_with(1);
    let references = ran.json()["references"].as_array().unwrap().clone();
    let told: Vec<(&str, &str)> = references
        .iter()
        .map(|one| {
            (
                one["written"].as_str().unwrap(),
                one["why"].as_str().unwrap_or(""),
            )
        })
        .collect();
    assert_eq!(
        told,
        [
            ("../nothing", "the link is relative and leads nowhere"),
            ("round", "the link leads round to itself"),
        ]
    );
}

#[test]
fn a_link_that_was_changed_since_is_left() {
    let linked = Linked::new();
    linked.run("rewrite", &["--yes"]).ends_with(0);
    let path = linked.desk.path("files/sheets");
    fs::remove_file(&path).unwrap();
    symlink("elsewhere", &path).unwrap();
    linked.desk.restore(&[]).ends_with(1);
    assert_eq!(linked.leads("files/sheets"), PathBuf::from("elsewhere"));
    linked
        .desk
        .restore(&[
            linked.desk.records()[0]
                .file_name()
                .unwrap()
                .to_str()
                .unwrap(),
            "--changed",
            "original",
        ])
        .ends_with(0);
    assert_eq!(linked.leads("files/sheets"), linked.old.join("sheets"));
}

#[test]
fn a_file_in_the_place_of_a_link_is_no_link() {
    let linked = Linked::new();
    linked.run("rewrite", &["--yes"]).ends_with(0);
    let path = linked.desk.path("files/sheets");
    let target = linked.leads("files/sheets");
    fs::remove_file(&path).unwrap();
    // The same text as the link's target, but in a file.
    fs::write(&path, target.to_str().unwrap()).unwrap();
    linked.desk.restore(&[]).ends_with(1);
    assert!(path.symlink_metadata().unwrap().is_file());
}
