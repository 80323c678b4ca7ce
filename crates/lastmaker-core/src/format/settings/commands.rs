//! Values that are words: the commands and lists of service units (systemd.service(5),
//! systemd.exec(5)) and the commands of desktop entries.

use std::ops::Range;

use super::walk::Walk;
use crate::codec::UnitName;
use crate::format::Role;
use crate::layer::{Layers, alone};
use crate::scan::Hint;

/// Keys of service units whose values blanks part, some of them in quotes.
const UNIT_LISTS: [&str; 14] = [
    "Environment",
    "RequiresMountsFor",
    "ReadWritePaths",
    "ReadOnlyPaths",
    "InaccessiblePaths",
    "ExecPaths",
    "NoExecPaths",
    "BindPaths",
    "BindReadOnlyPaths",
    "TemporaryFileSystem",
    "MountImages",
    "ExtensionDirectories",
    "SupplementaryGroups",
    "Documentation",
];

/// Lists of which `Exec` is the beginning and that are no commands.
const NO_COMMANDS: [&str; 2] = ["ExecPaths", "ExecSearchPath"];

/// Keys of service units whose values are names of units.
const UNIT_NAMES: [&str; 12] = [
    "After",
    "Before",
    "BindsTo",
    "Conflicts",
    "PartOf",
    "RequiredBy",
    "Requires",
    "Requisite",
    "Upholds",
    "WantedBy",
    "Wants",
    "Also",
];

/// What comes before a path that is a value's last part: `file:/x`, `name:/x`.
const BEHIND_COLON: [&str; 6] = [
    "StandardInput",
    "StandardOutput",
    "StandardError",
    "LoadCredential",
    "LoadCredentialEncrypted",
    "ImportCredential",
];

impl Walk<'_, '_> {
    /// The value of `key` of a service unit.
    pub(super) fn unit_value(&mut self, span: Range<usize>, key: &str) {
        let raw = &self.cursor.text[span.clone()];
        if key.starts_with("Exec") && !NO_COMMANDS.contains(&key) {
            // Signs before a program say how it is run.
            let signs = raw.len() - raw.trim_start_matches(['@', '-', ':', '+', '!', '|']).len();
            let start = span.start + signs;
            let program = words(raw.get(signs..).unwrap_or("")).into_iter().next();
            let end = program.map_or(start, |program| start + program.end);
            let (first, rest) = (
                self.wear.unit_program.clone(),
                self.wear.unit_command.clone(),
            );
            self.command_words(start..end, key, &first);
            return self.command_words(end..span.end, key, &rest);
        }
        if UNIT_LISTS.contains(&key) {
            let worn = self.wear.unit_word.clone();
            return self.command_words(span, key, &worn);
        }
        if UNIT_NAMES.contains(&key) {
            let name = alone(UnitName);
            for word in words(raw) {
                if raw[word.clone()].ends_with("mount") {
                    let word = span.start + word.start..span.start + word.end;
                    self.emit(word, &name, Role::Value, Hint::Name, Some(key));
                }
            }
            return;
        }
        let worn = self.wear.unit_path.clone();
        let before = if BEHIND_COLON.contains(&key) {
            raw.find(':').map_or(0, |colon| colon + 1)
        } else {
            raw.len() - raw.trim_start_matches(['-', '+', '~']).len()
        };
        self.emit(
            span.start + before..span.end,
            &worn,
            Role::Value,
            Hint::Name,
            Some(key),
        );
    }

    /// The words of a value, each with its quotes.
    pub(super) fn command_words(&mut self, span: Range<usize>, key: &str, worn: &Layers) {
        let mut script = false;
        for word in words(&self.cursor.text[span.clone()]) {
            let word = span.start + word.start..span.start + word.end;
            let text = &self.cursor.text[word.clone()];
            let hint = if std::mem::replace(&mut script, text == "-c") {
                Hint::Script
            } else {
                Hint::Word
            };
            self.emit(word, worn, Role::Value, hint, Some(key));
        }
    }
}

/// Words that blanks part, and line ends that a backslash joins; quotes hold blanks.
fn words(text: &str) -> Vec<Range<usize>> {
    let bytes = text.as_bytes();
    let mut all = Vec::new();
    let (mut start, mut quote) = (None, None);
    let mut at = 0;
    while at < bytes.len() {
        let byte = bytes[at];
        let joined = byte == b'\\' && matches!(bytes.get(at + 1), Some(b'\n' | b'\r'));
        if quote.is_none() && (byte.is_ascii_whitespace() || joined) {
            all.extend(start.take().map(|start| start..at));
            at += if joined { 2 } else { 1 };
            continue;
        }
        start.get_or_insert(at);
        match quote {
            Some(open) if byte == open => quote = None,
            None if matches!(byte, b'"' | b'\'') => quote = Some(byte),
            _ => {}
        }
        at += if byte == b'\\' { 2 } else { 1 };
    }
    all.extend(start.map(|start| start..bytes.len()));
    all.retain(|word| text.get(word.clone()).is_some());
    all
}

#[cfg(test)]
mod tests {
    use super::words;

    #[test]
    fn words_are_parted_at_blanks_outside_of_quotes() {
        let cases: [(&str, &[&str]); 5] = [
            ("/a 'b c' \"d e\"", &["/a", "'b c'", "\"d e\""]),
            ("/a \\\n  /b", &["/a", "/b"]),
            ("a=\"b c\" d", &["a=\"b c\"", "d"]),
            ("a\\ b", &["a\\ b"]),
            ("'a", &["'a"]),
        ];
        for (text, expected) in cases {
            let got: Vec<&str> = words(text).into_iter().map(|word| &text[word]).collect();
            assert_eq!(got, expected, "{text}");
        }
    }
}
