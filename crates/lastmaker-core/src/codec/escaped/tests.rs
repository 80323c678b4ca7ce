//! Every dialect, before and after.

use super::*;
use crate::layer::{Edit, splice};
use proptest::prelude::*;

fn json(document: Style) -> Escaped {
    Escaped {
        escapes: &JSON,
        document,
    }
}

fn replaced(raw: &str, old: &str, new: &str, document: Style) -> String {
    replaced_in(&json(document), raw, old, new)
}

fn replaced_in(layer: &Escaped, raw: &str, old: &str, new: &str) -> String {
    let opened = layer.open(raw.as_bytes()).unwrap();
    let content = std::str::from_utf8(&opened.content).unwrap().to_owned();
    let at = content.find(old).unwrap();
    let edit = Edit {
        span: at..at + old.len(),
        with: new.as_bytes().to_vec(),
    };
    let edits = layer
        .lift(raw.as_bytes(), &opened, &Edits::new(vec![edit]).unwrap())
        .unwrap();
    String::from_utf8(splice(raw.as_bytes(), &edits)).unwrap()
}

#[test]
fn edits_are_escaped_like_what_they_replace() {
    let plain = Style::default();
    let escaping = Style {
        letters: true,
        ..plain
    };
    let cases = [
        (
            r"D:\\Herb\\x",
            r"D:\Herb",
            r"H:\Col\Herb",
            plain,
            r"H:\\Col\\Herb\\x",
        ),
        (
            r"D:\/Herb\/x",
            "D:/Herb",
            "H:/Col/Herb",
            plain,
            r"H:\/Col\/Herb\/x",
        ),
        (r"D:/Herb/x", "D:/Herb", "H:/Col", plain, "H:/Col/x"),
        (
            r"D:\\Gr\u00F6n\\x",
            "D:\\Gr\u{f6}n",
            "H:\\K\u{e4}se",
            plain,
            r"H:\\K\u00E4se\\x",
        ),
        (
            "D:\\\\Gr\u{f6}n\\\\x",
            "D:\\Gr\u{f6}n",
            "H:\\K\u{e4}se",
            escaping,
            "H:\\\\K\u{e4}se\\\\x",
        ),
        (
            r"D:\\Herb\\x",
            r"D:\Herb",
            "H:\\K\u{e4}se",
            escaping,
            r"H:\\K\u00e4se\\x",
        ),
        (
            r"D:\\Herb",
            r"D:\Herb",
            "H:\\\u{1f33f}",
            escaping,
            r"H:\\\ud83c\udf3f",
        ),
        (
            r#"-d D:\\Herb"#,
            r"D:\Herb",
            r#""H:\a b""#,
            plain,
            r#"-d \"H:\\a b\""#,
        ),
    ];
    for (raw, old, new, document, expected) in cases {
        assert_eq!(replaced(raw, old, new, document), expected, "{raw}");
    }
}

#[test]
fn what_escapes_nothing_is_malformed() {
    for raw in [r"D:\Herbarium", r"x\", r"\u12", r"\x41"] {
        assert!(
            json(Style::default()).open(raw.as_bytes()).is_err(),
            "{raw}"
        );
    }
    let lone = json(Style::default()).open(br"\ud800x").unwrap();
    assert_eq!(lone.content, format!("{OPAQUE}x").as_bytes());
}

#[test]
fn each_dialect_writes_its_own_way() {
    let cases: [(&'static Escapes, &str, &str, &str, &str); 20] = [
        (
            &REGISTRY,
            r#"\"D:\\H\\v\" -d"#,
            r"D:\H",
            r"H:\C",
            r#"\"H:\\C\\v\" -d"#,
        ),
        (
            &PROPERTIES,
            r"D\:\\H\\x",
            r"D:\H",
            "H:\\C\u{e4}",
            "H\\:\\\\C\u{e4}\\\\x",
        ),
        (
            &PROPERTIES,
            r"D:/H\u00e9/x",
            "D:/H\u{e9}",
            "H:/C\u{e4}",
            r"H:/C\u00e4/x",
        ),
        (
            &HEX_SETTINGS,
            r"D:/H\xe9/x",
            "D:/H\u{e9}",
            "H:/\u{e4}b",
            r"H:/\xe4\x62/x",
        ),
        (&HEX_SETTINGS, r"D:\\H\\x", r"D:\H", r"H:\C", r"H:\\C\\x"),
        (&SHELL_DOUBLE, r"D:\Hx\y", r"D:\Hx", r"H:\$C", r"H:\\\$C\y"),
        (&SHELL_DOUBLE, r"D:\Hx\y", r"D:\Hx", r"H:\C d", r"H:\C d\y"),
        (&SHELL_DOUBLE, r"D:\\H\\y", r"D:\H", r"H:\C", r"H:\\C\\y"),
        (
            &SHELL_WORD,
            "/mnt/d/H/x",
            "/mnt/d/H",
            "/srv/my files",
            r"/srv/my\ files/x",
        ),
        (&SHELL_WORD, r"/a\ b/x", "/a b", "/c d's", r"/c\ d\'s/x"),
        (&POWERSHELL, r"D:\H`$x\y", "D:\\H$x", "H:\\C$", "H:\\C`$\\y"),
        (&SQL, r"D:\\H\\y", r"D:\H", r"H:\o'x", r"H:\\o\'x\\y"),
        (
            &PYTHON,
            r"D:\\H\xe9\\y",
            "D:\\H\u{e9}",
            "H:\\\u{e4}",
            r"H:\\\xe4\\y",
        ),
        (
            &LUA,
            r"D:\\H\195\164\\y",
            "D:\\H\u{e4}",
            r"H:\C",
            r"H:\\C\\y",
        ),
        (&C, r"D:\\H\303\251\\y", "D:\\H\u{e9}", r"H:\C", r"H:\\C\\y"),
        (
            &JAVASCRIPT_SINGLE,
            r"D:\\H\\y",
            r"D:\H",
            r"H:\o'x",
            r"H:\\o\'x\\y",
        ),
        (
            &JAVASCRIPT_TEMPLATE,
            r"D:\\H\\y",
            r"D:\H",
            r"H:\${x",
            r"H:\\\${x\\y",
        ),
        (&PHP_SINGLE, r"D:\H\y", r"D:\H", r"H:\C", r"H:\C\y"),
        (&DESKTOP, r"D:\\H\\y", r"D:\H", r"H:\C d", r"H:\\C d\\y"),
        (
            &TOML_BASIC,
            "D:\\\\H\\u00e9\\\\y",
            "D:\\H\u{e9}",
            "H:\\\u{e4}",
            r"H:\\\u00e4\\y",
        ),
    ];
    for (escapes, raw, old, new, expected) in cases {
        let layer = Escaped {
            escapes,
            document: Style::default(),
        };
        assert_eq!(
            replaced_in(&layer, raw, old, new),
            expected,
            "{}: {raw}",
            escapes.name
        );
    }
}

proptest! {
    #[test]
    fn decoding_undoes_encoding(
        text in "\\PC{0,12}|[D:\\\\/ xnu0-9a-f'\"$`\u{e4}]{0,12}", slash: bool, letters: bool, upper_hex: bool, mark: bool, colon: bool,
    ) {
        for escapes in DIALECTS.iter().copied() {
            let style = Style {
                slash: slash && escapes.simple.iter().any(|(code, _)| *code == b'/'),
                letters, upper_hex, mark,
                colon: colon && escapes.simple.iter().any(|(code, _)| *code == b':'),
            };
            let raw = escapes.encode(&text, style, None);
            let opened = Escaped { escapes, document: style }.open(raw.as_bytes()).unwrap();
            prop_assert_eq!(String::from_utf8(opened.content).unwrap(), text.clone(), "{}: {}", escapes.name, raw);
        }
        let raw = JSON.encode(&text, Style { slash, letters, upper_hex, ..Style::default() }, None);
        let read: String = serde_json::from_str(&format!("\"{raw}\"")).unwrap();
        prop_assert_eq!(read, text);
    }

    #[test]
    fn any_raw_text_opens_or_is_refused(raw in "[\\\\xuU{}0-9a-f\"'n\r\n`\u{e4}]{0,20}") {
        for escapes in DIALECTS.iter().copied() {
            let opened = Escaped { escapes, document: Style::default() }.open(raw.as_bytes());
            prop_assert_eq!(opened.is_ok(), escapes.is_sound(&raw), "{}", escapes.name);
        }
    }
}
