//! What else a place may be read as: a drive is also named as a folder among other systems'
//! places (`/mnt/d/x`, `/cygdrive/d/x`, `/d/x`), and as an administrative share (`\\host\D$\x`).

use super::Found;
use crate::place::{DriveFolder, Form, Place, Root, Spelling};

/// Another reading of a found place: the place on a drive.
#[derive(Clone, Debug)]
pub struct Alias {
    /// The find as it reads then.
    pub found: Found,
    /// By which custom the drive is written so.
    pub kind: AliasKind,
}

/// A custom of naming a drive by something else.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum AliasKind {
    /// Its administrative share on a server.
    AdminShare {
        /// The server's name.
        server: String,
    },
    /// A folder among another system's places.
    Folder(DriveFolder),
}

impl Found {
    /// The other reading of this find, if it has one.
    pub fn alias(&self, content: &str) -> Option<Alias> {
        if self.spelling.form != Form::Plain || !self.base.is_empty() {
            return None;
        }
        match &self.root {
            Root::Share { server, share } => {
                let kind = AliasKind::AdminShare {
                    server: server.clone(),
                };
                let found = Self {
                    root: Root::Drive(admin_drive(share)?),
                    ..self.clone()
                };
                Some(Alias { found, kind })
            }
            Root::Drive(_) => None,
            Root::Posix => self.drive_folder(content),
        }
    }

    fn drive_folder(&self, content: &str) -> Option<Alias> {
        let name = |index: usize| self.tokens.get(index).map(|token| &content[token.clone()]);
        let (folder, skip) = folder_of(name);
        let letter = lone_letter(name(skip)?)?;
        let found = Self {
            root_end: self.tokens[skip].end,
            root: Root::Drive(letter.to_ascii_uppercase()),
            spelling: Spelling {
                form: Form::Folder(folder),
                separator: Some('/'),
                doubling: 1,
                lower_drive: letter.is_ascii_lowercase(),
            },
            tokens: self.tokens[skip + 1..].to_vec(),
            ..self.clone()
        };
        Some(Alias {
            found,
            kind: AliasKind::Folder(folder),
        })
    }
}

impl Place {
    /// The drive's place where this one names a drive as a folder, else this one.
    pub fn by_drive(&self) -> Self {
        if self.root.is_windows() {
            return self.clone();
        }
        let name = |index: usize| self.components.get(index).map(String::as_str);
        let (_, skip) = folder_of(name);
        match name(skip).and_then(lone_letter) {
            Some(letter) => Self {
                root: Root::Drive(letter.to_ascii_uppercase()),
                components: self.components[skip + 1..].to_vec(),
            },
            None => self.clone(),
        }
    }

    /// The same place through the administrative share that `server` has of its drive; itself
    /// where it is on no drive.
    pub fn through_share_of(&self, server: &str) -> Self {
        let mut place = self.clone();
        if let Root::Drive(letter) = place.root {
            place.root = Root::Share {
                server: server.to_owned(),
                share: format!("{letter}$"),
            };
        }
        place
    }
}

impl Root {
    /// The server whose administrative share this root is, if it is one.
    pub fn admin_server(&self) -> Option<&str> {
        match self {
            Self::Share { server, share } => admin_drive(share).map(|_| server.as_str()),
            _ => None,
        }
    }
}

/// The drive whose administrative share goes by this name.
fn admin_drive(share: &str) -> Option<char> {
    let letter = lone_letter(share.strip_suffix('$')?)?;
    Some(letter.to_ascii_uppercase())
}

/// The folder of drives with whose names a place begins, and how many those are.
fn folder_of<'n>(name: impl Fn(usize) -> Option<&'n str>) -> (DriveFolder, usize) {
    let begins = |folder: &DriveFolder| {
        let names = folder.names().iter().enumerate();
        names
            .into_iter()
            .all(|(index, one)| name(index) == Some(*one))
    };
    let found = DriveFolder::ALL.into_iter().find(begins);
    let folder = found.unwrap_or(DriveFolder::Root);
    (folder, folder.names().len())
}

fn lone_letter(text: &str) -> Option<char> {
    match text.as_bytes() {
        [letter] if letter.is_ascii_alphabetic() => Some(*letter as char),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::scan::{Finder, Hint};

    #[test]
    fn drives_by_other_names() {
        let cases = [
            (r"\\mossbank\d$\Herbarium", Some(r"D:\Herbarium")),
            ("/mnt/d/Herbarium", Some(r"D:\Herbarium")),
            ("/cygdrive/D/Herbarium", Some(r"D:\Herbarium")),
            ("/d/Herbarium", Some(r"D:\Herbarium")),
            (r"\\mossbank\press\d", None),
            (r"\\?\UNC\mossbank\d$\Herbarium", None),
            ("/mnt/disk/Herbarium", None),
            (r"D:\mnt\d", None),
        ];
        for (content, expected) in cases {
            let found = &Finder::default().find(content, Hint::Name)[0];
            let alias = found.alias(content).map(|alias| {
                let end = alias.found.hard_end;
                alias.found.place_until(content, end).to_string()
            });
            assert_eq!(alias.as_deref(), expected, "{content}");
        }
    }

    #[test]
    fn there_and_back_through_a_share() {
        let place = Place::parse(r"D:\Herbarium").unwrap();
        let shared = place.through_share_of("mossbank");
        assert_eq!(shared.to_string(), r"\\mossbank\D$\Herbarium");
        assert_eq!(shared.root.admin_server(), Some("mossbank"));
        let posix = Place::parse("/srv/x").unwrap();
        assert!(posix.through_share_of("mossbank").same(&posix));
    }
}
