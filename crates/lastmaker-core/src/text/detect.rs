//! Which encoding a file is in: by its mark, else by evidence.

use chardetng::{EncodingDetector, Iso2022JpDetection, Utf8Detection};

use super::{DOS_PAGES, Encoding};

/// What was found at the start of a file, or all through it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Detected {
    /// The encoding.
    pub encoding: Encoding,
    /// Length of the byte-order mark in bytes.
    pub mark: usize,
    /// Whether that is beyond doubt: by a mark, by what somebody says, by its own grammar, or by many
    /// letters.
    pub sure: bool,
}

impl Detected {
    /// The same; `likely` is taken for eight-bit text where its bytes alone leave it open, and nobody says it.
    pub(crate) fn or_likely(self, said: Option<Encoding>, likely: Option<Encoding>) -> Self {
        let open = self.encoding.is_code_page() && said.is_none();
        Self {
            encoding: likely.filter(|_| open).unwrap_or(self.encoding),
            ..self
        }
    }
}

impl Detected {
    /// Whether a text of which this was found out is read as one was of which `old` was; `ascii` says whether it is
    /// ASCII throughout.
    pub(crate) fn reads_as(&self, old: &Self, ascii: bool) -> bool {
        let same = self.encoding == old.encoding
            // A letter that was the first outside ASCII settles what was open before.
            || (old.encoding == Encoding::Undecided && self.encoding == Encoding::Utf8)
            // One that was the last leaves bytes that every code page reads alike.
            || (old.encoding.is_code_page() && ascii);
        same && self.mark == old.mark
    }
}

/// How much of a file is looked at for signs of UTF-16 without a mark, in bytes.
pub(crate) const SAMPLE: usize = 64 * 1024;

/// Finds the encoding of `bytes`; none if they are not text.
///
/// `forced` is taken for eight-bit text without a mark; a mark, and the zeros of UTF-16, are
/// stronger evidence than anybody's word.
pub fn detect(bytes: &[u8], forced: Option<Encoding>) -> Option<Detected> {
    let shown = || {
        let mut shown = Shown::default();
        shown.add(bytes);
        shown
    };
    detect_by(bytes, forced, shown)
}

/// The same for a text of which `head` is the start, [`SAMPLE`] bytes at least unless it is shorter; `shown` is
/// what all of it shows.
pub(crate) fn detect_by(
    head: &[u8],
    forced: Option<Encoding>,
    shown: impl FnOnce() -> Shown,
) -> Option<Detected> {
    let marks: [(&[u8], Encoding); 3] = [
        (b"\xef\xbb\xbf", Encoding::Utf8),
        (b"\xff\xfe", Encoding::Utf16Le),
        (b"\xfe\xff", Encoding::Utf16Be),
    ];
    for (mark, encoding) in marks {
        if head.starts_with(mark) {
            // FF FE 00 00 is the mark of UTF-32, which no settings file uses.
            let utf32 = encoding == Encoding::Utf16Le && head[2..].starts_with(b"\0\0");
            let binary = encoding == Encoding::Utf8 && shown().zero;
            return (!utf32 && !binary).then_some(Detected {
                encoding,
                mark: mark.len(),
                sure: true,
            });
        }
    }
    let unmarked = |encoding| Detected {
        encoding,
        mark: 0,
        sure: true,
    };
    let shown = shown();
    let sample = &head[..head.len().min(SAMPLE)];
    if shown.zero {
        return utf16_by_evidence(sample).map(unmarked);
    }
    if let Some(forced) = forced {
        let wide = matches!(forced, Encoding::Utf16Le | Encoding::Utf16Be);
        if !wide {
            return Some(unmarked(forced));
        }
    }
    let (encoding, sure) = shown.eight_bit(sample);
    Some(Detected {
        sure,
        ..unmarked(encoding)
    })
}

/// What the bytes of a text show, piece by piece.
#[derive(Clone, Debug, Default)]
pub(crate) struct Shown {
    /// Whether one of them is zero.
    zero: bool,
    /// Letters beyond ASCII in UTF-8.
    letters: usize,
    /// Places that are no UTF-8.
    broken: usize,
    /// The start of a letter at the end of the last piece.
    begun: Vec<u8>,
}

impl Shown {
    /// Whether every byte is one of ASCII.
    pub(crate) fn is_ascii(&self) -> bool {
        self.letters == 0 && self.broken == 0 && self.begun.is_empty()
    }

    /// Adds the next piece.
    pub(crate) fn add(&mut self, piece: &[u8]) {
        self.zero = self.zero || memchr::memchr(0, piece).is_some();
        if self.begun.is_empty() {
            return self.add_letters(piece);
        }
        let mut joined = std::mem::take(&mut self.begun);
        joined.extend_from_slice(piece);
        self.add_letters(&joined);
    }

    fn add_letters(&mut self, bytes: &[u8]) {
        if bytes.is_ascii() {
            return;
        }
        let mut rest = bytes;
        loop {
            let error = match std::str::from_utf8(rest) {
                Ok(text) => return self.letters += beyond_ascii(text.as_bytes()),
                Err(error) => error,
            };
            let (valid, behind) = rest.split_at(error.valid_up_to());
            self.letters += beyond_ascii(valid);
            match error.error_len() {
                Some(length) => {
                    self.broken += 1;
                    rest = &behind[length..];
                }
                None => {
                    self.begun = behind.to_vec();
                    return;
                }
            }
        }
    }

    /// ASCII, UTF-8, or the code page that the letters beyond ASCII speak for, and whether that is beyond
    /// doubt; `sample` is how the text begins.
    fn eight_bit(&self, sample: &[u8]) -> (Encoding, bool) {
        let broken = self.broken + usize::from(!self.begun.is_empty());
        if self.is_ascii() {
            return (Encoding::Undecided, true);
        }
        if self.letters > broken || broken == 0 {
            return (Encoding::Utf8, true);
        }
        let mut detector = EncodingDetector::new(Iso2022JpDetection::Deny);
        detector.feed(sample, true);
        let page = detector.guess(None, Utf8Detection::Deny);
        let beyond = sample.iter().filter(|byte| !byte.is_ascii()).count();
        (Encoding::CodePage(page), beyond >= TELLING)
    }
}

/// How many letters beyond ASCII there are in UTF-8.
fn beyond_ascii(text: &[u8]) -> usize {
    text.iter().filter(|byte| **byte >= 0xc0).count()
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

/// So many letters beyond ASCII tell a code page; fewer leave it open.
const TELLING: usize = 16;

/// The encodings in which programs write eight-bit text, the commonest first.
fn pages() -> impl Iterator<Item = Encoding> {
    const LABELS: [&str; 25] = [
        "windows-1252",
        "windows-1250",
        "windows-1251",
        "windows-1253",
        "windows-1254",
        "windows-1255",
        "windows-1256",
        "windows-1257",
        "windows-1258",
        "shift_jis",
        "gb18030",
        "big5",
        "euc-kr",
        "euc-jp",
        "koi8-r",
        "koi8-u",
        "ibm866",
        "iso-8859-2",
        "iso-8859-5",
        "iso-8859-7",
        "iso-8859-15",
        "iso-8859-4",
        "iso-8859-3",
        "iso-8859-13",
        "windows-874",
    ];
    let standard = LABELS.iter().filter_map(|label| Encoding::for_label(label));
    standard.chain(DOS_PAGES.iter().map(Encoding::Dos))
}

/// The encoding in which eight-bit text, which by its bytes alone is in `found`, holds one of `names`, each with
/// a letter beyond ASCII: what the bytes leave open, they settle. `pieces` gives the text from its start, piece
/// by piece; where it fails, so does this.
///
/// # Errors
/// As `pieces` does.
pub fn encoding_of_names<'n, E>(
    found: Encoding,
    names: impl Iterator<Item = &'n str>,
    pieces: impl FnOnce(&mut dyn FnMut(&[u8])) -> Result<(), E>,
) -> Result<Option<Encoding>, E> {
    let names: Vec<&str> = names.filter(|name| !name.is_ascii()).collect();
    if !found.is_code_page() || names.is_empty() {
        return Ok(None);
    }
    let encoded = |encoding: Encoding| {
        let encoded = names
            .iter()
            .filter_map(move |name| encoding.encode(name).ok());
        encoded.map(|name| memchr::memmem::Finder::new(&name).into_owned())
    };
    let wanted: Vec<(Encoding, Vec<_>)> = std::iter::once(found)
        .chain(pages())
        .map(|encoding| (encoding, encoded(encoding).collect()))
        .collect();
    let longest = wanted.iter().flat_map(|(_, names)| names);
    let longest = longest.map(|name| name.needle().len()).max().unwrap_or(0);
    let mut holds = vec![false; wanted.len()];
    let mut before: Vec<u8> = Vec::new();
    pieces(&mut |piece| {
        // A name may lie across two pieces.
        let joined = [&before[..], &piece[..piece.len().min(longest)]].concat();
        for ((_, names), holds) in wanted.iter().zip(&mut holds) {
            let held = |name: &memchr::memmem::Finder<'_>| {
                name.find(piece).is_some() || (!before.is_empty() && name.find(&joined).is_some())
            };
            *holds = *holds || names.iter().any(held);
        }
        let kept = piece.len().min(longest);
        before = piece[piece.len() - kept..].to_vec();
    })?;
    let mut held = wanted.into_iter().zip(holds).filter(|(_, holds)| *holds);
    Ok(held.next().map(|((encoding, _), _)| encoding))
}

impl Encoding {
    /// Whether `letter` is written alike in every code page in which `stood` has the bytes that it has
    /// in this one and that have the letter: then it does not matter which of them it is.
    pub fn is_settled_by(self, stood: &str, letter: char) -> bool {
        if letter.is_ascii() || stood.contains(letter) {
            return true;
        }
        let mut room = [0; 4];
        let letter = letter.encode_utf8(&mut room);
        let known: String = stood.chars().filter(|c| !c.is_ascii()).collect();
        let (bytes, written) = (self.encode(&known), self.encode(letter));
        pages()
            .filter(|page| page.encode(&known) == bytes)
            .filter_map(|page| page.encode(letter).ok())
            .all(|bytes| Ok(bytes) == written)
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

    proptest::proptest! {
        /// However a text is cut into pieces, it shows the same.
        #[test]
        fn pieces_show_what_the_whole_does(
            parts in proptest::collection::vec(proptest::prop_oneof![
                proptest::prelude::Just(b"ab".to_vec()),
                proptest::prelude::Just("\u{e9}\u{6a19}\u{1f33f}".as_bytes().to_vec()),
                proptest::collection::vec(proptest::num::u8::ANY, 0..4),
            ], 0..6),
            size in 1usize..7,
        ) {
            let bytes = parts.concat();
            let mut pieces = Shown::default();
            bytes.chunks(size).for_each(|piece| pieces.add(piece));
            proptest::prop_assert_eq!(detect_by(&bytes, None, || pieces), detect(&bytes, None));
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
