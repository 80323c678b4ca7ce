//! Where dangling targets went, found out from names alone.

use std::fs;

use serde_json::Value;

use crate::desk::Desk;

/// A desk whose settings name `places`, with files at `there` below `disks`.
fn desk(places: &[&str], there: &[&str]) -> Desk {
    let desk = Desk::new();
    fs::remove_dir_all(desk.path("disks/h/Collections")).unwrap();
    desk.put(
        "files/settings.json",
        serde_json::to_string_pretty(places).unwrap(),
    );
    for name in there {
        desk.put(&format!("disks/{name}"), name);
    }
    desk
}

const SEEN: [&str; 8] = [
    "--seen-at",
    r"H:\=disks/h",
    "--seen-at",
    r"M:\=disks/m",
    "--seen-at",
    r"D:\=disks/d",
    "--seen-at",
    r"\\fernhall\press=disks/press",
];

/// Traces into `into`; the answer.
fn traced(desk: &Desk, into: &[&str], more: &[&str], code: i32) -> Value {
    let mut arguments = vec!["trace", "files", "--no-sheet", "--format", "json", "--into"];
    arguments.extend(into);
    arguments.extend(SEEN);
    arguments.extend(more);
    desk.run(arguments).ends_with(code).json()
}

/// The moves as `from = to`, uncertain ones with a question mark.
fn moves(report: &Value) -> Vec<String> {
    let all = report["moves"].as_array().unwrap();
    let told = |one: &Value| {
        let sure = if one["certain"] == true { "" } else { "? " };
        let side = |name: &str| one[name].as_str().unwrap().to_owned();
        format!("{sure}{} = {}", side("from"), side("to"))
    };
    all.iter().map(told).collect()
}

#[test]
fn the_fewest_moves_that_explain_what_dangles() {
    let sheets = [
        r"D:\Herbarium\Sheets\2019\0412.tif",
        r"D:\Herbarium\Sheets\2019\0413.tif",
        r"D:\Herbarium\Sheets\2021\0871.tif",
        r"D:\Herbarium\Maps\base.map",
    ];
    let at = |top: &str| -> Vec<String> {
        sheets
            .iter()
            .map(|place| format!("{top}/{}", place[13..].replace('\\', "/")))
            .collect()
    };
    let cases: [(&str, Vec<String>, &[&str]); 6] = [
        (
            "a folder further down",
            at("h/Collections/Herbarium"),
            &[r"D:\Herbarium = H:\Collections\Herbarium"],
        ),
        (
            "another name",
            at("h/Linden"),
            &[r"D:\Herbarium = H:\Linden"],
        ),
        (
            "another letter",
            at("h/Herbarium"),
            &[r"D:\Herbarium = H:\Herbarium"],
        ),
        (
            "one level too deep",
            at("h/Herbarium/Herbarium"),
            &[r"D:\Herbarium = H:\Herbarium\Herbarium"],
        ),
        (
            "a part elsewhere",
            [
                at("h/Linden")[..3].to_vec(),
                vec!["m/Charts/base.map".into()],
            ]
            .concat(),
            &[
                r"D:\Herbarium = H:\Linden",
                r"? D:\Herbarium\Maps = M:\Charts",
            ],
        ),
        ("nowhere", vec!["h/other.txt".into(), "m/x".into()], &[]),
    ];
    for (name, there, expected) in cases {
        let there: Vec<&str> = there.iter().map(String::as_str).collect();
        let desk = desk(&sheets, &there);
        fs::create_dir_all(desk.path("disks/m")).unwrap();
        let certain = expected.len() == 1;
        let report = traced(&desk, &["disks/h", r"M:\"], &[], i32::from(!certain));
        assert_eq!(moves(&report), expected, "{name}");
        let unexplained = report["unexplained"].as_array().unwrap().len();
        assert_eq!(
            unexplained,
            if expected.is_empty() { 4 } else { 0 },
            "{name}"
        );
    }
}

#[test]
fn what_fits_two_ways_is_told_and_not_guessed() {
    let places = [r"D:\A\one.tif", r"D:\A\two.tif", r"D:\A\three.tif"];
    let copies: Vec<String> = ["h/Live/A", "h/Backup/A"]
        .iter()
        .flat_map(|top| ["one.tif", "two.tif", "three.tif"].map(|name| format!("{top}/{name}")))
        .collect();
    let there: Vec<&str> = copies.iter().map(String::as_str).collect();
    let desk = desk(&places, &there);
    let report = traced(&desk, &["disks/h"], &["--write", "found.toml"], 1);
    let found = &report["moves"][0];
    assert_eq!(found["certain"], false);
    let both = [&found["to"], &found["rivals"][0]].map(|it| it.as_str().unwrap().to_owned());
    assert!(both.contains(&r"H:\Live\A".to_owned()) && both.contains(&r"H:\Backup\A".to_owned()));
    let sheet = desk.text("found.toml");
    assert!(
        sheet.contains("# [[move]]") && !sheet.contains("\n[[move]]"),
        "{sheet}"
    );
    // The old tree tells which it is, by sizes.
    for name in ["one.tif", "two.tif", "three.tif"] {
        desk.put(&format!("disks/d/A/{name}"), format!("h/Live/A/{name}"));
    }
    let report = traced(&desk, &["disks/h"], &["--old", "disks/d"], 0);
    assert_eq!(moves(&report), [r"D:\A = H:\Live\A"]);
}

#[test]
fn a_few_files_of_common_names_leave_a_doubt() {
    let site = [
        r"D:\Site\index.html",
        r"D:\Site\style.css",
        r"D:\Site\main.js",
    ];
    let there = ["h/Other/index.html", "h/Other/style.css", "h/Other/main.js"];
    let report = traced(&desk(&site, &there), &["disks/h"], &[], 1);
    assert_eq!(moves(&report), [r"? D:\Site = H:\Other"]);
}

#[test]
fn what_stays_is_an_exception_and_other_names_are_told() {
    let places = [
        r"D:\Herbarium\Sheets\1.tif",
        r"D:\Herbarium\Sheets\2.tif",
        r"D:\Herbarium\Maps\base.map",
        r"D:\Herbarium\Loans\kept.doc",
        r"S:\Sheets\2.tif",
        r"S:\Sheets\1.tif",
        r"S:\Maps\base.map",
        r"\\mossbank.linden.example\press\a.txt",
        r"\\mossbank\press\a.txt",
        r"\\mossbank\press\b.txt",
        r"\\mossbank\press\c.txt",
    ];
    let there = [
        "h/Herbarium/Sheets/1.tif",
        "h/Herbarium/Sheets/2.tif",
        "h/Herbarium/Maps/base.map",
        "d/Herbarium/Loans/kept.doc",
        "press/a.txt",
        "press/b.txt",
        "press/c.txt",
    ];
    let desk = desk(&places, &there);
    desk.put("files/start.cmd", "@echo off\r\nsubst S: D:\\Herbarium\r\n");
    let report = traced(
        &desk,
        &["disks/h", "disks/press"],
        &["--write", "found.toml"],
        0,
    );
    let mut found = moves(&report);
    found.sort();
    assert_eq!(
        found,
        [
            r"D:\Herbarium = H:\Herbarium",
            r"\\mossbank\press = \\fernhall\press"
        ]
    );
    let sheet = desk.text("found.toml");
    for line in [
        r"also = ['S:\']",
        r"except = ['D:\Herbarium\Loans']",
        r"also = ['\\mossbank.linden.example\press']",
        "paths = [\"files\"]",
    ] {
        assert!(sheet.contains(line), "{line}: {sheet}");
    }
    // The drafted sheet is one that a rewrite takes.
    desk.run([
        "rewrite",
        "--sheet",
        "found.toml",
        "--yes",
        "--record-dir",
        "records",
    ])
    .ends_with(0);
    let now = desk.text("files/settings.json");
    assert!(now.contains(r"H:\\Herbarium\\Sheets\\2.tif") && now.contains(r"D:\\Herbarium\\Loans"));
    assert!(!now.contains("S:") && !now.contains("mossbank"), "{now}");
}

#[test]
fn a_sheet_that_is_there_is_edited() {
    let desk = desk(
        &[r"D:\A\1.tif", r"D:\A\2.tif", r"D:\A\3.tif", r"E:\B\1.map"],
        &["h/A/1.tif", "h/A/2.tif", "h/A/3.tif", "m/B/1.map"],
    );
    let sheet = "# ours\r\n[[move]] # the maps\r\nfrom = 'E:\\B'\r\nto = 'M:\\B'\r\n\r\n[seen-at]\r\n'M:\\' = 'disks/m'\r\n";
    let utf16 = |text: &str| -> Vec<u8> {
        let marked = format!("\u{feff}{text}");
        marked.encode_utf16().flat_map(u16::to_le_bytes).collect()
    };
    desk.put("moves.toml", utf16(sheet));
    let arguments = [
        "trace",
        "files",
        "--seen-at",
        r"H:\=disks/h",
        "--into",
        "disks/h",
        "--write",
        "moves.toml",
    ];
    let ran = desk.run(arguments).ends_with(0);
    assert!(ran.err.contains("1 move written"), "{}", ran.err);
    let bytes = desk.read("moves.toml");
    let units: Vec<u16> = bytes
        .chunks(2)
        .map(|pair| u16::from_le_bytes([pair[0], pair[1]]))
        .collect();
    let text = String::from_utf16(&units).unwrap();
    assert!(
        text.starts_with("\u{feff}# ours\r\n[[move]] # the maps\r\n"),
        "{text}"
    );
    assert!(
        text.contains(r"from = 'D:\A'") && text.contains(r"'H:\' ="),
        "{text}"
    );
    // What the sheet explains already is not found again.
    let again = desk.run(arguments).ends_with(0);
    assert!(again.err.contains("0 moves written"), "{}", again.err);
    desk.put("moves.toml", "move = 3\n");
    let ran = desk
        .run([
            "trace",
            "files",
            "--no-sheet",
            "--into",
            r"H:\",
            "--seen-at",
            r"H:\=disks/h",
            "--write",
            "moves.toml",
        ])
        .ends_with(2);
    assert!(ran.err.contains("nothing was changed"), "{}", ran.err);
    assert_eq!(desk.text("moves.toml"), "move = 3\n");
}

#[test]
fn of_several_readings_of_a_name_the_one_that_is_seen_is_meant() {
    let names = [
        "Sheets & Maps/plate 1.tif",
        "Sheets/plate's 2.tif",
        "a {draft}/plate 3.tif",
        "Sheets/x ^ y.tif",
        "Sheets #2/plate 4.tif",
        "Sheets/two  blanks.tif",
        "Sheets/plate -b copy.tif",
        "Sheets -b/plate 5.tif",
        "Sheets (old) [2]/plate 6.tif",
        "Sheets/plate;7.tif",
    ];
    let documents: [(&str, fn(&[String]) -> String); 6] = [
        ("a.json", |all| serde_json::to_string(all).unwrap()),
        ("a.ini", |all| {
            let line = |(at, place)| format!("p{at}={place}\n");
            format!(
                "[s]\n{}",
                all.iter().enumerate().map(line).collect::<String>()
            )
        }),
        ("a.xml", |all| {
            let line = |place: &String| format!("<p>{}</p>\n", place.replace('&', "&amp;"));
            format!("<a>\n{}</a>\n", all.iter().map(line).collect::<String>())
        }),
        ("a.csv", |all| {
            let line = |place: &String| format!("1,\"{place}\",x\n");
            all.iter().map(line).collect()
        }),
        ("a.txt", |all| {
            let line = |place: &String| format!("12:00 cannot open \"{place}\": gone\n");
            all.iter().map(line).collect()
        }),
        ("running.txt", |all| {
            let line = |place: &String| format!("12:00 cannot open {place}\n");
            all.iter().map(line).collect()
        }),
    ];
    for (document, written) in documents {
        let desk = Desk::new();
        fs::remove_dir_all(desk.path("disks/h/Collections")).unwrap();
        for name in names {
            desk.put(&format!("disks/h/Linden/{name}"), name);
        }
        let old = |name: &&str| format!(r"D:\Herbarium\{}", name.replace('/', r"\"));
        let places: Vec<String> = names.iter().map(old).collect();
        desk.put(&format!("files/{document}"), written(&places));
        let report = traced(&desk, &["disks/h"], &[], 0);
        assert_eq!(moves(&report), [r"D:\Herbarium = H:\Linden"], "{document}");
        let explained = &report["moves"][0]["explains"];
        assert_eq!(explained, names.len(), "{document}: {report:#}");
    }
}
