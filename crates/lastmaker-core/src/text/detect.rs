//! Which encoding a file is in: by its mark, else by evidence.

use super::Encoding;

/// What was found at the start of a file, or all through it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Detected {
    /// The encoding.
    pub encoding: Encoding,
    /// Length of the byte-order mark in bytes.
    pub mark: usize,
}

/// How much of a file is looked at for signs of UTF-16 without a mark, in bytes.
const SAMPLE: usize = 64 * 1024;

/// Finds the encoding of `bytes`; none if they are not text.
///
/// `forced` is taken for eight-bit text without a mark; a mark, and the zeros of UTF-16, are
/// stronger evidence than anybody's word.
pub fn detect(bytes: &[u8], forced: Option<Encoding>) -> Option<Detected> {
    let marks: [(&[u8], Encoding); 3] = [
        (b"\xef\xbb\xbf", Encoding::Utf8),
        (b"\xff\xfe", Encoding::Utf16Le),
        (b"\xfe\xff", Encoding::Utf16Be),
    ];
    for (mark, encoding) in marks {
        if bytes.starts_with(mark) {
            // FF FE 00 00 is the mark of UTF-32, which no settings file uses.
            let utf32 = encoding == Encoding::Utf16Le && bytes[2..].starts_with(b"\0\0");
            let binary = encoding == Encoding::Utf8 && memchr::memchr(0, bytes).is_some();
            return (!utf32 && !binary).then_some(Detected {
                encoding,
                mark: mark.len(),
            });
        }
    }
    let unmarked = |encoding| Detected { encoding, mark: 0 };
    if memchr::memchr(0, bytes).is_some() {
        return utf16_by_evidence(&bytes[..bytes.len().min(SAMPLE)]).map(unmarked);
    }
    if let Some(forced) = forced {
        let wide = matches!(forced, Encoding::Utf16Le | Encoding::Utf16Be);
        if !wide {
            return Some(unmarked(forced));
        }
    }
    Some(unmarked(eight_bit(bytes)))
}

/// UTF-16 is told by ASCII letters with their zero on the same side all through.
fn utf16_by_evidence(sample: &[u8]) -> Option<Encoding> {
    let score = |encoding: Encoding| {
        let (mut ascii, mut bad, mut units) = (0usize, 0usize, 0usize);
        for pair in sample.chunks_exact(2) {
            let unit = match encoding {
                Encoding::Utf16Be => u16::from_be_bytes([pair[0], pair[1]]),
                _ => u16::from_le_bytes([pair[0], pair[1]]),
            };
            units += 1;
            match unit {
                9 | 10 | 13 | 0x20..0x7f => ascii += 1,
                0..0x20 | 0xfffe | 0xffff => bad += 1,
                _ => {}
            }
        }
        (bad * 50 <= units && ascii * 4 >= units && ascii > 0).then_some(ascii)
    };
    match (score(Encoding::Utf16Le), score(Encoding::Utf16Be)) {
        (Some(little), Some(big)) if big > little => Some(Encoding::Utf16Be),
        (Some(_), _) => Some(Encoding::Utf16Le),
        (None, Some(_)) => Some(Encoding::Utf16Be),
        (None, None) => None,
    }
}

/// ASCII, UTF-8, or the code page of Western Windows where the bytes are no UTF-8.
fn eight_bit(bytes: &[u8]) -> Encoding {
    if bytes.is_ascii() {
        return Encoding::Undecided;
    }
    let (mut letters, mut broken) = (0usize, 0usize);
    for chunk in bytes.utf8_chunks() {
        letters += chunk.valid().chars().filter(|c| !c.is_ascii()).count();
        broken += usize::from(!chunk.invalid().is_empty());
    }
    if letters > broken || broken == 0 {
        Encoding::Utf8
    } else {
        Encoding::WINDOWS_1252
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn encodings_by_mark_and_evidence() {
        let utf16 = |text: &str, big: bool| -> Vec<u8> {
            let encoding = if big {
                Encoding::Utf16Be
            } else {
                Encoding::Utf16Le
            };
            encoding.encode(text).unwrap()
        };
        let cases: Vec<(Vec<u8>, Option<(Encoding, usize)>)> = vec![
            (b"root=D:\\x".to_vec(), Some((Encoding::Undecided, 0))),
            (b"\xef\xbb\xbfroot".to_vec(), Some((Encoding::Utf8, 3))),
            ("gr\u{fc}n".into(), Some((Encoding::Utf8, 0))),
            (b"gr\xfcn".to_vec(), Some((Encoding::WINDOWS_1252, 0))),
            (
                "\u{fc}\u{f6}\u{e4}".bytes().chain([0xff]).collect(),
                Some((Encoding::Utf8, 0)),
            ),
            (
                utf16("\u{feff}root=D:\\x", false),
                Some((Encoding::Utf16Le, 2)),
            ),
            (
                utf16("\u{feff}root=D:\\x", true),
                Some((Encoding::Utf16Be, 2)),
            ),
            (utf16("root=D:\\x\r\n", false), Some((Encoding::Utf16Le, 0))),
            (utf16("root=D:\\x\r\n", true), Some((Encoding::Utf16Be, 0))),
            (b"PK\x03\x04\0\0\0\x08\0\x01\x02\x03".to_vec(), None),
            (b"\xff\xfe\0\0a\0\0\0".to_vec(), None),
            (Vec::new(), Some((Encoding::Undecided, 0))),
        ];
        for (bytes, expected) in cases {
            let got = detect(&bytes, None).map(|d| (d.encoding, d.mark));
            assert_eq!(got, expected, "{bytes:?}");
        }
    }

    #[test]
    fn a_mark_outweighs_what_is_said() {
        let said = Encoding::for_label("cp866");
        assert!(said.is_some());
        assert_eq!(detect(b"gr\x81n", said).map(|d| d.encoding), said);
        assert_eq!(
            detect(b"\xef\xbb\xbfx", said).unwrap().encoding,
            Encoding::Utf8
        );
    }
}
