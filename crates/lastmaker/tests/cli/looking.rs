//! survey, preview, check: looking changes nothing, and says what it sees.

use crate::desk::{Desk, tree};

#[test]
fn preview_shows_each_change_and_writes_nothing() {
    let desk = Desk::new()
        .file("files/.hidden/label.ini", "root=D:\\Herbarium\\Sheets\r\n")
        .file(
            "files/viewer.json",
            r#"{"folder": "D:\\Herbarium\\Sheets"}"#,
        )
        .file("files/other.txt", "nothing here");
    let before = tree(&desk.path("files"));
    let ran = desk.with_move("preview", &[]).ends_with(0);
    assert!(
        ran.out.contains(r"- root=D:\Herbarium\Sheets"),
        "{}",
        ran.out
    );
    assert!(ran.out.contains(r"+ root=H:\Collections\Herbarium\Sheets"));
    assert!(
        ran.out
            .contains(r#"+ {"folder": "H:\\Collections\\Herbarium\\Sheets"}"#)
    );
    assert!(
        ran.out
            .contains("2 references in 2 files would change, of 3 files looked at.")
    );
    assert!(ran.out.contains("Of 1 new place, 1 exists."));
    assert_eq!(tree(&desk.path("files")), before);
    assert!(desk.records().is_empty());
}

#[test]
fn json_has_the_fields_of_the_contract() {
    let desk = Desk::new().file(
        "files/viewer.json",
        "{\n  \"folder\": \"D:\\\\Herbarium\\\\Gone\"\n}",
    );
    let preview = desk
        .with_move("preview", &["--format", "json"])
        .ends_with(0)
        .json();
    assert_eq!(preview["schema"], 1);
    let reference = &preview["references"][0];
    let expected = [
        ("site", "folder"),
        ("written", r"D:\Herbarium\Gone"),
        ("place", r"D:\Herbarium\Gone"),
        ("standing", "to-move"),
        ("new_place", r"H:\Collections\Herbarium\Gone"),
        ("new_target", "dangling"),
        ("format", "json"),
    ];
    for (field, value) in expected {
        assert_eq!(reference[field], value, "{field}");
    }
    assert_eq!(
        (reference["line"].as_u64(), reference["column"].as_u64()),
        (Some(2), Some(14))
    );
    assert!(
        reference.get("suggestions").is_none(),
        "absent fields are left out"
    );
    let check = desk
        .with_move("check", &["--format", "json"])
        .ends_with(1)
        .json();
    assert_eq!(check["references"][0]["standing"], "to-move");
    assert_eq!(check["totals"]["to_move"], 1);
}

#[test]
fn the_order_does_not_depend_on_the_number_of_threads() {
    let desk = Desk::new();
    for index in 0..300 {
        desk.put(
            &format!("files/{}/{index:03}.ini", index % 7),
            format!("x=D:\\Herbarium\\{index}\n"),
        );
    }
    let one = desk.with_move("preview", &["--jobs", "1"]).ends_with(0);
    for jobs in ["2", "7"] {
        let more = desk.with_move("preview", &["--jobs", jobs]).ends_with(0);
        assert_eq!(one.out, more.out);
    }
    let survey = |jobs| {
        desk.run(["survey", "files", "--no-sheet", "--jobs", jobs])
            .ends_with(0)
            .out
    };
    assert_eq!(survey("1"), survey("5"));
}

#[test]
fn survey_needs_no_sheet_and_counts_by_folder() {
    let desk = Desk::new()
        .file(
            "files/a.json",
            r#"["D:\\Herbarium\\a.tif", "d:/herbarium/b.tif", "\\\\mossbank\\press\\x"]"#,
        )
        .file(
            "files/b.txt",
            "see /home/ines/x, and/or http://d:/x, //not/a share, \\\\nor\\this one\n",
        );
    let ran = desk
        .run(["survey", "files", "--no-sheet", "--format", "json"])
        .ends_with(0)
        .json();
    let places: Vec<&str> = ran["places"]
        .as_array()
        .unwrap()
        .iter()
        .map(|p| p["place"].as_str().unwrap())
        .collect();
    assert_eq!(
        places,
        [
            r"\\mossbank\press\x",
            "/home/ines/x",
            r"D:\Herbarium\a.tif",
            r"D:\herbarium\b.tif"
        ]
    );
    assert_eq!(ran["tree"][0]["place"], r"D:\Herbarium");
    assert_eq!(ran["tree"][0]["references"], 2);
}

#[test]
fn check_lists_what_dangles_with_the_likeliest_cure() {
    let desk = Desk::new()
        .file("disks/h/Collections/Herbarium/Sheets/0412-salix.tif", "x")
        .file("files/a.ini", "a=H:\\Collections\\Herbarium\\Sheets\\0412_salix.tif\nb=H:\\Collections\\Herbarium\\Sheets\nd=H:\\Elsewhere\\y\n")
        .file("files/b.ini", "c=H:\\Elsewhere\\x\n");
    let ran = desk.with_move("check", &[]).ends_with(1);
    assert!(
        ran.out
            .contains(r"likely: H:\Collections\Herbarium\Sheets\0412-salix.tif"),
        "{}",
        ran.out
    );
    assert!(
        ran.out
            .contains("2 references to what moved in 2 files: 1 live, 1 dangling.")
    );
    // A file that speaks of neither side is not read.
    assert!(ran.out.contains("1 dangling reference elsewhere"));
    assert!(!ran.out.contains("Elsewhere\\"));
    let all = desk.with_move("check", &["--all"]).ends_with(1).out;
    assert!(all.contains(r"H:\Elsewhere\x") && all.contains(r"H:\Elsewhere\y"));
}

#[test]
fn what_is_not_there_or_not_known_is_explained() {
    let desk = Desk::new().file("files/a.ini", "x");
    let cases: [(&[&str], &str); 9] = [
        (
            &["preview", "missing", "--move", r"D:\a=E:\b"],
            "does not exist",
        ),
        (&["preview", "files"], "nothing is said to have moved"),
        (&["preview", "--move", r"D:\a=E:\b"], "nothing to look at"),
        (&["preview", "files", "--move", r"D:\a"], "OLD=NEW"),
        (&["preview", "files", "--move", r"a=E:\b"], "absolute"),
        (
            &["preview", "files", "--move", "D:\\My Data\"=E:\\b"],
            "backslash before the closing quote",
        ),
        (
            &[
                "preview",
                "files",
                "--move",
                r"D:\a=E:\b",
                "--encoding",
                "klingon",
            ],
            "not known",
        ),
        (
            &["preview", "files", "--move", r"D:\a=E:\b", "--skip", "["],
            "not a pattern",
        ),
        (
            &[
                "preview",
                "files",
                "--move",
                r"D:\a=E:\b",
                "--out",
                "files/a.ini",
            ],
            "exists already",
        ),
    ];
    for (arguments, says) in cases {
        let ran = desk.run(arguments.iter().copied()).ends_with(2);
        assert!(ran.err.contains(says), "{arguments:?}: {}", ran.err);
        assert!(ran.out.is_empty());
    }
}

#[test]
fn names_cannot_steer_the_terminal() {
    let desk = Desk::new().file(
        "files/a.json",
        "[\"D:\\\\Herbarium\\\\\\u001b[31m\\u202egnp\"]",
    );
    let json = desk.with_move("preview", &[]).ends_with(0);
    assert!(!json.out.contains('\u{1b}') && !json.out.contains('\u{202e}'));
    let survey = desk.run(["survey", "files", "--no-sheet"]);
    assert!(!survey.out.contains('\u{1b}') && !survey.out.contains('\u{202e}'));
}

#[test]
fn skip_only_history_and_binary_files() {
    let desk = Desk::new()
        .file("files/a.ini", r"x=D:\Herbarium\a")
        .file("files/a.ini.bak", r"x=D:\Herbarium\a")
        .file("files/cache/b.ini", r"x=D:\Herbarium\b")
        .file("files/c.json", r#"["D:\\Herbarium\\c"]"#)
        .file(
            "files/d.dat",
            b"\x01\x02\0\0\x03D:\\Herbarium\\d\0\0\x04\x05",
        )
        .file("files/e.png", b"\x89PNG\r\n\x1a\nD:\\Herbarium\\e");
    let ran = desk.with_move("preview", &[]).ends_with(1);
    assert!(ran.out.contains("3 references in 3 files would change"));
    assert!(ran.out.contains("1 reference is left in logs, backups"));
    assert!(ran.out.contains("d.dat") && ran.out.contains("no known structure"));
    assert!(!ran.out.contains("e.png"));
    let ran = desk
        .with_move(
            "preview",
            &["--skip", "cache", "--skip", "*.dat", "--history-files"],
        )
        .ends_with(0);
    assert!(
        ran.out.contains("3 references in 3 files would change") && ran.out.contains("a.ini.bak")
    );
    let ran = desk
        .with_move("preview", &["--only", "*.json"])
        .ends_with(0);
    assert!(
        ran.out
            .contains("1 reference in 1 file would change, of 1 file looked at.")
    );
}

#[cfg(unix)]
#[test]
fn links_are_not_followed_but_a_given_one_is() {
    use std::os::unix::fs::symlink;
    let desk = Desk::new()
        .file("outside/a.ini", r"x=D:\Herbarium\a")
        .file("files/b.ini", "x");
    symlink(desk.path("outside"), desk.path("files/inner")).unwrap();
    symlink(desk.path("outside/a.ini"), desk.path("files/a.ini")).unwrap();
    symlink(desk.path("files"), desk.path("files/loop")).unwrap();
    let ran = desk.with_move("preview", &[]).ends_with(0);
    assert!(
        ran.out
            .contains("0 references in 0 files would change, of 4 files looked at."),
        "{}",
        ran.out
    );
    symlink(desk.path("outside"), desk.path("given")).unwrap();
    let ran = desk
        .run([
            "preview",
            "given",
            "--no-sheet",
            "--move",
            crate::desk::MOVE,
        ])
        .ends_with(0);
    assert!(ran.out.contains("1 reference in 1 file would change"));
}

#[cfg(unix)]
#[test]
fn addresses_in_pages_follow_what_exists() {
    let page =
        "<html><a href=\"/media/press/a.html\">a</a><a href=\"/media/press/b.html\">b</a></html>\n";
    let desk = Desk::new()
        .file("files/page.html", page)
        .file("files/a.css", "a { background: url(/media/press/b.png) }\n")
        .file("new/a.html", "here");
    let new = desk.path("new").canonicalize().unwrap();
    let one = format!("/media/press={}", new.display());
    let run = |command, more: &[&'static str]| {
        let arguments = [command, "files", "--no-sheet", "--move", &one];
        desk.run(arguments.into_iter().chain(more.iter().copied()))
            .ends_with(0)
    };
    let told = run("preview", &[]).out;
    assert!(
        told.contains("2 references are left, being none of this machine"),
        "{told}"
    );
    run("rewrite", &["--yes"]);
    // What is at its new place is a file; what is not is an address of the site.
    let moved = format!("{}/a.html", new.display());
    let read = |name| String::from_utf8(desk.read(name)).unwrap();
    assert_eq!(
        read("files/page.html"),
        page.replace("/media/press/a.html", &moved)
    );
    assert!(read("files/a.css").contains("(/media/press/b.png)"));
}

#[cfg(unix)]
#[test]
fn pipes_are_passed_over() {
    let desk = Desk::new().file("files/a.ini", r"x=D:\Herbarium\a");
    let made = std::process::Command::new("mkfifo")
        .arg(desk.path("files/pipe"))
        .status()
        .unwrap();
    assert!(made.success());
    let ran = desk.with_move("preview", &[]).ends_with(0);
    assert!(
        ran.out
            .contains("1 reference in 1 file would change, of 1 file looked at.")
    );
}
