//! The law's clauses, a table each.

use super::*;

#[test]
fn plain_text() {
    let cases = [
        (
            "root=D:\\Herbarium\\2019\r\n",
            "root=H:\\Collections\\Herbarium\\2019\r\n",
        ),
        (r"root=D:\Herbarium2\2019", r"root=D:\Herbarium2\2019"),
        ("d:/herbarium/x", "h:/Collections/Herbarium/x"),
        (r"a=D:\\Herbarium\\x", r"a=H:\\Collections\\Herbarium\\x"),
        (
            r"a=D:\\\\Herbarium\\\\x",
            r"a=H:\\\\Collections\\\\Herbarium\\\\x",
        ),
        (r"\\?\D:\Herbarium\x", r"\\?\H:\Collections\Herbarium\x"),
        (r"\\mossbank\press\x", r"\\fernhall\press\x"),
        (r"\\\\mossbank\\press\\x", r"\\\\fernhall\\press\\x"),
        ("//MOSSBANK/Press/x", "//fernhall/press/x"),
        (r"\\?\UNC\mossbank\press\x", r"\\?\UNC\fernhall\press\x"),
        (r"see D:\Herbarium now", r"see D:\Herbarium now"),
        (
            r"see 'D:\Herbarium' now",
            r"see 'H:\Collections\Herbarium' now",
        ),
        (
            r"http://d:/herbarium abcD:\Herbarium",
            r"http://d:/herbarium abcD:\Herbarium",
        ),
        (r"D:\x\..\Herbarium\y", r"H:\Collections\Herbarium\y"),
    ];
    for (before, after) in cases {
        assert_eq!(
            rewritten_text(before, "notes.txt", HERBARIUM),
            after,
            "{before}"
        );
    }
}

#[test]
fn json() {
    let cases = [
        (
            r#"{"r": "D:\\Herbarium\\x"}"#,
            r#"{"r": "H:\\Collections\\Herbarium\\x"}"#,
        ),
        (
            r#"{"r": "D:\/Herbarium\/x"}"#,
            r#"{"r": "H:\/Collections\/Herbarium\/x"}"#,
        ),
        (
            r#"{"D:\\Herbarium": 1}"#,
            r#"{"H:\\Collections\\Herbarium": 1}"#,
        ),
        (
            r#"{"r": "D:\\Herbarium Old"}"#,
            r#"{"r": "D:\\Herbarium Old"}"#,
        ),
        (r#"{"r": "D:\Herbarium\x"}"#, r#"{"r": "D:\Herbarium\x"}"#),
        (
            r#"{"p": "D:\\Herbarium;E:\\x;D:\\Herbarium\\y"}"#,
            r#"{"p": "H:\\Collections\\Herbarium;E:\\x;H:\\Collections\\Herbarium\\y"}"#,
        ),
        (
            "// D:\\Herbarium\\x\n{}",
            "// H:\\Collections\\Herbarium\\x\n{}",
        ),
        (
            r#"{"j": "{\"r\": \"D:\\\\Herbarium\\\\x\"}"}"#,
            r#"{"j": "{\"r\": \"H:\\\\Collections\\\\Herbarium\\\\x\"}"}"#,
        ),
    ];
    for (before, after) in cases {
        assert_eq!(
            rewritten_text(before, "a.json", HERBARIUM),
            after,
            "{before}"
        );
    }
}

#[test]
fn uris() {
    let spaced: &[&str] = &[
        r"D:\Herbarium=H:\My Col#1\Herbarium",
        r"\\mossbank\press=\\fernhall\press",
    ];
    let cases: [(&[&str], &str, &str); 16] = [
        (
            spaced,
            "see file:///D:/Herbarium/a%20b.tif.",
            "see file:///H:/My%20Col%231/Herbarium/a%20b.tif.",
        ),
        (
            spaced,
            "file:///d%3A/herbarium/x",
            "file:///h%3A/My%20Col%231/Herbarium/x",
        ),
        (
            spaced,
            "file:/D:/Herbarium/x",
            "file:/H:/My%20Col%231/Herbarium/x",
        ),
        (
            spaced,
            "file://localhost/D:/Herbarium",
            "file://localhost/H:/My%20Col%231/Herbarium",
        ),
        (
            spaced,
            "file:///D|/Herbarium/x",
            "file:///H|/My%20Col%231/Herbarium/x",
        ),
        (
            spaced,
            r"file:///D:\Herbarium\x",
            r"file:///H:\My%20Col%231\Herbarium\x",
        ),
        (spaced, "file://mossbank/press/x", "file://fernhall/press/x"),
        (
            spaced,
            "file:////MOSSBANK/press/x",
            "file:////fernhall/press/x",
        ),
        (
            spaced,
            "http://h/?open=D%3A%5CHerbarium%5Cx&y",
            "http://h/?open=H%3A%5CMy%20Col%231%5CHerbarium%5Cx&y",
        ),
        (
            spaced,
            "file:///D:/Herbarium%20Old/x",
            "file:///D:/Herbarium%20Old/x",
        ),
        (
            spaced,
            "profile:///D:/Herbarium http://d:/Herbarium",
            "profile:///D:/Herbarium http://d:/Herbarium",
        ),
        (
            spaced,
            "file:///D:/Herbarium/a+b?x=1#D:/y",
            "file:///H:/My%20Col%231/Herbarium/a+b?x=1#D:/y",
        ),
        (
            &[r"D:\Herbarium=\\fernhall\press"],
            "file:///D:/Herbarium/x",
            "file://fernhall/press/x",
        ),
        (
            &[r"D:\Herbarium=/srv/herb"],
            "file:///D:/Herbarium/x",
            "file:///srv/herb/x",
        ),
        (
            &[r"/srv/herb=D:\Herbarium"],
            "file:///srv/herb/x",
            "file:///D:/Herbarium/x",
        ),
        (
            &[r"\\mossbank\press=P:\"],
            "file://mossbank/press/x",
            "file:///P:/x",
        ),
    ];
    for (moves, before, after) in cases {
        assert_eq!(
            rewritten_text(before, "notes.txt", moves),
            after,
            "{before}"
        );
        let quote = |text: &str| serde_json::to_string(&[text]).unwrap();
        assert_eq!(
            rewritten_text(&quote(before), "a.json", moves),
            quote(after),
            "{before}"
        );
    }
}

#[test]
fn command_lines_gain_quotes_and_values_do_not() {
    let moves: &[&str] = &[r"D:\Herbarium=H:\My Collections\Herbarium"];
    let cases = [
        (
            r#"{"launch": "--data=D:\\Herbarium -v"}"#,
            r#"{"launch": "--data=\"H:\\My Collections\\Herbarium\" -v"}"#,
        ),
        (
            r#"{"x": "-d D:\\Herbarium\\ -v"}"#,
            r#"{"x": "-d \"H:\\My Collections\\Herbarium\\\\\" -v"}"#,
        ),
        (
            r#"{"x": "--data=\"D:\\Herbarium\" -v"}"#,
            r#"{"x": "--data=\"H:\\My Collections\\Herbarium\" -v"}"#,
        ),
        (
            r#"{"root": "D:\\Herbarium\\x"}"#,
            r#"{"root": "H:\\My Collections\\Herbarium\\x"}"#,
        ),
        (
            r#"{"args": ["D:\\Herbarium"]}"#,
            r#"{"args": ["H:\\My Collections\\Herbarium"]}"#,
        ),
        (
            r#"{"exec": "D:\\Herbarium\\view.exe"}"#,
            r#"{"exec": "H:\\My Collections\\Herbarium\\view.exe"}"#,
        ),
        (
            r#"{"r": "C:\\v.exe D:\\Herbarium\\a b"}"#,
            r#"{"r": "C:\\v.exe \"H:\\My Collections\\Herbarium\\a\" b"}"#,
        ),
    ];
    for (before, after) in cases {
        assert_eq!(rewritten_text(before, "a.json", moves), after, "{before}");
    }
}

#[test]
fn families_cross_and_roots_keep_their_separator() {
    let cases: [(&[&str], &str, &str); 10] = [
        (
            &[r"D:\Herbarium=/srv/herbarium"],
            r"a=D:\Herbarium\x\y.tif",
            "a=/srv/herbarium/x/y.tif",
        ),
        (
            &[r"/srv/herbarium=D:\Herbarium"],
            "a=/srv/herbarium/x/y.tif",
            r"a=D:\Herbarium\x\y.tif",
        ),
        (
            &[r"D:\Herbarium=\\fernhall\press"],
            "a=d:/herbarium/x",
            "a=//fernhall/press/x",
        ),
        (
            &[r"\\mossbank\press=P:\"],
            r"a=\\mossbank\press\x",
            r"a=P:\x",
        ),
        (&[r"\\mossbank\press=P:\"], r"a=\\mossbank\press", r"a=P:\"),
        (&[r"D:\Herbarium=H:\"], r"a='D:\Herbarium'", r"a='H:\'"),
        (&[r"D:\=H:\Data"], r"a=D:\x", r"a=H:\Data\x"),
        (&[r"D:\=H:\Data"], r"a=D:\", r"a=H:\Data\"),
        (&["/=/data"], "a=/srv/x", "a=/data/srv/x"),
        (&["/srv/herbarium=/"], "a=/srv/herbarium", "a=/"),
    ];
    for (moves, before, after) in cases {
        assert_eq!(
            rewritten_text(before, "a.txt", moves),
            after,
            "{moves:?} {before}"
        );
    }
}

#[test]
fn swaps_and_moves_into_themselves() {
    let swap: &[&str] = &[r"D:\=E:\", r"E:\=D:\"];
    assert_eq!(
        rewritten_text("a=D:\\x\nb=E:\\y\n", "a.txt", swap),
        "a=E:\\x\nb=D:\\y\n"
    );
    assert_eq!(
        rewritten_text(r#"["D:", "e:"]"#, "a.json", swap),
        r#"["E:", "d:"]"#
    );
    let inner: &[&str] = &[r"D:\Herbarium=D:\Herbarium\2026"];
    assert_eq!(
        rewritten_text(r"a=D:\Herbarium\x", "a.txt", inner),
        r"a=D:\Herbarium\2026\x"
    );
}

#[test]
fn letters_outside_ascii_are_written_as_the_file_writes_them() {
    let moves: &[&str] = &["D:\\Gr\u{fc}n=H:\\K\u{e4}fer"];
    let cases: [(&[u8], &str, &[u8]); 6] = [
        (b"a=D:\\Gr\xfcn\\x", "a.txt", b"a=H:\\K\xe4fer\\x"),
        (
            "a=D:\\Gr\u{fc}n\\x".as_bytes(),
            "a.txt",
            "a=H:\\K\u{e4}fer\\x".as_bytes(),
        ),
        (
            "a=D:\\Gru\u{308}n\\x".as_bytes(),
            "a.txt",
            "a=H:\\K\u{e4}fer\\x".as_bytes(),
        ),
        (
            br#"["D:\\Gr\u00FCn\\x"]"#,
            "a.json",
            br#"["H:\\K\u00E4fer\\x"]"#,
        ),
        (
            br#"["D:\\gr\u00dcn", "\u00e9"]"#,
            "a.json",
            br#"["H:\\K\u00e4fer", "\u00e9"]"#,
        ),
        (
            b"REGEDIT4\r\n[a]\r\n\"x\"=\"D:\\\\Gr\xfcn\"\r\n",
            "a.reg",
            b"REGEDIT4\r\n[a]\r\n\"x\"=\"H:\\\\K\xe4fer\"\r\n",
        ),
    ];
    for (before, name, after) in cases {
        assert_eq!(
            rewritten(before, name, &sheet(moves)),
            after,
            "{}",
            String::from_utf8_lossy(before)
        );
    }
}

#[test]
fn what_cannot_be_written_is_left_and_named() {
    let cases: [(&[u8], &str, &[&str], Standing, &str); 8] = [
        (
            b"a=D:\\Herbarium\\\xfc\xf6\xe4 Gr\xfc\xdfe, \xc4pfel, \xd6l, \xdcbung, gr\xfcn, sch\xf6n, K\xe4se, \
              B\xe4ume, Gr\xf6\xdfe, M\xfchle, T\xfcr, L\xf6we, B\xe4r, H\xf6he, m\xfcde, Stra\xdfe, Gl\xfcck",
            "a.txt",
            &["D:\\Herbarium=H:\\\u{6a19}"],
            Standing::Sealed,
            "no letter",
        ),
        (
            b"a=D:\\Herbarium\\x",
            "a.txt",
            &["D:\\Herbarium=H:\\K\u{e4}fer"],
            Standing::Doubtful,
            "--encoding",
        ),
        (
            br#"{"D:\\Herbarium": 1, "H:\\Collections\\Herbarium": 2}"#,
            "a.json",
            HERBARIUM,
            Standing::Collision,
            "another entry",
        ),
        (
            br#"{"r": "D:\Herbarium\x"}"#,
            "a.json",
            HERBARIUM,
            Standing::Malformed,
            "not doubled",
        ),
        (
            b"{\"r\": 'D:\\\\Herbarium\\\\x'}",
            "a.json",
            HERBARIUM,
            Standing::Doubtful,
            "outside",
        ),
        (
            br"see D:\Herbarium now",
            "a.txt",
            HERBARIUM,
            Standing::Doubtful,
            "could go on",
        ),
        (
            br#"{"drive": "D"}"#,
            "a.json",
            &[r"D:\=E:\"],
            Standing::Doubtful,
            "may name a drive",
        ),
        (
            b"REGEDIT4\n[a]\n\"x\"=hex:05,00,44,3a,5c,48,65,72,62,61,72,69,75,6d,5c,00,01\n",
            "a.reg",
            HERBARIUM,
            Standing::Sealed,
            "no text",
        ),
    ];
    for (bytes, name, moves, standing, why) in cases {
        let plan = planned(bytes, name, &sheet(moves));
        let shown = String::from_utf8_lossy(bytes);
        assert_eq!(first(&plan).standing, standing, "{shown}");
        assert!(
            says(&first(&plan)).contains(why),
            "{shown}: {:?}",
            says(&first(&plan))
        );
        assert!(plan.new.is_none(), "{shown}");
    }
    let by_hand = planned(br#"{"r": "D:\Herbarium\new"}"#, "a.json", &sheet(HERBARIUM));
    let by_hand = first(&by_hand);
    let spelled: Vec<_> = by_hand
        .suggestions
        .iter()
        .map(|s| s.place.as_str())
        .collect();
    assert_eq!(
        spelled,
        [r"H:\\Collections\\Herbarium\\new", r"D:\\Herbarium\\new"]
    );
}

#[test]
fn registry_data_is_wrapped_as_the_editor_wraps_it() {
    let hex = |text: &str| {
        let bytes: Vec<u8> = text
            .encode_utf16()
            .chain([0])
            .flat_map(u16::to_le_bytes)
            .collect();
        let mut line = "\"Root\"=hex(2):".to_owned();
        let mut out = String::new();
        for (index, byte) in bytes.iter().enumerate() {
            line.push_str(&format!("{byte:02x}"));
            if index + 1 < bytes.len() {
                line.push(',');
                if line.len() >= 77 {
                    out.push_str(&line);
                    out.push_str("\\\r\n");
                    line = "  ".to_owned();
                }
            }
        }
        format!(
            "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\a]\r\n{out}{line}\r\n\r\n"
        )
    };
    let before = hex(r"D:\Herbarium\Sheets\2019\0412.tif");
    let after = hex(r"H:\Collections\Herbarium\Sheets\2019\0412.tif");
    for encoding in [Encoding::Utf8, Encoding::Utf16Le] {
        let mark = if encoding == Encoding::Utf16Le {
            "\u{feff}"
        } else {
            ""
        };
        let bytes = |text: &str| encoding.encode(&format!("{mark}{text}")).unwrap();
        assert_eq!(
            rewritten(&bytes(&before), "a.reg", &sheet(HERBARIUM)),
            bytes(&after)
        );
    }
    let renamed =
        "REGEDIT4\r\n\r\n[HKEY_CURRENT_USER\\a\\D:/Herbarium/x]\r\n\"D:\\\\Herbarium\"=-\r\n";
    let plan = planned(renamed.as_bytes(), "a.reg", &sheet(HERBARIUM));
    assert_eq!(plan.references.len(), 2);
    assert!(
        plan.references
            .iter()
            .all(|r| r.notice == Some(Notice::OldNameStays))
    );
    assert_eq!(
        String::from_utf8(plan.new.unwrap()).unwrap(),
        "REGEDIT4\r\n\r\n[HKEY_CURRENT_USER\\a\\H:/Collections/Herbarium/x]\r\n\"H:\\\\Collections\\\\Herbarium\"=-\r\n"
    );
}

#[test]
fn a_place_that_becomes_too_long_is_noticed() {
    let name = "x".repeat(240);
    for (text, notice) in [
        (format!(r"a=D:\Herbarium\{name}"), Some(Notice::LongPlace)),
        (format!(r"a=\\?\D:\Herbarium\{name}"), None),
        (r"a=D:\Herbarium\x".to_owned(), None),
    ] {
        let plan = planned(text.as_bytes(), "a.txt", &sheet(HERBARIUM));
        assert_eq!(first(&plan).notice, notice, "{text}");
        assert!(plan.new.is_some());
    }
}

#[test]
fn lines_columns_and_excerpts() {
    let text = "{\n  \"\u{e9}\": \"x\",\n  \"root\": \"D:\\\\Herbarium\\\\2019\"\n}\n";
    let plan = planned(text.as_bytes(), "a.json", &sheet(HERBARIUM));
    let reference = first(&plan);
    assert_eq!((at(&reference), reference.site.as_str()), ((3, 12), "root"));
    let around = reference.surroundings.unwrap();
    assert_eq!(around.before, r#""root": "D:\\Herbarium\\2019""#);
    assert_eq!(
        around.after.as_deref().unwrap(),
        r#""root": "H:\\Collections\\Herbarium\\2019""#
    );
}

#[test]
fn a_line_of_many_places_is_counted_once() {
    let piece = "\"D:\\Herbarium\\a\" \u{e9} ";
    let text = piece.repeat(20_000);
    let plan = planned(text.as_bytes(), "a.txt", &sheet(HERBARIUM));
    assert_eq!(plan.references.len(), 20_000);
    let last = &plan.references.iter().last().unwrap();
    let letters = piece.chars().count();
    assert_eq!(at(last), (1, 19_999 * letters + 2));
}
