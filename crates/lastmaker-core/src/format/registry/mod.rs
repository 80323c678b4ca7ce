//! Registry exports: version 5 (`Windows Registry Editor Version 5.00`) and the older
//! version 4 (`REGEDIT4`).
//!
//! Lines: `[key]` and `[-key]`, `"name"=data` and `@=data`, `;` comments. Data is a string,
//! hex digits carried on by a trailing `\`, `dword:`, or `-` for a deletion. Strings escape
//! `\` and `"`; key names escape nothing.
//!
//! A compatibility layer keeps its hives as text of its own (`WINE REGISTRY Version 2`): `[key] time`
//! with the key's backslashes doubled, `#` before what describes the key, strings that may be of
//! another type (`str(2):"…"`), and letters outside ASCII as `\x…` of up to four digits.
//!
//! Yields key names, value names, strings, and hex data that is text: types 1, 2, 6 and 7
//! (UTF-16 in version 5, the file's code page in version 4), and other types where all of
//! the data reads as text. Leaves `dword:` and other hex alone; hex data with a place among
//! other bytes is yielded as mixed.

mod walk;

use std::sync::Arc;

use super::{Claim, Format, Grammar, Passage, Reader, Sample, Subject};
use crate::about::About;
use crate::codec::{Escaped, Escapes, HIVE, REGISTRY, Style};
use crate::format::cursor::Cursor;
use crate::layer::{Layers, alone};
use crate::text::Encoding;
use walk::Walk;

/// Exports of the Windows registry.
pub(super) struct RegistryExport;

const VERSION_5: &str = "Windows Registry Editor Version 5";
const VERSION_4: &str = "REGEDIT4";

/// Hives that a compatibility layer keeps as text.
pub(super) struct RegistryHive;

const HIVE_VERSION: &str = "WINE REGISTRY Version 2";

const ABOUT_HIVE: About = About {
    name: "registry-hive",
    what: "registry hives that a compatibility layer keeps as text",
    content: "WINE REGISTRY Version 2 at its start",
    names: &[],
    read: "keys, names, strings and hex data, as in registry exports",
    limits: "end its programs first: the layer writes its hives anew when it ends",
};

/// Which of the two a file is.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Kind {
    Export,
    Hive,
}

impl Kind {
    /// How its strings escape letters.
    fn escapes(self) -> &'static Escapes {
        match self {
            Self::Export => &REGISTRY,
            Self::Hive => &HIVE,
        }
    }
}

/// All keys of an export share one scope; the values of each key one of their own.
const KEYS: usize = 0;

const ABOUT: About = About {
    name: "registry-export",
    what: "exports of the Windows registry, both versions",
    content: "Windows Registry Editor Version 5 or REGEDIT4 at its start",
    names: &[],
    read: "keys, names, strings, and hex(1), hex(2), hex(6), hex(7) and hex data that is text, wrapped as it was",
    limits: "binary data in which places stand among other bytes is sealed; importing leaves renamed names behind",
};

impl Format for RegistryExport {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let text = subject.text;
        let start = text.trim_start();
        Claim::certain_if(start.starts_with(VERSION_5) || start.starts_with(VERSION_4))
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[Sample::new(
            "a.reg",
            "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\a]\r\n",
            "\"a\"=\"",
            "\"\r\n",
        )];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::WINDOWS_1252)
    }

    fn reader(&'static self, text: &str, encoding: Encoding) -> Box<dyn Reader> {
        let version_5 = !text.trim_start().starts_with(VERSION_4);
        let narrow = match encoding {
            page if page.is_code_page() => page,
            _ => Encoding::WINDOWS_1252,
        };
        Box::new(Wrappings {
            data_encoding: if version_5 { Encoding::Utf16Le } else { narrow },
            narrow,
            line_end: if text.contains("\r\n") { "\r\n" } else { "\n" },
            kind: Kind::Export,
            string: alone(Escaped {
                escapes: &REGISTRY,
                document: Style::default(),
            }),
            plain: Arc::new([]),
        })
    }
}

impl Format for RegistryHive {
    fn about(&self) -> &About {
        &ABOUT_HIVE
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let text = subject.text;
        Claim::certain_if(text.starts_with(HIVE_VERSION))
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[Sample::new(
            "user.reg",
            "WINE REGISTRY Version 2\n;; All keys relative to A\n\n[Software\\\\A] 17\n#time=1d\n",
            "\"a\"=\"",
            "\"\n",
        )];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::WINDOWS_1252)
    }

    fn reader(&'static self, _text: &str, _encoding: Encoding) -> Box<dyn Reader> {
        Box::new(Wrappings {
            data_encoding: Encoding::Utf16Le,
            narrow: Encoding::WINDOWS_1252,
            line_end: "\n",
            kind: Kind::Hive,
            string: alone(Escaped {
                escapes: &HIVE,
                document: Style {
                    letters: true,
                    ..Style::default()
                },
            }),
            plain: Arc::new([]),
        })
    }
}

/// An export's reader: in which encodings its data is, and what its strings wear.
struct Wrappings {
    /// Of text in hex digits.
    data_encoding: Encoding,
    /// Of text in hex digits that is not in UTF-16.
    narrow: Encoding,
    line_end: &'static str,
    kind: Kind,
    string: Layers,
    plain: Layers,
}

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let mut walk = Walk {
            wear: self,
            cursor: Cursor::new(text, each),
            site: Vec::new(),
            scope: KEYS,
        };
        walk.read();
        walk.cursor.grammar
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::Role;
    use crate::layer::OpenedChain;

    fn read(text: &str) -> (Vec<(String, Role)>, bool) {
        let mut all = Vec::new();
        let grammar = RegistryExport.passages(text, Encoding::Utf8, &mut |passage| {
            let raw = &text[passage.span.clone()];
            let content = match OpenedChain::open(passage.layers, raw.as_bytes()) {
                Ok(chain) => chain.content(raw).to_owned(),
                Err(_) => raw.to_owned(),
            };
            all.push((content, passage.role));
        });
        (all, grammar == Grammar::Kept)
    }

    #[test]
    fn every_kind_of_line() {
        let text = "Windows Registry Editor Version 5.00\r\n\r\n\
            ; kept by hand\r\n\
            [HKEY_CURRENT_USER\\Software\\Label Printer]\r\n\
            @=\"D:\\\\Herbarium\"\r\n\
            \"Root\"=\"D:\\\\Herbarium\\\\Sheets\"\r\n\
            \"Count\"=dword:00000007\r\n\
            \"Gone\"=-\r\n\
            \"Expand\"=hex(2):44,00,3a,00,\\\r\n  5c,00,78,00,00,00\r\n\
            \"Raw\"=hex:01,02,03\r\n\
            \"Text\"=hex:44,00,3a,00,5c,00,78,00,00,00\r\n\
            \r\n\
            [-HKEY_CURRENT_USER\\Software\\Old]\r\n";
        let (all, fine) = read(text);
        assert!(fine);
        let texts: Vec<_> = all
            .iter()
            .map(|(text, _)| text.trim_end_matches('\0'))
            .collect();
        assert_eq!(
            texts,
            [
                " kept by hand\r",
                r"HKEY_CURRENT_USER\Software\Label Printer",
                r"D:\Herbarium",
                "Root",
                r"D:\Herbarium\Sheets",
                "Count",
                "Gone",
                "Expand",
                r"D:\x",
                "Raw",
                "Text",
                r"D:\x",
                r"HKEY_CURRENT_USER\Software\Old",
            ]
        );
    }

    #[test]
    fn data_with_a_place_among_other_bytes_is_mixed() {
        let text =
            "REGEDIT4\n[K]\n\"A\"=hex:04,00,01,44,3a,5c,78,5c,79,00\n\"B\"=hex(2):44,3a,5c,78,00\n";
        let (all, fine) = read(text);
        assert!(fine);
        assert_eq!(all[2].1, Role::Mixed);
        assert_eq!(all[4], ("D:\\x\0".to_owned(), Role::Value));
    }

    #[test]
    fn broken_lines_are_stray_and_the_rest_is_read() {
        let cases = [
            ("REGEDIT4\n[K\n\"A\"=\"x\"\n", 3),
            ("REGEDIT4\n[K]\n\"A=\"D:\\x\"\n\"B\"=\"y\"\n", 5),
            ("REGEDIT4\n[K]\n\"A\"=\"D:\\new\n\"B\"=\"y\"\n", 5),
            ("REGEDIT4\n[K]\nnonsense\n", 2),
            ("REGEDIT4\n[K]\n\"A\"=hex(2):4,zz\n", 2),
        ];
        for (text, count) in cases {
            let (all, fine) = read(text);
            assert!(!fine, "{text}");
            assert_eq!(all.len(), count, "{text}: {all:?}");
        }
        let (all, _) = read("REGEDIT4\n[K]\n\"A\"=\"D:\\Herbarium\"\n");
        assert_eq!(all[2].1, Role::Undoubled);
        let (all, fine) = read("REGEDIT4\n[K]\n\"A\"=\"one\ntwo\"\n\"B\"=\"y\"\n");
        assert!(fine);
        assert_eq!(all[2].0, "one\ntwo");
    }
}
