//! What is around a sign, in any spelling: whether the name ends there as a name may, and whether the
//! folder or root that it lies in stands before it.
//!
//! A word of a file is no name of the old place if letters go on right behind it, or if what stands
//! before it is something else than the name above. Separators may be written raw, doubled, as escapes
//! (`\u005c`, `%5C`, `&#92;`, `\134`), in quotes, or with tags between; that is all passed over. Where
//! there is any doubt the file is read.

/// How many letters before a sign are looked at; what stands further off decides nothing.
pub(super) const REACH: usize = 96;

use super::drives::{FAR, NEAR};

/// A letter that is none of ASCII.
const OTHER: u8 = 0x80;

/// What must be around a sign.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Around {
    /// What stands before it.
    pub(super) before: Before,
    /// What follows it.
    pub(super) after: After,
}

/// What follows a sign.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum After {
    /// That does not matter.
    Anything,
    /// What may follow a name.
    NameEnds,
    /// This letter of a drive, as the name of a folder: `mnt/d`.
    DriveFolder(u8),
    /// This letter by itself, not far off: `drive = D`.
    LoneLetter(u8),
}

/// What stands before a sign.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Before {
    /// That does not matter.
    Anything,
    /// A separator, and before that no letter.
    Root,
    /// A separator, and the drive's letter.
    Drive(u8),
    /// A separator, and these letters and digits, in lower case, at the end of the name above.
    Name(Vec<u8>),
}

impl Around {
    /// What may be around a sign of which nothing is known.
    pub(super) fn anything() -> Self {
        Self {
            before: Before::Anything,
            after: After::Anything,
        }
    }

    /// Whether the sign at `first`, which ends before `end`, may name the old place.
    pub(super) fn fits(&self, bytes: &[u8], first: usize, end: usize, wide: bool) -> bool {
        if self.before == Before::Anything && self.after != After::NameEnds {
            return self.after.follows(bytes, end, wide);
        }
        // A word of running text, as most are that are no name of the place.
        let behind_word = matches!(bytes[..first], [.., word, b' '] if !word.is_ascii_whitespace());
        if behind_word && !wide && self.before != Before::Anything {
            return false;
        }
        let mut letters = [0; REACH];
        let before = Letters::before(bytes, first, wide, &mut letters);
        // A string that is preceded by its length may be followed by anything.
        let mut pairs = before.known.windows(2);
        let mut counted = || pairs.any(|two| two[0].is_ascii_digit() && two[1] == b':');
        (self.after.follows(bytes, end, wide) || counted())
            && (self.before == Before::Anything || self.before.stands_in(before))
    }
}

impl After {
    /// Whether this follows at `end`.
    fn follows(self, bytes: &[u8], end: usize, wide: bool) -> bool {
        let letter = |at: usize| letter_at(bytes, end, at, wide);
        let is_part =
            |at: Option<u8>| at.is_some_and(|it| it.is_ascii_alphanumeric() || it == b'_');
        let is =
            |at: usize, wanted: u8| letter(at).is_some_and(|it| it.eq_ignore_ascii_case(&wanted));
        match self {
            Self::Anything => true,
            Self::NameEnds => !is_part(letter(0)),
            Self::DriveFolder(drive) => {
                (1..NEAR).any(|at| is(at, drive) && !is_part(letter(at + 1)))
            }
            Self::LoneLetter(drive) if !wide => {
                let near = &bytes[end.min(bytes.len())..bytes.len().min(end + FAR)];
                let mut found = memchr::memchr2_iter(drive, drive.to_ascii_uppercase(), near);
                found.any(|at| {
                    at > 0 && !is_part(near.get(at - 1).copied()) && !is_part(letter(at + 1))
                })
            }
            Self::LoneLetter(drive) => (1..FAR)
                .any(|at| is(at, drive) && !is_part(letter(at - 1)) && !is_part(letter(at + 1))),
        }
    }
}

/// The letters before a sign.
#[derive(Clone, Copy)]
struct Letters<'a> {
    known: &'a [u8],
    /// Whether there are no others before these.
    whole: bool,
}

impl<'a> Letters<'a> {
    fn before(bytes: &[u8], first: usize, wide: bool, letters: &'a mut [u8; REACH]) -> Self {
        let count = if !wide {
            first.min(REACH)
        } else {
            (first / 2).min(REACH)
        };
        let room = &mut letters[REACH - count..];
        if !wide {
            room.copy_from_slice(&bytes[first - count..first]);
        } else {
            let start = first - 2 * count;
            let places = (start..first).step_by(2);
            for (letter, at) in room.iter_mut().zip(places) {
                *letter = wide_letter(bytes, at);
            }
        }
        room.make_ascii_lowercase();
        Self {
            known: &letters[REACH - count..],
            whole: count < REACH,
        }
    }
}

/// The letter of UTF-16 at a byte that is the one of a letter of ASCII, whatever the byte order; with a
/// doubt it is another one.
fn wide_letter(bytes: &[u8], at: usize) -> u8 {
    let is_zero = |at: Option<usize>| at.is_none_or(|at| bytes.get(at).is_none_or(|b| *b == 0));
    if is_zero(at.checked_sub(1)) && is_zero(Some(at + 1)) {
        bytes[at]
    } else {
        OTHER
    }
}

/// The letter that comes so many after `end`; none where the bytes end.
fn letter_at(bytes: &[u8], end: usize, number: usize, wide: bool) -> Option<u8> {
    if !wide {
        bytes.get(end + number).copied()
    } else {
        let at = end + 2 * number;
        (at < bytes.len()).then(|| wide_letter(bytes, at))
    }
}

impl Before {
    /// Whether this stands at the end of `letters`, separators and escapes between.
    fn stands_in(&self, letters: Letters<'_>) -> bool {
        let before = letters.known;
        let mut end = before.len();
        // Whether a separator has been passed, and whether names may be passed over: after dots.
        let (mut parted, mut free) = (false, false);
        while end > 0 {
            let letter = before[end - 1];
            match letter {
                _ if letter >= OTHER => return true,
                b'0'..=b'9' | b'a'..=b'z' | b'_' => {
                    let start = run_start(before, end);
                    let run = &before[start..end];
                    let escape = is_escape(before, start, run, letters.whole);
                    if escape && *self == Self::Root {
                        return true;
                    }
                    if (parted || escape) && self.is_run(before, start, run) {
                        return true;
                    }
                    if !escape && !free {
                        return false;
                    }
                    parted = true;
                    end = start;
                }
                b'>' => match before[..end].iter().rposition(|b| *b == b'<') {
                    Some(open) => end = open,
                    None => return true,
                },
                b'.' => {
                    free = true;
                    end -= 1;
                }
                b' ' | b'\t' | b'\n' | b'\r' if !parted || free => {
                    let blank = before[..end].iter().rev();
                    let run = blank.take_while(|b| b.is_ascii_whitespace()).count();
                    let lines = before[end - run..end].contains(&b'\n');
                    let joined = end > run && b"\\^`=".contains(&before[end - run - 1]);
                    if !(lines && joined) {
                        return run == before.len() && !letters.whole;
                    }
                    end -= run;
                }
                b'/' | b'\\' | b':' | b'|' | b'$' | b'-' | b'%' | b'}' | b';' => {
                    parted = true;
                    end -= 1;
                    if *self == Self::Root && matches!(letter, b'/' | b'-') {
                        return is_root(&before[..end], letters.whole);
                    }
                }
                _ => end -= 1,
            }
        }
        // What stands before all that is out of reach.
        !letters.whole
    }

    /// Whether a run of letters and digits is what is looked for, an escape right before it left aside.
    fn is_run(&self, before: &[u8], start: usize, run: &[u8]) -> bool {
        let tail: &[u8] = match self {
            Self::Drive(letter) => std::slice::from_ref(letter),
            Self::Name(name) => name,
            Self::Root | Self::Anything => return false,
        };
        run.ends_with(tail)
            && (run.len() == tail.len()
                || super::may_begin(&before[..start + run.len() - tail.len()]))
    }
}

/// Whether a root may end before a separator: no name stands there, or what looks like one is an escape.
fn is_root(before: &[u8], whole: bool) -> bool {
    match before.last() {
        None => true,
        Some(b'0'..=b'9' | b'a'..=b'z' | b'_') => {
            let start = run_start(before, before.len());
            is_escape(before, start, &before[start..], whole)
        }
        Some(_) => true,
    }
}

fn run_start(before: &[u8], end: usize) -> usize {
    let inside = |b: &&u8| b.is_ascii_alphanumeric() || **b == b'_';
    end - before[..end].iter().rev().take_while(inside).count()
}

/// Whether a run is what stands for a letter in an escape: `u005c`, `5c`, `255c`, `134`, `quot`.
fn is_escape(before: &[u8], start: usize, run: &[u8], whole: bool) -> bool {
    const LONGEST: usize = 8;
    let sign = start.checked_sub(1).map(|at| before[at]);
    let led = matches!(
        sign,
        Some(b'\\' | b'%' | b'&' | b'#' | b'=' | b'\'' | b'{' | b'+')
    );
    run.len() <= LONGEST && (led || (start == 0 && !whole))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text::Encoding;

    #[test]
    fn what_stands_before_and_behind() {
        let drive = Around {
            before: Before::Drive(b'd'),
            after: After::NameEnds,
        };
        let name = Around {
            before: Before::Name(b"files".to_vec()),
            after: After::NameEnds,
        };
        let root = Around {
            before: Before::Root,
            after: After::NameEnds,
        };
        let cases: [(&Around, &str, bool); 46] = [
            (&drive, r"D:\|data|\x", true),
            (&drive, r"D:\\\\|data|\\\\x", true),
            (&drive, "d:/|data|", true),
            (&drive, "D|/|data|", true),
            (&drive, r"\\host\D$\|data|", true),
            (&drive, "/mnt/d/|data|", true),
            (&drive, "D%3A%5C|data|%5Cx", true),
            (&drive, "D%253a%255c|data|", true),
            (&drive, "D&#58;&#92;|data|", true),
            (&drive, r"D\u003a\u005c|data|", true),
            (&drive, r"D\072\134|data|", true),
            (&drive, r"D\:\\|data|", true),
            (&drive, r"\nD:\|data|", true),
            (&drive, r"-ID:\|data|", true),
            (&drive, r#"D:"\|data|""#, true),
            (&drive, r"D:\<b>|data|</b>", true),
            (&drive, r"D:\x\..\|data|", true),
            (&drive, "\"D:\\\\\\\r\n  |data|\"", true),
            (&drive, "12:D:\\|data|4:x", true),
            (&drive, r"D:\|data|Old", false),
            (&drive, r"D:\|data|2", false),
            (&drive, r"D:\|data|_x", false),
            (&drive, r"D:\|data|-x", true),
            (&drive, r"C:\|data|", false),
            (&drive, r"grid:\|data|", false),
            (&drive, r#"{"|data|": 1"#, false),
            (&drive, "the |data| is", false),
            (&drive, "https://x.org/|data|/y", false),
            (&drive, "my|data|", false),
            (&drive, "<a>|data|</a>", false),
            (&drive, "../|data|", false),
            (&name, r"C:\Program Files\|data|", true),
            (&name, r"C:\Program%20Files%5C|data|", true),
            (&name, r"C:\Program%20Files/|data|", true),
            (&name, r"C:\Program Files (x86)\|data|", false),
            (&name, "C:/profiles/|data|", false),
            (&name, r"C:\x\|data|", false),
            (&name, "\u{f6}Files\\|data|", true),
            (&root, "/|data|/x", true),
            (&root, "file:///|data|/x", true),
            (&root, "\"/|data|\"", true),
            (&root, r"\u002f|data|", true),
            (&root, "x/|data|/y", false),
            (&root, "a |data|", false),
            (&root, "/x/../|data|", true),
            (&root, "-|data|-x.mount", true),
        ];
        for (around, text, expected) in cases {
            for encoding in [Encoding::Utf8, Encoding::Utf16Le, Encoding::Utf16Be] {
                let wide = encoding != Encoding::Utf8;
                let plain = text.replace('|', "");
                // A bar that is meant stands before the first of the two marks.
                let marks: Vec<usize> = text.match_indices('|').map(|(at, _)| at).collect();
                let (open, close) = (marks[marks.len() - 2], marks[marks.len() - 1]);
                let plain = match marks.len() {
                    2 => plain,
                    _ => format!(
                        "{}{}{}",
                        &text[..open],
                        &text[open + 1..close],
                        &text[close + 1..]
                    ),
                };
                let bytes = encoding.encode(&plain).unwrap();
                let at = |letters: usize| encoding.encode(&plain[..letters]).unwrap().len();
                // The byte of ASCII comes second where the most significant is first.
                let shift = usize::from(encoding == Encoding::Utf16Be);
                let (first, end) = (at(open) + shift, at(close - 1) + shift);
                assert_eq!(
                    around.fits(&bytes, first, end, wide),
                    expected,
                    "{text} {encoding:?}"
                );
            }
        }
    }
}
