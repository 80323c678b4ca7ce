//! What counts as taken back, which record is meant, and what of it.

use std::fs;

use crate::desk::{Desk, Ran, archive};

const OLD: &str = "a=D:\\Herbarium\\Sheets\n";
const NEW: &str = "a=H:\\Collections\\Herbarium\\Sheets\n";

fn desk() -> Desk {
    Desk::new()
        .file("files/a.ini", OLD)
        .file("files/sub/b.ini", OLD)
}

/// A second rewrite, of what the first one made.
fn rewrite_again(desk: &Desk) {
    let usual = [
        "rewrite",
        "files",
        "--yes",
        "--anyway",
        "--record-dir",
        "records",
    ];
    let moved = ["--move", r"H:\Collections=K:\Two"];
    desk.run([&usual[..], &moved].concat()).ends_with(0);
}

#[test]
fn a_rewrite_counts_as_taken_back_while_its_files_are_originals() {
    // Two rewrites of one file go back one after the other, the latest first.
    let desk = Desk::new().file("files/a.ini", OLD);
    desk.rewrite(&[]).ends_with(0);
    rewrite_again(&desk);
    assert_eq!(desk.text("files/a.ini"), "a=K:\\Two\\Herbarium\\Sheets\n");
    desk.restore(&[]).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), NEW);
    desk.restore(&[]).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), OLD);
    desk.restore(&[]).ends_with(2);
    // A restore of the last restore, and the first rewrite can be taken back again.
    let last = desk.ids().pop().unwrap();
    desk.restore(&[&last]).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), NEW);
    let ran = desk.restore(&[]).ends_with(0);
    assert!(ran.out.contains(&desk.ids()[0]), "{}", ran.out);
    assert_eq!(desk.text("files/a.ini"), OLD);
}

#[test]
fn the_older_of_two_rewrites_says_which_comes_first() {
    let desk = Desk::new().file("files/a.ini", OLD);
    desk.rewrite(&[]).ends_with(0);
    rewrite_again(&desk);
    let ids = desk.ids();
    let ran = desk.restore(&[&ids[0]]).ends_with(1);
    assert!(
        ran.out
            .contains(&format!("record {} rewrote it again", ids[1])),
        "{}",
        ran.out
    );
}

#[test]
fn a_record_with_no_file_hides_no_other() {
    let desk = desk();
    desk.rewrite(&[]).ends_with(0);
    // The next one changes nothing, and the one after that only elsewhere.
    desk.rewrite(&[]).ends_with(0);
    desk.put("files/other.ini", OLD);
    desk.rewrite(&["--only", "other.ini"]).ends_with(0);
    fs::write(desk.path("files/other.ini"), OLD).unwrap();
    desk.restore(&[]).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), OLD);
}

#[test]
fn only_what_lies_here_is_taken_back() {
    let desk = desk().file("elsewhere/c.ini", OLD);
    desk.rewrite(&["elsewhere"]).ends_with(0);
    // From a folder with none of the files, nothing is; the records are listed.
    fs::create_dir(desk.path("empty")).unwrap();
    let none = desk
        .run_in("empty", ["restore", "--record-dir", "../records", "--yes"])
        .ends_with(2);
    assert!(none.err.contains(&desk.ids()[0]), "{}", none.err);
    assert!(none.err.contains("no rewrite to take back"));
    let here = desk
        .run_in("files", ["restore", "--record-dir", "../records", "--yes"])
        .ends_with(0);
    assert!(here.out.contains("Put back 2 originals"), "{}", here.out);
    assert!(
        here.out.contains("1 other file of the record"),
        "{}",
        here.out
    );
    assert_eq!(desk.text("elsewhere/c.ini"), NEW);
    desk.restore(&["elsewhere"]).ends_with(0);
    assert_eq!(desk.text("elsewhere/c.ini"), OLD);
}

#[test]
fn it_asks_unless_told_otherwise() {
    let desk = desk();
    desk.rewrite(&[]).ends_with(0);
    let asked = desk
        .run(["restore", "--record-dir", "records"])
        .ends_with(2);
    for part in [
        "nobody to ask",
        "2 files under",
        r"D:\Herbarium = H:\Collections\Herbarium",
    ] {
        assert!(asked.err.contains(part), "{}", asked.err);
    }
    assert_eq!(desk.text("files/a.ini"), NEW);
    let shown = desk
        .run(["restore", "--record-dir", "records", "--preview"])
        .ends_with(0);
    assert!(
        shown.out.contains("Would put back 2 originals"),
        "{}",
        shown.out
    );
    assert_eq!(desk.text("files/a.ini"), NEW);
    assert_eq!(desk.records().len(), 1, "a preview makes no record");
}

#[test]
fn some_files_one_folder_and_later_the_rest() {
    let cases: [&[&str]; 4] = [
        &["files/sub"],
        &["files/sub/b.ini"],
        &["--only", "b.ini"],
        &["--skip", "a.*"],
    ];
    for part in cases {
        let desk = desk();
        desk.rewrite(&[]).ends_with(0);
        desk.restore(part).ends_with(0);
        assert_eq!(desk.text("files/sub/b.ini"), OLD, "{part:?}");
        assert_eq!(desk.text("files/a.ini"), NEW, "{part:?}");
        let listed = desk
            .run(["history", "--record-dir", "records"])
            .ends_with(0);
        assert!(listed.out.contains("1 of 2 taken back"), "{}", listed.out);
        desk.restore(&[]).ends_with(0);
        assert_eq!(desk.text("files/a.ini"), OLD, "{part:?}");
    }
}

/// A desk whose files name two places that moved, after their rewrite.
fn two_moves(name: &str, content: impl AsRef<[u8]>) -> Desk {
    let desk = Desk::new().file(&format!("files/{name}"), content);
    desk.rewrite(&["--move", r"E:\Loans=L:\Loans"]).ends_with(0);
    desk
}

#[test]
fn one_move_and_later_the_other() {
    let old = "both=D:\\Herbarium\\x;E:\\Loans\\y\none=D:\\Herbarium\ntwo=E:\\Loans\nthree=3\n";
    let middle = "both=H:\\Collections\\Herbarium\\x;E:\\Loans\\y\none=H:\\Collections\\Herbarium\ntwo=E:\\Loans\nthree=3\n";
    let other = "both=D:\\Herbarium\\x;L:\\Loans\\y\none=D:\\Herbarium\ntwo=L:\\Loans\nthree=3\n";
    let (first, second) = (r"E:\Loans", r"D:\Herbarium");
    for (from, then, half) in [(first, second, middle), (second, first, other)] {
        let desk = two_moves("a.ini", old);
        let id = desk.ids()[0].clone();
        desk.restore(&["--move-from", from]).ends_with(0);
        assert_eq!(desk.text("files/a.ini"), half, "{from}");
        // All that remains at once, or by the other move.
        desk.restore(&[&id, "--move-from", then]).ends_with(0);
        assert_eq!(desk.text("files/a.ini"), old, "{from}");
        let desk = two_moves("a.ini", old);
        desk.restore(&["--move-from", from]).ends_with(0);
        desk.restore(&[]).ends_with(0);
        assert_eq!(desk.text("files/a.ini"), old, "{from}");
    }
    let desk = two_moves("a.ini", old);
    let unknown = desk.restore(&["--move-from", r"X:\y"]).ends_with(2);
    assert!(
        unknown.err.contains(r"E:\Loans = L:\Loans"),
        "{}",
        unknown.err
    );
}

/// Rewrites `old`, lets the program save `saved`, and takes the edits back.
fn edits_back(name: &str, old: &str, saved: &str) -> (String, Ran) {
    let path = format!("files/{name}");
    let desk = Desk::new().file(&path, old);
    let rewritten = desk.rewrite(&[]);
    assert!(rewritten.out.contains("Rewrote"), "{}", rewritten.err);
    desk.put(&path, saved);
    let ran = desk.restore(&["--changed", "edits"]);
    (desk.text(&path), ran)
}

#[test]
fn what_still_stands_goes_back_and_what_is_new_stays() {
    // The name, the original, what the program saved since, and what comes of it; how many of
    // how many changes went back.
    let cases: [(&str, &str, &str, &str, (usize, usize)); 10] = [
        // A longer value that begins with the new place was never there.
        (
            "a.ini",
            "c=D:\\Herbarium\\Lab\n",
            "c=H:\\Collections\\Herbarium\\Labels\n",
            "c=H:\\Collections\\Herbarium\\Labels\n",
            (0, 1),
        ),
        (
            "a.ini",
            "c=D:\\Herbarium\n",
            "c=H:\\Collections\\Herbarium\\New\n",
            "c=H:\\Collections\\Herbarium\\New\n",
            (0, 1),
        ),
        (
            "a.ini",
            "c=D:\\Herbarium\n",
            "c=H:\\Collections\\Herbarium Old\n",
            "c=H:\\Collections\\Herbarium Old\n",
            (0, 1),
        ),
        // Another key with the same value is not what was rewritten.
        (
            "a.ini",
            "c=D:\\Herbarium\n",
            "d=H:\\Collections\\Herbarium\nc=H:\\Collections\\Herbarium\n",
            "d=H:\\Collections\\Herbarium\nc=D:\\Herbarium\n",
            (1, 1),
        ),
        // In lists the value counts, not its number.
        (
            "a.json",
            r#"["D:\\Herbarium\\1", "D:\\Herbarium\\2"]"#,
            r#"["H:\\Collections\\Herbarium\\0", "H:\\Collections\\Herbarium\\1", "x"]"#,
            r#"["H:\\Collections\\Herbarium\\0", "D:\\Herbarium\\1", "x"]"#,
            (1, 2),
        ),
        (
            "a.json",
            r#"{"l": [{"p": "D:\\Herbarium\\1"}, {"p": "D:\\Herbarium\\2"}]}"#,
            r#"{"l": [{"p": "H:\\Collections\\Herbarium\\2"}, {"p": "H:\\Collections\\Herbarium\\1"}], "n": 1}"#,
            r#"{"l": [{"p": "D:\\Herbarium\\2"}, {"p": "D:\\Herbarium\\1"}], "n": 1}"#,
            (2, 2),
        ),
        // A renamed key, and a value below it.
        (
            "a.json",
            r#"{"D:\\Herbarium": {"p": "D:\\Herbarium\\1"}, "n": 1}"#,
            r#"{"H:\\Collections\\Herbarium": {"p": "H:\\Collections\\Herbarium\\1"}, "n": 2}"#,
            r#"{"D:\\Herbarium": {"p": "D:\\Herbarium\\1"}, "n": 2}"#,
            (2, 2),
        ),
        // Running text: its line counts.
        (
            "a.txt",
            "one\nsee \"D:\\Herbarium\\a\" and\ntwo\n",
            "new\none\nsee \"H:\\Collections\\Herbarium\\a\" and\nthree\n",
            "new\none\nsee \"D:\\Herbarium\\a\" and\nthree\n",
            (1, 1),
        ),
        // A line that stood there before the rewrite as that writes it: nobody can tell which is which.
        (
            "a.txt",
            "see \"H:\\Collections\\Herbarium\\a\"\nsee \"D:\\Herbarium\\a\"\n",
            "see \"H:\\Collections\\Herbarium\\a\"\nsee \"H:\\Collections\\Herbarium\\a\"\nmore\n",
            "see \"H:\\Collections\\Herbarium\\a\"\nsee \"H:\\Collections\\Herbarium\\a\"\nmore\n",
            (0, 1),
        ),
        // The program has put the old place back by itself.
        (
            "a.ini",
            "a=D:\\Herbarium\nb=1\n",
            "a=D:\\Herbarium\nb=2\n",
            "a=D:\\Herbarium\nb=2\n",
            (0, 1),
        ),
    ];
    for (name, old, saved, expected, (back, of)) in cases {
        let (text, ran) = edits_back(name, old, saved);
        assert_eq!(text, expected, "{old}\n{}", ran.out);
        let told = format!("took back {back} of {of} change");
        assert!(ran.out.contains(&told), "{old}\n{}", ran.out);
        assert_eq!(ran.code, i32::from(back < of), "{old}\n{}", ran.out);
    }
}

#[test]
fn members_rows_and_nested_documents_go_back() {
    let member = |place: &str| format!("x={place}\\a\r\n");
    let desk = Desk::new().file(
        "files/a.zip",
        archive(&[
            ("a.ini", member(r"D:\Herbarium").as_bytes()),
            ("b.txt", b"b"),
        ]),
    );
    let rows = |name: &str| {
        let database = rusqlite::Connection::open(desk.path(name)).unwrap();
        let mut query = database
            .prepare("SELECT path FROM sheet ORDER BY id")
            .unwrap();
        let rows = query.query_map([], |row| row.get::<_, String>(0)).unwrap();
        rows.map(Result::unwrap).collect::<Vec<_>>()
    };
    let change = |sql: &str| {
        let database = rusqlite::Connection::open(desk.path("files/c.db")).unwrap();
        database.execute_batch(sql).unwrap();
    };
    change(
        r"CREATE TABLE sheet (id INTEGER PRIMARY KEY, path TEXT);
          INSERT INTO sheet (path) VALUES ('D:\Herbarium\1'), ('D:\Herbarium\2'), ('x');",
    );
    desk.rewrite(&[]).ends_with(0);
    // The programs save: another member, a new row, one row changed.
    let new = member(r"H:\Collections\Herbarium");
    desk.put(
        "files/a.zip",
        archive(&[("a.ini", new.as_bytes()), ("c.txt", b"saved since")]),
    );
    change(
        r"UPDATE sheet SET path = 'H:\Collections\Herbarium\2b' WHERE id = 2;
          INSERT INTO sheet (path) VALUES ('H:\Collections\Herbarium\1');",
    );
    let ran = desk.restore(&["--changed", "edits"]).ends_with(1);
    assert!(ran.out.contains("took back 1 of 2 changes"), "{}", ran.out);
    let expected = [
        r"D:\Herbarium\1",
        r"H:\Collections\Herbarium\2b",
        "x",
        r"H:\Collections\Herbarium\1",
    ];
    assert_eq!(rows("files/c.db"), expected);
    let back = archive(&[
        ("a.ini", member(r"D:\Herbarium").as_bytes()),
        ("c.txt", b"saved since"),
    ]);
    let contents = |bytes: Vec<u8>| {
        let mut zip = zip::ZipArchive::new(std::io::Cursor::new(bytes)).unwrap();
        (0..zip.len())
            .map(|index| {
                let mut text = String::new();
                std::io::Read::read_to_string(&mut zip.by_index(index).unwrap(), &mut text)
                    .unwrap();
                text
            })
            .collect::<Vec<_>>()
    };
    assert_eq!(contents(desk.read("files/a.zip")), contents(back));
}

#[test]
fn json_tells_each_site() {
    let desk = Desk::new().file("files/a.ini", "a=D:\\Herbarium\nb=D:\\Herbarium\\Lab\n");
    desk.rewrite(&[]).ends_with(0);
    desk.put(
        "files/a.ini",
        "a=H:\\Collections\\Herbarium\nb=H:\\Collections\\Herbarium\\Labels\n",
    );
    let told = desk
        .restore(&["--changed", "edits", "--format", "json"])
        .ends_with(1)
        .json();
    let sites = &told["edits_taken_back"][0]["sites"];
    let taken: Vec<_> = sites
        .as_array()
        .unwrap()
        .iter()
        .map(|site| (site["site"].as_str(), &site["taken_back"]))
        .collect();
    assert_eq!(
        taken,
        [(Some("a"), &true.into()), (Some("b"), &false.into())],
        "{told:#}"
    );
    assert_eq!(sites[0]["was"], r"D:\Herbarium");
}

#[test]
fn blocks_of_a_shortcut_go_back() {
    // The hot key in the head is what the desktop changes.
    const HOT_KEY: std::ops::Range<usize> = 0x40..0x42;
    let original = include_bytes!("../../../../demo/documents/shortcuts/Label printer.lnk");
    let desk = Desk::new().file("files/Label printer.lnk", original);
    desk.rewrite(&[]).ends_with(0);
    let with_key = |bytes: &[u8]| {
        let mut bytes = bytes.to_vec();
        bytes[HOT_KEY].copy_from_slice(&[0x41, 6]);
        bytes
    };
    let saved = with_key(&desk.read("files/Label printer.lnk"));
    desk.put("files/Label printer.lnk", saved);
    desk.restore(&["--changed", "edits"]).ends_with(0);
    assert_eq!(desk.read("files/Label printer.lnk"), with_key(original));
}
