//! Plain text for people, and text of no known syntax: the whole document is one passage that wears
//! nothing.

use std::ops::Range;
use std::sync::Arc;

use super::counts::{Counts, last_free_line};
use super::{Claim, Format, Grammar, Namespace, Passage, Reader, Records, Role, Sample, Subject};
use crate::about::About;
use crate::layer::Layers;
use crate::scan::{Hint, Letters, OF_PLACES, lines_with};
use crate::text::Encoding;

/// Running text for people.
pub(super) struct PlainText;

/// Text of no syntax that is known, which some program may read.
pub(super) struct UnknownText;

/// Patterns of what is passed over, and who owns what, counted from the folder that the file is in.
pub(super) struct Patterns;

/// A string that a container holds by itself. It is in no table: no document is one.
pub(crate) struct Value;

const A_VALUE: About = About {
    name: "value",
    what: "a string by itself",
    content: "its container says so",
    names: &[],
    read: "the whole string",
    limits: "",
};

impl Format for Value {
    fn about(&self) -> &About {
        &A_VALUE
    }

    fn claims(&self, _: &Subject<'_>) -> Claim {
        Claim::No
    }

    fn samples(&self) -> &'static [Sample] {
        &[]
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn reader(&'static self, _: &str, _: Encoding) -> Box<dyn Reader> {
        Box::new(Whole(Hint::Code))
    }
}

const PLAIN: About = About {
    name: "plain-text",
    what: "notes and other running text for people",
    content: "",
    names: &[
        ".txt",
        ".text",
        ".log",
        ".nfo",
        ".asc",
        ".changelog",
        "=readme",
        "=notes",
        "=changelog",
        "=news",
        "=license",
    ],
    read: "whatever spells a place, with the doubling that it has",
    limits: "a place followed by a blank is doubtful; escapes other than doubling are not known",
};

const UNKNOWN: About = About {
    name: "unknown-text",
    what: "text of no syntax that is known, read as it stands",
    content: "it is text, and nothing above reads it",
    names: &[],
    read: "whatever spells a place, with the doubling that it has",
    limits: "a place followed by a blank is doubtful, and so is one that brings in a blank or a sign; \
             escapes other than doubling are not known",
};

/// What texts for people are called that come with a program, and that programs do not call theirs.
const TITLES: [&str; 13] = [
    "authors",
    "bugs",
    "changelog",
    "copying",
    "copyright",
    "credits",
    "faq",
    "license",
    "news",
    "notes",
    "readme",
    "thanks",
    "todo",
];

/// Whether a file's name is such a title, perhaps with a number or the name of a system behind it:
/// `NEWS.19`, `ChangeLog-2013`, `README.Debian`.
fn is_title(file_name: &str) -> bool {
    let name = file_name.to_ascii_lowercase();
    let name = name.trim_start_matches(|c: char| c.is_ascii_digit());
    TITLES.iter().any(|title| {
        name.strip_prefix(title).is_some_and(|rest| {
            let number = rest.trim_start_matches(|c: char| c.is_ascii_digit() || "-._".contains(c));
            let of_system = rest.strip_prefix('.').is_some_and(|rest| {
                let letters = rest.chars().all(|c| c.is_ascii_alphabetic());
                letters && (rest == "debian" || *title == "readme")
            });
            number.is_empty() || of_system
        })
    })
}

impl Format for PlainText {
    fn about(&self) -> &About {
        &PLAIN
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let file_name = subject.file_name;
        Claim::certain_if(PLAIN.is_named(file_name) || is_title(file_name))
    }

    fn is_local(&self) -> bool {
        true
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[
            Sample::new("a.txt", "", "", "\n"),
            Sample::new("a.txt", "a:1:{i:0;", "s:14:\"", "\";}\n"),
        ];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        None
    }

    fn reader(&'static self, _: &str, _: Encoding) -> Box<dyn Reader> {
        Box::new(ByLines {
            usual: (Role::Prose, Hint::Prose),
            remarks: false,
        })
    }
}

impl Format for UnknownText {
    fn about(&self) -> &About {
        &UNKNOWN
    }

    fn claims(&self, _: &Subject<'_>) -> Claim {
        Claim::Certain
    }

    fn lines_belong_together(&self) -> bool {
        true
    }

    fn is_local(&self) -> bool {
        true
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[Sample::new("a.dat", "", "", "\n")];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        None
    }

    fn reader(&'static self, _: &str, _: Encoding) -> Box<dyn Reader> {
        Box::new(ByLines {
            usual: (Role::Prose, Hint::Code),
            remarks: true,
        })
    }
}

const PATTERNS: About = About {
    name: "folder-patterns",
    what: "patterns of what is passed over in a folder, or belongs to whom",
    content: "a name like .…ignore",
    names: &[".gitignore", ".gitattributes", "=codeowners"],
    read: "remarks",
    limits: "a pattern counts from the file's own folder, so it is kept",
};

impl Format for Patterns {
    fn about(&self) -> &About {
        &PATTERNS
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        // Every program that walks folders has such a list of its own.
        let name = subject.file_name;
        let passes_over = name.starts_with('.') && name.ends_with("ignore");
        Claim::certain_if(passes_over || PATTERNS.is_named(name))
    }

    fn lines_belong_together(&self) -> bool {
        true
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[Sample::new(".gitignore", "", "# ", "\n")];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn reader(&'static self, _: &str, _: Encoding) -> Box<dyn Reader> {
        Box::new(ByLines {
            usual: (Role::Foreign(Namespace::Tree), Hint::Code),
            remarks: true,
        })
    }
}

/// What begins a remark for people in most syntaxes, where a blank or nothing follows.
const REMARKS: [&str; 6] = ["#", "##", ";", ";;", "//", "--"];

/// Whether a line is a remark.
fn is_remark(line: &str) -> bool {
    let trimmed = line.trim();
    let word = trimmed.split([' ', '\t']).next().unwrap_or("");
    REMARKS.contains(&word)
}

/// A place that is percent-encoded as a whole has this alone.
const ENCODED: Letters = [b'%'; 3];

/// Reads a text as passages of what its lines are.
struct ByLines {
    /// What most lines are.
    usual: (Role, Hint),
    /// Whether some lines are remarks.
    remarks: bool,
}

impl Reader for ByLines {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let counts = Counts::of(text);
        let (mut start, mut before) = (0, self.usual);
        // Only where a place may be does it matter what a line is.
        for line in lines_with(text, &[OF_PLACES, ENCODED], [b'\n'; 3]) {
            let kind = if counts.cover(line.clone()) {
                (Role::Counted, self.usual.1)
            } else if self.remarks && is_remark(&text[line.clone()]) {
                (Role::Prose, Hint::Prose)
            } else {
                self.usual
            };
            if kind != before {
                emit(start..line.start, before, each);
                (start, before) = (line.start, kind);
            }
        }
        emit(start..text.len(), before, each);
        Grammar::Kept
    }

    fn whole_records(&self, text: &str, rest: u64) -> Option<Records> {
        let end = last_free_line(text, rest)?;
        Some(Records { end, count: 0 })
    }
}

/// Yields a passage that wears nothing, if there is any text in it.
fn emit(span: Range<usize>, (role, hint): (Role, Hint), each: &mut dyn FnMut(Passage<'_>)) {
    if span.is_empty() {
        return;
    }
    each(Passage {
        span,
        layers: &(Arc::new([]) as Layers),
        role,
        hint,
        site: &[],
    });
}

/// Reads a text as one passage.
struct Whole(Hint);

impl Reader for Whole {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        emit(0..text.len(), (Role::Prose, self.0), each);
        Grammar::Kept
    }
}
