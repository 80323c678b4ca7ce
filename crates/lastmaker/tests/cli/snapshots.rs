//! What each command says on the demo data, word by word.
//!
//! After a change that is meant, `INSTA_UPDATE=always cargo test snapshots` writes them anew; then
//! read the difference.

// Paths are written the other way on Windows.
#![cfg(not(windows))]

use crate::desk::Desk;

/// A command of the demo data, and the name of what it says.
const COMMANDS: &[(&str, &[&str])] = &[
    ("survey", &["survey"]),
    ("sheet", &["sheet"]),
    ("preview", &["preview", "--record-dir", "records"]),
    (
        "preview-repair",
        &["preview", "--repair", "--record-dir", "records"],
    ),
    (
        "explain-launch-options",
        &["explain", "profile/.mapdesk/launch-options.txt"],
    ),
    (
        "explain-letter",
        &["explain", "documents/letters/reminder.odt"],
    ),
    (
        "rewrite",
        &[
            "rewrite",
            "--yes",
            "--record-dir",
            "records",
            "--change-files",
            "changes",
        ],
    ),
    (
        "rewrite-again",
        &["rewrite", "--yes", "--record-dir", "records"],
    ),
    ("check", &["check"]),
    ("check-all", &["check", "--all"]),
    ("bridge", &["bridge", "--record-dir", "records"]),
    (
        "bridge-script",
        &[
            "bridge",
            "--record-dir",
            "records",
            "--script",
            "powershell",
        ],
    ),
    ("history", &["history", "--record-dir", "records"]),
    ("restore", &["restore", "--record-dir", "records", "--yes"]),
    (
        "restore-nothing",
        &["restore", "--record-dir", "records", "--yes"],
    ),
    ("formats", &["formats"]),
    ("no-moves", &["preview", "--no-sheet", "profile"]),
    ("help", &["--help"]),
];

#[test]
fn every_command_says_the_same_on_the_demo_data() {
    let desk = Desk::new();
    desk.run(["demo", "herbarium"]).ends_with(0);
    std::fs::remove_dir_all(desk.path("herbarium/records")).unwrap();
    std::fs::remove_dir_all(desk.path("herbarium/changes")).unwrap();
    for (name, arguments) in COMMANDS {
        let ran = desk.run_in("herbarium", arguments.iter().copied());
        let told = format!(
            "$ lastmaker {}\n{}-- standard error --\n{}-- exit code {} --\n",
            arguments.join(" "),
            ran.out,
            ran.err,
            ran.code
        );
        let told = same_every_time(&told, &desk);
        match *name {
            "history" | "restore-nothing" => {
                insta::assert_snapshot!(*name, without_moments(&told));
            }
            name => insta::assert_snapshot!(name, told),
        }
    }
}

/// The text without what differs from run to run: the folder, and the times that name records.
fn same_every_time(told: &str, desk: &Desk) -> String {
    let folder = desk.path("herbarium").canonicalize().unwrap();
    let told = told.replace(&*folder.to_string_lossy(), "[desk]");
    let mut text = String::new();
    let mut at = 0;
    while at < told.len() {
        let length = record_name(&told[at..]);
        if length > 0 {
            text.push_str("[record]");
            at += length;
        } else {
            let letter = told[at..].chars().next().unwrap();
            text.push(letter);
            at += letter.len_utf8();
        }
    }
    text
}

/// What the list of records says without moments and sizes.
fn without_moments(told: &str) -> String {
    let shape = |word: &str| -> String {
        let digit = |c: char| if c.is_ascii_digit() { '0' } else { c };
        word.chars().map(digit).collect()
    };
    let mut text = String::new();
    for word in told.split_inclusive(' ') {
        match shape(word.trim_end()).as_str() {
            "0000-00-00" => text.push_str("[day] "),
            "00:00" => text.push_str("[time] "),
            size if size.contains("0.0") => text.push_str("[size] "),
            _ => text.push_str(word),
        }
    }
    text
}

/// How long the name of a record is with which a text begins: `20260131-120000`, and a count if
/// there are several of one second.
fn record_name(text: &str) -> usize {
    let digits = |text: &str| text.bytes().take_while(u8::is_ascii_digit).count();
    let time = text.get(9..).map_or(0, digits);
    if digits(text) != 8 || text.as_bytes().get(8) != Some(&b'-') || time != 6 {
        return 0;
    }
    match text[15..].strip_prefix('-').map(digits) {
        Some(count) if count > 0 => 16 + count,
        _ => 15,
    }
}
