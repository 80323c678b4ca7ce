//! Reading a place that somebody wrote by itself: in a sheet or on the command line.

use thiserror::Error;

use super::{Form, OPAQUE, Place, Root};

/// Letters that Windows allows in no name.
const IN_NO_NAME: &str = "<>\"|?*:";

/// Why a text is no place.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum PlaceFault {
    /// Nothing is written.
    #[error("nothing is written where a place belongs")]
    Empty,
    /// A control character, mostly a tab or a line feed that a backslash made.
    #[error(
        "the place holds the control character U+{0:04X}; in double quotes a backslash is an escape, so use single quotes: 'D:\\new'"
    )]
    Control(u32),
    /// A noncharacter, which no name can hold.
    #[error("the place holds U+{0:X}, which stands for no letter")]
    Noncharacter(u32),
    /// It does not begin at a drive, a share or `/`.
    #[error(
        "{0:?} does not begin at a drive (D:\\), a share (\\\\server\\share) or /; only absolute places can be moved"
    )]
    NotAbsolute(String),
    /// A share without its second name.
    #[error("{0:?} names a server but no share on it (\\\\server\\share)")]
    NoShare(String),
    /// A letter that Windows allows in no name.
    #[error("{place:?} holds {letter:?}, which no Windows name can hold")]
    IllegalLetter {
        /// The place as written.
        place: String,
        /// The offending letter.
        letter: char,
    },
    /// A name that is none: empty, of dots, or with a separator in it.
    #[error("{0:?} is no name of a file or folder")]
    NoName(String),
}

impl Place {
    /// The place of these names below a root, outermost first. Each is meant as it is: nothing is folded.
    ///
    /// # Errors
    /// Where a name is empty, `.` or `..`, or holds a letter that no name below this root can hold.
    ///
    /// ```
    /// use lastmaker_core::place::{Place, Root};
    /// let place = Place::new(Root::Drive('D'), ["Herbarium", "Sheets 2019"]).unwrap();
    /// assert_eq!(place.to_string(), r"D:\Herbarium\Sheets 2019");
    /// assert!(Place::new(Root::Drive('D'), ["Herbarium", ".."]).is_err());
    /// ```
    pub fn new<N: Into<String>>(
        root: Root,
        names: impl IntoIterator<Item = N>,
    ) -> Result<Self, PlaceFault> {
        let windows = root.is_windows();
        let separates = |letter| letter == '/' || (windows && is_separator(letter));
        let mut components = Vec::new();
        for name in names {
            let name: String = name.into();
            holds_letters_alone(&name)?;
            if matches!(name.as_str(), "" | "." | "..") || name.contains(separates) {
                return Err(PlaceFault::NoName(name));
            }
            if let Some(letter) = name
                .chars()
                .find(|one| windows && IN_NO_NAME.contains(*one))
            {
                return Err(PlaceFault::IllegalLetter {
                    place: name,
                    letter,
                });
            }
            components.push(name);
        }
        Ok(Self { root, components })
    }

    /// Reads a place written by itself, in any prefix form that has one meaning.
    ///
    /// # Errors
    /// Where the text does not begin at a root, or holds letters that no place can hold.
    pub fn parse(written: &str) -> Result<Self, PlaceFault> {
        if written.is_empty() {
            return Err(PlaceFault::Empty);
        }
        holds_letters_alone(written)?;
        let (form, rest) = Form::strip(written);
        let not_absolute = || PlaceFault::NotAbsolute(written.to_owned());
        let (root, tail) = if let Some(unc) = rest.strip_unc {
            let mut names = unc.splitn(3, is_separator).filter(|name| !name.is_empty());
            match (names.next(), names.next()) {
                (Some(server), Some(share)) => (
                    Root::Share {
                        server: server.to_owned(),
                        share: share.to_owned(),
                    },
                    names.next().unwrap_or(""),
                ),
                _ => return Err(PlaceFault::NoShare(written.to_owned())),
            }
        } else if let Some((letter, tail)) = drive(rest.text) {
            (Root::Drive(letter), tail)
        } else if form == Form::Plain && written.starts_with('/') {
            (Root::Posix, written)
        } else {
            return Err(not_absolute());
        };
        if root.is_windows()
            && let Some(letter) = tail.chars().find(|c| IN_NO_NAME.contains(*c))
        {
            return Err(PlaceFault::IllegalLetter {
                place: written.to_owned(),
                letter,
            });
        }
        let split: fn(char) -> bool = if root.is_windows() {
            is_separator
        } else {
            |c| c == '/'
        };
        let mut components = Components::new(form.folds(), root.is_windows());
        for name in tail.split(split) {
            components.push(name);
        }
        Ok(Self {
            root,
            components: components.names,
        })
    }
}

/// Refuses what no name holds on any system.
fn holds_letters_alone(text: &str) -> Result<(), PlaceFault> {
    for letter in text.chars() {
        if letter.is_control() {
            return Err(PlaceFault::Control(letter as u32));
        }
        if letter == OPAQUE {
            return Err(PlaceFault::Noncharacter(letter as u32));
        }
    }
    Ok(())
}

/// Whether `letter` parts components in a Windows place.
pub(crate) fn is_separator(letter: char) -> bool {
    letter == '\\' || letter == '/'
}

fn drive(text: &str) -> Option<(char, &str)> {
    let letter = text.chars().next().filter(char::is_ascii_alphabetic)?;
    let tail = text[1..].strip_prefix(':')?;
    (tail.is_empty() || tail.starts_with(is_separator)).then(|| (letter.to_ascii_uppercase(), tail))
}

/// Components as they are met from left to right, dots folded on the way.
pub(crate) struct Components {
    folds: bool,
    windows: bool,
    pub(crate) names: Vec<String>,
}

impl Components {
    pub(crate) fn new(folds: bool, windows: bool) -> Self {
        Self {
            folds,
            windows,
            names: Vec::new(),
        }
    }

    /// Takes the next name; an empty one and `.` change nothing, `..` takes one off.
    pub(crate) fn push(&mut self, name: &str) {
        match trimmed(name, self.folds, self.windows) {
            Trimmed::Nothing => {}
            Trimmed::Up => {
                self.names.pop();
            }
            Trimmed::Name(name) => self.names.push(name.to_owned()),
        }
    }
}

/// What one written name means.
pub(crate) enum Trimmed<'a> {
    /// Empty or `.`: the same place.
    Nothing,
    /// `..`: the place above.
    Up,
    /// A name, without the trailing dots and spaces that Windows drops.
    Name(&'a str),
}

/// Folds one name: `folds` is false after `\\?\`, where every name is meant literally.
pub(crate) fn trimmed(name: &str, folds: bool, windows: bool) -> Trimmed<'_> {
    if name.is_empty() {
        return Trimmed::Nothing;
    }
    if !folds {
        return Trimmed::Name(name);
    }
    match name {
        "." => return Trimmed::Nothing,
        ".." => return Trimmed::Up,
        _ if !windows => return Trimmed::Name(name),
        _ => {}
    }
    let kept = name.trim_end_matches(['.', ' ']);
    if kept.is_empty() {
        // `. ` is `.`, `.. ` is `..`; three dots and more are no component at all.
        return match name.trim_end_matches(' ') {
            ".." => Trimmed::Up,
            _ => Trimmed::Nothing,
        };
    }
    Trimmed::Name(kept)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_no_place_says_why() {
        let cases = [
            ("", "nothing is written"),
            ("Herbarium", "only absolute"),
            (r"\Herbarium", "only absolute"),
            ("D:x", "only absolute"),
            (r"\\mossbank", "no share"),
            ("D:\new", "use single quotes"),
            (r"D:\a|b", "no Windows name"),
            ("D:\\\u{10FFFF}", "no letter"),
        ];
        for (written, says) in cases {
            let fault = Place::parse(written).unwrap_err().to_string();
            assert!(fault.contains(says), "{written:?}: {fault}");
        }
    }

    #[test]
    fn dots_fold_but_not_behind_the_verbatim_prefix() {
        let cases = [
            (r"D:\a\..\..\b", r"D:\b"),
            (r"D:\a.\b ", r"D:\a\b"),
            (r"D:\a\...\b", r"D:\a\b"),
            (r"\\?\D:\a\..\b", r"D:\a\..\b"),
            (r"\\?\D:\a.", r"D:\a."),
            ("/a./b ", "/a./b "),
            ("/../a", "/a"),
        ];
        for (written, shown) in cases {
            assert_eq!(
                Place::parse(written).unwrap().to_string(),
                shown,
                "{written}"
            );
        }
    }
}
