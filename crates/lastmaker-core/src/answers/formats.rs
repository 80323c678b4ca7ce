//! What is read and rewritten.

use crate::container::{BINARY, CONTAINERS};
use crate::format::FORMATS;
use crate::report::FormatsReport;

/// What is read and rewritten, from the table of formats.
pub fn formats() -> FormatsReport {
    FormatsReport {
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

/// The names of all that is read, as `--kind` takes them.
pub fn format_names(formats: &FormatsReport) -> Vec<&'static str> {
    let all = formats.formats.iter().chain(&formats.containers);
    all.map(|one| one.name).chain([crate::open::LINK]).collect()
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
