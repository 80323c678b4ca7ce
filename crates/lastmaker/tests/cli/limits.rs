//! What one file may cost, what there may be too little of, and names that would steer a terminal.

use std::fmt::Write;
use std::time::{Duration, Instant};

use crate::desk::Desk;

/// Generous: what is linear takes a fraction of it, what is not takes minutes.
const LONG: Duration = Duration::from_secs(60);

#[test]
fn what_was_made_to_take_for_ever_does_not() {
    let place = r"D:\Herbarium\x";
    let pdf = |filling: &str, times: usize| {
        format!(
            "%PDF-1.4\n1 0 obj\n<< /F ({place}) >>\n{}",
            filling.repeat(times)
        )
        .into_bytes()
    };
    let mut table = format!("| a | {place} |\n");
    for row in 0..40_000 {
        let _ = writeln!(table, "| {row} | x |");
    }
    let runs = |number: usize| {
        let start = r#"<w:document xmlns:w="http://w"><w:p><w:r><w:t>D:\Herb</w:t></w:r><w:r><w:t>arium</w:t></w:r>"#;
        format!(
            "{start}{}</w:p></w:document>",
            "<w:r><w:t>a</w:t></w:r>".repeat(number)
        )
    };
    let document = crate::desk::archive(&[("word/document.xml", runs(40_000).as_bytes())]);
    let list = format!("{{\"a\": \"{}\"}}", r"D:\\Herbarium\\x;".repeat(20_000));
    let cases: [(&str, Vec<u8>); 9] = [
        (
            "a.md",
            format!("{place}\n{}\n", "`".repeat(100_000)).into_bytes(),
        ),
        (
            "b.md",
            format!("{place}\n{}\n", "`x ".repeat(40_000)).into_bytes(),
        ),
        ("c.md", table.into_bytes()),
        ("a.pdf", pdf("(", 400_000)),
        ("b.pdf", pdf("/F (", 100_000)),
        ("c.pdf", pdf("<<", 200_000)),
        ("a.docx", document),
        ("b.json", list.into_bytes()),
        (
            "a.json",
            format!("{}\"{place}\"{}", "[".repeat(40_000), "]".repeat(40_000)).into_bytes(),
        ),
    ];
    for (name, content) in cases {
        let desk = Desk::new().file(&format!("files/{name}"), content);
        let start = Instant::now();
        let ran = desk.with_move("preview", &["--jobs", "1", "--format", "json"]);
        assert!(ran.code <= 1, "{name}: {}", ran.err);
        assert!(start.elapsed() < LONG, "{name}: {:?}", start.elapsed());
    }
}

#[test]
fn many_tables_and_many_references_take_their_time_and_no_more() {
    let desk = Desk::new();
    std::fs::create_dir_all(desk.path("files")).unwrap();
    let database = rusqlite::Connection::open(desk.path("files/a.db")).unwrap();
    let mut sql = String::from("BEGIN;");
    for number in 0..800 {
        let _ = write!(
            sql,
            r"CREATE TABLE t{number} (p TEXT); INSERT INTO t{number} VALUES ('D:\Herbarium\{number}');"
        );
    }
    database.execute_batch(&format!("{sql} COMMIT;")).unwrap();
    drop(database);
    let mut lines = String::new();
    for number in 0..40_000 {
        let _ = writeln!(lines, r"k{number}=D:\Herbarium\{number}");
    }
    desk.put("files/a.ini", &lines);
    let start = Instant::now();
    let told = desk
        .rewrite(&["--format", "json", "--patient"])
        .ends_with(0)
        .json();
    assert_eq!(told["totals"]["to_move"], 40_800);
    assert!(start.elapsed() < LONG, "{:?}", start.elapsed());
    // The program adds a line, and all of it goes back piece by piece.
    let new = desk.text("files/a.ini");
    desk.put("files/a.ini", format!("first=1\n{new}"));
    let start = Instant::now();
    let ran = desk.restore(&["--changed", "edits"]).ends_with(0);
    assert!(
        ran.out.contains("took back 40,000 of 40,000"),
        "{}",
        ran.out
    );
    assert!(desk.text("files/a.ini") == format!("first=1\n{lines}"));
    assert!(start.elapsed() < LONG, "{:?}", start.elapsed());
}

#[test]
fn a_file_that_needs_more_memory_is_left_and_named() {
    let line = "a=D:\\Herbarium\\x\n";
    let desk = Desk::new()
        .file("files/many.ini", line.repeat(6_000))
        .file("files/few.ini", line);
    let ran = desk.rewrite(&["--max-memory", "1"]).ends_with(1);
    assert!(
        ran.out.contains("many.ini") && ran.out.contains("--max-memory raises that"),
        "{}",
        ran.out
    );
    assert_eq!(desk.text("files/many.ini"), line.repeat(6_000));
    assert!(desk.text("files/few.ini").contains("H:"));
    desk.rewrite(&["--max-memory", "100"]).ends_with(0);
    assert!(desk.text("files/many.ini").contains("H:"));
}

#[test]
fn any_number_of_threads_will_do() {
    let desk = Desk::new().file("files/a.ini", "a=D:\\Herbarium\\x\n");
    let start = Instant::now();
    for jobs in ["0", "1", "100000"] {
        let ran = desk.with_move("preview", &["--jobs", jobs]).ends_with(0);
        assert!(
            ran.out.contains("1 reference in 1 file would change"),
            "{}",
            ran.out
        );
    }
    assert!(start.elapsed() < LONG);
}

#[cfg(unix)]
#[test]
fn few_descriptors_make_smaller_batches() {
    use std::process::Command;
    let desk = Desk::new();
    for number in 0..100 {
        desk.put(
            &format!("files/{}/{number}.ini", number % 30),
            "a=D:\\Herbarium\\x\n",
        );
    }
    let program = env!("CARGO_BIN_EXE_lastmaker");
    for limit in [64, 20] {
        let run = |arguments: &str| {
            let script = format!(
                "ulimit -n {limit}; exec '{program}' {arguments} --record-dir records --yes"
            );
            let output = Command::new("sh")
                .args(["-c", &script])
                .current_dir(desk.path("."))
                .output()
                .unwrap();
            let told = String::from_utf8_lossy(&output.stdout).into_owned();
            assert_eq!(
                output.status.code(),
                Some(0),
                "{limit}: {told} {}",
                String::from_utf8_lossy(&output.stderr)
            );
            told
        };
        let told = run(&format!(
            "rewrite files --anyway --move '{}'",
            crate::desk::MOVE
        ));
        assert!(
            told.contains("Rewrote 100 references in 100 files"),
            "{limit}: {told}"
        );
        assert!(run("restore").contains("Put back 100 originals"), "{limit}");
    }
}

#[cfg(unix)]
#[test]
fn no_name_steers_the_terminal() {
    let name = "files/x\u{202e}y\u{1b}[31m\n.ini";
    let desk = Desk::new().file(name, "a=D:\\Herbarium\\x\n");
    let mut all = vec![
        desk.with_move("preview", &[]),
        desk.with_move("preview", &["--format", "json"]),
    ];
    all.push(desk.rewrite(&[]));
    for more in [&[][..], &["--format", "json"]] {
        let history = [&["history", "--record-dir", "records"], more].concat();
        all.push(desk.run(history));
    }
    desk.put(name, "a=H:\\Collections\\Herbarium\\x\nsaved=1\n");
    all.push(desk.restore(&["--preview"]));
    all.push(desk.restore(&["--preview", "--format", "json"]));
    all.push(desk.restore(&["--changed", "edits"]));
    all.push(desk.run([
        "preview",
        "gone\u{1b}[2J\u{202e}",
        "--move",
        crate::desk::MOVE,
    ]));
    all.push(desk.run([
        "restore",
        "gone\u{1b}[2J\u{202e}",
        "--yes",
        "--record-dir",
        "records\u{7}",
    ]));
    all.push(desk.run(["no\u{1b}[2J\u{202e}command"]));
    for ran in all {
        for text in [&ran.out, &ran.err] {
            let raw = text
                .chars()
                .find(|c| (c.is_control() && *c != '\n') || *c == '\u{202e}');
            assert_eq!(raw, None, "{text:?}");
        }
    }
}

#[test]
fn many_references_of_two_moves_in_one_text() {
    let mut lines = String::new();
    for number in 0..20_000 {
        let _ = writeln!(
            lines,
            "see \"D:\\Herbarium\\{number}\" and \"E:\\Loans\\{number}\"."
        );
    }
    let desk = Desk::new().file("files/a.txt", &lines);
    let start = Instant::now();
    desk.rewrite(&["--move", r"E:\Loans=L:\Loans", "--patient"])
        .ends_with(0);
    desk.restore(&["--move-from", r"E:\Loans"]).ends_with(0);
    let half = lines.replace(r"D:\Herbarium", r"H:\Collections\Herbarium");
    assert!(desk.text("files/a.txt") == half);
    assert!(start.elapsed() < LONG, "{:?}", start.elapsed());
}

#[test]
fn many_references_in_wide_letters_are_soon_looked_at() {
    // A letter is two bytes and no letter is at the same offset in the text: nothing may count from the start.
    const MANY: usize = 8_000;
    let wide = |text: String| -> Vec<u8> {
        let marked = format!("\u{feff}{text}");
        marked.encode_utf16().flat_map(u16::to_le_bytes).collect()
    };
    let mut notes = String::new();
    let mut export =
        "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\a]\r\n".to_owned();
    for number in 0..MANY {
        writeln!(
            notes,
            "{:80}: D:\\Herbarium\\Sheets\\{number}.tif\r",
            "note"
        )
        .unwrap();
        writeln!(
            export,
            "\"v{number}\"=\"D:\\\\Herbarium\\\\Sheets\\\\{number}.tif\"\r"
        )
        .unwrap();
    }
    let desk = Desk::new()
        .file("files/notes.txt", wide(notes))
        .file("exports/a.reg", wide(export));
    let start = Instant::now();
    let ran = desk
        .with_move("preview", &["--max-document", "1"])
        .ends_with(0);
    assert!(ran.out.contains("8,000 references in 1 file would change"));
    let explained = desk.run([
        "explain",
        "exports/a.reg",
        "--no-sheet",
        "--move",
        crate::desk::MOVE,
        "--format",
        "json",
    ]);
    let report = explained.ends_with(0).json();
    assert_eq!(report["references"].as_array().unwrap().len(), MANY);
    assert!(start.elapsed() < LONG, "{:?}", start.elapsed());
}
