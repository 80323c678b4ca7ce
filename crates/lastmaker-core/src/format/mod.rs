//! One file a format: where its passages are and which layers each wears.
//!
//! A format knows nothing of moves. Adding a text format is one file and one line in
//! [`FORMATS`].

mod batch;
mod blocks;
mod brackets;
mod counts;
mod csv;
mod cursor;
mod directives;
mod editor_script;
mod evidence;
mod json;
mod lexed;
mod markdown;
mod markup;
mod outline;
mod passages;
mod plain;
mod recognise;
mod registry;
mod rtf;
mod settings;
mod shell;
mod subject;
mod unquoted_uses;
mod way;
mod yaml;

pub(crate) use brackets::open_bracket;
use evidence::{
    address_role, interpreter, is_drive_alone, is_lone_letter, may_matter, string_role,
};
pub use passages::Passages;
pub use recognise::{Recognised, recognise};
pub(crate) use recognise::{START_BYTES, claimants, start};
pub use subject::Subject;

use std::fmt::Write;
use std::ops::Range;

use crate::about::About;
use crate::layer::Layers;
use crate::scan::Hint;
use crate::text::Encoding;

/// One step of the way from the document to a passage.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Step {
    /// A named entry.
    Key(String),
    /// An entry of a list, counted from 0.
    Index(usize),
}

/// The innermost steps of a way tell where it leads; a document nested deeper is meant to cost
/// time.
const MOST_STEPS: usize = 32;

/// Letters of one step that are shown; each reference under it tells them again.
const LONGEST_NAME: usize = 200;

/// Writes a way as people read it: `scanner.paths[2]`.
pub fn site_text(steps: &[Step]) -> String {
    let passed = steps.len().saturating_sub(MOST_STEPS);
    let lengths = steps[passed..].iter().map(|step| match step {
        Step::Key(key) => key.len().min(LONGEST_NAME) + 1,
        Step::Index(_) => "[1234]".len(),
    });
    let mut text = String::with_capacity(lengths.sum());
    if passed > 0 {
        text.push('\u{2026}');
    }
    for step in &steps[passed..] {
        match step {
            Step::Key(key) => {
                if !text.is_empty() {
                    text.push('.');
                }
                // It has no more letters than bytes.
                let longer = key.len() > LONGEST_NAME;
                match longer.then(|| key.char_indices().nth(LONGEST_NAME)) {
                    Some(Some((end, _))) => text.extend([&key[..end], "\u{2026}"]),
                    _ => text.push_str(key),
                }
            }
            Step::Index(index) => {
                // A string takes all that is written.
                let _ = write!(text, "[{index}]");
            }
        }
    }
    text
}

/// Where a place is looked for that is written like one of this machine and is none.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Namespace {
    /// Inside of a container or an image.
    Container,
    /// Within a web site: it is the path of an address.
    Site,
    /// Within a web site, or on this machine where the page is opened as a file: what exists tells.
    Page,
    /// Within the folder that its file is in, as in lists of what is passed over.
    Tree,
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
    /// A string whose backslashes were evidently typed without doubling them: it is
    /// here raw, and `layers` would write it right.
    Undoubled,
    /// Data that holds text and something else beside it; read, but not safe to rewrite.
    Mixed,
    /// Text whose length a number before it says, which nothing here would put right; read, but not safe to
    /// rewrite.
    Counted,
    /// A value whose places are none of this machine's file system.
    Foreign(Namespace),
    /// Text that goes on from elsewhere, with something between that is no text.
    Torn {
        /// How many bytes of it are elsewhere, in a passage of their own.
        tail: usize,
    },
}

/// A string in a document.
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

/// Yields a passage that no way leads to: running text or code, or else a value.
fn emit(span: Range<usize>, layers: &Layers, hint: Hint, each: &mut dyn FnMut(Passage<'_>)) {
    if span.is_empty() {
        return;
    }
    let role = match hint {
        Hint::Prose | Hint::Code => Role::Prose,
        _ => Role::Value,
    };
    each(Passage {
        span,
        layers,
        role,
        hint,
        site: &[],
    });
}

/// Whether a document keeps its format's grammar.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Grammar {
    /// It keeps it.
    Kept,
    /// It keeps it but for escapes inside of strings, which were typed by hand.
    Escapes,
    /// It breaks it: where its strings begin and end is not sure.
    Broken,
}

impl Grammar {
    /// Notes what one string, or one turn of the reader, shows.
    fn note(&mut self, fine: bool, otherwise: Self) {
        if !fine {
            *self = (*self).max(otherwise);
        }
    }
}

/// How surely a document is of a format.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Claim {
    /// It certainly is.
    Certain,
    /// It says that it is, by its name or a sign that only this format has; one that breaks the grammar
    /// is read as plain text, and the report says so.
    IfWellFormed,
    /// It looks as if it were; one that breaks the grammar is something else.
    Perhaps,
    /// It is of another format.
    No,
}

impl Claim {
    /// Certain where the document shows it, else no claim.
    fn certain_if(shown: bool) -> Self {
        if shown { Self::Certain } else { Self::No }
    }
}

/// A small document of a format that can hold any number of strings.
#[derive(Clone, Copy, Debug)]
pub struct Sample {
    /// Its file name.
    pub file: &'static str,
    head: &'static str,
    before: &'static str,
    after: &'static str,
    foot: &'static str,
}

impl Sample {
    /// A document of this file name that begins with `head`, with `before` and `after` around
    /// each string.
    const fn new(
        file: &'static str,
        head: &'static str,
        before: &'static str,
        after: &'static str,
    ) -> Self {
        Self {
            file,
            head,
            before,
            after,
            foot: "",
        }
    }

    /// The same, ending with `foot`.
    const fn ending_with(self, foot: &'static str) -> Self {
        Self { foot, ..self }
    }

    /// The document with these strings, as they are written in it.
    pub fn document(&self, strings: &[String]) -> String {
        let mut text = self.head.to_owned();
        for string in strings {
            text.extend([self.before, string, self.after]);
        }
        text.push_str(self.foot);
        text
    }
}

/// A format: how its documents are known, and who reads them.
pub trait Format: Sync {
    /// What people are told of it.
    fn about(&self) -> &About;

    /// Its name in reports and on the command line.
    fn name(&self) -> &'static str {
        self.about().name
    }

    /// Small documents of it, for what must hold of every format.
    fn samples(&self) -> &'static [Sample];

    /// Whether a document is of this format, by its text first and its file name second.
    fn claims(&self, subject: &Subject<'_>) -> Claim;

    /// Whether it is markup, whose tags tell little of the strings between them.
    fn is_markup(&self) -> bool {
        false
    }

    /// Whether what stands in one line belongs together, as the words of a command or the columns
    /// of a row do.
    fn lines_belong_together(&self) -> bool {
        false
    }

    /// The encoding of a document whose bytes do not show any.
    fn own_encoding(&self) -> Option<Encoding>;

    /// The encoding that a document says it is in.
    fn declared_encoding(&self, text: &str) -> Option<Encoding> {
        crate::text::declared(text)
    }

    /// Whether its rules are local: a text of it can be parted into windows that read as they do in the whole.
    fn is_local(&self) -> bool {
        false
    }

    /// What only a text of this format has somewhere, not one of its sister that looks like it.
    fn marks(&self) -> &'static [&'static str] {
        &[]
    }

    /// Whether programs read its eight-bit text in a code page that nothing in it shows.
    fn leaves_encoding_open(&self) -> bool {
        false
    }

    /// The reader of `text`, which is in `encoding`: what the text shows of how its strings are
    /// written is worked out once, in a format whose rules are local from its start alone.
    fn reader(&'static self, text: &str, encoding: Encoding) -> Box<dyn Reader>;

    /// Reads `text` once; see [`Reader::passages`].
    fn passages(
        &'static self,
        text: &str,
        encoding: Encoding,
        each: &mut dyn FnMut(Passage<'_>),
    ) -> Grammar {
        self.reader(text, encoding).passages(text, each)
    }
}

/// A document's reader: it has the layers of each kind of string in the document.
pub trait Reader {
    /// Yields each string of `text` once, in document order, names included, and says whether
    /// the document keeps the format's grammar. `text` is what the reader was made for.
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar;

    /// The same; where the grammar is broken the rest of `text` need not be read.
    fn passages_if_kept(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        self.passages(text, each)
    }

    /// The same for a window of a larger text, before which there were so many `records`.
    fn passages_of_window(
        &self,
        text: &str,
        _records: usize,
        each: &mut dyn FnMut(Passage<'_>),
    ) -> Grammar {
        self.passages(text, each)
    }

    /// The records of a window that are whole in `text`, which begins with one and behind which there are `rest`
    /// bytes more at the most; none if it is not seen that one ends. Only readers of formats whose rules are
    /// local know.
    fn whole_records(&self, _text: &str, _rest: u64) -> Option<Records> {
        None
    }
}

/// The first records of a text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Records {
    /// Where they end, in bytes of the text.
    pub end: usize,
    /// How many there are, where a format counts them.
    pub count: usize,
}

/// Every format, the most particular first: the first that claims a document and reads it
/// without fault has it.
pub static FORMATS: &[&dyn Format] = &[
    &registry::RegistryExport,
    &registry::RegistryHive,
    &rtf::RichText,
    &markup::Html,
    &markup::Xml,
    &json::Json,
    &lexed::TOML,
    &markdown::Markdown,
    &outline::Outline,
    &yaml::COMPOSE,
    &yaml::YAML,
    &csv::Table,
    &settings::JAVA_PROPERTIES,
    &settings::DESKTOP_ENTRY,
    &settings::SERVICE_UNIT,
    &settings::DOTENV,
    &settings::BUILD,
    &settings::PLAYLIST,
    &settings::CUE,
    &directives::NGINX,
    &directives::HTTPD,
    &directives::SSH_SETTINGS,
    &directives::MOUNT_TABLE,
    &directives::SUDOERS,
    &directives::LOGROTATE,
    &directives::DOCKERFILE,
    &directives::CMAKE,
    &directives::CRONTAB,
    &batch::Batch,
    &shell::Shell,
    &lexed::POWERSHELL_SOURCE,
    &lexed::PYTHON_SOURCE,
    &lexed::LUA_SOURCE,
    &lexed::PHP_SOURCE,
    &lexed::JAVASCRIPT_SOURCE,
    &lexed::C_SOURCE,
    &lexed::KOTLIN_SOURCE,
    &lexed::LISP_SOURCE,
    &lexed::STYLE_SHEET,
    &editor_script::EditorScript,
    &lexed::SQL_ESCAPED_SOURCE,
    &lexed::SQL_SOURCE,
    &lexed::KEY_VALUES_SYNTAX,
    &plain::Patterns,
    &settings::GIT_SETTINGS,
    &settings::ESCAPED_INI,
    &settings::INI,
    &plain::PlainText,
    &plain::UnknownText,
];

/// The format of a string that a container holds by itself.
pub(crate) static VALUE: plain::Value = plain::Value;

/// The format of a whole document inside of a string.
pub fn nested(content: &str) -> Option<&'static dyn Format> {
    let text = content.trim();
    let json = (text.starts_with('{') && text.ends_with('}'))
        || (text.starts_with('[') && text.ends_with(']'));
    let format: &'static dyn Format = if json {
        &json::Json
    } else if text.starts_with('<') && text.ends_with('>') {
        &markup::Xml
    } else {
        return None;
    };
    (text.len() > 4 && format.claims(&Subject::new(text, "")) != Claim::No).then_some(format)
}

/// The format of commands that a string holds for a shell.
pub(crate) fn shell_commands() -> &'static dyn Format {
    &shell::Shell
}

/// The format of this name.
pub fn named(name: &str) -> Option<&'static dyn Format> {
    FORMATS.iter().copied().find(|format| format.name() == name)
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
    fn every_format_has_samples_and_recognises_them() {
        for format in FORMATS {
            assert!(!format.samples().is_empty(), "{}", format.name());
            for sample in format.samples() {
                let text = sample.document(&["D:/x".to_owned()]);
                let known = recognise(&text, sample.file, Encoding::Utf8, None);
                assert_eq!(known.format.name(), format.name(), "{text}");
                let mut held = false;
                known.reader.passages(&text, &mut |passage| {
                    held |= text[passage.span.clone()].contains("D:/x");
                });
                assert!(held, "{}: {text}", format.name());
            }
        }
    }

    #[test]
    fn documents_are_recognised_by_content_first() {
        let cases = [
            (r#"{"a": "D:\\x"}"#, "settings.dat", "json", true),
            (r#"{"a": "D:\x"}"#, "settings.json", "json", false),
            (r#"{"a": "D:\x"}"#, "settings.dat", "json", false),
            ("// c\n{\"a\": [1, 2,],}\n", "a.cfg", "json", true),
            ("{\"a\": 1}\n{\"b\": 2}\n", "log.jsonl", "json", true),
            ("[section]\nroot=D:\\x\n", "a.ini", "ini", true),
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
            ("root=D:\\x", "a.reg", "unknown-text", true),
            ("", "a.json", "json", true),
        ];
        for (text, file, name, well_formed) in cases {
            let format = recognise(text, file, Encoding::Utf8, None);
            let format = format.format;
            let fine = format.passages(text, Encoding::Utf8, &mut |_| {}) == Grammar::Kept;
            assert_eq!((format.name(), fine), (name, well_formed), "{file}: {text}");
        }
    }

    proptest! {
        /// Whatever is in a file, each passage is a slice of it, they come in order and
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
