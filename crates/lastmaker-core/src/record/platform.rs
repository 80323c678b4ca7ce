//! What differs between systems when a file is replaced.

use std::fs::{self, File};
use std::io;
use std::path::{Path, PathBuf};

/// Puts `new` in the place of `target` in one step. Returns where what was replaced lies
/// now, to be hashed and then deleted or put back.
///
/// # Errors
/// `Unsupported` where the file system cannot exchange two files; and as the system says.
#[cfg(unix)]
pub(super) fn swap_in(new: &Path, target: &Path) -> io::Result<PathBuf> {
    #[cfg(any(target_os = "linux", target_os = "android", target_vendor = "apple"))]
    {
        use rustix::fs::{CWD, RenameFlags, renameat_with};
        use rustix::io::Errno;
        match renameat_with(CWD, new, CWD, target, RenameFlags::EXCHANGE) {
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
        let _ = (new, target);
        Err(io::ErrorKind::Unsupported.into())
    }
}

/// Puts `new` in the place of `target` in one step. Returns where what was replaced lies
/// now, to be hashed and then deleted or put back. Windows keeps the access list, the
/// attributes, the time of creation and the other streams of the file that is replaced.
#[cfg(windows)]
#[expect(
    unsafe_code,
    reason = "the standard library has no call that keeps a file's access list"
)]
pub(super) fn swap_in(new: &Path, target: &Path) -> io::Result<PathBuf> {
    use std::os::windows::ffi::OsStrExt;
    use windows_sys::Win32::Storage::FileSystem::ReplaceFileW;

    let wide = |path: &Path| -> Vec<u16> { path.as_os_str().encode_wide().chain([0]).collect() };
    let mut out = new.as_os_str().to_owned();
    out.push(".old");
    let out = PathBuf::from(out);
    if fs::symlink_metadata(target)?.file_type().is_symlink() {
        // Links have no call that replaces them: the old one is moved aside first, and a kill
        // between the two is settled by the record.
        fs::rename(target, &out)?;
        return match fs::rename(new, target) {
            Ok(()) => Ok(out),
            Err(error) => {
                fs::rename(&out, target)?;
                Err(error)
            }
        };
    }
    let read_only = fs::metadata(target)?.permissions().readonly();
    if read_only {
        set_read_only(target, false)?;
    }
    let (wide_target, wide_new, wide_out) = (wide(target), wide(new), wide(&out));
    // SAFETY: the three pointers are to NUL-terminated UTF-16 that lives until the call has
    // returned; the two reserved pointers must be null.
    let replaced = unsafe {
        ReplaceFileW(
            wide_target.as_ptr(),
            wide_new.as_ptr(),
            wide_out.as_ptr(),
            0,
            std::ptr::null(),
            std::ptr::null(),
        )
    };
    let failure = (replaced == 0).then(io::Error::last_os_error);
    if failure.is_some() && !target.exists() && out.exists() {
        // The old file was moved aside before the new one could not be put in its place.
        fs::rename(&out, target)?;
    }
    if read_only {
        set_read_only(target, true)?;
        if out.exists() {
            set_read_only(&out, false)?;
        }
    }
    failure.map_or(Ok(out), Err)
}

/// The path at which a kill may leave what [`swap_in`] replaced.
pub(super) fn aside(new: &Path) -> PathBuf {
    if cfg!(windows) {
        let mut out = new.as_os_str().to_owned();
        out.push(".old");
        PathBuf::from(out)
    } else {
        new.to_owned()
    }
}

#[cfg(windows)]
#[expect(
    clippy::permissions_set_readonly_false,
    reason = "on Windows it is one attribute"
)]
fn set_read_only(path: &Path, read_only: bool) -> io::Result<()> {
    let mut permissions = fs::metadata(path)?.permissions();
    permissions.set_readonly(read_only);
    fs::set_permissions(path, permissions)
}

/// Removes a file of ours, or one that we replaced, read-only or not.
pub(super) fn remove(path: &Path) -> io::Result<()> {
    #[cfg(windows)]
    {
        use std::os::windows::fs::FileTypeExt;
        let kind = fs::symlink_metadata(path)?.file_type();
        if kind.is_symlink_dir() {
            return fs::remove_dir(path);
        }
        if !kind.is_symlink() {
            set_read_only(path, false)?;
        }
    }
    fs::remove_file(path)
}

/// Gives `copy` the mode, owner, access list and attributes of the file at `model`.
///
/// # Errors
/// Where one of them cannot be kept: the file is then refused.
#[cfg(unix)]
pub(super) fn keep_metadata(model: &Path, copy: &File) -> io::Result<()> {
    use std::os::unix::fs::{MetadataExt, PermissionsExt, fchown};

    let old = fs::symlink_metadata(model)?;
    let new = copy.metadata()?;
    if (old.uid(), old.gid()) != (new.uid(), new.gid()) {
        fchown(copy, Some(old.uid()), Some(old.gid()))?;
    }
    keep_attributes(model, copy)?;
    // Last, because a change of owner clears some bits of the mode.
    copy.set_permissions(fs::Permissions::from_mode(old.mode()))
}

/// On Windows the exchange itself keeps them.
#[cfg(windows)]
pub(super) fn keep_metadata(_model: &Path, _copy: &File) -> io::Result<()> {
    Ok(())
}

#[cfg(unix)]
fn keep_attributes(model: &Path, copy: &File) -> io::Result<()> {
    use rustix::fs::{XattrFlags, fsetxattr, lgetxattr, llistxattr};
    use rustix::io::Errno;

    let mut names = vec![0u8; 64 * 1024];
    let length = match llistxattr(model, &mut names) {
        Ok(length) => length,
        Err(Errno::OPNOTSUPP | Errno::NOSYS) => return Ok(()),
        Err(error) => return Err(error.into()),
    };
    let mut value = vec![0u8; 64 * 1024];
    for name in names[..length]
        .split(|b| *b == 0)
        .filter(|name| !name.is_empty())
    {
        let size = match lgetxattr(model, name, &mut value) {
            Ok(size) => size,
            Err(Errno::NODATA) => continue,
            Err(error) => return Err(error.into()),
        };
        match fsetxattr(copy, name, &value[..size], XattrFlags::empty()) {
            Ok(()) => {}
            // The system sets its own security labels on new files.
            Err(_) if name.starts_with(b"security.") => {}
            Err(error) => return Err(error.into()),
        }
    }
    Ok(())
}

/// A folder, to be synced so that its entries are on the disk; none where that is not needed.
pub(super) fn folder_to_sync(folder: &Path) -> io::Result<Option<File>> {
    cfg!(unix).then(|| File::open(folder)).transpose()
}

/// Makes a folder that only its owner may enter.
pub(super) fn create_private(folder: &Path) -> io::Result<()> {
    let mut builder = fs::DirBuilder::new();
    builder.recursive(true);
    #[cfg(unix)]
    {
        use std::os::unix::fs::DirBuilderExt;
        builder.mode(0o700);
    }
    builder.create(folder)
}

/// Makes a new file that only its owner may read, for writing.
pub(super) fn create_new(path: &Path) -> io::Result<File> {
    let mut options = fs::OpenOptions::new();
    options.write(true).create_new(true);
    #[cfg(unix)]
    {
        use std::os::unix::fs::OpenOptionsExt;
        options.mode(0o600);
    }
    options.open(path)
}

/// Whether a failure means that a program has the file open.
pub(super) fn is_in_use(error: &io::Error) -> bool {
    // ERROR_ACCESS_DENIED, ERROR_SHARING_VIOLATION, ERROR_LOCK_VIOLATION, ERROR_USER_MAPPED_FILE.
    cfg!(windows) && matches!(error.raw_os_error(), Some(5 | 32 | 33 | 1224))
}
