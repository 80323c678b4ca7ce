//! Whether a link can be made at one place, and what that takes.

use std::fs;
use std::path::{Path, PathBuf};

use thiserror::Error;

use super::ground::Ground;
use super::{Way, Works};
use crate::base::platform::{has_links, may_change};
use crate::place::{Place, Root};
use crate::record::LinkKind;
use crate::report::Target;
use crate::resolve::Resolver;
use crate::sheet::Sheet;

/// What can be said of a link.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Verdict {
    /// It can be made.
    Possible(Works),
    /// It stands already.
    Stands,
    /// The old place, or the new one, is not to be seen from here: a script looks where it is run.
    Unseen,
    /// It would be in order, but the places are another machine's, seen here under other names.
    Elsewhere,
    /// It cannot be made.
    Refused(Refusal),
}

/// Why a link is not made.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
pub enum Refusal {
    /// There is nothing to lead to.
    #[error("the new place is not there")]
    NewMissing,
    /// One place lies in the other.
    #[error("a link there would lead into itself")]
    Loop,
    /// A link stands there that leads elsewhere.
    #[error("a link stands there that leads to {0}; take it away with --remove if nobody needs it")]
    OtherLink(String),
    /// A file stands there.
    #[error("a file stands there; --set-aside gives it another name")]
    File,
    /// An empty folder stands there.
    #[error(
        "an empty folder stands there, as a program makes that found nothing; --set-aside gives it another name"
    )]
    EmptyFolder,
    /// A folder stands there that a link would hide.
    #[error("a folder with {} stands there, which a link would hide: merge what is new in it into the new place first, then --set-aside gives it another name", entries(*.0))]
    Folder(usize),
    /// A folder stands there that cannot be looked into.
    #[error("a folder stands there that cannot be looked into; run as its owner")]
    ClosedFolder,
    /// What stays at the old place would be hidden.
    #[error("an exception of the sheet stays there, which a link would hide")]
    Exception,
    /// What the folder would be called is taken.
    #[error("what stands there would be set aside as {0}, and that name is taken")]
    AsideTaken(String),
    /// On the way there is no folder.
    #[error("{0} on the way to it is no folder")]
    Barred(String),
    /// Nothing may be made there.
    #[error("this user may not make anything in {0}; run as its owner")]
    NoRight(String),
    /// The file system has no links.
    #[error("the disk of {0} has no links (its file system is FAT or the like)")]
    NoLinks(String),
    /// The whole drive would have to be a letter, and cannot.
    #[error(
        "drive {0}: is not there, and no letter can stand in for it: the names below it have changed, too"
    )]
    NoLetter(char),
    /// The old place is named by its server.
    #[error(
        "nothing can be made at the name of a server; give the new server that name too, or make a link on the server itself"
    )]
    OnServer,
    /// A link cannot stand for a whole drive that is there.
    #[error("a link cannot stand for a whole drive")]
    WholeDrive,
}

impl Refusal {
    /// A short name for it.
    pub fn name(&self) -> &'static str {
        match self {
            Self::NewMissing => "new-missing",
            Self::Loop => "loop",
            Self::OtherLink(_) => "other-link",
            Self::File => "file",
            Self::EmptyFolder => "empty-folder",
            Self::Folder(_) => "folder",
            Self::ClosedFolder => "closed-folder",
            Self::Exception => "exception",
            Self::AsideTaken(_) => "aside-taken",
            Self::Barred(_) => "barred",
            Self::NoRight(_) => "no-right",
            Self::NoLinks(_) => "no-links",
            Self::NoLetter(_) => "no-letter",
            Self::OnServer => "on-server",
            Self::WholeDrive => "whole-drive",
        }
    }
}

fn entries(count: usize) -> String {
    match count {
        1 => "one entry".to_owned(),
        many => format!("{many} entries"),
    }
}

/// Where links are to be made, and how.
#[derive(Clone, Copy, Debug)]
pub struct Site<'a> {
    /// The moves.
    pub sheet: &'a Sheet,
    /// Answers what exists.
    pub resolver: &'a Resolver,
    /// Whether what stands in the way is renamed.
    pub set_aside: bool,
}

/// What the name of a thing that is set aside ends with then.
pub(super) const SET_ASIDE: &str = " (set aside)";

/// What a thing that is set aside is called.
fn aside_of(path: &Path) -> PathBuf {
    let mut name = path.file_name().unwrap_or_default().to_owned();
    name.push(SET_ASIDE);
    path.with_file_name(name)
}

impl Site<'_> {
    /// What would lead from `old` to `new`.
    pub fn way(&self, old: &Place, new: &Place) -> Way {
        if old.root.is_drive() && self.is_drive_gone(old) {
            return Way::Letter;
        }
        let target = self.resolver.path_of(new);
        let remote = matches!(new.root, Root::Share { .. });
        let kind = match &old.root {
            Root::Posix => Some(LinkKind::Symbolic),
            _ => target.map(|path| match (path.is_dir(), remote) {
                (false, _) => LinkKind::Symbolic,
                (true, true) => LinkKind::Folder,
                (true, false) => LinkKind::Junction,
            }),
        };
        Way::Link(kind)
    }

    /// Whether the drive of `old` is known not to be there.
    fn is_drive_gone(&self, old: &Place) -> bool {
        let drive = old.up_to(0);
        self.resolver.is_native(&drive) && self.resolver.target(&drive) != Target::Live
    }

    /// Whether a link from `old` to `new` can be made, and what it takes.
    pub fn judge(&self, old: &Place, new: &Place) -> Verdict {
        match self.refusal(old, new) {
            Ok(verdict) => verdict,
            Err(refusal) => Verdict::Refused(refusal),
        }
    }

    fn refusal(&self, old: &Place, new: &Place) -> Result<Verdict, Refusal> {
        if new.is_under(old) || old.is_under(new) {
            return Err(Refusal::Loop);
        }
        if matches!(old.root, Root::Share { .. }) {
            return Err(Refusal::OnServer);
        }
        if self.resolver.target(new) == Target::Dangling {
            return Err(Refusal::NewMissing);
        }
        if let Root::Drive(letter) = old.root
            && self.is_drive_gone(old)
        {
            let folder = letter_for(old, new).ok_or(Refusal::NoLetter(letter))?;
            let native = self.resolver.is_native(&folder);
            return Ok(match self.resolver.path_of(&folder).filter(|_| native) {
                Some(target) => Verdict::Possible(Works {
                    path: PathBuf::from(format!("{letter}:\\")),
                    target,
                    folders: Vec::new(),
                    aside: None,
                }),
                None => Verdict::Unseen,
            });
        }
        let (Some(path), Some(target)) = (self.resolver.path_for(old), self.resolver.path_of(new))
        else {
            return Ok(Verdict::Unseen);
        };
        if path.file_name().is_none() || old.components.is_empty() {
            return Err(Refusal::WholeDrive);
        }
        let ground = Ground::of(&path);
        if let Ground::Link(leads) = &ground {
            return if leads_to(&path, &target) {
                Ok(Verdict::Stands)
            } else {
                Err(Refusal::OtherLink(leads.to_string_lossy().into_owned()))
            };
        }
        if leads_round(&path, &target) {
            return Err(Refusal::Loop);
        }
        let works = self.works(path, target, ground, old)?;
        if self.resolver.is_native(old) && self.resolver.is_native(new) {
            Ok(Verdict::Possible(works))
        } else {
            Ok(Verdict::Elsewhere)
        }
    }

    /// What it takes where nothing, or what can be set aside, stands at `path`.
    fn works(
        &self,
        path: PathBuf,
        target: PathBuf,
        ground: Ground,
        old: &Place,
    ) -> Result<Works, Refusal> {
        let shown = |path: &Path| path.to_string_lossy().into_owned();
        let folders = match ground {
            Ground::Free(missing) => missing,
            Ground::Barred(by) => return Err(Refusal::Barred(shown(&by))),
            Ground::Folder(_) if self.stays_below(old) => return Err(Refusal::Exception),
            Ground::Folder(None) => return Err(Refusal::ClosedFolder),
            Ground::Folder(Some(0)) if !self.set_aside => return Err(Refusal::EmptyFolder),
            Ground::Folder(Some(number)) if !self.set_aside => {
                return Err(Refusal::Folder(number));
            }
            Ground::File if !self.set_aside => return Err(Refusal::File),
            Ground::Folder(_) | Ground::File | Ground::Link(_) => {
                return self.in_place_of(path, target);
            }
        };
        let there = folders.first().unwrap_or(&path).parent();
        let there = there.unwrap_or(&path);
        may_make(there)?;
        Ok(Works {
            path,
            target,
            folders,
            aside: None,
        })
    }

    fn in_place_of(&self, path: PathBuf, target: PathBuf) -> Result<Works, Refusal> {
        may_make(path.parent().unwrap_or(&path))?;
        let aside = aside_of(&path);
        if fs::symlink_metadata(&aside).is_ok() {
            let taken = aside.to_string_lossy().into_owned();
            return Err(Refusal::AsideTaken(taken));
        }
        Ok(Works {
            path,
            target,
            folders: Vec::new(),
            aside: Some(aside),
        })
    }

    /// Whether an exception of the sheet stays at or below `old`.
    pub(super) fn stays_below(&self, old: &Place) -> bool {
        let mut exceptions = self.sheet.moves.iter().flat_map(|one| &one.except);
        exceptions.any(|stays| stays.is_under(old))
    }
}

/// Whether something may be made in a folder, and a link be there.
fn may_make(folder: &Path) -> Result<(), Refusal> {
    let shown = folder.to_string_lossy().into_owned();
    if has_links(folder) == Some(false) {
        return Err(Refusal::NoLinks(shown));
    }
    match may_change(folder) {
        Some(false) => Err(Refusal::NoRight(shown)),
        _ => Ok(()),
    }
}

/// Whether one of a link and its target really lies in the other, by whatever names they go.
fn leads_round(link: &Path, target: &Path) -> bool {
    let there = link.ancestors().skip(1).find_map(|above| {
        let real = above.canonicalize().ok()?;
        Some(real.join(link.strip_prefix(above).ok()?))
    });
    let (Some(link), Ok(target)) = (there, target.canonicalize()) else {
        return false;
    };
    target.starts_with(&link) || link.starts_with(&target)
}

/// Whether a link leads to `target`, other links followed.
pub(super) fn leads_to(link: &Path, target: &Path) -> bool {
    match (link.canonicalize(), target.canonicalize()) {
        (Ok(leads), Ok(target)) => leads == target,
        _ => false,
    }
}

/// The folder for which a letter can stand in so that `old` becomes `new`; none if the names below the
/// drive are others.
pub(super) fn letter_for(old: &Place, new: &Place) -> Option<Place> {
    let kept = new.components.len().checked_sub(old.components.len())?;
    let folder = new.up_to(kept);
    let mut whole = folder.clone();
    whole.components.extend(old.components.iter().cloned());
    whole.same(new).then_some(folder)
}
