//! What a run does to links, and to what stands in their way: small steps, each of which can be taken
//! back by another.

use std::fs;
use std::io;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};

use super::system::link::{LinkKind, link_target};
use super::system::{new_link, remove_link};
use super::written::PathText;
use crate::base::platform::letters;

/// One thing that is done to links or beside them.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Step {
    /// A folder is made, for a link to stand in.
    MakeFolder {
        /// The folder.
        path: PathText,
    },
    /// A folder in which nothing lies is taken away.
    TakeFolder {
        /// The folder.
        path: PathText,
    },
    /// A link is made.
    MakeLink {
        /// The link.
        path: PathText,
        /// Where it leads.
        target: PathText,
        /// What sort of link it is.
        link: LinkKind,
    },
    /// A link is taken away; what it leads to is not touched.
    TakeLink {
        /// The link.
        path: PathText,
        /// Where it leads.
        target: PathText,
        /// What sort of link it is.
        link: LinkKind,
    },
    /// A drive's letter comes to stand in for a folder.
    GiveLetter {
        /// The letter.
        letter: char,
        /// The folder.
        folder: PathText,
    },
    /// A letter is taken away from a folder, which is not touched.
    TakeLetter {
        /// The letter.
        letter: char,
        /// The folder.
        folder: PathText,
    },
    /// A letter is given to a folder at each sign-in of the user.
    RememberLetter {
        /// The letter.
        letter: char,
        /// The folder.
        folder: PathText,
    },
    /// A letter is not given at sign-in any more.
    ForgetLetter {
        /// The letter.
        letter: char,
        /// The folder.
        folder: PathText,
    },
    /// A file or folder gets another name.
    Rename {
        /// What it is called before.
        path: PathText,
        /// What it is called afterwards.
        to: PathText,
    },
}

impl Step {
    /// The step that takes it back.
    pub fn reverse(&self) -> Self {
        match self.clone() {
            Self::MakeFolder { path } => Self::TakeFolder { path },
            Self::TakeFolder { path } => Self::MakeFolder { path },
            Self::MakeLink { path, target, link } => Self::TakeLink { path, target, link },
            Self::TakeLink { path, target, link } => Self::MakeLink { path, target, link },
            Self::GiveLetter { letter, folder } => Self::TakeLetter { letter, folder },
            Self::TakeLetter { letter, folder } => Self::GiveLetter { letter, folder },
            Self::RememberLetter { letter, folder } => Self::ForgetLetter { letter, folder },
            Self::ForgetLetter { letter, folder } => Self::RememberLetter { letter, folder },
            Self::Rename { path, to } => Self::Rename { path: to, to: path },
        }
    }

    /// Whether it makes a link or takes one away, or does so with a letter.
    pub fn is_of_link(&self) -> bool {
        match self {
            Self::MakeFolder { .. }
            | Self::TakeFolder { .. }
            | Self::RememberLetter { .. }
            | Self::ForgetLetter { .. }
            | Self::Rename { .. } => false,
            Self::MakeLink { .. }
            | Self::TakeLink { .. }
            | Self::GiveLetter { .. }
            | Self::TakeLetter { .. } => true,
        }
    }

    /// What it is done to.
    pub fn path(&self) -> PathBuf {
        match self {
            Self::MakeFolder { path }
            | Self::TakeFolder { path }
            | Self::MakeLink { path, .. }
            | Self::TakeLink { path, .. }
            | Self::Rename { path, .. } => path.to_path(),
            Self::GiveLetter { letter, .. }
            | Self::TakeLetter { letter, .. }
            | Self::RememberLetter { letter, .. }
            | Self::ForgetLetter { letter, .. } => PathBuf::from(format!("{letter}:\\")),
        }
    }

    /// Every path that it makes or takes away, where a link leads left aside.
    pub(super) fn paths(&self) -> Vec<PathBuf> {
        match self {
            Self::Rename { path, to } => vec![path.to_path(), to.to_path()],
            Self::GiveLetter { .. }
            | Self::TakeLetter { .. }
            | Self::RememberLetter { .. }
            | Self::ForgetLetter { .. } => Vec::new(),
            _ => vec![self.path()],
        }
    }

    /// Whether things are as it leaves them.
    pub fn stands(&self) -> bool {
        let there = |path: &PathText| fs::symlink_metadata(path.to_path()).is_ok();
        match self {
            Self::MakeFolder { path } => {
                let path = path.to_path();
                path.is_dir() && link_target(&path).is_none()
            }
            Self::TakeFolder { path } => !there(path),
            Self::MakeLink { path, target, .. } => leads_to(&path.to_path(), &target.to_path()),
            Self::TakeLink { path, target, .. } => !leads_to(&path.to_path(), &target.to_path()),
            Self::GiveLetter { letter, folder } => stands_in(*letter, folder),
            Self::TakeLetter { letter, folder } => !stands_in(*letter, folder),
            Self::RememberLetter { letter, folder } => {
                letters::is_remembered(*letter, &folder.to_path())
            }
            Self::ForgetLetter { letter, folder } => {
                !letters::is_remembered(*letter, &folder.to_path())
            }
            Self::Rename { path, to } => !there(path) && there(to),
        }
    }

    /// Does it.
    ///
    /// # Errors
    /// As the system says; `AlreadyExists` where something is in the way, `InvalidData` where a link that
    /// is to be taken away leads elsewhere, or is none.
    pub(super) fn take(&self) -> io::Result<()> {
        match self {
            Self::MakeFolder { path } => fs::create_dir(path.to_path()),
            Self::TakeFolder { path } => fs::remove_dir(path.to_path()),
            Self::MakeLink { path, target, link } => {
                new_link(*link, &target.to_path(), &path.to_path())
            }
            Self::TakeLink { path, target, link } => {
                let path = path.to_path();
                if !leads_to(&path, &target.to_path()) {
                    return Err(io::Error::new(
                        io::ErrorKind::InvalidData,
                        "it is not the link that it was",
                    ));
                }
                remove_link(*link, &path)
            }
            Self::GiveLetter { letter, folder } => letters::give(*letter, &folder.to_path()),
            Self::TakeLetter { letter, folder } => letters::take(*letter, &folder.to_path()),
            Self::RememberLetter { letter, folder } => {
                letters::remember(*letter, &folder.to_path())
            }
            Self::ForgetLetter { letter, folder } => letters::forget(*letter, &folder.to_path()),
            Self::Rename { path, to } => {
                let (path, to) = (path.to_path(), to.to_path());
                // The system would let a folder take the place of an empty one.
                match fs::symlink_metadata(&to) {
                    Ok(_) => Err(io::ErrorKind::AlreadyExists.into()),
                    Err(_) => fs::rename(path, to),
                }
            }
        }
    }
}

fn stands_in(letter: char, folder: &PathText) -> bool {
    letters::stands_in_for(letter) == Some(folder.to_path())
}

fn leads_to(link: &Path, target: &Path) -> bool {
    let plain = |path: &Path| crate::base::platform::familiar(path);
    link_target(link).is_some_and(|leads| plain(&leads) == plain(target))
}

// Making links needs no right of its own there.
#[cfg(all(test, unix))]
mod tests {
    use super::*;

    #[test]
    fn steps_stand_and_are_taken_back() {
        let folder = tempfile::tempdir().unwrap();
        let at = |name: &str| PathText::from(folder.path().join(name).as_path());
        fs::create_dir(folder.path().join("new")).unwrap();
        fs::write(folder.path().join("new/x"), b"x").unwrap();
        fs::write(folder.path().join("in-the-way"), b"y").unwrap();
        let link = LinkKind::Symbolic;
        let steps = [
            Step::MakeFolder { path: at("a") },
            Step::MakeLink {
                path: at("a/old"),
                target: at("new"),
                link,
            },
            Step::Rename {
                path: at("in-the-way"),
                to: at("aside"),
            },
        ];
        for step in &steps {
            assert!(!step.stands());
            step.take().unwrap();
            assert!(step.stands() && !step.reverse().stands());
        }
        assert_eq!(fs::read(folder.path().join("a/old/x")).unwrap(), b"x");
        // What is in the way, or is something else by now, stays.
        for step in &steps {
            assert!(step.take().is_err());
        }
        let other = Step::TakeLink {
            path: at("a/old"),
            target: at("a"),
            link,
        };
        assert!(other.take().is_err());
        let full = Step::TakeFolder { path: at("a") };
        assert!(full.take().is_err());
        for step in steps.iter().rev() {
            step.reverse().take().unwrap();
            assert!(!step.stands() && step.reverse().stands());
        }
        assert_eq!(fs::read(folder.path().join("new/x")).unwrap(), b"x");
        assert_eq!(fs::read(folder.path().join("in-the-way")).unwrap(), b"y");
        assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 2);
    }
}
