//! Sheets on disk: each is written in one step, and one that is there keeps its encoding.

use std::fmt::Display;
use std::io::{ErrorKind, Write};
use std::path::{Path, PathBuf};

use lastmaker_core::sheet::is_volume;
use lastmaker_core::text::Text;

use crate::exit::Failure;

/// Writes what `edit` makes of a sheet's text, of which there is none yet if the file is not there.
pub(crate) fn write<F: Display>(
    file: &Path,
    edit: impl FnOnce(Option<&str>) -> Result<String, F>,
) -> Result<(), Failure> {
    let failed = |what: &str, error: &dyn Display| {
        Failure::with_help(
            format!("the sheet {} cannot be {what}: {error}", file.display()),
            "nothing was changed",
        )
    };
    let existing = match std::fs::read(file) {
        Ok(bytes) => Some(bytes),
        Err(error) if error.kind() == ErrorKind::NotFound => None,
        Err(error) => return Err(failed("read", &error)),
    };
    let text = match &existing {
        Some(bytes) => {
            Some(Text::open(bytes, None).ok_or_else(|| failed("read", &"it is not text"))?)
        }
        None => None,
    };
    let before = text.as_ref().map(|text| text.content.as_ref());
    let new = edit(before).map_err(|fault| failed("edited", &fault))?;
    let bytes = match (&text, &existing) {
        (Some(text), Some(existing)) => {
            let encoded = text.encoding.encode(&new);
            encoded.map(|encoded| [&existing[..text.mark], &encoded].concat())
        }
        _ => Ok(new.into_bytes()),
    };
    let bytes = bytes.map_err(|fault| failed("written", &fault))?;
    put(file, &bytes).map_err(|error| failed("written", &error))
}

/// The folder of a sheet.
pub(crate) fn folder_of(file: &Path) -> &Path {
    match file.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder,
        _ => Path::new("."),
    }
}

fn put(file: &Path, bytes: &[u8]) -> std::io::Result<()> {
    let mut made = tempfile::Builder::new()
        .prefix(".moves-")
        .tempfile_in(folder_of(file))?;
    made.write_all(bytes)?;
    if let Ok(metadata) = file.metadata() {
        made.as_file().set_permissions(metadata.permissions())?;
    }
    made.as_file().sync_all()?;
    made.persist(file).map_err(|error| error.error)?;
    Ok(())
}

/// A path as a sheet in `folder` names it; a volume goes by its name.
pub(crate) fn relative(path: &Path, folder: &Path) -> String {
    if is_volume(&path.to_string_lossy()) {
        return path.to_string_lossy().into_owned();
    }
    let absolute = |path: &Path| std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
    let (path, folder): (PathBuf, PathBuf) = (absolute(path), absolute(folder));
    let below = path.strip_prefix(&folder).unwrap_or(&path);
    if below.as_os_str().is_empty() {
        ".".to_owned()
    } else {
        below.to_string_lossy().into_owned()
    }
}
