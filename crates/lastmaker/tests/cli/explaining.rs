//! explain and formats; and being told how to read, and to repair.

use crate::desk::{Desk, MOVE, tree};

#[test]
fn each_reference_is_told_from_its_bytes_to_its_place_and_back() {
    let desk = Desk::new().file(
        "files/viewer.json",
        "{\n  \"command\": \"view --root=D:\\\\Herbarium\\\\Sheets -v\",\n  \"other\": \"E:\\\\x\"\n}\n",
    );
    let before = tree(&desk.path("files"));
    let arguments = [
        "explain",
        "files/viewer.json:2",
        "--move",
        r"D:\Herbarium=H:\My Herbarium",
        "--elsewhere",
    ];
    let told = desk.run(arguments).ends_with(0).out;
    let rows = [
        "viewer.json  json, UTF-8",
        "2:27  command, a value  to-move",
        r"bytes        44 3a 5c 5c 48",
        r"UTF-8        D:\\Herbarium\\Sheets",
        r"JSON string  D:\Herbarium\Sheets",
        r"spelling     drive letter, \ between names",
        r"place        D:\Herbarium\Sheets  cannot be checked from here",
        r"move         D:\Herbarium becomes H:\My Herbarium",
        r"new place    H:\My Herbarium\Sheets",
        r#"JSON string  "H:\My Herbarium\Sheets""#,
        r#"UTF-8        \"H:\\My Herbarium\\Sheets\""#,
        "bytes        5c 22 48 3a",
        "1 reference in line 2.",
    ];
    let mut rest = told.as_str();
    for row in rows {
        let at = rest
            .find(row)
            .unwrap_or_else(|| panic!("{row} is not told in order:\n{told}"));
        rest = &rest[at + row.len()..];
    }
    assert!(!told.contains("E:"), "line 3 is not asked for:\n{told}");
    assert_eq!(tree(&desk.path("files")), before);
    assert!(desk.records().is_empty());
}

#[test]
fn layers_are_told_in_the_order_in_which_they_are_taken_off() {
    let desk = Desk::new().file(
        "files/a.xml",
        "<a b=\"{&quot;c&quot;: &quot;file:///D:/Herbarium/x%20y&quot;}\"/>",
    );
    let told = desk
        .run(["explain", "files/a.xml", "--move", MOVE, "--format", "json"])
        .ends_with(0)
        .json();
    let reference = &told["references"][0];
    let layers: Vec<&str> = reference["layers"]
        .as_array()
        .unwrap()
        .iter()
        .map(|one| one["layer"].as_str().unwrap())
        .collect();
    assert_eq!(
        layers,
        [
            "UTF-8",
            "attribute value",
            "JSON string",
            "file URI",
            "percent-encoding"
        ]
    );
    let written = |index: usize, side: &str| reference["layers"][index][side].clone();
    assert_eq!(written(4, "text"), "D:/Herbarium/x y");
    assert_eq!(written(4, "becomes"), "H:/Collections/Herbarium/x y");
    assert_eq!(written(0, "becomes"), "///H:/Collections/Herbarium/x%20y");
    assert_eq!(reference["move"]["to"], r"H:\Collections\Herbarium");
}

#[test]
fn what_cannot_be_explained_says_why() {
    let desk = Desk::new()
        .file("files/a.txt", "nothing")
        .file("files/picture.dat", b"\x89\0\x01\x02D:\\Herbarium\0\0\xff");
    let cases = [
        ("files/gone.txt", "does not exist"),
        ("files", "is a folder"),
    ];
    for (file, why) in cases {
        let ran = desk.run(["explain", file, "--move", MOVE]).ends_with(2);
        assert!(ran.err.contains(why), "{file}: {}", ran.err);
    }
    let ran = desk
        .run(["explain", "files/picture.dat", "--move", MOVE])
        .ends_with(0);
    assert!(
        ran.out.contains("byte 4") && ran.out.contains("sealed"),
        "{}",
        ran.out
    );
    let ran = desk.run(["explain", "files/a.txt:1"]).ends_with(0);
    assert!(
        ran.out.contains("No place is named in line 1."),
        "{}",
        ran.out
    );
}

#[test]
fn formats_lists_what_read_as_takes() {
    let desk = Desk::new().file("files/a.dat", "root = D:\\\\Herbarium\\\\x\n");
    let listed = desk
        .run(["formats", "--format", "json"])
        .ends_with(0)
        .json();
    let formats = listed["formats"].as_array().unwrap();
    assert!(formats.len() > 25);
    for one in formats {
        let name = one["name"].as_str().unwrap();
        let said = format!("*.dat={name}");
        let ran = desk.with_move("preview", &["--read-as", &said, "--format", "json"]);
        assert!(ran.code < 2, "{said}: {}", ran.err);
    }
    let text = desk.run(["formats"]).ends_with(0).out;
    assert!(text.contains("properties  Java property files"), "{text}");
}

#[test]
fn a_file_is_read_as_it_is_said_to_be() {
    let desk = Desk::new().file("files/viewer.dat", "root=D\\:\\\\Herbarium\\\\x\n");
    let plain = desk.with_move("preview", &["--format", "json"]).json();
    assert_eq!(
        plain["totals"]["to_move"], 0,
        "plain text does not know the escape"
    );
    desk.rewrite(&["--read-as", "*.dat=properties"])
        .ends_with(0);
    assert_eq!(
        desk.text("files/viewer.dat"),
        "root=H\\:\\\\Collections\\\\Herbarium\\\\x\n"
    );
    for (said, why) in [("*.dat", "="), ("*.dat=sheets", "lastmaker formats")] {
        let ran = desk.with_move("preview", &["--read-as", said]).ends_with(2);
        assert!(ran.err.contains(why), "{said}: {}", ran.err);
    }
}

#[test]
fn what_breaks_its_grammar_is_said_to() {
    let desk = Desk::new().file("files/a.xml", "<a b=\"D:\\Herbarium\\x\">\n");
    let ran = desk.with_move("preview", &[]).ends_with(0);
    assert!(
        ran.out
            .contains("unknown-text, ASCII, breaks the grammar of xml"),
        "{}",
        ran.out
    );
}

#[test]
fn slips_are_mended_only_when_told() {
    let before = "{\"a\": \"D:\\Herbarium\\temp\", \"b\": \"D:D:\\\\Herbarium\\\\x\", \"c\": \"D:\\\\Herbarium\\\\y \"}\n";
    let after = "{\"a\": \"H:\\\\Collections\\\\Herbarium\\\\temp\", \"b\": \"H:\\\\Collections\\\\Herbarium\\\\x\", \"c\": \"H:\\\\Collections\\\\Herbarium\\\\y\"}\n";
    let desk = Desk::new().file("files/a.json", before);
    let preview = desk
        .with_move("preview", &["--format", "json"])
        .ends_with(1)
        .json();
    assert_eq!(preview["totals"]["malformed"], 3);
    assert_eq!(
        preview["references"][0]["suggestions"][0]["place"],
        r"H:\\Collections\\Herbarium\\temp"
    );
    desk.rewrite(&[]).ends_with(1);
    assert_eq!(desk.text("files/a.json"), before);
    desk.rewrite(&["--repair"]).ends_with(0);
    assert_eq!(desk.text("files/a.json"), after);
    desk.restore(&[]).ends_with(0);
    assert_eq!(desk.text("files/a.json"), before);
}

#[test]
fn what_is_mended_keeps_its_spelling() {
    let cases = [
        (
            r"/d/Herbarium/temp;D:\Herbarium\temp",
            r"/h/Collections/Herbarium/temp;H:\\Collections\\Herbarium\\temp",
        ),
        (
            r"/mnt/d/Herbarium;D:\Herbarium\temp",
            r"/mnt/h/Collections/Herbarium;H:\\Collections\\Herbarium\\temp",
        ),
        (
            r"D:/Herbarium/x;D:\Herbarium\temp",
            r"H:/Collections/Herbarium/x;H:\\Collections\\Herbarium\\temp",
        ),
    ];
    for (before, after) in cases {
        let [before, after] = [before, after].map(|value| format!("{{\"a\": \"{value}\"}}\n"));
        let desk = Desk::new().file("files/a.json", &before);
        desk.rewrite(&["--repair"]).ends_with(0);
        assert_eq!(desk.text("files/a.json"), after);
    }
}
