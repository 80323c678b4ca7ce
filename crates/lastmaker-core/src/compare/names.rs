//! Names that a file system changed when they came to it.

use std::ffi::OsStr;

use crate::place::fold;

/// What names have in common that differ only by what file systems do to them: letter case,
/// composition, letters that they do not allow, blanks and dots at the end.
pub(super) fn likeness(name: &OsStr) -> String {
    let name = name.to_string_lossy();
    let allowed = |letter: char| match letter {
        '<' | '>' | ':' | '"' | '/' | '\\' | '|' | '?' | '*' => '_',
        letter if letter.is_control() => '_',
        // Some systems keep letters that are not allowed as these.
        '\u{f001}'..='\u{f0ff}' | '\u{fffd}' => '_',
        letter => letter,
    };
    let written: String = name.chars().map(allowed).collect();
    let kept = written.trim_end_matches(['.', ' ']);
    // All that is left of a name of dots and blanks alone are those.
    fold(if kept.is_empty() { &written } else { kept })
}

/// In which way two like names differ.
pub(super) fn difference(old: &OsStr, new: &OsStr) -> &'static str {
    let (old, new) = (old.to_string_lossy(), new.to_string_lossy());
    if old.to_lowercase() == new.to_lowercase() {
        return "its letters are in another case";
    }
    if fold(&old) == fold(&new) {
        return "its accents are composed in another way";
    }
    "letters that the new file system does not allow were changed"
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_file_systems_do_to_names() {
        let same = [
            ("Map.TXT", "MAP.txt"),
            ("Gr\u{f6}n.tif", "Gro\u{308}n.tif"),
            ("a:b?.txt", "a_b_.txt"),
            ("a:b", "a\u{f022}b"),
            ("sheet. ", "sheet"),
        ];
        for (old, new) in same {
            assert_eq!(
                likeness(OsStr::new(old)),
                likeness(OsStr::new(new)),
                "{old} {new}"
            );
        }
        for (old, new) in [("a.txt", "b.txt"), ("a-b", "a_b"), ("...", "..")] {
            assert_ne!(
                likeness(OsStr::new(old)),
                likeness(OsStr::new(new)),
                "{old} {new}"
            );
        }
        let told = [
            ("A", "a", "case"),
            ("\u{f6}", "o\u{308}", "composed"),
            ("a?", "a_", "allow"),
        ];
        for (old, new, word) in told {
            let said = difference(OsStr::new(old), OsStr::new(new));
            assert!(said.contains(word), "{said}");
        }
    }
}
