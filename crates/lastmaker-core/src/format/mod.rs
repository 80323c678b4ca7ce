//! One file a format: where its passages are and which layers each wears.
//!
//! A format knows nothing of moves. Adding a text format is one file and one line in
//! [`FORMATS`].

mod json;
mod plain;
mod registry_export;

use std::ops::Range;

use crate::layer::Layers;
use crate::place::Hint;
use crate::text::Encoding;

/// One step of the way from the document to a passage.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Step {
    /// A named entry.
    Key(String),
    /// An entry of a list, counted from 0.
    Index(usize),
}

/// Writes a way as people read it: `scanner.paths[2]`.
pub fn site_text(steps: &[Step]) -> String {
    let mut text = String::new();
    for step in steps {
        match step {
            Step::Key(key) => {
                if !text.is_empty() {
                    text.push('.');
                }
                text.push_str(key);
            }
            Step::Index(index) => text.push_str(&format!("[{index}]")),
        }
    }
    text
}

/// What a passage is in its document.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    /// A value.
    Value,
    /// A key or a name; two of one scope must differ.
    Name {
        /// Entries of one scope must have different names.
        scope: usize,
        /// Whether the names are compared without regard to case.
        ignore_case: bool,
        /// Whether importing the document leaves the old name in place.
        outlives_import: bool,
    },
    /// A comment or running text.
    Prose,
    /// Text where the format expects none; read, but not safe to rewrite.
    Stray,
    /// A string whose backslashes were evidently typed without doubling them: it stands
    /// here raw, and `layers` would write it right.
    ByHand,
    /// Data that holds text and something else beside it; read, but not safe to rewrite.
    Mixed,
}

/// A string standing in a document.
#[derive(Debug)]
pub struct Passage<'a> {
    /// Byte span in the document's text.
    pub span: Range<usize>,
    /// What wraps it, outermost first.
    pub layers: &'a Layers,
    /// What it is.
    pub role: Role,
    /// What is known of it for finding places in it.
    pub hint: Hint,
    /// The way to it.
    pub site: &'a [Step],
}

/// How surely a document is of a format.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Claim {
    /// It is.
    Certain,
    /// It is if it keeps the format's grammar to the end.
    IfWellFormed,
    /// It is not.
    No,
}

/// A format's reader.
pub trait Format: Sync {
    /// Lower case with hyphens, unique among [`FORMATS`].
    fn name(&self) -> &'static str;

    /// Whether a document is of this format, by its text first and its file name second.
    /// `file_name` is in lower case.
    fn claims(&self, text: &str, file_name: &str) -> Claim;

    /// The encoding of a document whose bytes do not show any.
    fn own_encoding(&self) -> Option<Encoding>;

    /// Yields each string once, in document order, names included, and says whether the
    /// document keeps the format's grammar.
    fn passages(&self, text: &str, encoding: Encoding, each: &mut dyn FnMut(Passage<'_>)) -> bool;
}

/// Every format, the most particular first: the first that claims a document reads it.
pub static FORMATS: &[&dyn Format] = &[
    &registry_export::RegistryExport,
    &json::Json,
    &plain::PlainText,
];

/// The format that reads a document.
pub fn recognise(text: &str, file_name: &str, encoding: Encoding) -> &'static dyn Format {
    let lower = file_name.to_lowercase();
    let reads = |format: &&&'static dyn Format| match format.claims(text, &lower) {
        Claim::Certain => true,
        Claim::IfWellFormed => format.passages(text, encoding, &mut |_| {}),
        Claim::No => false,
    };
    FORMATS
        .iter()
        .find(reads)
        .copied()
        .unwrap_or(&plain::PlainText)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::OpenedChain;
    use proptest::prelude::*;

    #[test]
    fn names_are_unique_and_typeable() {
        let mut names: Vec<_> = FORMATS.iter().map(|format| format.name()).collect();
        assert!(
            names
                .iter()
                .all(|n| n.bytes().all(|b| b.is_ascii_lowercase() || b == b'-'))
        );
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), FORMATS.len());
    }

    #[test]
    fn documents_are_recognised_by_content_first() {
        let cases = [
            (r#"{"a": "D:\\x"}"#, "settings.dat", "json", true),
            (r#"{"a": "D:\x"}"#, "settings.json", "json", false),
            (r#"{"a": "D:\x"}"#, "settings.dat", "plain-text", true),
            ("// c\n{\"a\": [1, 2,],}\n", "a.cfg", "json", true),
            ("{\"a\": 1}\n{\"b\": 2}\n", "log.jsonl", "json", true),
            ("[section]\nroot=D:\\x\n", "a.ini", "plain-text", true),
            (
                "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\x]\r\n",
                "a.txt",
                "registry-export",
                true,
            ),
            (
                "REGEDIT4\r\n\r\n[HKEY_CURRENT_USER\\x]\r\n",
                "a.reg",
                "registry-export",
                true,
            ),
            ("root=D:\\x", "a.reg", "plain-text", true),
            ("", "a.json", "json", true),
        ];
        for (text, file, name, well_formed) in cases {
            let format = recognise(text, file, Encoding::Utf8);
            let fine = format.passages(text, Encoding::Utf8, &mut |_| {});
            assert_eq!((format.name(), fine), (name, well_formed), "{file}: {text}");
        }
    }

    proptest! {
        /// Whatever stands in a file, each passage is a slice of it, they come in order and
        /// do not overlap, and opening their layers does not panic.
        #[test]
        fn passages_are_disjoint_and_in_bounds(
            text in r#"([\[\]{}:,"'\\/;=@\r\n a-zA-Z0-9é-]|"D:\\\\x"|hex\(2\):44,00,|\\u00e9|REGEDIT4\r\n){0,60}"#,
        ) {
            for format in FORMATS {
                let mut last = 0;
                format.passages(&text, Encoding::Utf8, &mut |passage| {
                    assert!(passage.span.start >= last, "{}: {text:?}", format.name());
                    assert!(text.get(passage.span.clone()).is_some());
                    last = passage.span.end;
                    let raw = &text.as_bytes()[passage.span.clone()];
                    let _ = OpenedChain::open(passage.layers, raw);
                });
            }
        }
    }
}
