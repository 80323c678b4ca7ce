//! A held folder by its descriptor.

use std::ffi::{OsStr, OsString};
use std::fs::{File, Metadata};
use std::io;
use std::os::fd::OwnedFd;
use std::os::unix::ffi::OsStringExt;
use std::path::{Component, Path, PathBuf};

use rustix::fs::{AtFlags, CWD, Mode, OFlags, RenameFlags};
use rustix::fs::{
    chownat, fstat, linkat, openat, readlinkat, renameat, renameat_with, statat, symlinkat,
    unlinkat,
};
use rustix::io::{Errno, retry_on_intr};

use crate::record::LinkKind;

/// What the system says of a link that must not be followed.
pub(in crate::record) const LOOP: Option<i32> = Some(Errno::LOOP.raw_os_error());
/// What the system says where this process, or the system itself, can open no more files.
pub(in crate::record) const NO_MORE_FILES: [i32; 2] =
    [Errno::MFILE.raw_os_error(), Errno::NFILE.raw_os_error()];
/// Whether the names of a folder are to be synced apart from its files.
pub(in crate::record) const NAMES_ARE_SYNCED: bool = true;

/// A folder that is held.
#[derive(Debug)]
pub(in crate::record) struct Folder {
    handle: OwnedFd,
}

/// What a handle of a folder is opened with.
fn handle_flags() -> OFlags {
    let flags = OFlags::DIRECTORY | OFlags::NOFOLLOW | OFlags::CLOEXEC;
    #[cfg(any(target_os = "linux", target_os = "android"))]
    return flags | OFlags::PATH;
    #[cfg(not(any(target_os = "linux", target_os = "android")))]
    return flags | OFlags::RDONLY;
}

impl Folder {
    /// Holds the folder at a canonical path.
    ///
    /// # Errors
    /// As the system says; where there is a link on the way, `is_other_folder` knows it.
    pub(in crate::record) fn open(path: &Path) -> io::Result<Self> {
        #[cfg(any(target_os = "linux", target_os = "android"))]
        {
            use rustix::fs::{ResolveFlags, openat2};
            let open = || {
                let resolve = ResolveFlags::NO_SYMLINKS;
                openat2(CWD, path, handle_flags(), Mode::empty(), resolve)
            };
            match retry_on_intr(open) {
                Ok(handle) => return Ok(Self { handle }),
                // Older kernels, and some sandboxes.
                Err(Errno::NOSYS | Errno::PERM) => {}
                Err(error) => return Err(error.into()),
            }
        }
        Self::open_step_by_step(path)
    }

    fn open_step_by_step(path: &Path) -> io::Result<Self> {
        let mut handle = open_at(CWD, Path::new("/"))?;
        for part in path.components() {
            match part {
                Component::RootDir => {}
                Component::Normal(name) => handle = open_at(&handle, Path::new(name))?,
                _ => return Err(io::ErrorKind::InvalidInput.into()),
            }
        }
        Ok(Self { handle })
    }

    /// Whether the folder at `path` is still this one.
    pub(in crate::record) fn is_at(&self, path: &Path) -> bool {
        let known = |folder: &Self| fstat(&folder.handle).map(|it| (it.st_dev, it.st_ino)).ok();
        Self::open(path).is_ok_and(|now| known(&now).is_some() && known(&now) == known(self))
    }

    /// Opens a regular file for reading without following a link, and without waiting on pipes.
    ///
    /// # Errors
    /// As the system says, or `InvalidInput` if it is no regular file.
    pub(in crate::record) fn open_regular(&self, name: &OsStr) -> io::Result<(File, Metadata)> {
        let flags =
            OFlags::RDONLY | OFlags::NOFOLLOW | OFlags::NONBLOCK | OFlags::NOCTTY | OFlags::CLOEXEC;
        let open = || openat(&self.handle, name, flags, Mode::empty());
        crate::base::platform::only_regular(File::from(retry_on_intr(open)?))
    }

    /// Opens a file that is to be replaced. What other programs do with it is told by
    /// [`OpenFiles`](crate::base::platform::OpenFiles).
    ///
    /// # Errors
    /// As [`Self::open_regular`].
    pub(in crate::record) fn open_to_replace(
        &self,
        name: &OsStr,
        _exclusive: bool,
    ) -> io::Result<(File, Metadata)> {
        self.open_regular(name)
    }

    /// Where a link leads, as it says it; none if there is no link.
    pub(in crate::record) fn link_target(&self, name: &OsStr) -> Option<PathBuf> {
        let target = retry_on_intr(|| readlinkat(&self.handle, name, Vec::new())).ok()?;
        Some(PathBuf::from(OsString::from_vec(target.into_bytes())))
    }

    /// What sort of link it is.
    ///
    /// # Errors
    /// None here.
    pub(in crate::record) fn kind_of_link(&self, _name: &OsStr) -> io::Result<LinkKind> {
        Ok(LinkKind::Symbolic)
    }

    /// Whether there is anything of this name.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn has(&self, name: &OsStr) -> io::Result<bool> {
        let look = || statat(&self.handle, name, AtFlags::SYMLINK_NOFOLLOW);
        match retry_on_intr(look) {
            Ok(_) => Ok(true),
            Err(Errno::NOENT) => Ok(false),
            Err(error) => Err(error.into()),
        }
    }

    /// Whether two names are of one file.
    pub(in crate::record) fn is_same(&self, name: &OsStr, of: &Self, other: &OsStr) -> bool {
        let known = |folder: &Self, name: &OsStr| {
            let look = || statat(&folder.handle, name, AtFlags::SYMLINK_NOFOLLOW);
            retry_on_intr(look).map(|it| (it.st_dev, it.st_ino)).ok()
        };
        known(self, name).is_some_and(|one| Some(one) == known(of, other))
    }

    /// Makes a new file that only its owner may read, for writing.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn create_new(&self, name: &OsStr) -> io::Result<File> {
        let flags =
            OFlags::WRONLY | OFlags::CREATE | OFlags::EXCL | OFlags::NOFOLLOW | OFlags::CLOEXEC;
        let open = || openat(&self.handle, name, flags, Mode::RUSR | Mode::WUSR);
        Ok(File::from(retry_on_intr(open)?))
    }

    /// Makes a new link.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn make_link(
        &self,
        _kind: LinkKind,
        target: &Path,
        name: &OsStr,
    ) -> io::Result<()> {
        Ok(retry_on_intr(|| symlinkat(target, &self.handle, name))?)
    }

    /// Gives a new link the owner of the one called `model`.
    ///
    /// # Errors
    /// Where it cannot be kept.
    pub(in crate::record) fn keep_owner(&self, model: &OsStr, link: &OsStr) -> io::Result<()> {
        let look =
            |name: &OsStr| retry_on_intr(|| statat(&self.handle, name, AtFlags::SYMLINK_NOFOLLOW));
        let (old, new) = (look(model)?, look(link)?);
        if (old.st_uid, old.st_gid) != (new.st_uid, new.st_gid) {
            let owner = Some(rustix::process::Uid::from_raw(old.st_uid));
            let group = Some(rustix::process::Gid::from_raw(old.st_gid));
            let flags = AtFlags::SYMLINK_NOFOLLOW;
            retry_on_intr(|| chownat(&self.handle, link, owner, group, flags))?;
        }
        Ok(())
    }

    /// Puts `new` in the place of `old` in one step. Gives the name that what was replaced has
    /// now, to be looked at and then removed or put back.
    ///
    /// # Errors
    /// `Unsupported` where the file system cannot exchange two files; and as the system says.
    pub(in crate::record) fn exchange(&self, new: &OsStr, old: &OsStr) -> io::Result<OsString> {
        #[cfg(any(target_os = "linux", target_os = "android", target_vendor = "apple"))]
        {
            let swap = || {
                let flags = RenameFlags::EXCHANGE;
                renameat_with(&self.handle, new, &self.handle, old, flags)
            };
            match retry_on_intr(swap) {
                Ok(()) => Ok(new.to_owned()),
                // File systems without it say so in one of these ways.
                Err(Errno::INVAL | Errno::NOSYS | Errno::OPNOTSUPP) => {
                    Err(io::ErrorKind::Unsupported.into())
                }
                Err(error) => Err(error.into()),
            }
        }
        #[cfg(not(any(target_os = "linux", target_os = "android", target_vendor = "apple")))]
        {
            let _ = (new, old);
            Err(io::ErrorKind::Unsupported.into())
        }
    }

    /// Gives what is called `from` the name `to`, in place of what has that.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn rename(&self, from: &OsStr, to: &OsStr) -> io::Result<()> {
        Ok(retry_on_intr(|| {
            renameat(&self.handle, from, &self.handle, to)
        })?)
    }

    /// Makes `name` another name of `file` in the folder `of`.
    ///
    /// # Errors
    /// As the system says, also if something has that name.
    pub(in crate::record) fn join(&self, name: &OsStr, of: &Self, file: &OsStr) -> io::Result<()> {
        let flags = AtFlags::empty();
        Ok(retry_on_intr(|| {
            linkat(&of.handle, file, &self.handle, name, flags)
        })?)
    }

    /// Removes a file of ours, or one that we replaced, read-only or not.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn remove(&self, name: &OsStr) -> io::Result<()> {
        Ok(retry_on_intr(|| {
            unlinkat(&self.handle, name, AtFlags::empty())
        })?)
    }

    /// The folder, to be synced so that its names are on the disk.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn to_sync(&self) -> io::Result<Option<File>> {
        let flags = OFlags::RDONLY | OFlags::DIRECTORY | OFlags::CLOEXEC;
        let open = || openat(&self.handle, ".", flags, Mode::empty());
        Ok(Some(File::from(retry_on_intr(open)?)))
    }
}

fn open_at(folder: impl std::os::fd::AsFd, name: &Path) -> io::Result<OwnedFd> {
    let open = || openat(folder.as_fd(), name, handle_flags(), Mode::empty());
    Ok(retry_on_intr(open)?)
}

/// What a kill may leave of what [`Folder::exchange`] replaced.
pub(in crate::record) fn aside(temporary: &OsStr) -> OsString {
    temporary.to_owned()
}

/// Whether a failure means that a program has the file open; here that keeps nothing from being
/// replaced.
pub(in crate::record) fn is_in_use(_error: &io::Error) -> bool {
    false
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn both_ways_of_holding_a_folder_refuse_links() {
        let root = tempfile::tempdir().unwrap();
        let root = root.path().canonicalize().unwrap();
        std::fs::create_dir_all(root.join("a/b")).unwrap();
        std::os::unix::fs::symlink(root.join("a"), root.join("link")).unwrap();
        for open in [Folder::open, Folder::open_step_by_step] {
            let held = open(&root.join("a/b")).unwrap();
            assert!(held.is_at(&root.join("a/b")) && !held.is_at(&root.join("a")));
            for through in ["link", "link/b", "none"] {
                let error = open(&root.join(through)).unwrap_err();
                assert!(
                    crate::record::system::folder::is_other_folder(&error),
                    "{through}: {error}"
                );
            }
        }
    }
}
