//! Records over time: listed, forgotten, carried elsewhere, tampered with, and never read as files.

use std::fs;
use std::path::Path;

use crate::desk::Desk;

const OLD: &str = "a=D:\\Herbarium\\Sheets\n";
const NEW: &str = "a=H:\\Collections\\Herbarium\\Sheets\n";

fn rewritten() -> Desk {
    let desk = Desk::new()
        .file("files/viewer.ini", OLD)
        .file("files/sub/b.ini", OLD);
    desk.rewrite(&[]).ends_with(0);
    desk
}

#[test]
fn history_tells_paths_moves_and_sizes() {
    let desk = rewritten();
    let json = desk
        .run(["history", "--record-dir", "records", "--format", "json"])
        .ends_with(0)
        .json();
    let record = &json["records"][0];
    assert_eq!(
        record["moves"][0],
        r"D:\Herbarium = H:\Collections\Herbarium"
    );
    assert!(
        record["paths"][0].as_str().unwrap().ends_with("files"),
        "{record:#}"
    );
    assert!(record["bytes"].as_u64().unwrap() > OLD.len() as u64);
    assert_eq!(
        (&record["files"], &record["taken_back"]),
        (&2.into(), &0.into())
    );
    let ran = desk
        .run(["history", "--record-dir", "records"])
        .ends_with(0);
    assert!(
        ran.out.contains("in ") && ran.out.contains("files\n"),
        "{}",
        ran.out
    );
}

#[test]
fn originals_have_names_that_are_known_again() {
    let desk = rewritten();
    let originals = fs::read_dir(desk.records()[0].join("originals")).unwrap();
    let mut names: Vec<String> = originals
        .map(|entry| entry.unwrap().file_name().into_string().unwrap())
        .collect();
    names.sort();
    assert_eq!(names, ["000001 b.ini", "000002 viewer.ini"]);
}

#[test]
fn a_record_can_be_forgotten() {
    let desk = rewritten();
    let id = desk.ids()[0].clone();
    let history = |more: &[&str]| {
        let all = [&["history", "--record-dir", "records"], more].concat();
        desk.run(all)
    };
    let asked = history(&["--forget", &id]).ends_with(2);
    assert!(asked.err.contains("nobody to ask"), "{}", asked.err);
    history(&["--forget", "--yes"]).ends_with(2);
    history(&["--forget", "20010101-000000", "--yes"]).ends_with(2);
    let none = history(&["--forget", "--older-than", "1d", "--yes"]).ends_with(0);
    assert!(none.out.contains("Forgot 0 records"), "{}", none.out);
    history(&["--forget", "--older-than", "soon", "--yes"]).ends_with(2);
    // One that was broken off is kept.
    let manifest = desk.records()[0].join("manifest.jsonl");
    let whole = fs::read_to_string(&manifest).unwrap();
    let cut: Vec<&str> = whole
        .lines()
        .filter(|line| !line.contains("ended"))
        .collect();
    fs::write(&manifest, format!("{}\n", cut.join("\n"))).unwrap();
    let kept = history(&["--forget", &id, "--yes"]).ends_with(1);
    assert!(kept.out.contains("broken off"), "{}", kept.out);
    fs::write(&manifest, whole).unwrap();
    history(&["--forget", &id, "--yes"]).ends_with(0);
    assert!(desk.records().is_empty());
}

#[test]
fn a_record_can_be_carried_elsewhere() {
    let desk = rewritten();
    // The record's folder gets another name, and the files come to lie elsewhere.
    fs::rename(&desk.records()[0], desk.path("stick")).unwrap();
    fs::rename(desk.path("files"), desk.path("mounted")).unwrap();
    let old = desk.path("files");
    let gone = desk.restore(&["stick"]).ends_with(1);
    assert!(gone.out.contains("it is gone"), "{}", gone.out);
    let canonical = desk.path("mounted").canonicalize().unwrap();
    let old = canonical.parent().unwrap().join(old.file_name().unwrap());
    let from = format!("{}={}", old.display(), desk.path("mounted").display());
    desk.restore(&["stick", "--from-dir", &from]).ends_with(0);
    assert_eq!(desk.text("mounted/viewer.ini"), OLD);
    assert_eq!(desk.text("mounted/sub/b.ini"), OLD);
}

#[test]
fn records_are_never_scanned_wherever_they_lie() {
    let desk = rewritten();
    // Another run with another folder for records comes by the first one's, below the scope.
    fs::rename(desk.path("records"), desk.path("files/kept")).unwrap();
    let original = |desk: &Desk| {
        let record = fs::read_dir(desk.path("files/kept"))
            .unwrap()
            .next()
            .unwrap()
            .unwrap()
            .path();
        fs::read(record.join("originals/000001 b.ini")).unwrap()
    };
    desk.put("files/new.ini", OLD);
    let ran = desk.rewrite(&["--format", "json"]).ends_with(0).json();
    assert_eq!(ran["totals"]["changing_files"], 1, "{ran:#}");
    assert_eq!(original(&desk), OLD.as_bytes());
    // Not even if it is asked for.
    let record = fs::read_dir(desk.path("files/kept"))
        .unwrap()
        .next()
        .unwrap()
        .unwrap()
        .path();
    for inside in [
        record.clone(),
        record.join("originals"),
        record.join("originals/000001 b.ini"),
    ] {
        let inside = inside.to_string_lossy().into_owned();
        let told = desk.run([
            "rewrite",
            &inside,
            "--move",
            crate::desk::MOVE,
            "--record-dir",
            "records",
            "--yes",
            "--anyway",
        ]);
        assert_eq!(told.code, 1, "{}{}", told.out, told.err);
        assert!(told.out.contains("never looked at"), "{}", told.out);
    }
    assert_eq!(original(&desk), OLD.as_bytes());
    // What a run that was killed left beside a file is none of the user's files.
    desk.put("files/.lastmaker-20260101-000000-1.tmp", OLD);
    let ran = desk.with_move("preview", &[]).ends_with(0);
    assert!(ran.out.contains("0 references"), "{}", ran.out);
}

/// What somebody may do to a record.
struct Tampered {
    what: &'static str,
    with: fn(&Path),
    says: &'static str,
}

fn edit(record: &Path, change: impl Fn(&str) -> String) {
    let manifest = record.join("manifest.jsonl");
    let text = fs::read_to_string(&manifest).unwrap();
    let new = change(&text);
    assert_ne!(text, new, "the row changes nothing");
    fs::write(manifest, new).unwrap();
}

const TAMPERED: [Tampered; 14] = [
    Tampered {
        what: "an original that was changed",
        with: |record| {
            fs::write(record.join("originals/000001 b.ini"), "a=somewhere else\n").unwrap();
        },
        says: "not what was kept",
    },
    Tampered {
        what: "an original that is gone",
        with: |record| fs::remove_file(record.join("originals/000001 b.ini")).unwrap(),
        says: "its original in the record cannot be read",
    },
    Tampered {
        what: "a file outside of the scope",
        with: |record| {
            edit(record, |text| {
                text.replacen("sub/b.ini", "../outside.ini", 1).replacen(
                    r"sub\\b.ini",
                    r"..\\outside.ini",
                    1,
                )
            });
        },
        says: "a path that no record has",
    },
    Tampered {
        what: "a scope that was narrowed",
        with: |record| edit(record, |text| text.replacen("files\"]", "none\"]", 1)),
        says: "outside of what the run was told to look at",
    },
    Tampered {
        what: "a name with a separator",
        with: |record| edit(record, |text| text.replacen("\"id\":\"", "\"id\":\"../", 1)),
        says: "a name that no record has",
    },
    Tampered {
        what: "an original elsewhere",
        with: |record| {
            edit(record, |text| {
                text.replacen(
                    "\"original\":\"000001 b.ini\"",
                    "\"original\":\"../000001 b.ini\"",
                    1,
                )
            });
        },
        says: "an original by a name that none has",
    },
    Tampered {
        what: "cut in the middle of a line",
        with: |record| edit(record, |text| text[..text.len() * 2 / 3].to_owned()),
        says: "missing",
    },
    Tampered {
        what: "cut after the first line",
        with: |record| {
            edit(record, |text| {
                text.split_inclusive('\n').next().unwrap().to_owned()
            });
        },
        says: "missing",
    },
    Tampered {
        what: "empty",
        with: |record| edit(record, |_| String::new()),
        says: "missing",
    },
    Tampered {
        what: "without one of its files",
        with: |record| {
            edit(record, |text| {
                text.split_inclusive('\n')
                    .filter(|line| !line.contains("sub"))
                    .collect()
            });
        },
        says: "is damaged",
    },
    Tampered {
        what: "with a file twice",
        with: |record| {
            edit(record, |text| {
                let lines: Vec<&str> = text.split_inclusive('\n').collect();
                [lines[0], lines[1], lines[1]].concat() + &lines[2..].concat()
            });
        },
        says: "not the next",
    },
    Tampered {
        what: "with nonsense in it",
        with: |record| edit(record, |text| text.replacen('\n', "\nnonsense\n", 1)),
        says: "is damaged",
    },
    Tampered {
        what: "with a second beginning",
        with: |record| {
            edit(record, |text| {
                let first = text.split_inclusive('\n').next().unwrap();
                format!("{text}{first}")
            });
        },
        says: "a second time",
    },
    Tampered {
        what: "with a relative path",
        with: |record| {
            edit(record, |text| {
                let at = text.find("\"path\":\"").unwrap() + 8;
                format!("{}x{}", &text[..at], &text[at..])
            });
        },
        says: "a path that no record has",
    },
];

#[test]
fn a_record_that_was_tampered_with_changes_nothing_else() {
    for Tampered { what, with, says } in TAMPERED {
        let desk = rewritten();
        desk.put("outside.ini", NEW);
        let id = desk.ids()[0].clone();
        with(&desk.records()[0]);
        let ran = desk.restore(&[&id]);
        assert!(
            ran.code == 1 || ran.code == 2,
            "{what}: {} {}",
            ran.out,
            ran.err
        );
        assert!(
            format!("{}{}", ran.out, ran.err).contains(says),
            "{what}: {}{}",
            ran.out,
            ran.err
        );
        assert_eq!(desk.text("outside.ini"), NEW, "{what}");
        assert_eq!(desk.text("files/sub/b.ini"), NEW, "{what}");
        // It is listed as what it is, and keeps no other run from its work.
        desk.run(["history", "--record-dir", "records"])
            .ends_with(0);
        desk.put("files/c.ini", OLD);
        desk.rewrite(&[]).ends_with(0);
    }
}

#[cfg(unix)]
#[test]
fn pipes_and_links_in_a_record_do_not_hang_and_are_not_followed() {
    let make_pipe = |path: &Path| {
        let made = std::process::Command::new("mkfifo")
            .arg(path)
            .status()
            .unwrap();
        assert!(made.success());
    };
    for kind in ["pipe", "link"] {
        let desk = rewritten();
        desk.put("secret.ini", OLD);
        let original = desk.records()[0].join("originals/000001 b.ini");
        fs::remove_file(&original).unwrap();
        match kind {
            "pipe" => make_pipe(&original),
            _ => std::os::unix::fs::symlink(desk.path("secret.ini"), &original).unwrap(),
        }
        let id = desk.ids()[0].clone();
        let ran = desk.restore(&[&id]).ends_with(1);
        assert!(ran.out.contains("b.ini"), "{kind}: {}", ran.out);
        assert_eq!(desk.text("files/sub/b.ini"), NEW, "{kind}");
        assert_eq!(desk.text("files/viewer.ini"), OLD, "{kind}");
    }
    let desk = rewritten();
    let manifest = desk.records()[0].join("manifest.jsonl");
    fs::remove_file(&manifest).unwrap();
    make_pipe(&manifest);
    desk.run(["history", "--record-dir", "records"])
        .ends_with(0);
}

#[cfg(unix)]
#[test]
fn records_are_private_wherever_they_lie() {
    use std::os::unix::fs::PermissionsExt;
    let desk = rewritten();
    let mut left = vec![desk.records()[0].clone()];
    while let Some(path) = left.pop() {
        let metadata = fs::metadata(&path).unwrap();
        let wanted = if metadata.is_dir() { 0o700 } else { 0o600 };
        assert_eq!(
            metadata.permissions().mode() & 0o777,
            wanted,
            "{}",
            path.display()
        );
        if metadata.is_dir() {
            left.extend(
                fs::read_dir(&path)
                    .unwrap()
                    .map(|entry| entry.unwrap().path()),
            );
        }
    }
}

#[cfg(unix)]
#[test]
fn a_file_that_is_gone_comes_back_with_its_mode() {
    use std::os::unix::fs::PermissionsExt;
    let desk = Desk::new().file("files/a.sh", "cd D:/Herbarium/x\n");
    fs::set_permissions(desk.path("files/a.sh"), fs::Permissions::from_mode(0o754)).unwrap();
    desk.rewrite(&[]).ends_with(0);
    fs::remove_file(desk.path("files/a.sh")).unwrap();
    desk.restore(&["--changed", "original"]).ends_with(0);
    let mode = fs::metadata(desk.path("files/a.sh"))
        .unwrap()
        .permissions()
        .mode();
    assert_eq!(mode & 0o777, 0o754);
}
