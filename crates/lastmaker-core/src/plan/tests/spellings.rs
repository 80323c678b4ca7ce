//! Every way to spell a place, and moves from one family of places to another.

use super::*;

/// What `text` becomes under one move, as a settings value.
fn moved(text: &str, one: &str) -> String {
    rewritten_text(text, "a.txt", &[one])
}

#[test]
fn drives_as_folders() {
    let cases = [
        ("/mnt/d/Herbarium/x", "/mnt/h/Collections/Herbarium/x"),
        (
            "/cygdrive/d/herbarium/x",
            "/cygdrive/h/Collections/Herbarium/x",
        ),
        ("/d/Herbarium/x", "/h/Collections/Herbarium/x"),
        ("/mnt/D/Herbarium", "/mnt/H/Collections/Herbarium"),
        (
            "P=/bin:/mnt/d/Herbarium/b:/mnt/d/x",
            "P=/bin:/mnt/h/Collections/Herbarium/b:/mnt/d/x",
        ),
        (
            "file:///mnt/d/Herbarium/x",
            "file:///mnt/h/Collections/Herbarium/x",
        ),
        ("/mnt/d/Herbarium2", "/mnt/d/Herbarium2"),
        ("/mnt/data/Herbarium", "/mnt/data/Herbarium"),
        ("http://h/mnt/d/Herbarium/x", "http://h/mnt/d/Herbarium/x"),
        ("x/mnt/d/Herbarium", "x/mnt/d/Herbarium"),
    ];
    for (before, after) in cases {
        assert_eq!(moved(before, HERBARIUM[0]), after, "{before}");
    }
    for (before, after) in [
        ("/mnt/d/x", "/mnt/e/x"),
        ("/cygdrive/d", "/cygdrive/e"),
        // One letter alone is no drive beyond doubt.
        ("/d/x", "/d/x"),
    ] {
        assert_eq!(moved(before, r"D:\=E:\"), after, "{before}");
    }
}

#[test]
fn spellings_that_cannot_name_the_new_place_are_left_with_the_reason() {
    let cases = [
        (
            "/mnt/d/Herbarium/x",
            r"D:\Herbarium=\\fernhall\press",
            "folder of drives",
        ),
        (
            r"\\.\D:\Herbarium\x",
            r"D:\Herbarium=\\fernhall\press",
            r"\\.\",
        ),
        (
            r"\\mossbank\D$\Herbarium\x",
            r"D:\Herbarium=H:\C",
            "mossbank is the machine",
        ),
    ];
    for (text, one, says) in cases {
        let plan = planned(text.as_bytes(), "a.txt", &sheet(&[one]));
        assert!(plan.new.is_none(), "{text}");
        let reference = &first(&plan);
        assert_eq!(reference.standing, Standing::Doubtful, "{text}");
        assert!(
            super::says(reference).contains(says),
            "{text}: {:?}",
            super::says(reference)
        );
    }
}

#[test]
fn administrative_shares_name_the_drive_of_a_known_host() {
    let mut known = sheet(&[HERBARIUM[0]]);
    known.moves[0]
        .also
        .push(Place::parse(r"\\mossbank\D$\Herbarium").unwrap());
    let cases = [
        (
            r"\\mossbank\d$\Herbarium\x",
            r"\\mossbank\H$\Collections\Herbarium\x",
        ),
        (
            r"\\MOSSBANK\D$\herbarium\x",
            r"\\MOSSBANK\H$\Collections\Herbarium\x",
        ),
        (
            r"\\?\UNC\mossbank\D$\Herbarium\x",
            r"\\?\UNC\mossbank\H$\Collections\Herbarium\x",
        ),
        (
            r"\\localhost\D$\Herbarium\x",
            r"\\localhost\H$\Collections\Herbarium\x",
        ),
        (
            "//mossbank/D$/Herbarium/x",
            "//mossbank/H$/Collections/Herbarium/x",
        ),
    ];
    for (before, after) in cases {
        let got = rewritten(before.as_bytes(), "a.txt", &known);
        assert_eq!(String::from_utf8(got).unwrap(), after, "{before}");
    }
}

#[test]
fn variables_in_every_syntax() {
    let mut one = sheet(&[r"C:\Users\ines\Herbarium=H:\Herbarium"]);
    let profile = Place::parse(r"C:\Users\ines").unwrap();
    one.variables.push(("USERPROFILE".to_owned(), profile));
    one.add_usual_variables();
    let cases = [
        (r"%USERPROFILE%\Herbarium\x", r"H:\Herbarium\x"),
        (r"%userprofile%\Herbarium\x", r"H:\Herbarium\x"),
        ("$env:USERPROFILE\\Herbarium\\x", r"H:\Herbarium\x"),
        ("${env:UserProfile}\\Herbarium\\x", r"H:\Herbarium\x"),
        ("${USERPROFILE}/Herbarium/x", "H:/Herbarium/x"),
        ("$(USERPROFILE)/Herbarium/x", "H:/Herbarium/x"),
        ("~/Herbarium/x", "H:/Herbarium/x"),
        (r"%HOMEDRIVE%%HOMEPATH%\Herbarium\x", r"H:\Herbarium\x"),
        (r"%USERPROFILE%\Pictures", r"%USERPROFILE%\Pictures"),
        (r"a~/Herbarium/x", r"a~/Herbarium/x"),
        (r"%APPDATA%\Viewer", r"%APPDATA%\Viewer"),
    ];
    for (before, after) in cases {
        let got = rewritten(before.as_bytes(), "a.txt", &one);
        assert_eq!(String::from_utf8(got).unwrap(), after, "{before}");
    }
}

#[test]
fn families_cross_in_every_spelling() {
    let to_posix = r"D:\Herbarium=/srv/herbarium";
    let to_windows = r"/srv/herbarium=D:\Herbarium";
    let to_share = r"D:\Herbarium=\\fernhall\press";
    let from_share = r"\\fernhall\press=D:\Herbarium";
    let cases = [
        (to_posix, r"r=D:\Herbarium\a\b", "r=/srv/herbarium/a/b"),
        (to_posix, r"r=D:\\Herbarium\\a\\b", "r=/srv/herbarium/a/b"),
        (to_posix, "/mnt/d/Herbarium/a", "/srv/herbarium/a"),
        (
            to_posix,
            "file:///D:/Herbarium/a",
            "file:///srv/herbarium/a",
        ),
        (to_posix, r"\\?\D:\Herbarium\a", "/srv/herbarium/a"),
        (to_windows, "r=/srv/herbarium/a/b", r"r=D:\Herbarium\a\b"),
        (
            to_windows,
            "file:///srv/herbarium/a",
            "file:///D:/Herbarium/a",
        ),
        (to_share, r"r=D:\Herbarium\a", r"r=\\fernhall\press\a"),
        (to_share, "r=d:/herbarium/a", "r=//fernhall/press/a"),
        (to_share, r"\\?\D:\Herbarium\a", r"\\?\UNC\fernhall\press\a"),
        (to_share, r"\??\D:\Herbarium\a", r"\??\UNC\fernhall\press\a"),
        (from_share, r"r=\\fernhall\press\a", r"r=D:\Herbarium\a"),
        (
            from_share,
            "file://fernhall/press/a",
            "file:///D:/Herbarium/a",
        ),
        (
            from_share,
            r"\\?\UNC\fernhall\press\a",
            r"\\?\D:\Herbarium\a",
        ),
    ];
    for (one, before, after) in cases {
        assert_eq!(moved(before, one), after, "{one}: {before}");
    }
}

#[test]
fn other_names_and_lists() {
    let mut one = sheet(&[HERBARIUM[0]]);
    for also in [r"D:\HERBAR~1", r"S:\", "/Volumes/HERB", "/media/ines/HERB"] {
        one.moves[0].also.push(Place::parse(also).unwrap());
    }
    let cases = [
        (r"D:\HERBAR~1\x", r"H:\Collections\Herbarium\x"),
        (
            r"S:\x;D:\Herbarium\y;E:\z",
            r"H:\Collections\Herbarium\x;H:\Collections\Herbarium\y;E:\z",
        ),
        ("/Volumes/HERB/x", r"H:\Collections\Herbarium\x"),
        ("/media/ines/HERB/x", r"H:\Collections\Herbarium\x"),
    ];
    for (before, after) in cases {
        let text = format!("{{\"p\": {}}}", serde_json::to_string(before).unwrap());
        let expected = format!("{{\"p\": {}}}", serde_json::to_string(after).unwrap());
        let got = rewritten(text.as_bytes(), "a.json", &one);
        assert_eq!(String::from_utf8(got).unwrap(), expected, "{before}");
    }
}

/// What is evidently mistyped, with the spelling that would be right, and what it becomes if
/// it is to be repaired.
#[test]
fn slips_are_malformed_and_repaired_only_when_told() {
    let cases = [
        (
            "a.json",
            r#"{"r": "D:\Herbarium\new"}"#,
            r#"{"r": "H:\\Collections\\Herbarium\\new"}"#,
        ),
        (
            "a.toml",
            r#"r = "D:\Herbarium\temp""#,
            r#"r = "H:\\Collections\\Herbarium\\temp""#,
        ),
        (
            "a.js",
            r"r = 'D:\Herbarium\new';",
            r"r = 'H:\\Collections\\Herbarium\\new';",
        ),
        (
            "a.py",
            r#"R = "D:\Herbarium\new""#,
            r#"R = "H:\\Collections\\Herbarium\\new""#,
        ),
        (
            "a.lua",
            r#"r = "D:\Herbarium\new""#,
            r#"r = "H:\\Collections\\Herbarium\\new""#,
        ),
        (
            "a.h",
            r#"#define R "D:\Herbarium\new""#,
            r#"#define R "H:\\Collections\\Herbarium\\new""#,
        ),
        (
            "a.yaml",
            r#"r: "D:\Herbarium\new""#,
            r#"r: "H:\\Collections\\Herbarium\\new""#,
        ),
        (
            "a.properties",
            r"r=D:\Herbarium\new",
            r"r=H:\\Collections\\Herbarium\\new",
        ),
        (
            "a.json",
            r#"{"r": "D:D:\\Herbarium\\x"}"#,
            r#"{"r": "H:\\Collections\\Herbarium\\x"}"#,
        ),
        (
            "a.json",
            r#"{"r": "\"D:\\Herbarium\\x"}"#,
            r#"{"r": "H:\\Collections\\Herbarium\\x"}"#,
        ),
        (
            "a.json",
            r#"{"r": "D:\\Herbarium\\x\""}"#,
            r#"{"r": "H:\\Collections\\Herbarium\\x"}"#,
        ),
        (
            "a.json",
            r#"{"r": "D:\\Herbarium\\x "}"#,
            r#"{"r": "H:\\Collections\\Herbarium\\x"}"#,
        ),
    ];
    for (name, before, repaired) in cases {
        let one = sheet(HERBARIUM);
        let plan = planned(before.as_bytes(), name, &one);
        assert!(plan.new.is_none(), "{before}");
        let standings: Vec<_> = plan.references.iter().map(|r| r.standing).collect();
        assert_eq!(standings, [Standing::Malformed], "{before}");
        assert!(!first(&plan).suggestions.is_empty(), "{before}");
        let document = Document::open(before.as_bytes(), name, Reading::default()).unwrap();
        let options = PlanOptions {
            repair: true,
            ..PlanOptions::of(&one)
        };
        let mended = super::super::plan(&document, options);
        let got = mended.new.map(|new| String::from_utf8(new).unwrap());
        assert_eq!(
            got.as_deref(),
            Some(repaired),
            "{before}: {:?}",
            mended.references
        );
    }
}

/// What only looks like a slip.
#[test]
fn decoys_of_slips_move_as_they_are() {
    let cases = [
        (
            "a.txt",
            r"tool /D:D:\Herbarium\x",
            r"tool /D:H:\Collections\Herbarium\x",
        ),
        (
            "a.ini",
            "r=D:\\Herbarium\\x \r\n",
            "r=H:\\Collections\\Herbarium\\x \r\n",
        ),
        (
            "a.py",
            r"R = r'D:\Herbarium\new'",
            r"R = r'H:\Collections\Herbarium\new'",
        ),
        (
            "a.sh",
            "R='D:\\Herbarium\\new'\n",
            "R='H:\\Collections\\Herbarium\\new'\n",
        ),
    ];
    for (name, before, after) in cases {
        assert_eq!(rewritten_text(before, name, HERBARIUM), after, "{before}");
    }
}
