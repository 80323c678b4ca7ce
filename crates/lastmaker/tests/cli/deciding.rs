//! The dialog before a rewrite, at a terminal.
#![cfg(target_os = "linux")]

use std::fs::File;
use std::io::Write;
use std::process::Stdio;

use nix::pty::openpty;

use crate::desk::Desk;

/// A desk with two files to change and one with two doubts.
fn desk() -> Desk {
    Desk::new()
        .file("files/a.ini", "x=D:\\Herbarium\\a\n")
        .file("files/b.json", r#"{"y": "D:\\Herbarium\\b"}"#)
        .file(
            "files/n.txt",
            "See D:\\Herbarium Old and D:\\Herbarium, too.\n",
        )
        .file(
            "moves.toml",
            "# ours\nmove = [{from = 'D:\\Herbarium', to = 'H:\\C'}]\n",
        )
}

/// Runs a rewrite at a terminal at which somebody types these lines; gives the exit code and what was shown.
fn rewrite(desk: &Desk, typed: &[&str]) -> (i32, String) {
    let terminal = openpty(None, None).unwrap();
    let mut keys = File::from(terminal.master);
    let side = || Stdio::from(terminal.slave.try_clone().unwrap());
    let mut program = desk.program();
    program
        .args([
            "rewrite",
            "files",
            "--anyway",
            "--record-dir",
            "records",
            "--no-pager",
        ])
        .current_dir(desk.path("."))
        .stdin(side())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped());
    // A terminal keeps what is typed until it is asked for.
    for line in typed {
        keys.write_all(format!("{line}\n").as_bytes()).unwrap();
    }
    let child = program.spawn().unwrap();
    let output = child.wait_with_output().unwrap();
    let mut shown = String::from_utf8_lossy(&output.stdout).into_owned();
    shown.push_str(&String::from_utf8_lossy(&output.stderr));
    (output.status.code().unwrap(), shown)
}

#[test]
fn yes_no_and_anything_else() {
    let desk = desk();
    let before = desk.text("files/a.ini");
    let (code, shown) = rewrite(&desk, &["perhaps", "n"]);
    assert_eq!(code, 2, "{shown}");
    assert!(
        shown.contains("Answer with one of: yes, no, list, files, doubts."),
        "{shown}"
    );
    assert!(
        shown.ends_with("Nothing was changed.\n") && !shown.contains("error"),
        "{shown}"
    );
    assert_eq!(desk.text("files/a.ini"), before);
    let (code, shown) = rewrite(&desk, &["list", "y"]);
    assert_eq!(code, 1, "{shown}");
    assert!(
        shown.contains("    + x=H:\\C\\a\n") && shown.contains("Rewrote 2 references in 2 files.")
    );
    assert_eq!(desk.text("files/a.ini"), "x=H:\\C\\a\n");
}

#[test]
fn file_by_file() {
    let desk = desk();
    let (code, shown) = rewrite(&desk, &["f", "n", "y"]);
    assert_eq!(code, 1, "{shown}");
    assert!(shown.contains("1 file is left as you chose"), "{shown}");
    assert_eq!(desk.text("files/a.ini"), "x=D:\\Herbarium\\a\n");
    assert_eq!(desk.text("files/b.json"), r#"{"y": "H:\\C\\b"}"#);
    // Nobody chosen is asked again, and a later run goes on with the rest.
    let (code, shown) = rewrite(&desk, &["f", "e", "n"]);
    assert_eq!(
        (code, shown.contains("No file is chosen.")),
        (2, true),
        "{shown}"
    );
    rewrite(&desk, &["y"]);
    assert_eq!(desk.text("files/a.ini"), "x=H:\\C\\a\n");
    desk.restore(&[]).ends_with(0);
    assert_eq!(desk.text("files/a.ini"), "x=D:\\Herbarium\\a\n");
}

#[test]
fn doubts_are_decided_and_remembered() {
    let desk = desk();
    let (code, shown) = rewrite(&desk, &["d", "n", "y", "y", "y"]);
    assert_eq!(code, 1, "{shown}");
    let text = "See D:\\Herbarium Old and H:\\C, too.\n";
    assert_eq!(desk.text("files/n.txt"), text);
    let sheet = desk.text("moves.toml");
    assert!(
        sheet.starts_with("# ours\n") && sheet.contains("sites = [\"files/n.txt:1:26\"]"),
        "{sheet}"
    );
    // Whoever does not want that is asked each time.
    let desk = self::desk();
    let before = desk.text("moves.toml");
    let (_, shown) = rewrite(&desk, &["d", "n", "y", "n", "n"]);
    assert!(
        shown.contains("Rewrite 3 references in 3 files?"),
        "{shown}"
    );
    assert_eq!(desk.text("moves.toml"), before);
    assert_eq!(desk.text("files/a.ini"), "x=D:\\Herbarium\\a\n");
}
