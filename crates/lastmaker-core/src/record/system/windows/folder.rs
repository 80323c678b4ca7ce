//! A held folder by its path: while a handle of it is open that lets nobody delete it, neither it
//! nor a folder above it can be renamed.

use std::ffi::{OsStr, OsString};
use std::fs::{self, File, Metadata, OpenOptions};
use std::io;
use std::os::windows::ffi::OsStrExt;
use std::os::windows::fs::{FileTypeExt, MetadataExt, OpenOptionsExt};
use std::path::{Path, PathBuf};

use windows_sys::Win32::Storage::FileSystem::{
    FILE_FLAG_BACKUP_SEMANTICS, FILE_FLAG_OPEN_REPARSE_POINT, FILE_SHARE_DELETE, FILE_SHARE_READ,
    FILE_SHARE_WRITE, ReplaceFileW,
};

use crate::base::platform::OpenElsewhere;
use crate::record::LinkKind;

/// `ERROR_SHARING_VIOLATION`.
const SHARING: i32 = 32;

/// What the system says of a link that must not be followed: nothing of its own.
pub(in crate::record) const LOOP: Option<i32> = None;
/// `ERROR_TOO_MANY_OPEN_FILES`.
pub(in crate::record) const NO_MORE_FILES: [i32; 1] = [4];
/// Whether the names of a folder are to be synced apart from its files.
pub(in crate::record) const NAMES_ARE_SYNCED: bool = false;

/// A folder that is held.
#[derive(Debug)]
pub(in crate::record) struct Folder {
    path: PathBuf,
    handle: File,
}

impl Folder {
    /// Holds the folder at a canonical path.
    ///
    /// # Errors
    /// As the system says; where there is a link on the way, `is_other_folder` knows it.
    pub(in crate::record) fn open(path: &Path) -> io::Result<Self> {
        let handle = OpenOptions::new()
            .read(true)
            .share_mode(FILE_SHARE_READ | FILE_SHARE_WRITE)
            .custom_flags(FILE_FLAG_BACKUP_SEMANTICS | FILE_FLAG_OPEN_REPARSE_POINT)
            .open(path)?;
        // What is on the way is held now, too, so that it is looked at only once.
        if !handle.metadata()?.is_dir() || path.canonicalize()? != path {
            return Err(io::ErrorKind::NotADirectory.into());
        }
        Ok(Self {
            path: path.to_owned(),
            handle,
        })
    }

    /// Whether the folder at `path` is still this one.
    pub(in crate::record) fn is_at(&self, path: &Path) -> bool {
        let known = |file: &File| {
            let known = winapi_util::file::information(file).ok()?;
            Some((known.volume_serial_number(), known.file_index()))
        };
        Self::open(path).is_ok_and(|now| {
            let same = known(&now.handle);
            same.is_some() && same == known(&self.handle)
        })
    }

    /// Opens a regular file for reading without following a link.
    ///
    /// # Errors
    /// As the system says, or `InvalidInput` if it is no regular file.
    pub(in crate::record) fn open_regular(&self, name: &OsStr) -> io::Result<(File, Metadata)> {
        self.open_sharing(name, FILE_SHARE_READ | FILE_SHARE_WRITE | FILE_SHARE_DELETE)
    }

    /// Opens a file that is to be replaced, which fails while a program has it open for writing;
    /// or, if it is to be `exclusive`, at all.
    ///
    /// # Errors
    /// As [`Self::open_regular`], and [`OpenElsewhere`].
    pub(in crate::record) fn open_to_replace(
        &self,
        name: &OsStr,
        exclusive: bool,
    ) -> io::Result<(File, Metadata)> {
        let share = if exclusive {
            0
        } else {
            FILE_SHARE_READ | FILE_SHARE_DELETE
        };
        self.open_sharing(name, share)
            .map_err(|error| match error.raw_os_error() {
                Some(SHARING) => io::Error::new(io::ErrorKind::ResourceBusy, OpenElsewhere),
                _ => error,
            })
    }

    fn open_sharing(&self, name: &OsStr, share: u32) -> io::Result<(File, Metadata)> {
        let file = OpenOptions::new()
            .read(true)
            .share_mode(share)
            .custom_flags(FILE_FLAG_OPEN_REPARSE_POINT)
            .open(self.path.join(name))?;
        crate::base::platform::only_regular(file)
    }

    /// Where a link leads, as it says it; none if there is no link.
    pub(in crate::record) fn link_target(&self, name: &OsStr) -> Option<PathBuf> {
        fs::read_link(self.path.join(name)).ok()
    }

    /// What sort of link it is.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn kind_of_link(&self, name: &OsStr) -> io::Result<LinkKind> {
        super::kind_of_link(&self.path.join(name))
    }

    /// Whether there is anything of this name.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn has(&self, name: &OsStr) -> io::Result<bool> {
        match fs::symlink_metadata(self.path.join(name)) {
            Ok(_) => Ok(true),
            Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(false),
            Err(error) => Err(error),
        }
    }

    /// Whether two names are of one file.
    pub(in crate::record) fn is_same(&self, name: &OsStr, of: &Self, other: &OsStr) -> bool {
        let known = |folder: &Self, name: &OsStr| {
            let (file, _) = folder.open_regular(name).ok()?;
            let known = winapi_util::file::information(&file).ok()?;
            Some((known.volume_serial_number(), known.file_index()))
        };
        known(self, name).is_some_and(|one| Some(one) == known(of, other))
    }

    /// Makes a new file for writing.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn create_new(&self, name: &OsStr) -> io::Result<File> {
        File::create_new(self.path.join(name))
    }

    /// Makes a new link.
    ///
    /// # Errors
    /// As the system says; symbolic links need a right that users often lack.
    pub(in crate::record) fn make_link(
        &self,
        kind: LinkKind,
        target: &Path,
        name: &OsStr,
    ) -> io::Result<()> {
        super::new_link(kind, target, &self.path.join(name))
    }

    /// Gives a new link the owner of the one called `model`; here it is whoever makes it.
    ///
    /// # Errors
    /// None here.
    pub(in crate::record) fn keep_owner(&self, _model: &OsStr, _link: &OsStr) -> io::Result<()> {
        Ok(())
    }

    /// Puts `new` in the place of `old` in one step. Gives the name that what was replaced has
    /// now, to be looked at and then removed or put back. The access list, the attributes, the
    /// time of creation and the other streams of the file that is replaced are kept.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn exchange(&self, new: &OsStr, old: &OsStr) -> io::Result<OsString> {
        let out_name = aside(new);
        let (target, out) = (self.path.join(old), self.path.join(&out_name));
        let new = self.path.join(new);
        if fs::symlink_metadata(&target)?.file_type().is_symlink() {
            // Links have no call that replaces them: the old one is moved aside first, and a kill
            // between the two is settled by the record.
            fs::rename(&target, &out)?;
            return match fs::rename(&new, &target) {
                Ok(()) => Ok(out_name),
                Err(error) => {
                    fs::rename(&out, &target)?;
                    Err(error)
                }
            };
        }
        let read_only = fs::metadata(&target)?.permissions().readonly();
        if read_only {
            set_read_only(&target, false)?;
        }
        let replaced = replace_file(&target, &new, &out);
        if replaced.is_err() && !target.exists() && out.exists() {
            // The old file was moved aside before the new one could not be put in its place.
            fs::rename(&out, &target)?;
        }
        if read_only {
            set_read_only(&target, true)?;
            if out.exists() {
                set_read_only(&out, false)?;
            }
        }
        replaced.map(|()| out_name)
    }

    /// Gives what is called `from` the name `to`, in place of what has that.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn rename(&self, from: &OsStr, to: &OsStr) -> io::Result<()> {
        fs::rename(self.path.join(from), self.path.join(to))
    }

    /// Makes `name` another name of `file` in the folder `of`.
    ///
    /// # Errors
    /// As the system says, also if something has that name.
    pub(in crate::record) fn join(&self, name: &OsStr, of: &Self, file: &OsStr) -> io::Result<()> {
        fs::hard_link(of.path.join(file), self.path.join(name))
    }

    /// Removes a file of ours, or one that we replaced, read-only or not.
    ///
    /// # Errors
    /// As the system says.
    pub(in crate::record) fn remove(&self, name: &OsStr) -> io::Result<()> {
        let path = self.path.join(name);
        let kind = fs::symlink_metadata(&path)?.file_type();
        if kind.is_symlink_dir() {
            return fs::remove_dir(path);
        }
        if !kind.is_symlink() && fs::metadata(&path)?.file_attributes() & READ_ONLY != 0 {
            set_read_only(&path, false)?;
        }
        fs::remove_file(path)
    }

    /// The folder, to be synced so that its names are on the disk: not needed here.
    ///
    /// # Errors
    /// None here.
    pub(in crate::record) fn to_sync(&self) -> io::Result<Option<File>> {
        Ok(None)
    }
}

/// `FILE_ATTRIBUTE_READONLY`.
const READ_ONLY: u32 = 1;

/// Puts `new` in the place of `target`, which is called `out` then.
#[expect(
    unsafe_code,
    reason = "the standard library has no call that keeps a file's access list"
)]
fn replace_file(target: &Path, new: &Path, out: &Path) -> io::Result<()> {
    let wide = |path: &Path| -> Vec<u16> { path.as_os_str().encode_wide().chain([0]).collect() };
    let (target, new, out) = (wide(target), wide(new), wide(out));
    // SAFETY: the three pointers are to NUL-terminated UTF-16 that lives until the call has
    // returned; the two reserved pointers must be null.
    let replaced = unsafe {
        ReplaceFileW(
            target.as_ptr(),
            new.as_ptr(),
            out.as_ptr(),
            0,
            std::ptr::null(),
            std::ptr::null(),
        )
    };
    match replaced {
        0 => Err(io::Error::last_os_error()),
        _ => Ok(()),
    }
}

#[expect(
    clippy::permissions_set_readonly_false,
    reason = "on Windows it is one attribute"
)]
fn set_read_only(path: &Path, read_only: bool) -> io::Result<()> {
    let mut permissions = fs::metadata(path)?.permissions();
    permissions.set_readonly(read_only);
    fs::set_permissions(path, permissions)
}

/// What a kill may leave of what [`Folder::exchange`] replaced.
pub(in crate::record) fn aside(temporary: &OsStr) -> OsString {
    let mut out = temporary.to_owned();
    out.push(".old");
    out
}

/// Whether a failure means that a program has the file open.
pub(in crate::record) fn is_in_use(error: &io::Error) -> bool {
    // ERROR_ACCESS_DENIED, ERROR_SHARING_VIOLATION, ERROR_LOCK_VIOLATION, ERROR_USER_MAPPED_FILE.
    matches!(error.raw_os_error(), Some(5 | SHARING | 33 | 1224))
}
