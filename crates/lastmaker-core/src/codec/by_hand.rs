//! Paths that somebody typed into a string without doubling the backslashes.

/// Whether the raw text of a string, in a syntax where a backslash is an escape, evidently
/// holds a path with single backslashes.
///
/// A drive counts if one backslash, not two, follows its colon and no four hex digits make
/// it a letter's escape; a share if two backslashes begin the string and one follows the
/// server.
pub fn typed_by_hand(raw: &str) -> bool {
    let bytes = raw.as_bytes();
    let single = |at: usize| bytes.get(at) == Some(&b'\\') && bytes.get(at + 1) != Some(&b'\\');
    for colon in memchr::memchr_iter(b':', bytes) {
        let Some(letter) = colon.checked_sub(1) else {
            continue;
        };
        if !bytes[letter].is_ascii_alphabetic() {
            continue;
        }
        let free = raw[..letter]
            .chars()
            .next_back()
            .is_none_or(|c| !c.is_alphanumeric() && c != '_' && c != '\\' && c != '/');
        if free && single(colon + 1) {
            let next = bytes.get(colon + 2).copied().unwrap_or(b'"');
            let escape = next == b'u'
                && bytes
                    .get(colon + 3..colon + 7)
                    .is_some_and(|h| h.iter().all(u8::is_ascii_hexdigit));
            if next.is_ascii_alphanumeric() && !escape && is_name(&raw[colon + 2..]) {
                return true;
            }
        }
    }
    let Some(server) = raw.strip_prefix(r"\\") else {
        return false;
    };
    let name = server
        .find(|c: char| !(c.is_alphanumeric() || "-_.".contains(c)))
        .unwrap_or(server.len());
    let share = bytes
        .get(2 + name + 1)
        .is_some_and(u8::is_ascii_alphanumeric);
    name > 0 && single(2 + name) && share
}

/// Whether what follows a drive's backslash is a name, not an escape and a sentence: `\tshow all`,
/// `\n`.
fn is_name(rest: &str) -> bool {
    if !rest.starts_with(['n', 't', 'r', 'b', 'f', 'v', 'a', '0']) {
        return true;
    }
    let end = rest.find(['\\', '/']).unwrap_or(rest.len());
    let name = &rest[..end];
    let alone = name.len() == 1 && !rest[end..].starts_with('\\');
    !alone && !name.contains(char::is_whitespace)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn single_backslashes_are_evidence() {
        let cases = [
            (r"D:\new", true),
            (r"D:\Herbarium\2019", true),
            (r"--data=D:\temp", true),
            (r"\\mossbank\press", true),
            (r"D:\\new", false),
            (r"D:\u0041bc", false),
            (r"D:\unit", true),
            (r"\\\\mossbank\\press", false),
            (r"\\server", false),
            ("D:/new", false),
            (r"Note:\n more", false),
            (r"D:\tshow all folders", false),
            (r"{ a:\n//   [ 1", false),
            ("12:\\30", false),
            ("\u{e9}D:\\new", false),
        ];
        for (raw, expected) in cases {
            assert_eq!(typed_by_hand(raw), expected, "{raw}");
        }
    }
}
