//! How answers are told: more where little changes, tables where much does; and what people type beside that.

use std::process::Stdio;

use crate::desk::{Desk, SEEN_MOVE};

/// A desk with so many references, in files of ten, and as many doubts as files.
fn many(files: usize) -> Desk {
    let mut desk = Desk::new();
    for file in 0..files {
        let lines: String = (0..10)
            .map(|line| format!("x{line}=D:\\Herbarium\\Sheets\\{file}-{line}.tif\n"))
            .collect();
        desk = desk
            .file(&format!("files/{file:03}/a.ini"), lines)
            .file(&format!("files/{file:03}/n.txt"), "D:\\Herbarium Old\n");
    }
    desk
}

fn preview(desk: &Desk, more: &[&str]) -> String {
    let all = ["preview", "files"].iter().chain(&SEEN_MOVE).chain(more);
    slashed(&desk.run(all.copied()).ends_with(1).out)
}

/// What is shown of files, with slashes on every system.
fn slashed(text: &str) -> String {
    let names = ["files", "a.ini", "n.txt", "a.reg", "b.json"];
    let folder = text.replace("files\\", "files/");
    names.iter().fold(folder, |text, name| {
        text.replace(&format!("\\{name}"), &format!("/{name}"))
    })
}

#[test]
fn where_much_changes_tables_come_first_and_the_totals_last() {
    let desk = many(30);
    let told = preview(&desk, &[]);
    let lines: Vec<&str> = told.lines().collect();
    assert!(lines[0].starts_with("  move "), "{told}");
    let last = "300 references in 30 files would change, of 60 files looked at.";
    assert_eq!(lines[lines.len() - 1], last);
    assert!(told.contains("\n          10  files/007/a.ini\n"), "{told}");
    assert!(
        told.contains("\n  doubtful  blank-follows  files/000/n.txt:1:1          30\n"),
        "{told}"
    );
    assert!(!told.contains("    - "), "no excerpt is shown");
    // Nothing ends with a blank.
    assert!(lines.iter().all(|line| !line.ends_with(' ')));
    // Everything is shown to whoever wants it, or where little changes.
    assert_eq!(preview(&desk, &["-v"]).matches("    - x").count(), 300);
    assert_eq!(preview(&many(3), &[]).matches("    - x").count(), 30);
}

#[test]
fn a_summary_and_single_lists() {
    let desk = many(3);
    let last = "30 references in 3 files would change, of 6 files looked at.\n";
    let summary = preview(&desk, &["--summary"]);
    assert!(
        summary.contains("\n  ini                   30      3\n"),
        "{summary}"
    );
    let lists = [
        ("changed", "    - x", 30),
        ("doubts", "a blank follows", 3),
        ("missing", "Sheets\\2-9.tif", 1),
        ("sealed", "Sealed", 0),
    ];
    for (list, sign, count) in lists {
        let told = preview(&desk, &["--list", list]);
        assert_eq!(told.matches(sign).count(), count, "{list}: {told}");
        assert!(
            told.ends_with(last) && !told.starts_with('\n'),
            "{list}: {told}"
        );
    }
    let both = ["preview", "files", "--summary", "--format", "json"];
    let ran = desk
        .run(both.iter().chain(&SEEN_MOVE).copied())
        .ends_with(2);
    assert!(ran.err.contains("in words"), "{}", ran.err);
}

#[test]
fn what_is_repeated_is_told_once_and_every_key_of_a_line_is_named() {
    let names: String = (0..30)
        .map(|n| format!("\"D:\\\\Herbarium\\\\{n}\"=\"x\"\r\n"))
        .collect();
    let export = format!("REGEDIT4\r\n\r\n[HKEY_CURRENT_USER\\Software\\Linden]\r\n{names}");
    let desk = Desk::new().file("files/a.reg", export).file(
        "files/b.json",
        r#"{"one": "D:\\Herbarium\\1", "two": "D:\\Herbarium\\2"}"#,
    );
    let told = preview(&desk, &[]);
    assert_eq!(
        told.matches("this renames a registry entry").count(),
        1,
        "{told}"
    );
    assert!(
        told.contains("30 times, first at files/a.reg:4:2"),
        "{told}"
    );
    assert!(told.contains("  1:10  one, 1:37  two\n"), "{told}");
}

#[test]
fn a_part_of_the_job_and_then_the_rest() {
    let desk = Desk::new()
        .file("files/a.ini", "x=D:\\Herbarium\\a\ny=D:\\Maps\\b\n")
        .file("files/b.json", r#"{"x": "D:\\Herbarium\\a"}"#)
        .file(
            "moves.toml",
            "move = [{from = 'D:\\', to = 'R:\\'}, {from = 'D:\\Herbarium', to = 'H:\\Herbarium'}]\n",
        );
    let run = |more: &[&str]| {
        let all = [
            "rewrite",
            "files",
            "--yes",
            "--anyway",
            "--record-dir",
            "records",
        ];
        desk.run(all.iter().chain(more).copied())
    };
    // What another move takes from below stays.
    run(&["--move-from", r"D:\", "--kind", "ini"]).ends_with(0);
    assert_eq!(
        desk.text("files/a.ini"),
        "x=D:\\Herbarium\\a\ny=R:\\Maps\\b\n"
    );
    let unknown = run(&["--move-from", r"X:\"]).ends_with(2);
    assert!(
        unknown
            .err
            .contains(r"there are moves from D:\, D:\Herbarium"),
        "{}",
        unknown.err
    );
    run(&["--kind", "json"]).ends_with(0);
    assert_eq!(desk.text("files/b.json"), r#"{"x": "H:\\Herbarium\\a"}"#);
    run(&[]).ends_with(0);
    assert_eq!(
        desk.text("files/a.ini"),
        "x=H:\\Herbarium\\a\ny=R:\\Maps\\b\n"
    );
    assert!(
        desk.run(["preview", "files", "--kind", "none"])
            .ends_with(2)
            .err
            .contains("none")
    );
}

#[test]
fn files_from_a_list_and_globs_that_match_nothing() {
    let desk = many(3)
        .file("list", "files/001/a.ini\r\nfiles/002\n\n")
        .file("null", "files/001/a.ini\0");
    let run = |more: &[&str]| desk.run(["preview"].iter().chain(&SEEN_MOVE).chain(more).copied());
    let told = run(&["--files-from", "list"]).ends_with(1).out;
    assert!(
        told.contains("20 references in 2 files would change, of 3 files"),
        "{told}"
    );
    let told = run(&["--files-from", "null", "-0"]).ends_with(0).out;
    assert!(
        told.contains("10 references in 1 file would change, of 1 file "),
        "{told}"
    );
    assert!(
        run(&["--files-from", "gone"])
            .ends_with(2)
            .err
            .contains("gone cannot be read")
    );
    let ran = run(&[
        "files",
        "--only",
        "files/001/*",
        "--only",
        "*.none",
        "--skip",
        "*.tmp",
    ]);
    assert!(ran.out.contains("of 2 files looked at"), "{}", ran.out);
    for (glob, said) in [("*.none", true), ("*.tmp", true), ("files/001/*", false)] {
        let says = ran
            .err
            .contains(&format!("No file or folder matches {glob}."));
        assert_eq!(says, said, "{glob}: {}", ran.err);
    }
}

#[cfg(unix)]
#[test]
fn a_list_of_very_many_names_takes_its_time_and_no_more() {
    const FILES: usize = 200;
    const SPELLINGS: usize = 200;
    let mut desk = Desk::new();
    for file in 0..FILES {
        desk = desk.file(&format!("files/{file}.ini"), "x=D:\\Herbarium\\a\n");
    }
    let names = (0..FILES).flat_map(|file| {
        (0..SPELLINGS).map(move |dots| format!("files/{}{file}.ini\n", "./".repeat(dots)))
    });
    desk.put("list", names.collect::<String>());
    let start = std::time::Instant::now();
    let all = ["preview", "--files-from", "list", "--summary"];
    let told = desk.run(all.iter().chain(&SEEN_MOVE).copied()).out;
    assert!(
        told.contains("200 references in 200 files would change, of 200 files"),
        "{told}"
    );
    assert!(start.elapsed().as_secs() < 60, "{:?}", start.elapsed());
}

#[test]
fn who_reads_no_further_still_gets_the_exit_code() {
    let desk = many(200);
    let mut program = desk.program();
    program.current_dir(desk.path(".")).stdin(Stdio::null());
    program.args(["preview", "files", "-v"].iter().chain(&SEEN_MOVE));
    let mut child = program
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    drop(child.stdout.take());
    let output = child.wait_with_output().unwrap();
    assert_eq!(output.status.code(), Some(1));
    let told = String::from_utf8_lossy(&output.stderr);
    assert!(!told.contains("error"), "{told}");
}

#[test]
fn lines_fit_the_terminal() {
    let long = format!("x=D:\\Herbarium\\{}\n", "a".repeat(120));
    let desk = Desk::new().file("files/a.ini", long).file(
        "files/n.txt",
        format!("D:\\Herbarium Old {}\n", "word ".repeat(20)),
    );
    let all = ["preview", "files"].iter().chain(&SEEN_MOVE);
    let told = desk.run_with("COLUMNS", "60", all.copied()).out;
    let excerpts = told.lines().take_while(|line| !line.starts_with("  move"));
    let mut wrapped = 0;
    for line in excerpts {
        let width = line.chars().count();
        assert!(width <= 60 || line.contains("--accept"), "{width}: {line}");
        wrapped += usize::from(line.starts_with("      a") || line.starts_with("        word"));
    }
    assert!(wrapped >= 4, "{told}");
}

#[test]
fn what_people_type() {
    let desk = Desk::new()
        .file(
            "work/files/a.ini",
            "x=D:\\Herbarium\\a\ny=D:\\Herbarium\\b\n",
        )
        .file(
            "moves.toml",
            "move = [{from = 'D:\\Herbarium', to = 'H:\\C'}]\n",
        );
    // The sheet of a folder above is found, and named.
    let ran = desk.run_in(
        "work",
        ["--format", "json", "preview", "files", "--record-dir", "r"],
    );
    assert_eq!(ran.json()["totals"]["to_move"], 2);
    assert!(
        ran.err.contains("Using the sheet ") && ran.err.contains("moves.toml (--no-sheet"),
        "{}",
        ran.err
    );
    // A place of a file as a preview names it.
    let explained = desk
        .run_in("work", ["explain", "files/a.ini:2:3"])
        .ends_with(0)
        .out;
    assert!(explained.contains("1 reference in line 2."), "{explained}");
    let cases: [(&[&str], &str); 5] = [
        (&["preview", "work", "--exclude", "x"], "--skip GLOB"),
        (&["preview", "work", "--dry-run"], "`lastmaker preview`"),
        (&["undo"], "`lastmaker restore`"),
        (
            &["preview", "work", "--move", "D:Herbarium=H:C"],
            "in single quotes",
        ),
        (&["survey", "work", "--format", "html"], "is no page"),
    ];
    for (typed, meant) in cases {
        let ran = desk.run(typed.iter().copied()).ends_with(2);
        assert!(ran.err.contains(meant), "{typed:?}: {}", ran.err);
    }
}

#[test]
fn a_sheet_is_written_and_added_to() {
    let desk = Desk::new();
    let first = [
        "sheet",
        "--move",
        r"D:\Herbarium=H:\C",
        "--out",
        "moves.toml",
    ];
    desk.run(first).ends_with(0);
    let text = format!("# ours\n{}", desk.text("moves.toml"));
    desk.put("moves.toml", &text);
    let more = [
        "sheet",
        "--move",
        r"D:\Maps=M:\Maps",
        "--seen-at",
        r"M:\=disks/m",
        "--out",
        "moves.toml",
    ];
    let ran = desk.run(more).ends_with(0);
    assert!(ran.err.contains("2 moves in it"), "{}", ran.err);
    assert!(desk.text("moves.toml").starts_with("# ours\n# What moved."));
    let sheet = desk.run(["sheet", "--format", "json"]).ends_with(0).json();
    assert_eq!(sheet["moves"][1]["from"], r"D:\Maps");
    assert!(
        sheet["seen_at"][0]["folder"]
            .as_str()
            .unwrap()
            .ends_with("m")
    );
}

#[test]
fn completions_a_manual_and_times() {
    let desk = many(1);
    for shell in ["bash", "zsh", "fish", "powershell", "elvish"] {
        let script = desk.run(["completions", shell]).ends_with(0).out;
        assert!(
            script.contains("move-from") && script.contains("bridge"),
            "{shell}"
        );
    }
    desk.run(["manual", "man"]).ends_with(0);
    for (page, word) in [
        ("lastmaker.1", "preview"),
        ("lastmaker-rewrite.1", "change\\-files"),
    ] {
        assert!(desk.text(&format!("man/{page}")).contains(word), "{page}");
    }
    let all = ["preview", "files", "--stats"].iter().chain(&SEEN_MOVE);
    let ran = desk.run(all.copied());
    for phase in [
        "walk",
        "read",
        "sieve",
        "plan",
        "prove",
        "from start to end",
    ] {
        assert!(
            ran.err.contains(&format!("\n  {phase} ")),
            "{phase}: {}",
            ran.err
        );
    }
    let all = ["preview", "files", "-vv"].iter().chain(&SEEN_MOVE);
    assert!(
        slashed(&desk.run(all.copied()).err)
            .contains("files/000/a.ini  format=\"ini\"  references=10")
    );
}
