//! Each format: documents before and after, in the escaping that the format's programs write.

use super::*;

/// A drive that moved to a folder whose name many syntaxes must escape.
const AWKWARD: &str = r"D:\Herbarium=H:\My $ O'Brien & Söhne #1, x;y\Herb";
const AWKWARD_POSIX: &str = "/srv/herb=/srv/my o'herb & co $x #1";

fn check(name: &str, one: &str, cases: &[(&str, &str)]) {
    for (before, after) in cases {
        let got = rewritten_text(before, name, &[one, HERBARIUM[1]]);
        assert_eq!(got, *after, "{name}: {before}");
    }
}

fn check_names(name: &str, format: &str, text: &str) {
    let document = Document::open(text.as_bytes(), name, Reading::default()).unwrap();
    assert_eq!(
        (document.format.name(), document.broke),
        (format, None),
        "{name}: {text}"
    );
}

#[test]
fn settings_lines() {
    check(
        "a.ini",
        HERBARIUM[0],
        &[
            (
                "[a]\r\nroot=D:\\Herbarium Old\r\n",
                "[a]\r\nroot=D:\\Herbarium Old\r\n",
            ),
            (
                "[a]\nroot = D:\\Herbarium\n",
                "[a]\nroot = H:\\Collections\\Herbarium\n",
            ),
            (
                "[a]\nroot: \"D:\\Herbarium\\x\" ; D:\\Herbarium\\y\n",
                "[a]\nroot: \"H:\\Collections\\Herbarium\\x\" ; H:\\Collections\\Herbarium\\y\n",
            ),
            (
                "[D:\\Herbarium]\nD:\\Herbarium\\x=1\n",
                "[H:\\Collections\\Herbarium]\nH:\\Collections\\Herbarium\\x=1\n",
            ),
            // The name could go on, or the note begin here.
            (
                "[a]\nroot=D:\\Herbarium ; note\n",
                "[a]\nroot=D:\\Herbarium ; note\n",
            ),
            (
                "; see D:\\Herbarium\\x\n[a]\nb=1\n",
                "; see H:\\Collections\\Herbarium\\x\n[a]\nb=1\n",
            ),
        ],
    );
    check(
        "a.conf",
        HERBARIUM[0],
        &[(
            "[General]\nroot=D:\\\\Herbarium\\\\x\nlist=D:\\\\Herbarium, \"E:\\\\a, b\"\nn=@Invalid()\n",
            "[General]\nroot=H:\\\\Collections\\\\Herbarium\\\\x\nlist=H:\\\\Collections\\\\Herbarium, \"E:\\\\a, b\"\nn=@Invalid()\n",
        )],
    );
    check(
        "a.ini",
        "D:\\Herbarium=H:\\K\u{e4}seb",
        &[(
            "[a]\nr=D:\\\\Herbarium\\\\x\nn=@Invalid()\n",
            "[a]\nr=H:\\\\K\\xe4seb\\\\x\nn=@Invalid()\n",
        )],
    );
    check(
        "a.properties",
        HERBARIUM[0],
        &[
            (
                "root=D\\:\\\\Herbarium\\\\x\n",
                "root=H\\:\\\\Collections\\\\Herbarium\\\\x\n",
            ),
            (
                "root = D:/Herbarium/x\n",
                "root = H:/Collections/Herbarium/x\n",
            ),
            (
                "root=D:\\\\Herbarium\\\\\\\n    x\n",
                "root=H:\\\\Collections\\\\Herbarium\\\\\\\n    x\n",
            ),
            (
                "D\\:\\\\Herbarium\\\\x=1\n",
                "H\\:\\\\Collections\\\\Herbarium\\\\x=1\n",
            ),
        ],
    );
    check(
        "a.desktop",
        "/srv/herb=/srv/my herb",
        &[
            (
                "[Desktop Entry]\nExec=/srv/herb/bin/view %f\nPath=/srv/herb\nIcon=/srv/herb/i.png\n",
                "[Desktop Entry]\nExec=\"/srv/my herb/bin/view\" %f\nPath=/srv/my herb\nIcon=/srv/my herb/i.png\n",
            ),
            (
                "[Desktop Entry]\nURL=file:///srv/herb/x\n",
                "[Desktop Entry]\nURL=file:///srv/my%20herb/x\n",
            ),
        ],
    );
    check(
        "a.service",
        "/srv/herb=/srv/my herb",
        &[
            (
                "[Service]\nExecStart=/srv/herb/view --data=/srv/herb/x -v\nWorkingDirectory=/srv/herb\n",
                "[Service]\nExecStart=\"/srv/my herb/view\" \"--data=/srv/my herb/x\" -v\nWorkingDirectory=/srv/my herb\n",
            ),
            (
                "[Service]\nEnvironment=\"ROOT=/srv/herb/x\"\n",
                "[Service]\nEnvironment=\"ROOT=/srv/my herb/x\"\n",
            ),
        ],
    );
    check(
        "x.env",
        HERBARIUM[0],
        &[(
            "ROOT=D:\\Herbarium\\x\nexport A=\"D:\\\\Herbarium\\\\y\" # n\nB='D:\\Herbarium\\z'\n",
            "ROOT=H:\\Collections\\Herbarium\\x\nexport A=\"H:\\\\Collections\\\\Herbarium\\\\y\" # n\nB='H:\\Collections\\Herbarium\\z'\n",
        )],
    );
    check(
        "a.pc",
        "/srv/herb=/opt/herb",
        &[(
            "prefix=/srv/herb\nlibdir=${prefix}/lib\nLibs: -L/srv/herb/lib -lx\n",
            "prefix=/opt/herb\nlibdir=${prefix}/lib\nLibs: -L/opt/herb/lib -lx\n",
        )],
    );
    check(
        "a.pc",
        "/srv/herb=/opt/my herb",
        &[("prefix=/srv/herb\n", "prefix=/srv/herb\n")],
    );
    check(
        "a.la",
        "/srv/herb=/opt/herb",
        &[("libdir='/srv/herb/lib'\n", "libdir='/opt/herb/lib'\n")],
    );
    check(
        "a.m3u8",
        HERBARIUM[0],
        &[(
            "#EXTM3U\r\n#EXTINF:1,a\r\nD:\\Herbarium\\a b, c.wav\r\nfile:///D:/Herbarium/x%20y.wav\r\n",
            "#EXTM3U\r\n#EXTINF:1,a\r\nH:\\Collections\\Herbarium\\a b, c.wav\r\nfile:///H:/Collections/Herbarium/x%20y.wav\r\n",
        )],
    );
    check(
        "a.pls",
        HERBARIUM[0],
        &[(
            "[playlist]\nFile1=D:\\Herbarium\\a b.wav\nNumberOfEntries=1\n",
            "[playlist]\nFile1=H:\\Collections\\Herbarium\\a b.wav\nNumberOfEntries=1\n",
        )],
    );
    check(
        "a.cue",
        HERBARIUM[0],
        &[(
            "FILE \"D:\\Herbarium\\a b.wav\" WAVE\n  TRACK 01 AUDIO\n",
            "FILE \"H:\\Collections\\Herbarium\\a b.wav\" WAVE\n  TRACK 01 AUDIO\n",
        )],
    );
    check(
        "a.url",
        HERBARIUM[0],
        &[(
            "[InternetShortcut]\r\nURL=file:///D:/Herbarium/x\r\nIconFile=D:\\Herbarium\\i.ico\r\n",
            "[InternetShortcut]\r\nURL=file:///H:/Collections/Herbarium/x\r\nIconFile=H:\\Collections\\Herbarium\\i.ico\r\n",
        )],
    );
}

#[test]
fn style_sheets_editor_scripts_and_outlines() {
    let cases = [
        (
            "a.css",
            "a{b:url(/srv/herb/x.png)}",
            r"a{b:url(/srv/my\ herb\ \(1\)/x.png)}",
        ),
        (
            "a.css",
            "a{b:url( \"/srv/herb/x\" )}",
            "a{b:url( \"/srv/my herb (1)/x\" )}",
        ),
        (
            "a.css",
            "@import '/srv/herb/y';",
            "@import '/srv/my herb (1)/y';",
        ),
        ("a.css", "/* /srv/herb/y */", "/* /srv/my herb (1)/y */"),
        (
            "a.vim",
            "edit /srv/herb/x | cd /srv/herb",
            r"edit /srv/my\ herb\ (1)/x | cd /srv/my\ herb\ (1)",
        ),
        (
            "a.vim",
            r"badd +3 /srv/herb/a\ b",
            r"badd +3 /srv/my\ herb\ (1)/a\ b",
        ),
        ("a.vim", r"edit D:\Herbarium\x", r"edit H:\My\ Herb\x"),
        (
            "a.vim",
            "let a = '/srv/herb/x'",
            "let a = '/srv/my herb (1)/x'",
        ),
        ("a.vim", "\" see /srv/herb/x", "\" see /srv/my herb (1)/x"),
        (
            "a.vim",
            r"edit \\mossbank\press\x",
            r"edit \\fernhall\press\x",
        ),
        (
            "a.org",
            "[[file:/srv/herb/x.org::*Head][y]] [[/srv/herb/z]]",
            "[[file:/srv/my herb (1)/x.org::*Head][y]] [[/srv/my herb (1)/z]]",
        ),
        ("a.org", "see /srv/herb/x", "see /srv/my herb (1)/x"),
        (
            "a.org",
            "#+begin_src sh\nls /srv/herb/x\n#+end_src",
            "#+begin_src sh\nls /srv/herb/x\n#+end_src",
        ),
        (
            "a.vim",
            "view = '/srv/herb/x'",
            "view = '/srv/my herb (1)/x'",
        ),
        // Blanks part the paths of some options.
        ("a.vim", "set path+=/srv/herb/x", "set path+=/srv/herb/x"),
    ];
    let moves = &[
        "/srv/herb=/srv/my herb (1)",
        r"D:\Herbarium=H:\My Herb",
        r"\\mossbank\press=\\fernhall\press",
    ];
    for (name, before, after) in cases {
        assert_eq!(rewritten_text(before, name, moves), after, "{before}");
    }
}

#[test]
fn registry_hives() {
    // What comes out was read again by the layer that writes such files.
    let head = "WINE REGISTRY Version 2\n;; All keys relative to A\n\n#arch=win64\n\n";
    let cases = [
        (
            r#"[Software\\Recent\\D:/Herbarium] 1795744787"#,
            r#"[Software\\Recent\\H:/Gr\xe4ser\x672c\x61] 1795744787"#,
        ),
        (
            r#""Root"="D:\\Herbarium\\x""#,
            r#""Root"="H:\\Gr\xe4ser\x672c\x61\\x""#,
        ),
        (
            r#""a"=str(2):"D:\\Herbarium\\\x672c""#,
            r#""a"=str(2):"H:\\Gr\xe4ser\x672c\x61\\\x672c""#,
        ),
        (
            r#""M"=str(7):"D:\\Herbarium\\y\0E:\\b\0""#,
            r#""M"=str(7):"H:\\Gr\xe4ser\x672c\x61\\y\0E:\\b\0""#,
        ),
        ("#time=1dd7e12faa6356e", "#time=1dd7e12faa6356e"),
    ];
    for (before, after) in cases {
        let key = if before.starts_with('[') {
            ""
        } else {
            "[A] 1\n#time=1\n"
        };
        assert_eq!(
            rewritten_text(
                &format!("{head}{key}{before}\n"),
                "user.reg",
                &["D:\\Herbarium=H:\\Gr\u{e4}ser\u{672c}a"]
            ),
            format!("{head}{key}{after}\n")
        );
    }
}

#[test]
fn markup() {
    check(
        "a.xml",
        AWKWARD,
        &[
            (
                "<a p=\"D:\\Herbarium\\x\">D:\\Herbarium\\y</a>",
                "<a p=\"H:\\My $ O'Brien &amp; Söhne #1, x;y\\Herb\\x\">H:\\My $ O'Brien &amp; Söhne #1, x;y\\Herb\\y</a>",
            ),
            (
                "<a p='D:\\Herbarium\\x'/>",
                "<a p='H:\\My $ O&apos;Brien &amp; Söhne #1, x;y\\Herb\\x'/>",
            ),
            (
                "<?xml version=\"1.0\"?><a><![CDATA[D:\\Herbarium\\x]]></a>",
                "<?xml version=\"1.0\"?><a><![CDATA[H:\\My $ O'Brien & Söhne #1, x;y\\Herb\\x]]></a>",
            ),
            (
                "<a p=\"&#68;:\\Herbarium\\Gr&#252;n\"/>",
                "<a p=\"H:\\My $ O'Brien &amp; S&#246;hne #1, x;y\\Herb\\Gr&#252;n\"/>",
            ),
            (
                "<a>file:///D:/Herbarium/x%20y</a>",
                "<a>file:///H:/My%20$%20O'Brien%20&amp;%20S%C3%B6hne%20%231,%20x;y/Herb/x%20y</a>",
            ),
        ],
    );
    check(
        "a.html",
        HERBARIUM[0],
        &[
            (
                "<html><a href=\"file:///D:/Herbarium/x\" title='D:\\Herbarium\\y'>see D:\\Herbarium now</a><img src=D:/Herbarium/a.png></html>",
                "<html><a href=\"file:///H:/Collections/Herbarium/x\" title='H:\\Collections\\Herbarium\\y'>see D:\\Herbarium now</a><img src=H:/Collections/Herbarium/a.png></html>",
            ),
            (
                "<html><img srcset=\"file:///D:/Herbarium/a.png 1x, file:///D:/Herbarium/b.png 2x\" style=\"background: url('D:/Herbarium/c.png')\"></html>",
                "<html><img srcset=\"file:///H:/Collections/Herbarium/a.png 1x, file:///H:/Collections/Herbarium/b.png 2x\" style=\"background: url('H:/Collections/Herbarium/c.png')\"></html>",
            ),
            (
                "<html><script>root = 'D:\\\\Herbarium\\\\x';</script></html>",
                "<html><script>root = 'H:\\\\Collections\\\\Herbarium\\\\x';</script></html>",
            ),
        ],
    );
    check(
        "a.plist",
        "/srv/herb=/srv/my & herb",
        &[(
            "<?xml version=\"1.0\"?><!DOCTYPE plist><plist><dict><key>launchArguments</key><string>--data=/srv/herb/x -v</string></dict></plist>",
            "<?xml version=\"1.0\"?><!DOCTYPE plist><plist><dict><key>launchArguments</key><string>--data=\"/srv/my &amp; herb/x\" -v</string></dict></plist>",
        )],
    );
}

#[test]
fn markup_in_the_encoding_that_it_declares() {
    let text = "<?xml version=\"1.0\" encoding=\"ISO-8859-2\"?><a>D:\\Herbarium\\\u{159}</a>";
    let bytes = Encoding::for_label("iso-8859-2")
        .unwrap()
        .encode(text)
        .unwrap();
    let new = rewritten(&bytes, "a.xml", &sheet(&["D:\\Herbarium=H:\\\u{10d}"]));
    let expected = "<?xml version=\"1.0\" encoding=\"ISO-8859-2\"?><a>H:\\\u{10d}\\\u{159}</a>";
    assert_eq!(
        new,
        Encoding::for_label("iso-8859-2")
            .unwrap()
            .encode(expected)
            .unwrap()
    );
    let wide = Encoding::Utf16Le
        .encode("\u{feff}<?xml version=\"1.0\" encoding=\"UTF-16\"?><a>D:\\Herbarium</a>")
        .unwrap();
    let new = rewritten(&wide, "a.xml", &sheet(HERBARIUM));
    let expected =
        "\u{feff}<?xml version=\"1.0\" encoding=\"UTF-16\"?><a>H:\\Collections\\Herbarium</a>";
    assert_eq!(new, Encoding::Utf16Le.encode(expected).unwrap());
}

#[test]
fn configuration_languages() {
    check(
        "a.toml",
        AWKWARD,
        &[
            (
                "a = \"D:\\\\Herbarium\\\\x\" # D:\\Herbarium\\n\nb = 'D:\\Herbarium\\y'\n",
                "a = \"H:\\\\My $ O'Brien & Söhne #1, x;y\\\\Herb\\\\x\" # H:\\My $ O'Brien & Söhne #1, x;y\\Herb\\n\nb = 'D:\\Herbarium\\y'\n",
            ),
            (
                "\"D:\\\\Herbarium\" = 1\n",
                "\"H:\\\\My $ O'Brien & Söhne #1, x;y\\\\Herb\" = 1\n",
            ),
            (
                "a = \"\"\"\nD:\\\\Herbarium\\\\x\"\"\"\n",
                "a = \"\"\"\nH:\\\\My $ O'Brien & Söhne #1, x;y\\\\Herb\\\\x\"\"\"\n",
            ),
        ],
    );
    check(
        "a.yaml",
        HERBARIUM[0],
        &[
            (
                "r: D:\\Herbarium\\x y # D:\\Herbarium\\n\n",
                "r: H:\\Collections\\Herbarium\\x y # H:\\Collections\\Herbarium\\n\n",
            ),
            (
                "r: \"D:\\\\Herbarium\\\\x\"\ns: 'D:\\Herbarium'\n",
                "r: \"H:\\\\Collections\\\\Herbarium\\\\x\"\ns: 'H:\\Collections\\Herbarium'\n",
            ),
            (
                "- &a D:/Herbarium/x\n- [D:/Herbarium/y, *a]\n",
                "- &a H:/Collections/Herbarium/x\n- [H:/Collections/Herbarium/y, *a]\n",
            ),
            (
                "t: |\n  cd D:\\Herbarium\\x\n  D:\\Herbarium\n",
                "t: |\n  cd H:\\Collections\\Herbarium\\x\n  H:\\Collections\\Herbarium\n",
            ),
            (
                "\"D:\\\\Herbarium\": 1\n",
                "\"H:\\\\Collections\\\\Herbarium\": 1\n",
            ),
        ],
    );
    // A plain scalar cannot hold ` #`, and in brackets no comma.
    check(
        "a.yaml",
        AWKWARD,
        &[
            ("r: D:\\Herbarium\\x\n", "r: D:\\Herbarium\\x\n"),
            (
                "r: 'D:\\Herbarium\\x'\n",
                "r: 'H:\\My $ O''Brien & Söhne #1, x;y\\Herb\\x'\n",
            ),
        ],
    );
    check(
        "a.yaml",
        r"D:\Herbarium=H:\a, b",
        &[
            ("r: [D:\\Herbarium\\x]\n", "r: [D:\\Herbarium\\x]\n"),
            ("r: D:\\Herbarium\\x\n", "r: H:\\a, b\\x\n"),
        ],
    );
}

#[test]
fn sources() {
    check(
        "a.js",
        AWKWARD,
        &[
            (
                "r = 'D:\\\\Herbarium\\\\x'; s = \"D:/Herbarium\"; // D:\\Herbarium\\n\n",
                "r = 'H:\\\\My $ O\\'Brien & Söhne #1, x;y\\\\Herb\\\\x'; s = \"H:/My $ O'Brien & Söhne #1, x;y/Herb\"; // H:\\My $ O'Brien & Söhne #1, x;y\\Herb\\n\n",
            ),
            (
                "r = `D:\\\\Herbarium\\\\${name}`;\n",
                "r = `H:\\\\My \\$ O'Brien & Söhne #1, x;y\\\\Herb\\\\${name}`;\n",
            ),
        ],
    );
    check(
        "a.lua",
        HERBARIUM[0],
        &[(
            "r = \"D:\\\\Herbarium\\\\x\" s = [[D:\\Herbarium\\y]] -- D:\\Herbarium\\n\n",
            "r = \"H:\\\\Collections\\\\Herbarium\\\\x\" s = [[H:\\Collections\\Herbarium\\y]] -- H:\\Collections\\Herbarium\\n\n",
        )],
    );
    check(
        "a.py",
        HERBARIUM[0],
        &[(
            "R = r'D:\\Herbarium\\x'\nS = 'D:\\\\Herbarium\\\\y'\nT = '''D:/Herbarium'''\n",
            "R = r'H:\\Collections\\Herbarium\\x'\nS = 'H:\\\\Collections\\\\Herbarium\\\\y'\nT = '''H:/Collections/Herbarium'''\n",
        )],
    );
    check(
        "a.py",
        AWKWARD,
        &[("R = r'D:\\Herbarium\\x'\n", "R = r'D:\\Herbarium\\x'\n")],
    );
    check(
        "a.cs",
        HERBARIUM[0],
        &[(
            "var r = @\"D:\\Herbarium\\x\"; var s = \"D:\\\\Herbarium\";",
            "var r = @\"H:\\Collections\\Herbarium\\x\"; var s = \"H:\\\\Collections\\\\Herbarium\";",
        )],
    );
    check(
        "a.c",
        HERBARIUM[0],
        &[(
            "#include <D:/Herbarium/x.h>\n",
            "#include <H:/Collections/Herbarium/x.h>\n",
        )],
    );
    check(
        "a.php",
        AWKWARD,
        &[(
            "<?php $r = 'D:\\Herbarium\\x'; $s = \"D:\\\\Herbarium\\\\y\";",
            "<?php $r = 'H:\\My $ O\\'Brien & Söhne #1, x;y\\Herb\\x'; $s = \"H:\\\\My \\$ O'Brien & Söhne #1, x;y\\\\Herb\\\\y\";",
        )],
    );
    check(
        "a.el",
        HERBARIUM[0],
        &[(
            "(setq r \"D:\\\\Herbarium\\\\x\" s \"d:/herbarium/\")\n",
            "(setq r \"H:\\\\Collections\\\\Herbarium\\\\x\" s \"h:/Collections/Herbarium/\")\n",
        )],
    );
    check(
        "a.sql",
        AWKWARD,
        &[
            (
                "insert into s values('D:\\Herbarium\\x','it''s');\n",
                "insert into s values('H:\\My $ O''Brien & Söhne #1, x;y\\Herb\\x','it''s');\n",
            ),
            (
                "insert into s values('D:\\\\Herbarium\\\\x','it\\'s') ENGINE=x;\n",
                "insert into s values('H:\\\\My $ O\\'Brien & Söhne #1, x;y\\\\Herb\\\\x','it\\'s') ENGINE=x;\n",
            ),
        ],
    );
}

#[test]
fn shells() {
    check(
        "a.sh",
        AWKWARD_POSIX,
        &[
            (
                "cd /srv/herb/x\n",
                "cd /srv/my\\ o\\'herb\\ \\&\\ co\\ \\$x\\ \\#1/x\n",
            ),
            (
                "R=\"/srv/herb/x\"; S='/srv/herb/y'\n",
                "R=\"/srv/my o'herb & co \\$x #1/x\"; S='/srv/my o'\\''herb & co $x #1/y'\n",
            ),
        ],
    );
    check(
        "a.sh",
        "/srv/herb=/srv/my herb",
        &[
            (
                "R=/srv/herb/x; cp --to=/srv/herb/y /srv/herb \"$HOME\"/z\n",
                "R='/srv/my herb/x'; cp --to='/srv/my herb/y' '/srv/my herb' \"$HOME\"/z\n",
            ),
            (
                "ls /srv/herb/$year /srv/herb/*.tif\n",
                "ls /srv/my\\ herb/$year /srv/my\\ herb/*.tif\n",
            ),
            (
                "cd /a\\ b; ls /srv/herb/x\n",
                "cd /a\\ b; ls /srv/my\\ herb/x\n",
            ),
            (
                "ls \"/srv\"/herb/x '/srv/herb'\"/y\"\n",
                "ls \"/srv/my herb\"/x '/srv/my herb'\"/y\"\n",
            ),
        ],
    );
    check(
        "a.sh",
        r"D:\Herbarium=/srv/herb",
        &[(
            "view D:\\\\Herbarium\\\\x \"D:\\Herbarium\\y\"\n",
            "view /srv/herb/x \"/srv/herb/y\"\n",
        )],
    );
    check(
        "a.bat",
        r"D:\Herbarium=H:\My Herb",
        &[
            (
                "@echo off\r\nset ROOT=D:\\Herbarium\\x\r\ncopy D:\\Herbarium\\a.txt \"D:\\Herbarium\\b c\"\r\n",
                "@echo off\r\nset ROOT=H:\\My Herb\\x\r\ncopy \"H:\\My Herb\\a.txt\" \"H:\\My Herb\\b c\"\r\n",
            ),
            (
                "rem see D:\\Herbarium\\x\r\n\"D:\\Herbarium\\v.exe\" /D:D:\\Herbarium\\z -I D:\\Herbarium\\i\r\n",
                "rem see H:\\My Herb\\x\r\n\"H:\\My Herb\\v.exe\" /D:\"H:\\My Herb\\z\" -I \"H:\\My Herb\\i\"\r\n",
            ),
            (
                "start D:\\Herbarium\\v.exe\r\n",
                "start D:\\Herbarium\\v.exe\r\n",
            ),
        ],
    );
    check(
        "a.bat",
        r"D:\Herbarium=H:\A & 50% B",
        &[
            (
                "copy D:\\Herbarium\\a x\r\n",
                "copy \"H:\\A & 50%% B\\a\" x\r\n",
            ),
            (
                "set A=D:\\Herbarium\\a\r\nset \"B=D:\\Herbarium\\b\"\r\n",
                // What is in a variable is read again where it is used.
                "set A=D:\\Herbarium\\a\r\nset \"B=D:\\Herbarium\\b\"\r\n",
            ),
        ],
    );
    check(
        "a.ps1",
        r"D:\Herbarium=H:\My $ Herb",
        &[(
            "$r = \"D:\\Herbarium\\x\"; $s = 'D:\\Herbarium\\y' # D:\\Herbarium\\n\n",
            "$r = \"H:\\My `$ Herb\\x\"; $s = 'H:\\My $ Herb\\y' # H:\\My $ Herb\\n\n",
        )],
    );
    check(
        "a.ps1",
        r"D:\Herbarium=H:\My Herb",
        &[
            (
                "Copy-Item D:\\Herbarium\\a -Destination D:\\Herbarium\\b\n",
                "Copy-Item H:\\My` Herb\\a -Destination H:\\My` Herb\\b\n",
            ),
            ("D:\\Herbarium\\v.exe -x\n", "H:\\My` Herb\\v.exe -x\n"),
        ],
    );
}

#[test]
fn lists_of_settings() {
    check(
        "a.conf",
        r"D:\Herbarium=H:\My, Herb",
        &[(
            "[a]\nr=D:\\\\Herbarium\\\\x\nl=a, D:\\\\Herbarium, \"D:\\\\Herbarium\\\\b, c\"\n\
             b=@ByteArray(D:\\\\Herbarium\\\\x)\n",
            "[a]\nr=\"H:\\\\My, Herb\\\\x\"\nl=a, \"H:\\\\My, Herb\", \"H:\\\\My, Herb\\\\b, c\"\n\
             b=\"@ByteArray(H:\\\\My, Herb\\\\x)\"\n",
        )],
    );
}

#[test]
fn links_in_pages_and_texts() {
    let one = "D:\\Herbarium=H:\\My K\u{e4}se";
    check(
        "a.html",
        one,
        &[
            (
                "<html><a href=D:/Herbarium/x>y</a><a href=\"D:/Herbarium/z\">\n",
                "<html><a href=H:/My&#32;K\u{e4}se/x>y</a><a href=\"H:/My K\u{e4}se/z\">\n",
            ),
            (
                "<html><a href=\"D:/Herbarium/a%20b\"><img src=\"/D:/Herbarium/c\"></html>\n",
                "<html><a href=\"H:/My%20K\u{e4}se/a%20b\"><img src=\"/H:/My%20K\u{e4}se/c\"></html>\n",
            ),
            (
                "<html><img srcset=\"D:/Herbarium/x 1x, D:/Herbarium/y 2x\"><b style=\"c:url(D:/Herbarium/z)\">\n",
                "<html><img srcset=\"H:/My%20K\u{e4}se/x 1x, H:/My%20K\u{e4}se/y 2x\"><b style=\"c:url(H:/My%20K\u{e4}se/z)\">\n",
            ),
            (
                "<html><style>a{b:url('D:/Herbarium/z')}/* D:\\Herbarium\\x */</style>\n",
                "<html><style>a{b:url('H:/My K\u{e4}se/z')}/* H:\\My K\u{e4}se\\x */</style>\n",
            ),
            (
                "<html><img src='D:/Herbarium/%C3%A4%20b'>\n",
                "<html><img src='H:/My%20K%C3%A4se/%C3%A4%20b'>\n",
            ),
        ],
    );
    check(
        "a.md",
        one,
        &[(
            "[a](D:/Herbarium/x) ![b](D:/Herbarium/a%20b) [c](<D:/Herbarium/y>) `D:\\Herbarium`\n",
            "[a](H:/My%20K\u{e4}se/x) ![b](H:/My%20K\u{e4}se/a%20b) [c](<H:/My K\u{e4}se/y>) `H:\\My K\u{e4}se`\n",
        )],
    );
}

#[test]
fn commands_in_settings() {
    let one = "/srv/herb=/srv/my herb";
    check(
        "a.service",
        one,
        &[(
            "[Service]\nExecStart=-/srv/herb/v --data=/srv/herb/x \"/srv/herb/y z\" -v\n\
             Environment=\"A=/srv/herb/x\" B=/srv/herb/y\nWorkingDirectory=/srv/herb\n",
            "[Service]\nExecStart=-\"/srv/my herb/v\" \"--data=/srv/my herb/x\" \"/srv/my herb/y z\" -v\n\
             Environment=\"A=/srv/my herb/x\" \"B=/srv/my herb/y\"\nWorkingDirectory=/srv/my herb\n",
        )],
    );
    check(
        "a.desktop",
        one,
        &[(
            "[Desktop Entry]\nExec=/srv/herb/v %F\nTryExec=/srv/herb/v\n",
            "[Desktop Entry]\nExec=\"/srv/my herb/v\" %F\nTryExec=/srv/my herb/v\n",
        )],
    );
    check(
        "makefile",
        one,
        &[(
            "P := /srv/herb\nall:\n\tcp /srv/herb/a \"/srv/herb/b c\" $(P)/d\n",
            "P := /srv/herb\nall:\n\tcp '/srv/my herb/a' \"/srv/my herb/b c\" $(P)/d\n",
        )],
    );
    check(
        "a.ps1",
        r"D:\Herbarium=H:\My Herb",
        &[(
            "& v.exe -Data:D:\\Herbarium\\x --data=D:\\Herbarium\\y\n",
            "& v.exe -Data:H:\\My` Herb\\x --data=H:\\My` Herb\\y\n",
        )],
    );
    check(
        "a.sh",
        one,
        &[(
            "v -I/srv/herb/i '--data=/srv/herb/x' ; sh -c 'w --data=/srv/herb/x'\n",
            "v -I'/srv/my herb/i' '--data=/srv/my herb/x' ; sh -c 'w --data='\\''/srv/my herb/x'\\'''\n",
        )],
    );
}

#[test]
fn tables() {
    check(
        "a.csv",
        r"D:\Herbarium=H:\My, Herb",
        &[(
            "id,path\r\n1,D:\\Herbarium\\x\r\n2,\"D:\\Herbarium\\a, b\"\r\n",
            "id,path\r\n1,\"H:\\My, Herb\\x\"\r\n2,\"H:\\My, Herb\\a, b\"\r\n",
        )],
    );
    check(
        "a.csv",
        HERBARIUM[0],
        &[(
            "a;b\nD:\\Herbarium;D:\\Herbarium Old\n",
            "a;b\nH:\\Collections\\Herbarium;D:\\Herbarium Old\n",
        )],
    );
    check(
        "a.tsv",
        HERBARIUM[0],
        &[(
            "a\tb\nD:\\Herbarium\tx\n",
            "a\tb\nH:\\Collections\\Herbarium\tx\n",
        )],
    );
}

#[test]
fn documents() {
    check(
        "a.rtf",
        "D:\\Herbarium=H:\\{K\u{e4}se}",
        &[
            (
                r"{\rtf1\ansi\ansicpg1252 see D:\\Herbarium\\Gr\'fcn.tif\par}",
                r"{\rtf1\ansi\ansicpg1252 see H:\\\{K\'e4se\}\\Gr\'fcn.tif\par}",
            ),
            (
                r"{\rtf1\ansi\uc1 D:\\Herbarium\\Gr\u252?n.tif\par}",
                r"{\rtf1\ansi\uc1 H:\\\{K\u228\'e4se\}\\Gr\u252?n.tif\par}",
            ),
        ],
    );
    check(
        "a.md",
        HERBARIUM[0],
        &[
            (
                "Keep `D:\\Herbarium` and [map](D:/Herbarium/m.map) and D:\\Herbarium too.\n",
                "Keep `H:\\Collections\\Herbarium` and [map](H:/Collections/Herbarium/m.map) and D:\\Herbarium too.\n",
            ),
            (
                "<file:///D:/Herbarium/x>\n",
                "<file:///H:/Collections/Herbarium/x>\n",
            ),
        ],
    );
    check(
        "a.rst",
        HERBARIUM[0],
        &[(
            ".. image:: D:\\Herbarium\\a.png\n",
            ".. image:: H:\\Collections\\Herbarium\\a.png\n",
        )],
    );
}

#[test]
fn launch_options_in_nested_keys_and_values() {
    check(
        "options.txt",
        r"D:\Herbarium=H:\My Herb",
        &[
            (
                "\"viewer\"\n{\n\t\"launch\"\t\"--data=\\\"D:\\\\Herbarium\\\\x\\\" -v\"\n\t\"path\"\t\"D:\\\\Herbarium\"\n}\n",
                "\"viewer\"\n{\n\t\"launch\"\t\"--data=\\\"H:\\\\My Herb\\\\x\\\" -v\"\n\t\"path\"\t\"H:\\\\My Herb\"\n}\n",
            ),
            (
                "\"viewer\"\n{\n\t\"launch\"\t\"--data=D:\\\\Herbarium\\\\x -I D:\\\\Herbarium -v\"\n}\n",
                "\"viewer\"\n{\n\t\"launch\"\t\"--data=\\\"H:\\\\My Herb\\\\x\\\" -I \\\"H:\\\\My Herb\\\" -v\"\n}\n",
            ),
        ],
    );
}

#[test]
fn layers_combine() {
    check(
        "a.json",
        r"D:\Herbarium=H:\My Herb",
        &[
            (
                r#"{"j": "{\"args\": \"--data=D:\\\\Herbarium\\\\x -v\"}"}"#,
                r#"{"j": "{\"args\": \"--data=\\\"H:\\\\My Herb\\\\x\\\" -v\"}"}"#,
            ),
            (
                r#"{"x": "<a p=\"D:\\Herbarium\\x\">file:///D:/Herbarium/y</a>"}"#,
                r#"{"x": "<a p=\"H:\\My Herb\\x\">file:///H:/My%20Herb/y</a>"}"#,
            ),
            (
                r#"{"s": "a:1:{i:0;s:14:\"D:\\Herbarium\\x\";}"}"#,
                r#"{"s": "a:1:{i:0;s:12:\"H:\\My Herb\\x\";}"}"#,
            ),
            (
                r#"{"j": "{\"k\": \"{\\\"r\\\": \\\"D:\\\\\\\\Herbarium\\\\\\\\x\\\"}\"}"}"#,
                r#"{"j": "{\"k\": \"{\\\"r\\\": \\\"H:\\\\\\\\My Herb\\\\\\\\x\\\"}\"}"}"#,
            ),
        ],
    );
    check(
        "a.sql",
        HERBARIUM[0],
        &[(
            "insert into o values('s:14:\"D:\\Herbarium\\x\";');\n",
            "insert into o values('s:26:\"H:\\Collections\\Herbarium\\x\";');\n",
        )],
    );
    check(
        "a.xml",
        HERBARIUM[0],
        &[(
            "<a j='{\"r\": \"D:\\\\Herbarium\\\\x\"}'/>",
            "<a j='{\"r\": \"H:\\\\Collections\\\\Herbarium\\\\x\"}'/>",
        )],
    );
}

#[test]
fn counted_and_signed_text_is_sealed_where_it_cannot_be_kept_right() {
    let cases = [
        ("a.txt", "s:99:\"D:\\Herbarium\\x\";"),
        (
            "a.txt",
            "-----BEGIN PGP SIGNED MESSAGE-----\n\nD:\\Herbarium\\x\n",
        ),
        ("a.log", "s:11:\\\"D:\\Herbarium\\x\\\";"),
        ("a.dump", "K 4\nroot\nV 14\nD:\\Herbarium\\x\nEND\n"),
        (
            "a.ps1",
            "$r = 'D:\\Herbarium\\x'\n# SIG # Begin signature block\n# x\n",
        ),
        (
            "a.vbs",
            "r = \"D:\\Herbarium\\x\"\r\n'' SIG '' Begin signature block\r\n",
        ),
        (
            "a.rdp",
            "drivestoredirect:s:D:\\Herbarium\\x\r\nsignscope:s:a\r\nsignature:s:AQ\r\n",
        ),
        (
            "Settings",
            "{\"folder\": \"D:\\\\Herbarium\\\\x\", \"protection\": {\"super_mac\": \"0F\"}}",
        ),
        (
            "a.xml",
            "<a xmlns:d=\"http://www.w3.org/2000/09/xmldsig#\">D:\\Herbarium\\x</a>",
        ),
    ];
    for (name, text) in cases {
        let plan = planned(text.as_bytes(), name, &sheet(HERBARIUM));
        assert!(plan.new.is_none(), "{text}");
        assert_eq!(first(&plan).standing, Standing::Sealed, "{text}");
    }
}

#[test]
fn documents_that_break_the_grammar_are_read_as_text() {
    let text = "<?xml version=\"1.0\"?><a><b>D:\\Herbarium\\x</a>";
    let document = Document::open(text.as_bytes(), "a.xml", Reading::default()).unwrap();
    assert_eq!(
        (document.format.name(), document.broke),
        ("unknown-text", Some("xml"))
    );
    assert_eq!(
        rewritten_text(text, "a.xml", HERBARIUM),
        "<?xml version=\"1.0\"?><a><b>H:\\Collections\\Herbarium\\x</a>"
    );
    // How this syntax would write the sign is not to be known.
    let plan = planned(text.as_bytes(), "a.xml", &sheet(&[r"D:\Herbarium=H:\R&D"]));
    assert_eq!(first(&plan).standing, Standing::Doubtful);
}

#[test]
fn formats_are_told_by_content_and_by_name() {
    let cases = [
        ("x", "xml", "<?xml version=\"1.0\"?><a/>"),
        ("x", "html", "<!DOCTYPE html><p>"),
        ("x", "rtf", "{\\rtf1 x}"),
        ("x", "desktop-entry", "[Desktop Entry]\nExec=x\n"),
        ("x", "service-unit", "[Unit]\nDescription=x\n[Service]\n"),
        ("x", "playlist", "#EXTM3U\nx\n"),
        ("x", "shell-script", "#!/bin/sh\necho\n"),
        ("x", "python", "#!/usr/bin/env python3\nx = 1\n"),
        ("x", "ini", "[a]\nb=c\n"),
        ("x", "quoted-key-values", "\"a\"\n{\n\"b\" \"c\"\n}\n"),
        ("x", "batch-file", "@echo off\r\n"),
        ("x.toml", "toml", "a = 1\n"),
        ("x.yml", "yaml", "a: 1\n"),
        ("x.csv", "csv", "a,b\n"),
        ("x.properties", "properties", "a=b\n"),
        ("Makefile", "build-file", "A = b\n"),
        (".env", "dotenv", "A=b\n"),
        ("x.md", "markdown", "# a\n"),
        ("notes.txt", "plain-text", "a\n"),
    ];
    for (name, format, text) in cases {
        check_names(name, format, text);
    }
}
