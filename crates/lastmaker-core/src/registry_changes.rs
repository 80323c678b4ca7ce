//! What a rewritten registry export changes, as two small exports: one that makes the change
//! and one that takes it back.
//!
//! Importing a whole rewritten export brings the new names and leaves the old ones behind. The
//! change file holds only the keys and values that are touched, and deletes renamed ones: keys
//! first, so that two names may swap. Header, encoding and line ends are those of the export.

use crate::layer::{ByteEdits, splice};
use crate::open::Reading;
use crate::text::{Encoding, Text};

/// The file that makes a change, and the one that takes it back.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ChangeFiles {
    /// Makes the change.
    pub changes: Vec<u8>,
    /// Takes it back.
    pub undo: Vec<u8>,
}

/// The format whose exports these are made of.
pub const EXPORT: &str = "registry-export";

/// The change files of the export `original` that `edits` rewrite; none if they cannot be told.
pub fn change_files(original: &[u8], edits: &ByteEdits, reading: Reading) -> Option<ChangeFiles> {
    let rewritten = splice(original, edits);
    let old = Text::open(original, reading.encoding)?;
    // What was ASCII may have gained its first letter outside.
    let new = Text::open(&rewritten, reading.encoding)?;
    let (before, after) = (blocks(&old.content)?, blocks(&new.content)?);
    if before.keys.len() != after.keys.len() {
        return None;
    }
    let line_end = if old.content.contains("\r\n") {
        "\r\n"
    } else {
        "\n"
    };
    let made = |from: &Blocks<'_>, to: &Blocks<'_>| {
        let text = difference(from, to, line_end)?;
        encode(&text, new.encoding, &rewritten[..new.mark])
    };
    Some(ChangeFiles {
        changes: made(&before, &after)?,
        undo: made(&after, &before)?,
    })
}

fn encode(text: &str, encoding: Encoding, mark: &[u8]) -> Option<Vec<u8>> {
    let encoding = match encoding {
        Encoding::Undecided => Encoding::WINDOWS_1252,
        known => known,
    };
    Some([mark, &encoding.encode(text).ok()?].concat())
}

/// A key and its values, each value by its name as it is written and by its lines as they are.
struct Key<'t> {
    name: &'t str,
    values: Vec<(&'t str, &'t str)>,
}

/// An export in pieces.
struct Blocks<'t> {
    header: &'t str,
    keys: Vec<Key<'t>>,
}

/// Takes an export apart; none if a line is neither a key, a value nor a comment.
fn blocks(text: &str) -> Option<Blocks<'_>> {
    let mut all = Blocks {
        header: text.lines().next()?.trim_end(),
        keys: Vec::new(),
    };
    let mut at = line_end(text, 0);
    while at < text.len() {
        let end = line_end(text, at);
        let line = text[at..end].trim_end();
        let start = at;
        at = end;
        match line.bytes().next() {
            None | Some(b';') => {}
            Some(b'[') => {
                let name = line.strip_prefix('[')?.strip_suffix(']')?;
                // What deletes something is no part of an export's state.
                if !name.starts_with('-') {
                    all.keys.push(Key {
                        name,
                        values: Vec::new(),
                    });
                }
            }
            Some(b'"' | b'@') => {
                let name_end = if line.starts_with('@') {
                    1
                } else {
                    1 + closing_quote(&line[1..])? + 1
                };
                let data = line[name_end..]
                    .trim_start()
                    .strip_prefix('=')?
                    .trim_start();
                if data == "-" {
                    continue;
                }
                if let Some(inside) = data.strip_prefix('"') {
                    let from = start + (line.len() - inside.len());
                    at = line_end(text, from + closing_quote(&text[from..])?);
                } else {
                    while at < text.len() && text[start..at].trim_end().ends_with('\\') {
                        at = line_end(text, at);
                    }
                }
                let key = all.keys.last_mut()?;
                key.values
                    .push((&line[..name_end], text[start..at].trim_end()));
            }
            Some(_) => return None,
        }
    }
    Some(all)
}

/// Where the line that `at` is in is over, with its line end.
fn line_end(text: &str, at: usize) -> usize {
    let rest = &text.as_bytes()[at..];
    memchr::memchr(b'\n', rest).map_or(text.len(), |length| at + length + 1)
}

/// Where the quote is that closes a string whose opening quote is before `text`.
fn closing_quote(text: &str) -> Option<usize> {
    let bytes = text.as_bytes();
    let mut at = 0;
    while at < bytes.len() {
        match bytes[at] {
            b'"' => return Some(at),
            b'\\' => at += 2,
            _ => at += 1,
        }
    }
    None
}

/// The export that makes `to` of `from`; none if they do not hold the same entries in the same
/// order.
fn difference(from: &Blocks<'_>, to: &Blocks<'_>, end: &str) -> Option<String> {
    let mut deleted: Vec<&str> = Vec::new();
    let mut touched = String::new();
    for (old, new) in from.keys.iter().zip(&to.keys) {
        if old.values.len() != new.values.len() {
            return None;
        }
        let mut lines: Vec<String> = Vec::new();
        if old.name == new.name {
            let changed = || old.values.iter().zip(&new.values).filter(|(a, b)| a != b);
            let renamed = changed().filter(|((a, _), (b, _))| a != b);
            lines.extend(renamed.map(|((name, _), _)| format!("{name}=-")));
            lines.extend(changed().map(|(_, (_, data))| (*data).to_owned()));
            if lines.is_empty() {
                continue;
            }
        } else {
            // A key goes with all that is under it.
            let gone = deleted.iter().any(|above| {
                old.name
                    .strip_prefix(above)
                    .is_some_and(|rest| rest.starts_with('\\'))
            });
            if !gone {
                deleted.push(old.name);
            }
            lines.extend(new.values.iter().map(|(_, data)| (*data).to_owned()));
        }
        touched.push_str(&format!("[{}]{end}", new.name));
        for line in lines {
            touched.push_str(&line);
            touched.push_str(end);
        }
        touched.push_str(end);
    }
    let mut text = format!("{}{end}{end}", to.header);
    for name in deleted {
        text.push_str(&format!("[-{name}]{end}{end}"));
    }
    text.push_str(&touched);
    Some(text)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::Edit;

    #[test]
    fn only_what_is_touched_and_old_names_go() {
        let old = "REGEDIT4\r\n\r\n[HKEY_CURRENT_USER\\Linden]\r\n\"a\"=\"D:\\\\Herbarium\\\\x\"\r\n\"b\"=\"D:\\\\Other\"\r\n\
            \"D:\\\\Herbarium\"=dword:00000001\r\n\r\n[HKEY_CURRENT_USER\\Linden\\D:/Herbarium]\r\n@=\"kept\"\r\n\r\n\
            [HKEY_CURRENT_USER\\Linden\\D:/Herbarium\\sub]\r\n\"hex\"=hex:00,\\\r\n  01\r\n\r\n[HKEY_CURRENT_USER\\Linden\\z]\r\n\r\n";
        let mut edits = Vec::new();
        for (from, to) in [
            ("D:\\\\Herbarium", "H:\\\\Herb"),
            ("D:/Herbarium", "H:/Herb"),
        ] {
            edits.extend(old.match_indices(from).map(|(at, _)| Edit {
                span: at..at + from.len(),
                with: to.as_bytes().to_vec(),
            }));
        }
        let files = change_files(
            old.as_bytes(),
            &ByteEdits::new(edits).unwrap(),
            Reading::default(),
        );
        let files = files.unwrap();
        let shown = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap().replace("\r\n", "\n");
        assert_eq!(
            shown(files.changes),
            "REGEDIT4\n\n[-HKEY_CURRENT_USER\\Linden\\D:/Herbarium]\n\n[HKEY_CURRENT_USER\\Linden]\n\"D:\\\\Herbarium\"=-\n\
             \"a\"=\"H:\\\\Herb\\\\x\"\n\"H:\\\\Herb\"=dword:00000001\n\n[HKEY_CURRENT_USER\\Linden\\H:/Herb]\n@=\"kept\"\n\n\
             [HKEY_CURRENT_USER\\Linden\\H:/Herb\\sub]\n\"hex\"=hex:00,\\\n  01\n\n"
        );
        assert_eq!(
            shown(files.undo),
            "REGEDIT4\n\n[-HKEY_CURRENT_USER\\Linden\\H:/Herb]\n\n[HKEY_CURRENT_USER\\Linden]\n\"H:\\\\Herb\"=-\n\
             \"a\"=\"D:\\\\Herbarium\\\\x\"\n\"D:\\\\Herbarium\"=dword:00000001\n\n[HKEY_CURRENT_USER\\Linden\\D:/Herbarium]\n@=\"kept\"\n\n\
             [HKEY_CURRENT_USER\\Linden\\D:/Herbarium\\sub]\n\"hex\"=hex:00,\\\n  01\n\n"
        );
    }

    #[test]
    fn what_is_no_export_has_no_change_files() {
        for text in [
            "",
            "REGEDIT4\n\"a\"=\"x\"\n",
            "REGEDIT4\n[a]\nstray\n",
            "REGEDIT4\n[a]\n\"b\"=\"open\n",
        ] {
            let files = change_files(text.as_bytes(), &ByteEdits::default(), Reading::default());
            assert_eq!(files, None, "{text:?}");
        }
    }
}
