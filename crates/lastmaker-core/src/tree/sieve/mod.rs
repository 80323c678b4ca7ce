//! Rules a file out by one pass of an automaton over its raw bytes; files that hold zeros, as
//! UTF-16 does, get another.
//!
//! Every spelling of an old place holds its names, in some case, as single bytes or as
//! UTF-16. So each place has a *sign*: the run of ASCII letters and digits of one of its
//! names. A file without any sign needs no reading. The automaton looks for a short window
//! of each sign in all its cases, and what it finds is compared with the whole sign.
//!
//! It errs towards reading, with these exceptions, which only `thorough` finds: ASCII
//! letters written as escapes (`\u0044`), which no writer does by itself.

use aho_corasick::packed::{self, Searcher};
use aho_corasick::{AhoCorasick, Input, MatchKind};

use crate::base::ascii::is_alphanumeric;
use crate::place::Place;
use crate::sheet::{Move, Sheet};

mod any_place;
mod around;
mod drives;
mod needles;
mod parts;

use any_place::{AROUND, AnyPlace};
use around::{Around, REACH};
use drives::Drive;
use needles::needles_of;

/// What a raw byte run must hold for a place to be named in it.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
struct Needle {
    /// In lower case.
    text: Vec<u8>,
    /// What must be around it.
    around: Around,
    /// Whether it is of a whole drive, which is looked for by its letter in text.
    of_drive: bool,
}

/// What was found.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Hit {
    Nothing,
    /// A sign, around which stands what would stand around no old place in a text.
    Needle,
    /// A sign that may name an old place.
    Named,
}

/// Where a pattern's window lies in its sign.
#[derive(Clone, Copy, Debug)]
struct Window {
    sign: usize,
    offset: usize,
    wide: bool,
}

/// Tells which files may name an old place.
#[derive(Debug)]
pub struct Sieve {
    signs: Vec<Needle>,
    /// The drives of which only the letter is known.
    drives: Vec<Drive>,
    /// For letters that are one byte each.
    narrow: Search,
    /// The same without the signs of drives.
    names: Search,
    /// For letters with a zero before or after; only files that hold a zero are passed
    /// through it.
    wide: Search,
    /// Whether links are looked at wherever they lead.
    every_link: bool,
    /// Lets through, beside the signs, what may name any place.
    any: Option<AnyPlace>,
}

/// The windows of all signs in one width of letters.
#[derive(Debug)]
struct Search {
    /// The windows that begin with each byte; letters in lower case.
    windows: Vec<Vec<Window>>,
    automaton: Automaton,
    /// The signs that are a letter and one of [`MARKS`]: so short a window would be found everywhere, so
    /// the mark is looked for, which is rare.
    marked: Vec<Window>,
}

/// What stands behind the letter of a drive.
const MARKS: [u8; 3] = [b':', b'|', b'$'];

impl Search {
    fn new(signs: &[Needle], wide: bool) -> Self {
        Self::of(signs.iter().enumerate(), wide)
    }

    fn of<'s>(signs: impl Iterator<Item = (usize, &'s Needle)>, wide: bool) -> Self {
        let mut patterns = Vec::new();
        let mut windows = vec![Vec::new(); 256];
        let mut marked = Vec::new();
        for (index, sign) in signs {
            if matches!(sign.text[..], [_, mark] if MARKS.contains(&mark)) {
                marked.push(Window {
                    sign: index,
                    offset: 0,
                    wide,
                });
                continue;
            }
            // Two letters of UTF-16 are four bytes already.
            let width = if wide { 2 } else { 3 };
            let offset = rarest_window(&sign.text, width);
            let end = (offset + width).min(sign.text.len());
            let followed = end < sign.text.len();
            patterns.extend(cases(&sign.text[offset..end], wide, followed));
            let window = Window {
                sign: index,
                offset,
                wide,
            };
            windows[usize::from(sign.text[offset])].push(window);
        }
        // Two places may have a sign in common, with something else around it.
        patterns.sort();
        patterns.dedup();
        Self {
            windows,
            automaton: Automaton::new(&patterns),
            marked,
        }
    }
}

/// Looks for all windows at once.
#[derive(Debug)]
enum Automaton {
    /// There is nothing to look for: everything is let through.
    Open,
    /// A few windows, by vector instructions.
    Packed(Box<Searcher>),
    /// Many windows, or a processor without such instructions.
    General(AhoCorasick),
}

impl Automaton {
    fn new(patterns: &[Vec<u8>]) -> Self {
        if patterns.is_empty() {
            return Self::Open;
        }
        let mut few = packed::Config::new().builder();
        few.extend(patterns);
        match few.build() {
            Some(searcher) if patterns.len() <= 64 => Self::Packed(Box::new(searcher)),
            _ => AhoCorasick::builder()
                .match_kind(MatchKind::LeftmostFirst)
                .build(patterns)
                .map_or(Self::Open, Self::General),
        }
    }

    /// Where the next window at or after `at` begins.
    fn next(&self, bytes: &[u8], at: usize) -> Option<usize> {
        let span = aho_corasick::Span {
            start: at,
            end: bytes.len(),
        };
        match self {
            Self::Open => None,
            Self::Packed(searcher) => searcher.find_in(bytes, span).map(|found| found.start()),
            Self::General(automaton) => automaton
                .find(Input::new(bytes).span(span))
                .map(|found| found.start()),
        }
    }
}

impl Sieve {
    /// A sieve that lets everything through.
    pub fn open() -> Self {
        Self {
            signs: Vec::new(),
            drives: Vec::new(),
            narrow: Search::new(&[], false),
            names: Search::new(&[], false),
            wide: Search::new(&[], true),
            every_link: false,
            any: None,
        }
    }

    /// The sieve for any place at all, and for both sides of `sheet`; `variables` stand for places, too. A
    /// `thorough` one lets everything through.
    pub fn of_any_place(sheet: &Sheet, variables: &[(String, Place)], thorough: bool) -> Self {
        let both = Self::of_both_sides(sheet, thorough);
        // Places without a sign may be spelled in ways that nothing here looks for.
        if thorough || (both.signs.is_empty() && !sheet.moves.is_empty()) {
            return Self::open();
        }
        Self {
            any: Some(AnyPlace::new(variables)),
            ..both
        }
    }

    /// The sieve for the old places of `sheet`. A `thorough` one lets everything through, and
    /// so does one for a sheet without moves.
    pub fn new(sheet: &Sheet, thorough: bool) -> Self {
        let old = sheet.moves.iter().flat_map(Move::names);
        Self::of(old, sheet, thorough)
    }

    /// The sieve for the old and the new places of `sheet`, and for every link.
    pub fn of_both_sides(sheet: &Sheet, thorough: bool) -> Self {
        let sides = |one| Move::names(one).chain([&one.to]);
        Self {
            every_link: true,
            ..Self::of(sheet.moves.iter().flat_map(sides), sheet, thorough)
        }
    }

    fn of<'p>(places: impl Iterator<Item = &'p Place>, sheet: &Sheet, thorough: bool) -> Self {
        if thorough || sheet.moves.is_empty() {
            return Self::open();
        }
        let (mut signs, mut drives) = (Vec::new(), Vec::new());
        for place in places {
            match needles_of(place, sheet, &signs) {
                Some((of_place, drive)) => {
                    signs.extend(of_place);
                    drives.extend(drive);
                }
                None => return Self::open(),
            }
        }
        signs.sort();
        signs.dedup();
        let of_names = signs.iter().enumerate().filter(|(_, sign)| !sign.of_drive);
        Self {
            drives,
            narrow: Search::new(&signs, false),
            names: Search::of(of_names, false),
            wide: Search::new(&signs, true),
            signs,
            every_link: false,
            any: None,
        }
    }

    /// Whether a link that leads to `target` is looked at.
    pub fn lets_link_through(&self, target: &[u8]) -> bool {
        self.every_link || self.lets_through(target)
    }

    /// Whether a file that begins with `bytes` must be read whatever else it holds: registry
    /// exports hide text in hex digits, containers pack it or cut it in pieces.
    pub fn must_read(bytes: &[u8]) -> bool {
        if crate::container::may_hide(bytes) || is_flat_office(bytes) {
            return true;
        }
        let mut start = bytes
            .iter()
            .take(128)
            .copied()
            .filter(|b| *b != 0 && b.is_ascii() && !b.is_ascii_whitespace());
        let head: &[u8] = match start.next() {
            Some(b'W') => b"indowsRegistry",
            Some(b'R') => b"EGEDIT4",
            _ => return false,
        };
        head.iter().all(|letter| start.next() == Some(*letter))
    }

    /// Whether `bytes` hold a sign. A sign cut in two by the end of a window is not seen:
    /// windows must overlap by [`Sieve::overlap`].
    ///
    /// In text, what is around a sign counts, too. Where something else has strings in it, one may
    /// begin right behind the other.
    pub fn lets_through(&self, bytes: &[u8]) -> bool {
        match &self.any {
            Some(any) if any.may_be_in(bytes) => return true,
            Some(_) if self.signs.is_empty() => return false,
            None if self.signs.is_empty() => return true,
            _ => {}
        }
        let holds_zero = memchr::memchr(0, bytes).is_some();
        let is_text = || !holds_zero && !crate::container::is_claimed(bytes);
        if !self.drives.is_empty() && is_text() {
            let mut drives = self.drives.iter();
            return drives.any(|drive| drive.may_be_in(bytes))
                || self.finds(&self.names, bytes) == Hit::Named;
        }
        match self.finds(&self.narrow, bytes) {
            Hit::Named => return true,
            Hit::Needle if !is_text() => return true,
            _ if !holds_zero => return false,
            _ => {}
        }
        let is_wide_text = || bytes.starts_with(&[0xff, 0xfe]) || bytes.starts_with(&[0xfe, 0xff]);
        match self.finds(&self.wide, bytes) {
            Hit::Named => true,
            Hit::Needle => !is_wide_text(),
            Hit::Nothing => false,
        }
    }

    /// The best of what there is.
    fn finds(&self, search: &Search, bytes: &[u8]) -> Hit {
        let mut at = 0;
        let mut best = Hit::Nothing;
        while let Some(start) = search.automaton.next(bytes, at) {
            // Several windows may begin at the same place, so every one is compared.
            let first = bytes[start].to_ascii_lowercase();
            for window in &search.windows[usize::from(first)] {
                match self.whole_sign_at(bytes, start, *window) {
                    Hit::Named => return Hit::Named,
                    Hit::Needle => best = Hit::Needle,
                    Hit::Nothing => {}
                }
            }
            at = start + 1;
        }
        if search.marked.is_empty() {
            return best;
        }
        for mark in memchr::memchr3_iter(MARKS[0], MARKS[1], MARKS[2], bytes) {
            for window in &search.marked {
                let Some(first) = mark.checked_sub(if window.wide { 2 } else { 1 }) else {
                    continue;
                };
                match self.whole_sign_at(bytes, first, *window) {
                    Hit::Named => return Hit::Named,
                    Hit::Needle => best = Hit::Needle,
                    Hit::Nothing => {}
                }
            }
        }
        best
    }

    fn whole_sign_at(&self, bytes: &[u8], start: usize, window: Window) -> Hit {
        let sign = &self.signs[window.sign].text;
        let step = if window.wide { 2 } else { 1 };
        let Some(first) = start.checked_sub(window.offset * step) else {
            return Hit::Nothing;
        };
        let whole = sign.iter().enumerate().all(|(index, letter)| {
            let at = first + index * step;
            bytes
                .get(at)
                .is_some_and(|b| b.to_ascii_lowercase() == *letter)
                && (!window.wide || index + 1 == sign.len() || bytes.get(at + 1) == Some(&0))
        });
        if !whole {
            return Hit::Nothing;
        }
        let drive = sign
            .get(1)
            .is_some_and(|second| !second.is_ascii_alphanumeric());
        let begins = !drive || window.wide || may_begin(&bytes[..first]);
        let around = &self.signs[window.sign].around;
        let end = first + sign.len() * step;
        if begins && around.fits(bytes, first, end, window.wide) {
            Hit::Named
        } else {
            Hit::Needle
        }
    }

    /// How many bytes windows of one file must share.
    pub fn overlap(&self) -> usize {
        let longest = self.signs.iter().map(|sign| sign.text.len()).max();
        (longest.unwrap_or(0) + REACH.max(AROUND)) * 2 + 2
    }
}

/// Whether a byte is a part of a word, told without a branch.
#[inline(always)]
fn is_part(byte: u8) -> bool {
    is_alphanumeric(byte) | (byte == b'_')
}

/// Whether a drive's letter may follow `before`: letters before it belong to a word, unless they are
/// an escape (`\n`, `\u0022`, `%20`, `&quot`), or an option of one letter (`-I`).
fn may_begin(before: &[u8]) -> bool {
    const LONGEST: usize = 10;
    let letters = before
        .iter()
        .rev()
        .take_while(|byte| byte.is_ascii_alphanumeric());
    let run = letters.take(LONGEST + 1).count();
    let sign = before.len().checked_sub(run + 1).map(|at| before[at]);
    match sign {
        _ if run == 0 => true,
        Some(b'\\' | b'%' | b'&' | b'#' | b'=') => run <= LONGEST,
        Some(b'-' | b'/') => run == 1,
        _ => false,
    }
}

/// Whether a file is an office document in one piece of XML: names are cut into runs in it.
fn is_flat_office(bytes: &[u8]) -> bool {
    const HEAD: usize = 512;
    let head = &bytes[..bytes.len().min(HEAD)];
    head.starts_with(b"<?xml")
        && [&b"office:document"[..], b"mso-application"]
            .iter()
            .any(|sign| memchr::memmem::find(head, sign).is_some())
}

/// How often a letter occurs in texts, roughly: the lower the rarer.
fn frequency(letter: u8) -> u32 {
    const RAREST_FIRST: &[u8] = b"qjzxvkw0123456789:ybpgfmudhclsnroiate";
    RAREST_FIRST
        .iter()
        .position(|known| *known == letter)
        .map_or(40, |at| at as u32)
}

/// Where the rarest `width` letters are; not at the very end if they can be elsewhere.
fn rarest_window(text: &[u8], width: usize) -> usize {
    (0..=text.len().saturating_sub(width))
        .min_by_key(|&at| {
            let end = (at + width).min(text.len());
            let sum: u32 = text[at..end].iter().map(|letter| frequency(*letter)).sum();
            sum + u32::from(end == text.len())
        })
        .unwrap_or(0)
}

/// `letters` in every combination of cases, as bytes or as UTF-16; with the last zero if
/// another letter is sure to follow.
fn cases(letters: &[u8], wide: bool, followed: bool) -> Vec<Vec<u8>> {
    let mut all: Vec<Vec<u8>> = vec![Vec::new()];
    for (index, letter) in letters.iter().enumerate() {
        let mut forms = vec![letter.to_ascii_lowercase(), letter.to_ascii_uppercase()];
        forms.dedup();
        let zero = wide && (followed || index + 1 < letters.len());
        all = all
            .into_iter()
            .flat_map(|start| {
                forms.iter().map(move |form| {
                    let mut next = start.clone();
                    next.push(*form);
                    next.extend(zero.then_some(0));
                    next
                })
            })
            .collect();
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text::Encoding;

    fn sieve(moves: &[&str]) -> Sieve {
        let mut sheet = Sheet::default();
        for one in moves {
            sheet.add_move(one).unwrap();
        }
        Sieve::new(&sheet, false)
    }

    #[test]
    fn signs_in_every_case_and_byte_order() {
        let sieve = sieve(&[
            r"D:\Herbarium=H:\Collections",
            r"\\mossbank\press=\\fernhall\press",
        ]);
        for text in [
            r"D:\Herbarium",
            "d:/HERBARIUM",
            r"x D:\\hERBARIUm\\y",
            r"\\MossBank\press",
        ] {
            for encoding in [Encoding::Utf8, Encoding::Utf16Le, Encoding::Utf16Be] {
                assert!(
                    sieve.lets_through(&encoding.encode(text).unwrap()),
                    "{text}"
                );
            }
        }
        for text in ["D:\\Herb", "her barium", "mossban", ""] {
            for encoding in [Encoding::Utf8, Encoding::Utf16Le, Encoding::Utf16Be] {
                assert!(
                    !sieve.lets_through(&encoding.encode(text).unwrap()),
                    "{text}"
                );
            }
        }
        assert!(Sieve::must_read(b"REGEDIT4\r\n"));
        assert!(Sieve::must_read(
            &Encoding::Utf16Le
                .encode("\u{feff}Windows Registry Editor")
                .unwrap()
        ));
    }

    #[test]
    fn whole_drives_and_names_without_ascii() {
        let drive = sieve(&[r"D:\=E:\"]);
        assert!(drive.lets_through(br"x=d:\y") && drive.lets_through(b"\"drive\": \"D\""));
        assert!(!drive.lets_through(br"grid:\y"));
        let letters = sieve(&["D:\\\u{6a19}\u{672c}=E:\\x"]);
        assert!(letters.lets_through(b"D:/anything"));
        assert!(!letters.lets_through(b"nothing"));
        assert!(sieve(&["/\u{6a19}=/x"]).lets_through(b"anything"));
    }
}
