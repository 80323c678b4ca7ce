//! What people are told of the formats.

use serde::Serialize;

use super::FORMATS;
use crate::container::{BINARY, CONTAINERS};
use crate::report::SCHEMA;

/// What is told of a format: how it is recognised, what of it is read, what is left.
#[derive(Clone, Copy, Debug, Serialize)]
pub struct About {
    /// Lower case with hyphens, unique among [`FORMATS`].
    pub name: &'static str,
    /// What documents of it are.
    pub what: &'static str,
    /// What in a document shows that it is of this format; empty if only its name does.
    pub content: &'static str,
    /// The ends of file names that show it, in lower case; a whole name stands behind `=`.
    pub names: &'static [&'static str],
    /// What is read and rewritten, in which escaping.
    pub read: &'static str,
    /// What of it is passed over, or read and left.
    pub limits: &'static str,
}

impl About {
    /// Whether a file of this name, in lower case, is said to be of this format.
    pub(super) fn is_named(&self, file_name: &str) -> bool {
        self.names.iter().any(|name| match name.strip_prefix('=') {
            Some(whole) => file_name == whole,
            None => file_name.ends_with(name),
        })
    }
}

/// What is read and rewritten.
#[derive(Debug, Serialize)]
pub struct FormatsReport {
    /// Version of this document.
    pub schema: u32,
    /// The question.
    pub command: &'static str,
    /// Every format, in the order in which they are tried.
    pub formats: Vec<About>,
    /// What holds documents or strings in a structure of its own, in the order in which they
    /// are tried; these come before the formats.
    pub containers: Vec<About>,
    /// What of the file system itself is read.
    pub links: &'static str,
    /// How places may be written, whatever the format.
    pub spellings: &'static str,
    /// What is read inside of strings, whatever the format.
    pub inside: &'static str,
    /// The encodings of text.
    pub encodings: &'static str,
    /// What is not seen without being asked for.
    pub limits: &'static str,
}

/// What is read and rewritten, from the table of formats.
pub fn formats() -> FormatsReport {
    FormatsReport {
        schema: SCHEMA,
        command: "formats",
        containers: CONTAINERS
            .iter()
            .chain([&BINARY])
            .map(|container| *container.about())
            .collect(),
        links: "symbolic links, and junctions on Windows, lead to a place like any other reference: they are listed, rewritten and restored, never followed; relative ones that lead nowhere are reported by `check`",
        formats: FORMATS.iter().map(|format| *format.about()).collect(),
        spellings: r"drives, shares and POSIX paths with either slash, doubled to any depth; \\?\, \\?\UNC\, \\.\ and \??\; administrative shares; file: URIs of every form; /mnt/d, /cygdrive/d, /d; %NAME%, $NAME, ${NAME}, $env:NAME, ~; lists with ; or :",
        inside: "command lines; JSON and XML documents; connection strings; file: URIs; paths percent-encoded in other URLs; strings that count their own length",
        encodings: "UTF-8, UTF-16 in either byte order, and the code pages of the WHATWG Encoding Standard, declared or named with --encoding",
        limits: r"a place whose ASCII letters are all written as escapes (\u0044) is found with --thorough only; text above --max-document is read as plain text, in pieces; anything else above it is named and left, as is what unpacks to more; text with a signature is sealed",
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_format_says_what_it_is() {
        let report = formats();
        for one in report.formats.into_iter().chain(report.containers) {
            assert!(!one.what.is_empty() && !one.read.is_empty(), "{}", one.name);
            let known = !one.content.is_empty() || !one.names.is_empty();
            assert!(known, "{} is known by nothing", one.name);
            for name in one.names {
                assert!(
                    one.is_named(&format!("x{name}")) != name.starts_with('='),
                    "{name}"
                );
                assert_eq!(*name, name.to_lowercase());
            }
        }
    }
}
