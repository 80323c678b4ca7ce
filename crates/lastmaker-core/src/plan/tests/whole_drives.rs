//! A move of a whole drive has no name to go by: a letter, a colon and a separator also stand in
//! formats of messages, regular expressions, commands of editors, letters of options and labels. Those
//! are left, with a word where a place could be meant.

use super::safe_letters::{Case, check};
use super::*;

const DRIVES: &[&str] = &[r"D:\=R:\", r"S:\=T:\"];

#[test]
fn what_is_plainly_a_drive_moves() {
    let cases = [
        ("a.json", r#"["D:", "s:"]"#, r#"["R:", "t:"]"#),
        (
            "a.json",
            r#"{"x": "D:\\(old) y"}"#,
            r#"{"x": "R:\\(old) y"}"#,
        ),
        ("a.ini", "[a]\nroot=D:\\\n", "[a]\nroot=R:\\\n"),
        ("a.py", "drive = 'D:'\n", "drive = 'R:'\n"),
        (
            "a.txt",
            "on D:\\ (the old disk)\n",
            "on R:\\ (the old disk)\n",
        ),
        ("a.txt", "see D:\\*.tif\n", "see R:\\*.tif\n"),
        ("a.c", "#include <D:/x.h>\n", "#include <R:/x.h>\n"),
        ("a.bat", "D:\r\ncd D:\\x\r\n", "R:\r\ncd R:\\x\r\n"),
    ];
    for (name, before, after) in cases {
        assert_eq!(rewritten_text(before, name, DRIVES), after, "{name}");
    }
}

#[test]
fn a_name_that_moves_speaks_for_its_drive() {
    let cases = [
        ("a.json", r#"{"x": "D:\\@Sheets\\a"}"#, r#"{"x": "R:\\a"}"#),
        (
            "a.dat",
            "[12:30]D:\\@Sheets\\s*.tif\n",
            "[12:30]R:\\s*.tif\n",
        ),
        ("a.bat", "del D:\\@Sheets\\w*.tif\r\n", "del R:\\w*.tif\r\n"),
    ];
    for (name, before, after) in cases {
        let got = rewritten_text(before, name, &[r"D:\@Sheets=R:\"]);
        assert_eq!(got, after, "{name}");
    }
}

#[test]
fn what_is_none_is_not_touched() {
    let cases = [
        ("a.vim", "set efm=%f:%d:\\ %m\n"),
        ("a.py", "print('%d:/%s')\n"),
        ("a.zsh", "x=(${(s:/:)path})\n"),
        ("a.txt", "scp node-d:/srv/x ines@d:/srv/y\n"),
        ("a.el", "(message \"     D:\\tshow all folders\\n\")\n"),
    ];
    for (name, text) in cases {
        assert_eq!(rewritten_text(text, name, DRIVES), text, "{name}");
    }
}

#[test]
fn what_may_be_one_is_a_doubt() {
    let cases: &[Case] = &[
        // Letters of options, labels and keys of tables.
        ("a.el", "(getopt \"d:\")\n", None),
        ("a.py", "getopt(args, 'd:')\n", None),
        ("a.el", "(list \" D: \" x)\n", None),
        ("a.sh", "while getopts d: name; do :; done\n", None),
        // A program has no places but in strings.
        ("a.js", "x = y?d:/Sheets/:z;\n", None),
        ("a.c", "int x = y?d:/z;\n", None),
        ("a.py", "x = y[D:\\a]\n", None),
        // Regular expressions and commands of editors.
        ("a.el", "(x \"^\\\\([Tt]d:\\\\)\")\n", None),
        ("a.vim", "let x = 's:\\<word\\>'\n", None),
        ("a.vim", "set x=s:\\ ,d:\\ \\ ,e:\n", None),
        ("a.pl", "$x =~ s:/a:/b:;\n", None),
        ("a.lang", "x = 'd:\\w+'\n", None),
    ];
    check(
        DRIVES,
        &["lone-letter", "stray", "pattern", "half-line"],
        cases,
    );
}
