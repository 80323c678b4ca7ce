//! What a new place brings in is safe where it stands, or the reference is a doubt. The right column
//! is what the program that reads the file sees, by its own documentation; the programs themselves are
//! asked in `bench/jury`.

use super::*;

/// A document before, and after; none where the reference must be left.
pub(super) type Case = (&'static str, &'static str, Option<&'static str>);

pub(super) fn check(moves: &[&str], reasons: &[&str], cases: &[Case]) {
    for (name, before, after) in cases {
        let plan = planned(before.as_bytes(), name, &sheet(moves));
        let got = plan.new.map(|new| String::from_utf8(new).unwrap());
        assert_eq!(got.as_deref(), *after, "{name}: {before}");
        if after.is_none() {
            let left = plan
                .references
                .iter()
                .filter_map(|one| one.reason.map(ReasonName::word));
            let names: Vec<&str> = left.collect();
            assert!(!names.is_empty(), "{name}: {before} is left without a word");
            assert!(
                names.iter().all(|name| reasons.contains(name)),
                "{name}: {before}: {names:?}"
            );
        }
    }
}

const BLANK: &[&str] = &["/srv/herb=/srv/my herb", r"D:\Herbarium=H:\My Herb"];

#[test]
fn a_blank_in_a_value_or_an_argument() {
    let cases: &[Case] = &[
        // A value that is one place stays bare, whatever its key is called.
        (
            "a.json",
            r#"{"command": "/srv/herb/v"}"#,
            Some(r#"{"command": "/srv/my herb/v"}"#),
        ),
        (
            "a.ini",
            "[a]\nrun_dir=/srv/herb/r\n",
            Some("[a]\nrun_dir=/srv/my herb/r\n"),
        ),
        (
            "a.py",
            "command = '/srv/herb/v'\n",
            Some("command = '/srv/my herb/v'\n"),
        ),
        // An element of a list is one argument already.
        (
            "a.json",
            r#"{"args": ["/srv/herb/v", "--in=/srv/herb/x"]}"#,
            Some(r#"{"args": ["/srv/my herb/v", "--in=/srv/my herb/x"]}"#),
        ),
        (
            "a.yaml",
            "args: ['--in=/srv/herb/x']\n",
            Some("args: ['--in=/srv/my herb/x']\n"),
        ),
        (
            "a.toml",
            "args = ['--in=/srv/herb/x']\n",
            Some("args = ['--in=/srv/my herb/x']\n"),
        ),
        (
            "a.json",
            r#"{"args": ["sh", "-c", "ls /srv/herb/x"]}"#,
            None,
        ),
        // A command line by its own content gains quotes.
        (
            "a.json",
            r#"{"launch": "v.exe --in D:\\Herbarium\\x"}"#,
            Some(r#"{"launch": "v.exe --in \"H:\\My Herb\\x\""}"#),
        ),
        // Quotes of the outer syntax hold what stands in them.
        (
            "a.service",
            "[Service]\nExecStart=/bin/echo '/srv/herb/a b'\n",
            Some("[Service]\nExecStart=/bin/echo '/srv/my herb/a b'\n"),
        ),
        (
            "a.bat",
            "if exist D:\\Herbarium\\a (echo yes)\n",
            Some("if exist \"H:\\My Herb\\a\" (echo yes)\n"),
        ),
        ("a.bat", "for %%i in (D:\\Herbarium\\a) do echo %%i\n", None),
        (
            "a.bat",
            "echo see D:\\Herbarium\\a\n",
            Some("echo see H:\\My Herb\\a\n"),
        ),
        // A value is parted where its variable is used without quotes.
        (
            "a.bat",
            "set D=D:\\Herbarium\r\ncopy \"%D%\\a\" x\r\n",
            Some("set D=H:\\My Herb\r\ncopy \"%D%\\a\" x\r\n"),
        ),
        ("a.bat", "set D=D:\\Herbarium\r\ncopy %D%\\a x\r\n", None),
        (
            "a.sh",
            "D=/srv/herb\ncp \"$D/a\" x\n",
            Some("D='/srv/my herb'\ncp \"$D/a\" x\n"),
        ),
        ("a.sh", "D=/srv/herb\ncp $D/a x\n", None),
        // A shell within a shell.
        (
            "a.sh",
            "sh -c 'ls /srv/herb/x'\n",
            Some("sh -c 'ls '\\''/srv/my herb/x'\\'''\n"),
        ),
        ("a.sh", "cat <<E\n/srv/herb/x\nE\n", None),
        (
            "a.sh",
            "show \"${V:-/srv/herb/x}\"\n",
            Some("show \"${V:-/srv/my herb/x}\"\n"),
        ),
        // Code and files of unknown syntax.
        ("a.pl", "show(qw(/srv/herb/a b));\n", None),
        ("a.conf", "path /srv/herb/x\n", None),
        (
            "a.txt",
            "see /srv/herb/x there\n",
            Some("see /srv/my herb/x there\n"),
        ),
        (
            "a.md",
            "[x](file:///srv/herb/a)\n",
            Some("[x](file:///srv/my%20herb/a)\n"),
        ),
    ];
    check(
        BLANK,
        &["special-letter", "half-line", "not-writable"],
        cases,
    );
}

#[test]
fn a_blank_in_the_words_of_configuration() {
    let cases: &[Case] = &[
        (
            "nginx.conf",
            "events {}\nroot /srv/herb/x;\n",
            Some("events {}\nroot \"/srv/my herb/x\";\n"),
        ),
        (
            "httpd.conf",
            "Alias /x /srv/herb/x\n",
            Some("Alias /x \"/srv/my herb/x\"\n"),
        ),
        (
            "ssh_config",
            "IdentityFile /srv/herb/k\n",
            Some("IdentityFile \"/srv/my herb/k\"\n"),
        ),
        ("ssh_config", "ProxyCommand /srv/herb/v %h\n", None),
        (
            "fstab",
            "/srv/herb/x /mnt/x none bind 0 0\n",
            Some("/srv/my\\040herb/x /mnt/x none bind 0 0\n"),
        ),
        (
            "sudoers",
            "ines ALL = /srv/herb/v\n",
            Some("ines ALL = /srv/my\\ herb/v\n"),
        ),
        (
            "a.cmake",
            "set(D /srv/herb/x)\n",
            Some("set(D \"/srv/my herb/x\")\n"),
        ),
        (
            "crontab",
            "0 5 * * * cp /srv/herb/x y\n",
            Some("0 5 * * * cp '/srv/my herb/x' y\n"),
        ),
        (
            ".gitconfig",
            "[a]\n\tk = /srv/herb/x\n",
            Some("[a]\n\tk = /srv/my herb/x\n"),
        ),
    ];
    check(
        BLANK,
        &["special-letter", "half-line", "not-writable"],
        cases,
    );
}

#[test]
fn signs_are_escaped_or_a_doubt() {
    let rows: &[(&str, &[Case])] = &[
        (
            "/srv/herb=/srv/50%h",
            &[
                (
                    "crontab",
                    "0 5 * * * cp /srv/herb/x y\n",
                    Some("0 5 * * * cp /srv/50\\%h/x y\n"),
                ),
                (
                    "a.service",
                    "[Service]\nWorkingDirectory=/srv/herb\n",
                    Some("[Service]\nWorkingDirectory=/srv/50%%h\n"),
                ),
                ("a.ini", "[a]\nk=/srv/herb/x\n", None),
                ("a.py", "a = '/srv/herb/%s' % x\n", None),
                ("a.py", "a = '/srv/herb/x'\n", Some("a = '/srv/50%h/x'\n")),
            ],
        ),
        (
            "/srv/herb=/srv/a$b",
            &[
                ("compose.yaml", "a: /srv/herb/x\n", Some("a: /srv/a$$b/x\n")),
                ("nginx.conf", "events {}\nroot /srv/herb/x;\n", None),
                (
                    "makefile",
                    "all:\n\tcp /srv/herb/x y\n",
                    Some("all:\n\tcp '/srv/a$$b/x' y\n"),
                ),
                ("a.sh", "cat <<E\n/srv/herb/x\nE\n", None),
                (".env", "A=/srv/herb/x\n", None),
                (
                    "a.json",
                    r#"{"k": "/srv/herb/x"}"#,
                    Some(r#"{"k": "/srv/a$b/x"}"#),
                ),
            ],
        ),
        (
            "/srv/herb=/srv/a;b",
            &[
                ("a.cmake", "set(D \"/srv/herb/x\")\n", None),
                (
                    ".gitconfig",
                    "[a]\n\tk = /srv/herb/x\n",
                    Some("[a]\n\tk = \"/srv/a;b/x\"\n"),
                ),
                ("a.ini", "[a]\nk=/srv/herb/x\n", None),
            ],
        ),
        (
            "/srv/herb=/srv/{a}",
            &[
                ("a.py", "a = f'/srv/herb/x'\n", None),
                ("a.py", "a = '/srv/herb/{}'.format(x)\n", None),
                ("a.py", "a = '/srv/herb/x'\n", Some("a = '/srv/{a}/x'\n")),
            ],
        ),
        (
            "/srv/herb=/srv/a:b",
            &[("a.json", r#"{"k": "/srv/herb/x:/srv/y"}"#, None)],
        ),
    ];
    for (one, cases) in rows {
        check(
            &[one],
            &["special-letter", "half-line", "not-writable"],
            cases,
        );
    }
}

#[test]
fn the_line_that_names_the_interpreter_takes_no_blank() {
    for name in [
        "a", "a.sh", "a.py", "a.js", "a.lua", "a.el", "a.php", "a.rb",
    ] {
        let text = "#!/srv/herb/bin/x -e\n";
        let plain = rewritten_text(text, name, &["/srv/herb=/srv/press"]);
        assert_eq!(plain, "#!/srv/press/bin/x -e\n", "{name}");
        check(BLANK, &["special-letter"], &[(name, text, None)]);
    }
    // A script is known by its interpreter wherever that lies.
    for script in ["python3.11", "env -S node", "busybox sh"] {
        let text = format!("#!/srv/herb/bin/{script}\nx('/srv/herb/y')\n");
        let moved = rewritten_text(&text, "a", &["/srv/herb=/usr"]);
        assert_eq!(moved, text.replace("/srv/herb", "/usr"));
    }
    for name in ["a", "a.sh", "a.py"] {
        check(
            BLANK,
            &["special-letter"],
            &[(name, "#! /usr/bin/env -S /srv/herb/x\n", None)],
        );
    }
}

#[test]
fn a_mount_unit_is_named_after_its_place() {
    let sheet = sheet(&["/srv/herb=/srv/press"]);
    let unit = "[Unit]\nAfter=srv-herb.mount x.target\nWants=srv-herb-my\\x2dsheets.mount srv.mount\n[Mount]\nWhere=/srv/herb/x\n";
    let plan = planned(unit.as_bytes(), "srv-herb-x.mount", &sheet);
    let place = |one: Reference| one.place;
    let places: Vec<String> = plan.references.iter().map(place).collect();
    assert_eq!(places, ["/srv/herb", "/srv/herb/my-sheets", "/srv/herb/x"]);
    let references: Vec<Reference> = plan.references.iter().collect();
    let [after, _, place] = &references[..] else {
        panic!("three references");
    };
    assert!(says(after).contains("rename the unit"));
    assert_eq!(place.notice, Some(Notice::UnitName));
}

#[test]
fn texts_for_people_are_told_by_their_titles() {
    for name in [
        "NEWS.19",
        "ChangeLog-2013",
        "README.Debian",
        "00FAQ",
        "readme.win",
    ] {
        let got = rewritten_text("see /srv/herb/x\n", name, BLANK);
        assert_eq!(got, "see /srv/my herb/x\n", "{name}");
    }
    for name in [
        "history",
        "install",
        "history.conf",
        "install.x",
        "newsgroups",
        "notes2x",
        "todos.dat",
    ] {
        check(
            BLANK,
            &["special-letter"],
            &[(name, "see /srv/herb/x\n", None)],
        );
    }
}

#[test]
fn what_goes_on_from_something_else_is_no_place() {
    let cases = [
        ("a.sh", "x=$(pwd)/srv/herb/y"),
        (
            "a.sh",
            "cp a`pwd`/srv/herb/y \"$(x)/srv/herb\" a$V/srv/herb ${V}/srv/herb",
        ),
        ("a.sh", "diff <(cat x)/srv/herb y"),
        (
            "a.mk",
            "a:\n\tcp p-$(V)/srv/herb/y $(shell x)/srv/herb/z\nB = p-$(V)/srv/herb/x",
        ),
        ("a.cmake", "set(A a${V}/srv/herb/x $<T:x>/srv/herb)"),
        (
            "a.ps1",
            "x $(y)/srv/herb/z $v/srv/herb \"$w\"/srv/herb ${v}/srv/herb",
        ),
        (
            "a.service",
            "[Service]\nExecStart=/bin/x a%h/srv/herb/y ${V}/srv/herb/z",
        ),
        ("Dockerfile", "RUN cp a$V/srv/herb/y ${V}/srv/herb/z"),
        ("a.nginx", "root $base/srv/herb;"),
        ("a.pl", "x($y)/srv/herb/2;"),
    ];
    for (name, text) in cases {
        let got = rewritten_text(text, name, &["/srv/herb=/srv/press"]);
        assert_eq!(got, text, "{name}");
    }
    // A pattern of `case` ends in a bracket, too, and a list goes on.
    let text = "case $x in a)/srv/herb/y;; esac\nP=$(x)/bin:/srv/herb\n";
    let got = rewritten_text(text, "a.sh", &["/srv/herb=/srv/press"]);
    assert_eq!(got, text.replace("/srv/herb", "/srv/press"));
}

#[test]
fn a_line_is_changed_whole_or_not_at_all() {
    let cases: &[Case] = &[
        ("a.sh", "cp /srv/herb* /srv/herb/x\n", None),
        (
            "a.sh",
            "cp /srv/herb/a b\ncp /srv/herb* c\n",
            Some("cp '/srv/my herb/a' b\ncp /srv/herb* c\n"),
        ),
        ("a.json", r#"{"args": ["/srv/herb/v", "/srv/herb*"]}"#, None),
    ];
    check(BLANK, &["name-goes-on", "half-line"], cases);
}

#[test]
fn every_place_of_a_string_is_seen_and_no_other() {
    let moves = &["/srv/herb=/srv/new"];
    let cases: &[Case] = &[
        (
            "a.json",
            r#"{"k": "/srv/herb/x, /srv/herb/y"}"#,
            Some(r#"{"k": "/srv/new/x, /srv/new/y"}"#),
        ),
        (
            "a.json",
            r#"{"k": "/srv/herb/x --z /srv/herb/z"}"#,
            Some(r#"{"k": "/srv/new/x --z /srv/new/z"}"#),
        ),
        (
            "a.json",
            r#"{"k": "/srv/herb;/srv/herb/b"}"#,
            Some(r#"{"k": "/srv/new;/srv/new/b"}"#),
        ),
        (
            "a.ini",
            "[a]\nk=/srv/herb:/srv/herb/b\n",
            Some("[a]\nk=/srv/new:/srv/new/b\n"),
        ),
        (
            ".env",
            "A=${B:-/srv/herb/x}\n",
            Some("A=${B:-/srv/new/x}\n"),
        ),
        (
            "a.ini",
            "[a]\nroot:/srv/herb/x\n",
            Some("[a]\nroot:/srv/new/x\n"),
        ),
        // The tail stays.
        (
            "a.json",
            r#"{"k": "/srv/herb/./x"}"#,
            Some(r#"{"k": "/srv/new/./x"}"#),
        ),
        (
            "a.json",
            r#"{"k": "/srv/herb/."}"#,
            Some(r#"{"k": "/srv/new/."}"#),
        ),
        ("a.sh", "ls /srv/herb/.*\n", Some("ls /srv/new/.*\n")),
    ];
    check(moves, &[], cases);
    let others = [
        "cp host:/srv/herb/x .\n",
        "cp ines@host:/srv/herb/x .\n",
        "cp s3:/srv/herb/x .\n",
        "curl http://host/srv/herb/x\n",
    ];
    for other in others {
        let plan = planned(other.as_bytes(), "a.sh", &sheet(moves));
        assert!(plan.references.is_empty(), "{other}");
    }
}

#[test]
fn shares_may_have_blanks_in_their_names() {
    let cases: &[Case] = &[
        (
            "a.json",
            r#"{"k": "\\\\mossbank\\plant press\\x"}"#,
            Some(r#"{"k": "\\\\fernhall\\new press\\x"}"#),
        ),
        (
            "a.ini",
            "[a]\nk=\\\\mossbank\\plant press\\x\n",
            Some("[a]\nk=\\\\fernhall\\new press\\x\n"),
        ),
    ];
    check(
        &[r"\\mossbank\plant press=\\fernhall\new press"],
        &[],
        cases,
    );
    let other = planned(
        cases[1].1.as_bytes(),
        "a.ini",
        &sheet(&[r"\\mossbank\plant=\\fernhall\x"]),
    );
    assert!(other.references.is_empty());
}

#[test]
fn the_order_of_the_sheet_decides_nothing() {
    let (short, long) = (r"D:\Herbarium=H:\New", r"D:\Herbarium Old=H:\Old");
    let text = "see D:\\Herbarium Old\\x and D:\\Herbarium\\y\n";
    for moves in [[short, long], [long, short]] {
        let after = rewritten_text(text, "a.txt", &moves);
        assert_eq!(after, "see H:\\Old\\x and H:\\New\\y\n", "{moves:?}");
    }
}

#[test]
fn patterns_are_no_places() {
    let cases: &[Case] = &[
        ("a.json", r#"{"k": "^/srv/herb/x"}"#, None),
        ("a.json", r#"{"k": "^D:\\\\Herbarium\\\\x"}"#, None),
        ("a.json", r#"{"k": "/srv/herb/(?:a|b)"}"#, None),
        ("a.json", r#"{"k": "/srv/herb/a\\.tif"}"#, None),
        (
            "a.json",
            r#"{"k": "/srv/herb/*.tif"}"#,
            Some(r#"{"k": "/srv/my herb/*.tif"}"#),
        ),
    ];
    check(BLANK, &["pattern", "name-goes-on"], cases);
}

#[test]
fn signs_of_source_files() {
    let dollar: &[Case] = &[
        (
            "a.kt",
            "val a = \"/srv/herb/x\"\n",
            Some("val a = \"/srv/a\\$b/x\"\n"),
        ),
        ("a.kt", "val a = \"\"\"/srv/herb/x\"\"\"\n", None),
        ("a.js", "a = String.raw`/srv/herb/x`\n", None),
        (
            "a.java",
            "a = \"/srv/herb/x\";\n",
            Some("a = \"/srv/a$b/x\";\n"),
        ),
    ];
    check(&["/srv/herb=/srv/a$b"], &["special-letter"], dollar);
    let braces: &[Case] = &[
        ("a.cs", "a = $\"/srv/herb/x\";\n", None),
        (
            "a.cs",
            "a = \"/srv/herb/x\";\n",
            Some("a = \"/srv/{a}/x\";\n"),
        ),
    ];
    check(&["/srv/herb=/srv/{a}"], &["special-letter"], braces);
    let raw: &[Case] = &[(
        "a.js",
        "a = String.raw`D:\\Herbarium\\x`\n",
        Some("a = String.raw`H:\\My Herb\\x`\n"),
    )];
    check(BLANK, &[], raw);
}

#[test]
fn a_doubt_that_is_accepted_is_written_as_it_is_shown() {
    let mut told = sheet(BLANK);
    let text = "path /srv/herb/x\npath /srv/herb/y\n";
    assert!(planned(text.as_bytes(), "a.conf", &told).new.is_none());
    let here = std::path::Path::new("");
    told.accept.add_site("a.conf:2", here).unwrap();
    let document = Document::open(text.as_bytes(), "a.conf", Reading::default()).unwrap();
    let options = PlanOptions {
        file: std::path::Path::new("a.conf"),
        ..PlanOptions::of(&told)
    };
    let new = plan(&document, options).new.unwrap();
    assert_eq!(new, b"path /srv/herb/x\npath /srv/my herb/y\n");
    let mut all = sheet(&["/srv/herb=/srv/50%"]);
    all.accept.add_reason("special-letter").unwrap();
    let ini = "[a]\nk=/srv/herb/x\n";
    assert_eq!(
        rewritten(ini.as_bytes(), "a.ini", &all),
        b"[a]\nk=/srv/50%/x\n"
    );
    let mut open = sheet(&["/srv/herb=/srv/new"]);
    open.accept.add_reason("blank-follows").unwrap();
    open.moves[0]
        .except
        .push(Place::parse("/srv/herb/loans").unwrap());
    let kept = "see /srv/herb/loans for it\n";
    assert_eq!(rewritten(kept.as_bytes(), "a.txt", &open), kept.as_bytes());
    let notes = "see /srv/herb for it\n";
    assert_eq!(
        rewritten(notes.as_bytes(), "a.txt", &open),
        b"see /srv/new for it\n"
    );
}

#[test]
fn the_bytes_of_an_old_place_tell_its_code_page() {
    let page = |label: &str| Encoding::for_label(label).unwrap();
    let cases = [
        (
            "windows-1252",
            "a=D:\\Fotos \u{e9}\\x.jpg\n",
            "D:\\Fotos \u{e9}=R:\\Pics",
        ),
        (
            "koi8-r",
            "a=D:\\\u{413}\u{435}\u{440}\u{431}\\x.jpg\n",
            "D:\\\u{413}\u{435}\u{440}\u{431}=R:\\Pics",
        ),
        (
            "shift_jis",
            "a=D:\\\u{8868}\u{793a}\\x.jpg\n",
            "D:\\\u{8868}\u{793a}=R:\\Pics",
        ),
        (
            "cp850",
            "a=D:\\Gr\u{fc}n\\x.jpg\n",
            "D:\\Gr\u{fc}n=R:\\Pics",
        ),
    ];
    for (label, before, one) in cases {
        let bytes = page(label).encode(before).unwrap();
        let sheet = sheet(&[one]);
        let reading = Reading {
            likely: named_in(&bytes, &sheet),
            ..Reading::default()
        };
        let document = Document::open(&bytes, "a.ini", reading).unwrap();
        let new = plan(&document, PlanOptions::of(&sheet)).new;
        assert_eq!(new.as_deref(), Some(&b"a=R:\\Pics\\x.jpg\n"[..]), "{label}");
    }
    // A letter that the new place brings in could be written in several ways.
    let bytes = page("windows-1252")
        .encode("a=D:\\Herbarium\\\u{e9}\n")
        .unwrap();
    let plan = planned(&bytes, "a.ini", &sheet(&["D:\\Herbarium=R:\\\u{fc}"]));
    assert!(plan.new.is_none());
    assert_eq!(first(&plan).reason.unwrap().word(), "encoding-open");
}

/// The encoding in which a text names an old place of the sheet.
fn named_in(bytes: &[u8], sheet: &Sheet) -> Option<Encoding> {
    let found = crate::text::detect(bytes, None)?;
    let all = |each: &mut dyn FnMut(&[u8])| {
        each(bytes);
        Ok::<_, std::convert::Infallible>(())
    };
    crate::text::encoding_of_names(found.encoding, sheet.old_names(), all).unwrap()
}
