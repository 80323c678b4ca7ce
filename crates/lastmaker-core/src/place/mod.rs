//! What a location is: a root and components, compared by location and never by text.
//!
//! Windows places (drives and shares) ignore case by a simple one-to-one folding; POSIX
//! places respect it. Canonically equivalent Unicode is equal everywhere.

mod parse;
mod spelling;

pub use parse::PlaceFault;
pub(crate) use parse::{Components, Trimmed, is_separator, trimmed};
pub(crate) use spelling::Lead;
pub use spelling::{DriveFolder, Form, Spelling, Unspellable};

use std::fmt::{self, Write};

use crate::base::fingerprint::fingerprint;
use unicode_normalization::{UnicodeNormalization, is_nfc_quick};

/// The letter that is in a decoded content for a unit that is no Unicode scalar: a
/// lone surrogate or a byte that the encoding cannot read. It is a noncharacter, no place
/// may contain it, and so it never matches.
pub const OPAQUE: char = '\u{10FFFF}';

/// Where a place begins.
#[derive(Clone, Debug)]
pub enum Root {
    /// A drive, its letter in upper case.
    Drive(char),
    /// A share: server and share name, as written.
    Share {
        /// The server's name.
        server: String,
        /// The name of the share on it.
        share: String,
    },
    /// The root of a POSIX file system.
    Posix,
}

impl Root {
    /// Whether it is a drive.
    pub fn is_drive(&self) -> bool {
        matches!(self, Self::Drive(_))
    }

    /// Whether places below this root follow the rules of Windows.
    pub fn is_windows(&self) -> bool {
        !matches!(self, Self::Posix)
    }
}

impl PartialEq for Root {
    fn eq(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Drive(a), Self::Drive(b)) => a == b,
            (
                Self::Share { server, share },
                Self::Share {
                    server: other_server,
                    share: other_share,
                },
            ) => fold(server) == fold(other_server) && fold(share) == fold(other_share),
            (Self::Posix, Self::Posix) => true,
            _ => false,
        }
    }
}

impl Eq for Root {}

/// An absolute location: a root and the components below it.
///
/// Dots are folded already, and so are trailing dots and spaces of components, unless the
/// place was written in a form that folds nothing (`\\?\`).
///
/// ```
/// use lastmaker_core::place::Place;
/// let one = Place::parse("d:/herbarium/").unwrap();
/// let other = Place::parse(r"\\?\D:\HERBARIUM").unwrap();
/// assert!(one.same(&other));
/// ```
#[derive(Clone, Debug)]
pub struct Place {
    pub(crate) root: Root,
    pub(crate) components: Vec<String>,
}

impl Place {
    /// Where the place begins.
    pub fn root(&self) -> &Root {
        &self.root
    }

    /// The names below the root, outermost first, as written.
    pub fn components(&self) -> &[String] {
        &self.components
    }

    /// Whether both are one location; POSIX places are compared with their case.
    pub fn same(&self, other: &Self) -> bool {
        self.components.len() == other.components.len() && self.is_under(other)
    }

    /// Whether this place is `ancestor` or lies below it; POSIX places with their case.
    pub fn is_under(&self, ancestor: &Self) -> bool {
        self.is_under_by(ancestor, !ancestor.root.is_windows())
    }

    /// Whether this place is `ancestor` or lies below it, with the case respected or not.
    pub fn is_under_by(&self, ancestor: &Self, respect_case: bool) -> bool {
        self.root == ancestor.root
            && self.components.len() >= ancestor.components.len()
            && ancestor
                .components
                .iter()
                .zip(&self.components)
                .all(|(a, b)| same_name(a, b, respect_case))
    }

    /// The place whose components after the first `skip` follow those of `base`.
    pub fn rebased(&self, skip: usize, base: &Self) -> Self {
        let mut components = base.components.clone();
        components.extend(self.components.iter().skip(skip).cloned());
        Self {
            root: base.root.clone(),
            components,
        }
    }

    /// A key that is equal for equal locations, for maps and sets.
    pub fn key(&self) -> String {
        let windows = self.root.is_windows();
        let mut key = String::with_capacity(self.text_length());
        match &self.root {
            Root::Drive(letter) => key.extend([*letter, ':']),
            Root::Share { server, share } => key.extend(["//", &fold(server), "/", &fold(share)]),
            Root::Posix => {}
        }
        for component in &self.components {
            key.push('/');
            match (component.is_ascii(), windows) {
                (true, true) => key.extend(
                    component
                        .bytes()
                        .map(|b| char::from(b.to_ascii_uppercase())),
                ),
                (true, false) => key.push_str(component),
                (false, true) => key.push_str(&fold(component)),
                (false, false) => key.push_str(&compose(component)),
            }
        }
        key
    }

    /// A number that is equal for equal locations, and for others hardly ever.
    pub fn fingerprint(&self) -> u64 {
        fingerprint(self.key().as_bytes())
    }

    /// A key that is equal for what a file system takes for one: POSIX systems tell apart what is
    /// composed in different ways.
    pub fn disk_key(&self) -> String {
        match self.root {
            Root::Posix => self.to_string(),
            _ => self.key(),
        }
    }

    /// The place as it is displayed.
    pub fn text(&self) -> String {
        let mut text = String::with_capacity(self.text_length());
        // A string takes all that is written.
        let _ = self.write_to(&mut text);
        text
    }

    /// Whether its text has more letters than these, as UTF-16 counts them.
    pub fn is_longer_than(&self, letters: usize) -> bool {
        // UTF-8 has at least a byte for each.
        self.text_length() > letters && self.text().encode_utf16().count() > letters
    }

    /// How long its text is, in bytes, at the most but for letters that grow when they are folded.
    fn text_length(&self) -> usize {
        let root = match &self.root {
            Root::Drive(_) => "D:\\".len(),
            Root::Share { server, share } => server.len() + share.len() + r"\\\".len(),
            Root::Posix => "/".len(),
        };
        let names = self.components.iter().map(|name| name.len() + 1);
        root + names.sum::<usize>()
    }

    fn write_to(&self, to: &mut impl Write) -> fmt::Result {
        let separator = match &self.root {
            Root::Drive(letter) => {
                to.write_char(*letter)?;
                to.write_char(':')?;
                '\\'
            }
            Root::Share { server, share } => {
                write!(to, r"\\{server}\{share}")?;
                '\\'
            }
            Root::Posix => '/',
        };
        if self.components.is_empty() && !matches!(self.root, Root::Share { .. }) {
            to.write_char(separator)?;
        }
        for component in &self.components {
            to.write_char(separator)?;
            to.write_str(component)?;
        }
        Ok(())
    }

    /// The place of its first `depth` names, which it must have.
    pub fn up_to(&self, depth: usize) -> Self {
        Self {
            root: self.root.clone(),
            components: self.components[..depth].to_vec(),
        }
    }

    /// The place below this one by `name`.
    pub fn child(&self, name: &str) -> Self {
        let mut child = self.clone();
        child.components.push(name.to_owned());
        child
    }
}

impl fmt::Display for Place {
    /// Writes the place as its system usually does: `D:\x`, `\\server\share\x`, `/x`.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.write_to(f)
    }
}

/// Whether two names are the same component.
pub fn same_name(a: &str, b: &str, respect_case: bool) -> bool {
    if a == b {
        return true;
    }
    if a.is_ascii() && b.is_ascii() {
        return !respect_case && a.eq_ignore_ascii_case(b);
    }
    if respect_case {
        compose(a) == compose(b)
    } else {
        fold(a) == fold(b)
    }
}

/// The composed form of a name (NFC), but for the three letters outside ASCII that
/// composing would turn into ASCII: no file system takes them for one.
fn compose(name: &str) -> String {
    if is_nfc_quick(name.chars()) == unicode_normalization::IsNormalized::Yes {
        return name.to_owned();
    }
    const TURNS_ASCII: [char; 3] = ['\u{212A}', '\u{037E}', '\u{1FEF}'];
    let mut composed = String::with_capacity(name.len());
    for piece in name.split_inclusive(TURNS_ASCII) {
        let (text, kept) = match piece.chars().next_back() {
            Some(last) if TURNS_ASCII.contains(&last) => {
                (&piece[..piece.len() - last.len_utf8()], Some(last))
            }
            _ => (piece, None),
        };
        composed.extend(text.nfc());
        composed.extend(kept);
    }
    composed
}

/// The folded form of a name as Windows compares it: composed, each letter in upper case
/// where that is one letter. No letter outside ASCII folds onto one inside.
pub fn fold(name: &str) -> String {
    if name.is_ascii() {
        return name.to_ascii_uppercase();
    }
    compose(name).chars().map(fold_letter).collect()
}

fn fold_letter(letter: char) -> char {
    let mut upper = letter.to_uppercase();
    match (upper.next(), upper.next()) {
        (Some(one), None) if one.is_ascii() == letter.is_ascii() => one,
        _ => letter,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn places_compare_by_location() {
        let same = [
            (r"D:\Herbarium", "d:/herbarium/"),
            (r"D:\Herbarium", r"\\?\D:\HERBARIUM"),
            (r"D:\Herbarium", r"D:\\Herbarium\\"),
            (r"D:\Herbarium", r"D:\Loans\..\Herbarium\."),
            (r"D:\Herbarium", r"D:\Herbarium. ."),
            ("D:\\Gr\u{f6}\u{df}e", "d:/GR\u{d6}\u{df}E"),
            (
                "D:\\Stra\u{df}e\\Ma\u{300}ppe",
                "d:\\stra\u{df}e\\M\u{e0}ppe",
            ),
            (r"\\mossbank\press\x", "//MOSSBANK/Press/X"),
            (r"\\mossbank\press", r"\\?\UNC\mossbank\press"),
            ("/srv/herbarium", "/srv//herbarium/./x/.."),
            (r"D:\", "D:/.."),
        ];
        for (a, b) in same {
            let (left, right) = (Place::parse(a).unwrap(), Place::parse(b).unwrap());
            assert!(left.same(&right), "{a} is {b}");
            assert_eq!(left.key(), right.key(), "{a} has the key of {b}");
        }
        let different = [
            (r"D:\Tools", r"D:\Toolshed"),
            (r"D:\Herbarium", r"E:\Herbarium"),
            ("/srv/herbarium", "/srv/Herbarium"),
            (r"D:\Herbarium", r"\\?\D:\Herbarium."),
            (r"D:\Kiste", "D:\\\u{212A}iste"),
            (r"D:\...", r"D:\x"),
            (r"\\mossbank\press", r"\\fernhall\press"),
        ];
        for (a, b) in different {
            let (left, right) = (Place::parse(a).unwrap(), Place::parse(b).unwrap());
            assert!(!left.same(&right), "{a} is not {b}");
            assert_ne!(left.key(), right.key(), "{a} has another key than {b}");
        }
    }

    #[test]
    fn under_counts_components() {
        let herbarium = Place::parse(r"D:\Herbarium").unwrap();
        assert!(
            Place::parse(r"d:\herbarium\2019")
                .unwrap()
                .is_under(&herbarium)
        );
        assert!(!Place::parse(r"D:\Herbarium2").unwrap().is_under(&herbarium));
        assert!(!Place::parse(r"D:\").unwrap().is_under(&herbarium));
    }

    proptest! {
        #[test]
        fn folding_is_idempotent_and_keeps_ascii_apart(name in "\\PC{0,12}") {
            let once = fold(&name);
            prop_assert_eq!(fold(&once), once.clone());
            let ascii = |s: &str| s.chars().filter(char::is_ascii).count();
            prop_assert_eq!(ascii(&compose(&name)) <= ascii(&name), true);
        }

        #[test]
        fn what_is_displayed_parses_to_the_same_place(
            letter in "[a-zA-Z]",
            names in prop::collection::vec("[A-Za-z0-9\u{e0}-\u{ff} ]{0,6}[A-Za-z0-9]", 0..5),
        ) {
            let written = format!("{letter}:\\{}", names.join("\\"));
            let place = Place::parse(&written).unwrap();
            prop_assert!(Place::parse(&place.to_string()).unwrap().same(&place));
            let verbatim = Place::parse(&format!(r"\\?\{written}")).unwrap();
            prop_assert!(verbatim.same(&place));
        }
    }
}
