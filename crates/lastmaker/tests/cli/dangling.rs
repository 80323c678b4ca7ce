//! What dangles together and why, its cures, and the evidence behind each move.

use std::fs;

use serde_json::Value;

use crate::desk::{Desk, MOVE};

const USUAL: [&str; 5] = [
    "--no-sheet",
    "--elsewhere",
    "--seen-at",
    r"H:\=disks/h",
    "--format",
];

fn check(desk: &Desk, more: &[&str]) -> Value {
    let mut arguments = vec!["check", "files"];
    arguments.extend(USUAL);
    arguments.push("json");
    arguments.extend(more);
    desk.run(arguments).ends_with(1).json()
}

#[test]
fn what_dangles_for_one_cause_is_one_entry() {
    let desk = Desk::new();
    let mut places = Vec::new();
    for number in 0..30 {
        let name = format!("plate-{number}.tif");
        if number > 1 {
            desk.put(&format!("disks/h/Attic/Sheets old/{name}"), "x");
        }
        places.push(format!(r"H:\Collections\Herbarium\Sheets old\{name}"));
        places.push(places[0].clone());
    }
    places.push(r"H:\Collections\Herbarium\gone.txt".to_owned());
    places.push(r"X:\far\away.txt".to_owned());
    for file in ["a", "b"] {
        desk.put(
            &format!("files/{file}.json"),
            serde_json::to_string(&places).unwrap(),
        );
    }
    let report = check(&desk, &[]);
    let groups = report["groups"].as_array().unwrap();
    let told: Vec<(&str, &str, u64, u64)> = groups
        .iter()
        .map(|group| {
            (
                group["cause"].as_str().unwrap(),
                group["place"].as_str().unwrap(),
                group["references"].as_u64().unwrap(),
                group["targets"].as_u64().unwrap(),
            )
        })
        .collect();
    assert_eq!(
        told,
        [
            ("unreachable-root", r"X:\", 2, 1),
            (
                "missing-folder",
                r"H:\Collections\Herbarium\Sheets old",
                120,
                30
            ),
            ("missing-file", r"H:\Collections\Herbarium\gone.txt", 2, 1),
        ]
    );
    let cure = &groups[1]["cures"][0];
    assert_eq!(cure["place"], r"H:\Attic\Sheets old");
    assert_eq!((&cure["found"], &cure["of"]), (&28.into(), &30.into()));
    assert_eq!(cure["certain"], true);
    let unreachable = |report: &Value| {
        let all = report["references"].as_array().unwrap();
        all.iter()
            .filter(|one| one["target"] == "unreachable")
            .count()
    };
    assert_eq!(unreachable(&report), 0);
    assert_eq!(unreachable(&check(&desk, &["--all"])), 2);
    let mut words = vec!["check", "files"];
    words.extend(USUAL);
    words.push("text");
    let ran = desk.run(words).ends_with(1);
    assert!(
        ran.out.contains("120 references in 2 files, to 30 places")
            && ran.out.contains("28 of 30 names are there"),
        "{}",
        ran.out
    );
}

#[test]
fn where_a_place_ends_is_ranked_by_what_exists() {
    let desk = Desk::new()
        .file("disks/h/T/Moor Sheets 013.pdf", "x")
        .file("disks/h/T/Low sketch/x", "x");
    let cases = [
        (r"See H:\T\Moor Sheets 013.pdf please", None),
        (r"See H:/T/Moor Sheets 013.pdf, or not", None),
        (r"See H:\T\Low sketch and go", None),
        (r"See H:\T\Low sketch and/or go", None),
        (
            r"See H:\T\Low sketch B\gone.csv",
            Some(r"H:\T\Low sketch B\gone.csv"),
        ),
        (
            r"See H:/T/Low sketch B/gone.csv now",
            Some(r"H:\T\Low sketch B\gone.csv"),
        ),
    ];
    for (text, dangling) in cases {
        desk.put("files/note.txt", text);
        let mut arguments = vec!["check", "files"];
        arguments.extend(USUAL);
        arguments.push("json");
        let report = desk.run(arguments).json();
        let found = report["references"][0]["place"].as_str();
        assert_eq!(found, dangling, "{text}");
    }
}

#[cfg(unix)]
#[test]
fn what_lies_on_a_volume_that_is_not_mounted_cannot_be_checked() {
    let desk = Desk::new().file("root/srv/there", "x").file(
        "files/a.json",
        r#"["/media/ines/HERBARIUM/x.tif", "/Volumes/Press/y.tif", "/srv/gone", "/srv/there"]"#,
    );
    let report = desk
        .run([
            "check",
            "files",
            "--no-sheet",
            "--seen-at",
            "/=root",
            "--format",
            "json",
        ])
        .ends_with(1)
        .json();
    let totals = &report["totals"];
    assert_eq!(
        [&totals["unreachable"], &totals["dangling"], &totals["live"]],
        [2, 1, 1]
    );
}

#[test]
fn the_same_words_before_and_after_a_rewrite() {
    let desk = Desk::new()
        .file("disks/h/Collections/Herbarium/x", "x")
        .file("files/a.ini", "a=D:\\Herbarium\\x\n")
        .file("files/b.txt", "D:\\Herbarium, or so\n");
    let standings = |desk: &Desk| {
        let ran = desk.with_move("check", &["--format", "json", "--record-dir", "records"]);
        let report = ran.ends_with(1).json();
        let all = report["references"].as_array().unwrap().iter();
        all.map(|one| one["standing"].as_str().unwrap().to_owned())
            .collect::<Vec<_>>()
    };
    assert_eq!(standings(&desk), ["to-move", "doubtful"]);
    desk.rewrite(&[]).ends_with(1);
    desk.put("files/a.ini", "a=D:\\Herbarium\\x\n");
    assert_eq!(standings(&desk), ["leftover", "doubtful"]);
    let ran = desk
        .with_move("check", &["--record-dir", "records"])
        .ends_with(1);
    assert!(ran.out.contains("the new place exists"), "{}", ran.out);
    let desk = Desk::new()
        .file("disks/h/Collections/Herbarium/x", "x")
        .file("files/a.ini", "a=D:\\Herbarium\\x\n");
    desk.rewrite(&[]).ends_with(0);
    desk.restore(&[]).ends_with(0);
    assert_eq!(standings(&desk), ["to-move"]);
}

#[test]
fn the_evidence_of_each_move_before_anything_is_changed() {
    let desk = Desk::new()
        .file("disks/h/Collections/Herbarium/there.tif", "x")
        .file(
            "files/a.json",
            r#"["D:\\Herbarium\\there.tif", "D:\\Herbarium\\gone.tif", "E:\\Maps\\a.map", "E:\\Maps\\b.map"]"#,
        );
    let with = |command: &'static str, more: &[&str]| {
        let mut arguments = vec![
            command,
            "files",
            "--no-sheet",
            "--elsewhere",
            "--move",
            MOVE,
            "--move",
            r"E:\Maps=H:\Charts",
            "--seen-at",
            r"H:\=disks/h",
            "--record-dir",
            "records",
        ];
        arguments.extend(more);
        desk.run(arguments)
    };
    let evidence = |report: &Value| -> Vec<[u64; 4]> {
        let all = report["moves"].as_array().unwrap();
        let figures = ["references", "files", "new_places", "existing"];
        all.iter()
            .map(|one| figures.map(|figure| one[figure].as_u64().unwrap()))
            .collect()
    };
    let json = ["--format", "json"];
    let expected = [[2, 1, 2, 1], [2, 1, 2, 0]];
    assert_eq!(evidence(&with("preview", &json).json()), expected);
    assert_eq!(
        evidence(&with("check", &json).ends_with(1).json()),
        expected
    );
    // Hardly anything is where the second move leads: it is foretold, and then it stops.
    let ran = with("preview", &[]);
    assert!(ran.out.contains("A rewrite would stop here"), "{}", ran.out);
    assert!(ran.out.contains(r"in H:\Charts"), "{}", ran.out);
    let ran = with("rewrite", &["--yes"]).ends_with(2);
    assert!(ran.err.contains("wrong folder"), "{}", ran.err);
    // Only what will be live.
    let ran = with("rewrite", &["--yes", "--existing-only"]).ends_with(1);
    assert!(ran.out.contains("Rewrote 1 reference"), "{}", ran.out);
    let text = desk.text("files/a.json");
    assert!(text.contains(r"H:\\Collections\\Herbarium\\there.tif"));
    assert_eq!(
        text.matches(r"D:\\").count() + text.matches(r"E:\\").count(),
        3
    );
    let left = with("preview", &["--existing-only", "--format", "json"])
        .ends_with(1)
        .json();
    let all = left["references"].as_array().unwrap();
    assert!(all.iter().all(|one| one["reason"] == "not-there"), "{left}");
}

#[test]
fn cures_look_at_the_old_place_and_on_other_disks() {
    let desk = Desk::new()
        .file("disks/d/Herbarium/left.tif", "x")
        .file("disks/m/Herbarium/far.tif", "x")
        .file(
            "files/a.json",
            r#"["H:\\Collections\\Herbarium\\left.tif", "H:\\Herbarium\\far.tif"]"#,
        );
    fs::create_dir_all(desk.path("disks/h/Herbarium")).unwrap();
    let seen = [
        "--seen-at",
        r"D:\=disks/d",
        "--seen-at",
        r"M:\=disks/m",
        "--move",
        MOVE,
        "--all",
    ];
    let report = check(&desk, &seen);
    let first = |at: usize| {
        let one = &report["references"][at]["suggestions"][0];
        (
            one["place"].as_str().unwrap().to_owned(),
            one["certain"] == true,
        )
    };
    assert_eq!(first(0), (r"D:\Herbarium\left.tif".to_owned(), true));
    assert_eq!(first(1), (r"M:\Herbarium\far.tif".to_owned(), false));
}

#[test]
fn a_cure_is_of_the_reading_that_is_seen() {
    let desk = Desk::new();
    desk.put("disks/h/Attic/Sheets/plate.tif", "x");
    desk.put("disks/h/Attic/Maps/base -b.map", "x");
    desk.put(
        "files/a.txt",
        "cannot open H:\\Linden\\Sheets\\plate.tif as a sheet\nopened H:\\Linden\\Maps\\base -b.map\n",
    );
    let report = check(&desk, &["--all"]);
    let cures: Vec<(&Value, &Value)> = report["references"]
        .as_array()
        .unwrap()
        .iter()
        .map(|one| (&one["written"], &one["suggestions"][0]["place"]))
        .collect();
    assert_eq!(cures[0].1, r"H:\Attic\Sheets\plate.tif", "{report:#}");
    assert_eq!(cures[1].1, r"H:\Attic\Maps\base -b.map", "{report:#}");
}
