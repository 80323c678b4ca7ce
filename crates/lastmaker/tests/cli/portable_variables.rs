//! References that begin at a variable's value where their program puts that in: which do, which stay, and what
//! the programs make of them.

use crate::desk::Desk;

/// A profile on a drive that has another letter now, and a home folder that has another name.
const SHEET: &str = "[[move]]\nfrom = 'D:\\'\nto = 'H:\\'\n\n\
    [[move]]\nfrom = '/home/ines'\nto = '/home/linden'\n\n\
    [variables]\nUSERPROFILE = 'D:\\Users\\ines'\nHOME = '/home/ines'\n\n\
    [[portable]]\nfiles = ['said.*']\nvariables = '%NAME%'\n\n\
    [seen-at]\n'H:\\Users\\ines' = 'files'\n'/home/linden' = 'files'\n";

fn rewritten(name: &str, content: impl AsRef<[u8]>, more: &[&str]) -> Desk {
    let desk = Desk::new()
        .file("moves.toml", SHEET)
        .file(&format!("files/{name}"), content);
    let all = [
        "rewrite",
        "files",
        "--yes",
        "--anyway",
        "--record-dir",
        "records",
    ];
    desk.run(all.iter().chain(more).copied()).ends_with(0);
    desk
}

fn becomes(name: &str, content: &str) -> String {
    rewritten(name, content, &["--portable"]).text(&format!("files/{name}"))
}

#[test]
fn what_a_script_puts_in_begins_at_a_variable_and_nothing_else_does() {
    let cases: &[(&str, &str, &str)] = &[
        (
            "a.cmd",
            "copy D:\\Users\\ines\\x.txt E:\\\r\n",
            "copy %USERPROFILE%\\x.txt E:\\\r\n",
        ),
        (
            "a.cmd",
            "copy \"D:\\Users\\ines\\a b\\x\" E:\\\r\n",
            "copy \"%USERPROFILE%\\a b\\x\" E:\\\r\n",
        ),
        (
            "a.cmd",
            "set \"X=D:\\Users\\ines\\a b\"\r\n",
            "set \"X=%USERPROFILE%\\a b\"\r\n",
        ),
        (
            "a.cmd",
            "copy d:/users/ines/x E:\\\r\n",
            "copy %USERPROFILE%/x E:\\\r\n",
        ),
        // The longest value, of a variable that every machine has.
        (
            "a.cmd",
            "copy D:\\Users\\ines\\AppData\\Roaming\\x E:\\\r\n",
            "copy %APPDATA%\\x E:\\\r\n",
        ),
        // The value alone, what lies elsewhere, and another spelling of the place stay absolute.
        ("a.cmd", "cd D:\\Users\\ines\r\n", "cd H:\\Users\\ines\r\n"),
        (
            "a.cmd",
            "cd D:\\Users\\inesa\\x\r\n",
            "cd H:\\Users\\inesa\\x\r\n",
        ),
        (
            "a.cmd",
            "cd \\\\?\\D:\\Users\\ines\\x\r\n",
            "cd \\\\?\\H:\\Users\\ines\\x\r\n",
        ),
        // A script that sets the variable itself.
        (
            "a.cmd",
            "set userprofile=E:\\x\r\ncopy D:\\Users\\ines\\x E:\\\r\n",
            "set userprofile=E:\\x\r\ncopy H:\\Users\\ines\\x E:\\\r\n",
        ),
        (
            "a.sh",
            "ls /home/ines/x \"/home/ines/a b\"\n",
            "ls $HOME/x \"$HOME/a b\"\n",
        ),
        ("a.sh", "ls '/home/ines/x'\n", "ls '/home/linden/x'\n"),
        (
            "a.sh",
            "X=/home/ines/a:/home/ines/b\n",
            "X=$HOME/a:$HOME/b\n",
        ),
        (
            "a.sh",
            "HOME=/srv\nls /home/ines/x\n",
            "HOME=/srv\nls /home/linden/x\n",
        ),
        (
            "a.sh",
            "su -c 'ls \"/home/ines/x\"' - linden\n",
            "su -c 'ls \"/home/linden/x\"' - linden\n",
        ),
        (
            "makefile",
            "all:\n\tls /home/ines/x\n",
            "all:\n\tls $$HOME/x\n",
        ),
        (
            "a.ps1",
            "$a = \"D:\\Users\\ines\\x\"\r\n",
            "$a = \"$env:USERPROFILE\\x\"\r\n",
        ),
        (
            "a.ps1",
            "$a = 'D:\\Users\\ines\\x'\r\n",
            "$a = 'H:\\Users\\ines\\x'\r\n",
        ),
        (
            "crontab",
            "0 1 * * * ls /home/ines/x\n",
            "0 1 * * * ls /home/linden/x\n",
        ),
        // Formats of which nobody knows whether their programs do it, and what the sheet says of one.
        ("a.ini", "x=D:\\Users\\ines\\x\n", "x=H:\\Users\\ines\\x\n"),
        (
            "said.ini",
            "x=D:\\Users\\ines\\x\ny=D:\\Users\\ines\\a;D:\\b\n",
            "x=%USERPROFILE%\\x\ny=%USERPROFILE%\\a;H:\\b\n",
        ),
        (
            "said.json",
            "{\"x\": \"D:\\\\Users\\\\ines\\\\x\"}",
            "{\"x\": \"%USERPROFILE%\\\\x\"}",
        ),
        // What stands there already means something.
        (
            "said.ini",
            "x=100%;D:\\Users\\ines\\x\n",
            "x=100%;H:\\Users\\ines\\x\n",
        ),
    ];
    for (name, content, expected) in cases {
        assert_eq!(becomes(name, content), *expected, "{content}");
    }
}

#[test]
fn what_lies_elsewhere_may_be_run_by_another_user() {
    let desk = Desk::new()
        .file("moves.toml", SHEET)
        .file("other/a.sh", "ls /home/ines/x\n")
        .file("other/said.ini", "x=D:\\Users\\ines\\x\n");
    let all = ["rewrite", "other", "--yes", "--anyway", "--portable"];
    desk.run(all.iter().chain(&["--record-dir", "records"]).copied())
        .ends_with(0);
    assert_eq!(desk.text("other/a.sh"), "ls /home/linden/x\n");
    // But what the sheet says of a file counts wherever it lies.
    assert_eq!(desk.text("other/said.ini"), "x=%USERPROFILE%\\x\n");
}

#[test]
fn registry_values_of_the_type_that_takes_variables_and_of_a_user() {
    let hex = |text: &str| {
        let units = text.encode_utf16().chain([0]).flat_map(u16::to_le_bytes);
        let digits: Vec<String> = units.map(|byte| format!("{byte:02x}")).collect();
        digits.join(",")
    };
    let file = |user: &str, string: &str, machine: &str, variable: &str| {
        format!(
            "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\Software\\Linden]\r\n\
             \"a\"=hex(2):{}\r\n\"b\"=\"{string}\"\r\n\r\n[HKEY_LOCAL_MACHINE\\Software\\Linden]\r\n\
             \"a\"=hex(2):{}\r\n\r\n[HKEY_CURRENT_USER\\Environment]\r\n\"V\"=hex(2):{}\r\n",
            hex(user),
            hex(machine),
            hex(variable),
        )
    };
    let (old, new) = (r"D:\Users\ines\x", r"H:\Users\ines\x");
    let content = file(old, r"D:\\Users\\ines\\x", old, old);
    let expected = file(r"%USERPROFILE%\x", r"H:\\Users\\ines\\x", new, new);
    assert_eq!(becomes("a.reg", &content), expected);
}

#[test]
fn a_second_run_finds_nothing_and_everything_goes_back() {
    let script = "copy D:\\Users\\ines\\x E:\\\r\n";
    let desk = rewritten("a.cmd", script, &["--portable"]);
    for more in [&["--portable"][..], &[]] {
        let again = ["preview", "files", "--record-dir", "none"];
        let again = desk.run(again.iter().chain(more).copied()).ends_with(0);
        assert!(
            again.out.contains("0 references in 0 files"),
            "{}",
            again.out
        );
    }
    // What was saved since goes back piece by piece.
    let saved = format!("echo new\r\n{}", desk.text("files/a.cmd"));
    desk.put("files/a.cmd", saved);
    desk.restore(&[&desk.ids()[0], "--changed", "edits"])
        .ends_with(0);
    assert_eq!(desk.text("files/a.cmd"), format!("echo new\r\n{script}"));
}

#[test]
fn explain_shows_the_spelling_that_a_reference_takes() {
    let desk = Desk::new()
        .file("moves.toml", SHEET)
        .file("files/a.cmd", "copy D:\\Users\\ines\\x E:\\\r\n")
        .file("files/said.ini", "x=D:\\Users\\ines\\x\n");
    let becomes = |file: &str, more: &[&str]| {
        let all = ["explain", file, "--format", "json"];
        let report = desk.run(all.iter().chain(more).copied()).json();
        let layers = report["references"][0]["layers"]
            .as_array()
            .unwrap()
            .clone();
        layers[0]["becomes"].as_str().unwrap().to_owned()
    };
    let variable = "%USERPROFILE%\\x";
    assert_eq!(becomes("files/a.cmd:1", &["--portable"]), variable);
    assert_eq!(becomes("files/a.cmd:1", &[]), "H:\\Users\\ines\\x");
    assert_eq!(becomes("files/said.ini", &[]), variable);
}

#[test]
fn a_sheet_says_how_a_program_writes_a_variable() {
    let desk = Desk::new()
        .file("good.toml", SHEET)
        .file("bad.toml", SHEET.replace("'%NAME%'", "'<NAME>'"))
        .file("empty.toml", "[[portable]]\nvariables = '$NAME'\n");
    let printed = desk.run(["sheet", "--sheet", "good.toml"]).ends_with(0).out;
    assert!(printed.contains("variables = '%NAME%'"), "{printed}");
    for (sheet, what) in [("bad.toml", "'${NAME}'"), ("empty.toml", "names no files")] {
        let run = desk.run(["sheet", "--sheet", sheet]).ends_with(2);
        assert!(run.err.contains(what), "{}", run.err);
    }
}

#[cfg(unix)]
#[test]
fn a_shell_finds_the_files_after_the_home_has_moved_again() {
    let desk = Desk::new();
    let base = desk.path(".").canonicalize().unwrap();
    let at = |name: &str| base.join(name).display().to_string();
    let script = format!("cat {0}/x \"{0}/a b\"\nY={0}/x; cat \"$Y\"\n", at("old"));
    desk.put("new/bin/a.sh", script);
    let sheet = format!(
        "[[move]]\nfrom = '{0}'\nto = '{1}'\n[variables]\nHOME = '{0}'\n",
        at("old"),
        at("new")
    );
    desk.put("moves.toml", sheet);
    for name in ["x", "a b"] {
        desk.put(&format!("new/{name}"), name);
    }
    desk.run([
        "rewrite",
        "new",
        "--yes",
        "--portable",
        "--record-dir",
        "records",
    ])
    .ends_with(0);
    std::fs::rename(base.join("new"), base.join("third")).unwrap();
    let shell = std::process::Command::new("sh")
        .arg(base.join("third/bin/a.sh"))
        .env("HOME", base.join("third"))
        .output()
        .unwrap();
    assert_eq!(String::from_utf8_lossy(&shell.stdout), "xa bx");
}
