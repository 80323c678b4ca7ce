//! How a reference writes its place, and writing another place the same way.

use thiserror::Error;

use super::{Place, Root};

/// The prefix form of a reference.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Form {
    /// `D:\x`, `\\server\share\x`, `/x`.
    Plain,
    /// `\\?\D:\x`, `\\?\UNC\server\share\x`: meant literally, folds nothing but case.
    Verbatim,
    /// `\\.\D:\x`.
    Device,
    /// `\??\D:\x`, as the kernel's object manager names it.
    Object,
    /// `%NAME%\x`, `$NAME/x`, `${NAME}/x`, `~/x`: the root is a variable's value.
    Variable,
    /// `/D:/x`: a drive as the path of a URI.
    Slashed,
    /// `/mnt/d/x`, `/cygdrive/d/x`, `/d/x`: a drive as a folder among other systems' places.
    Folder(DriveFolder),
}

/// Under which folder drives are seen as folders.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum DriveFolder {
    /// `/mnt/d`
    Mnt,
    /// `/cygdrive/d`
    Cygdrive,
    /// `/d`
    Root,
}

impl DriveFolder {
    /// Every such folder; the one without names comes last.
    pub(crate) const ALL: [Self; 3] = [Self::Mnt, Self::Cygdrive, Self::Root];

    /// The names above the drive's letter.
    pub(crate) fn names(self) -> &'static [&'static str] {
        match self {
            Self::Mnt => &["mnt"],
            Self::Cygdrive => &["cygdrive"],
            Self::Root => &[],
        }
    }

    fn lead(self) -> String {
        self.names()
            .iter()
            .map(|name| format!("/{name}"))
            .collect::<String>()
            + "/"
    }
}

/// Forms that begin with backslashes and a sign. Where one sign begins with another, it comes
/// first.
const PREFIXES: [(&str, Form); 3] = [
    (r"\??\", Form::Object),
    (r"\\?\", Form::Verbatim),
    (r"\\.\", Form::Device),
];

/// What a run of backslashes and the sign after it are the beginning of.
pub(crate) struct Lead {
    pub(crate) form: Form,
    /// Length of the sign in bytes.
    pub(crate) sign: usize,
    /// How often each backslash is written.
    pub(crate) doubling: usize,
}

/// What is after a prefix form: text for a drive, or a share's names.
pub(crate) struct Rest<'a> {
    pub(crate) text: &'a str,
    pub(crate) strip_unc: Option<&'a str>,
}

impl Form {
    /// Takes the prefix form off a place written by itself.
    pub(crate) fn strip(written: &str) -> (Self, Rest<'_>) {
        for (prefix, form) in PREFIXES {
            if let Some(text) = written.strip_prefix(prefix) {
                let strip_unc = text
                    .get(..4)
                    .filter(|start| start.eq_ignore_ascii_case(r"UNC\"))
                    .map(|_| &text[4..]);
                return (form, Rest { text, strip_unc });
            }
        }
        let strip_unc = written
            .strip_prefix(r"\\")
            .or_else(|| written.strip_prefix("//"));
        (
            Self::Plain,
            Rest {
                text: written,
                strip_unc,
            },
        )
    }

    /// Whether dots and trailing spaces fold in this form.
    pub fn folds(self) -> bool {
        self != Self::Verbatim
    }

    /// The form that begins with `backslashes` of them, and then `rest`.
    pub(crate) fn of_lead(backslashes: usize, rest: &[u8]) -> Option<Lead> {
        // With one of these every sign begins; most backslashes part names.
        if !matches!(rest.first(), Some(b'?' | b'.')) {
            return None;
        }
        PREFIXES.iter().find_map(|(prefix, form)| {
            let sign = prefix.trim_matches('\\');
            let once = prefix.find(sign)?;
            let fits = rest.starts_with(sign.as_bytes()) && backslashes.is_multiple_of(once);
            fits.then_some(Lead {
                form: *form,
                sign: sign.len(),
                doubling: backslashes / once,
            })
        })
    }

    fn lead(self) -> &'static str {
        if self == Self::Slashed {
            return "/";
        }
        let known = PREFIXES.iter().find(|(_, form)| *form == self);
        known.map_or("", |(prefix, _)| prefix)
    }
}

/// How a reference writes its place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Spelling {
    /// The prefix form.
    pub form: Form,
    /// The first separator met, in the prefix or else in the tail.
    pub separator: Option<char>,
    /// How many separators are written where one would do: 1, 2 where a text doubles them, 4, …
    pub doubling: usize,
    /// Whether the drive's letter is in lower case.
    pub lower_drive: bool,
}

/// Why a place cannot be written in a given spelling.
#[derive(Clone, Copy, Debug, Error, PartialEq, Eq)]
pub enum Unspellable {
    /// Only drives are seen as folders.
    #[error("a share has no spelling as a folder of drives")]
    ShareAsFolder,
    /// `\\.\` names devices of this machine only.
    #[error("a share cannot be written behind \\\\.\\")]
    ShareAsDevice,
}

impl Spelling {
    /// Writes `place` in this spelling, without a separator at its end, so that a tail can
    /// follow: a root alone is `D:`, and nothing at all for `/`.
    ///
    /// # Errors
    /// Where the prefix form cannot express the place.
    pub fn write(&self, place: &Place) -> Result<String, Unspellable> {
        let separator = self.separator_for(place);
        let single = separator.to_string();
        // A text from POSIX says nothing of doubling, and a `/` there is never doubled.
        let repeat = if separator == '/' && self.separator != Some('/') {
            1
        } else {
            self.doubling
        };
        let between = single.repeat(repeat);
        let mut written = String::new();
        let doubled = |text: &str| {
            text.chars()
                .flat_map(|c| std::iter::repeat_n(c, if c == '\\' { self.doubling } else { 1 }))
                .collect::<String>()
        };
        match &place.root {
            Root::Drive(letter) => {
                match self.form {
                    Form::Folder(folder) => written.push_str(&folder.lead()),
                    form => written.push_str(&doubled(form.lead())),
                }
                written.push(if self.lower_drive {
                    letter.to_ascii_lowercase()
                } else {
                    *letter
                });
                if !self.is_folder() {
                    written.push(':');
                }
            }
            Root::Share { server, share } => {
                match self.form {
                    Form::Plain | Form::Variable | Form::Slashed => {
                        written.push_str(&between.repeat(2));
                    }
                    Form::Verbatim | Form::Object => {
                        written.push_str(&doubled(self.form.lead()));
                        written.push_str("UNC");
                        written.push_str(&between);
                    }
                    Form::Device => return Err(Unspellable::ShareAsDevice),
                    Form::Folder(_) => return Err(Unspellable::ShareAsFolder),
                }
                written.push_str(server);
                written.push_str(&between);
                written.push_str(share);
            }
            Root::Posix => {}
        }
        for component in &place.components {
            written.push_str(&between);
            written.push_str(component);
        }
        Ok(written)
    }

    /// What a person calls this spelling of a place with root `root`.
    pub fn in_words(&self, root: &Root) -> String {
        let form = match (self.form, root) {
            (Form::Plain, Root::Drive(_)) if self.lower_drive => "drive letter in lower case",
            (Form::Plain, Root::Drive(_)) => "drive letter",
            (Form::Plain, Root::Share { .. }) => "share",
            (Form::Plain, Root::Posix) => "POSIX path",
            (Form::Verbatim, Root::Share { .. }) => r"verbatim share \\?\UNC\",
            (Form::Verbatim, _) => r"verbatim prefix \\?\",
            (Form::Device, _) => r"device prefix \\.\",
            (Form::Object, _) => r"kernel prefix \??\",
            (Form::Variable, _) => "variable",
            (Form::Slashed, _) => "drive behind a slash, /D:/",
            (Form::Folder(DriveFolder::Mnt), _) => "drive as a folder, /mnt/d",
            (Form::Folder(DriveFolder::Cygdrive), _) => "drive as a folder, /cygdrive/d",
            (Form::Folder(DriveFolder::Root), _) => "drive as a folder, /d",
        };
        let Some(separator) = self.separator else {
            return form.to_owned();
        };
        let times = match self.doubling {
            0 | 1 => String::new(),
            2 => ", each doubled".to_owned(),
            more => format!(", each {more} times"),
        };
        format!("{form}, {separator} between names{times}")
    }

    /// Whether it writes a drive as a folder.
    pub fn is_folder(&self) -> bool {
        matches!(self.form, Form::Folder(_))
    }

    /// The separator with which `place` is written: this spelling's, unless the place
    /// belongs to the other family of systems.
    pub fn separator_for(&self, place: &Place) -> char {
        match (&place.root, self.separator) {
            (Root::Posix, _) => '/',
            (_, Some(separator)) => separator,
            (_, None) => '\\',
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_place_is_written_as_another_was() {
        let plain = Spelling {
            form: Form::Plain,
            separator: Some('\\'),
            doubling: 1,
            lower_drive: false,
        };
        let cases = [
            (plain, r"H:\Collections", r"H:\Collections"),
            (
                Spelling {
                    separator: Some('/'),
                    ..plain
                },
                r"H:\Collections",
                "H:/Collections",
            ),
            (
                Spelling {
                    doubling: 2,
                    ..plain
                },
                r"H:\C\x",
                r"H:\\C\\x",
            ),
            (
                Spelling {
                    doubling: 4,
                    ..plain
                },
                r"\\fernhall\press",
                r"\\\\\\\\fernhall\\\\press",
            ),
            (
                Spelling {
                    lower_drive: true,
                    ..plain
                },
                r"H:\C",
                r"h:\C",
            ),
            (
                Spelling {
                    form: Form::Verbatim,
                    ..plain
                },
                r"\\fernhall\press\x",
                r"\\?\UNC\fernhall\press\x",
            ),
            (
                Spelling {
                    form: Form::Object,
                    ..plain
                },
                r"H:\C",
                r"\??\H:\C",
            ),
            (plain, "/srv/x", "/srv/x"),
            (
                Spelling {
                    doubling: 2,
                    ..plain
                },
                "/srv/x",
                "/srv/x",
            ),
            (plain, "/", ""),
            (plain, r"H:\", "H:"),
            (
                Spelling {
                    separator: Some('/'),
                    ..plain
                },
                r"\\fernhall\press\x",
                "//fernhall/press/x",
            ),
        ];
        for (spelling, place, written) in cases {
            let place = Place::parse(place).unwrap();
            assert_eq!(spelling.write(&place).unwrap(), written, "{spelling:?}");
        }
        let device = Spelling {
            form: Form::Device,
            ..plain
        };
        let share = Place::parse(r"\\fernhall\press").unwrap();
        assert_eq!(device.write(&share), Err(Unspellable::ShareAsDevice));
    }
}
