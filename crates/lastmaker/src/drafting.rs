//! The sheet that a trace drafts, on disk.

use std::io::Write;
use std::path::{Path, PathBuf};

use lastmaker_core::place::Place;
use lastmaker_core::report::TraceReport;
use lastmaker_core::sheet::is_volume;
use lastmaker_core::text::Text;
use lastmaker_core::trace::{Draft, Drafted};

use crate::exit::Failure;

/// Drafts a sheet of what a trace found, and writes it in one step. In one that is there, comments and
/// order stay, and its encoding.
pub(crate) fn write(
    file: &Path,
    report: &TraceReport,
    paths: &[PathBuf],
    seen_at: &[(Place, PathBuf)],
) -> Result<Drafted, Failure> {
    let failed = |what: &str, error: &dyn std::fmt::Display| {
        Failure::with_help(
            format!("the sheet {} cannot be {what}: {error}", file.display()),
            "nothing was changed",
        )
    };
    let existing = match std::fs::read(file) {
        Ok(bytes) => Some(bytes),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => None,
        Err(error) => return Err(failed("read", &error)),
    };
    let text = match &existing {
        Some(bytes) => {
            Some(Text::open(bytes, None).ok_or_else(|| failed("read", &"it is not text"))?)
        }
        None => None,
    };
    let folder = match file.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder,
        _ => Path::new("."),
    };
    let from_sheet = |path: &Path| relative(path, folder);
    let paths: Vec<String> = paths.iter().map(|path| from_sheet(path)).collect();
    let seen_at: Vec<(Place, String)> = seen_at
        .iter()
        .map(|(place, path)| (place.clone(), from_sheet(path)))
        .collect();
    let draft = Draft {
        report,
        existing: text.as_ref().map(|text| text.content.as_ref()),
        paths: &paths,
        seen_at: &seen_at,
    };
    let drafted = draft.make().map_err(|fault| failed("edited", &fault))?;
    let bytes = match (&text, &existing) {
        (Some(text), Some(existing)) => {
            let encoded = text.encoding.encode(&drafted.text);
            encoded.map(|encoded| [&existing[..text.mark], &encoded].concat())
        }
        _ => Ok(drafted.text.clone().into_bytes()),
    };
    let bytes = bytes.map_err(|fault| failed("written", &fault))?;
    put(file, folder, &bytes).map_err(|error| failed("written", &error))?;
    Ok(drafted)
}

fn put(file: &Path, folder: &Path, bytes: &[u8]) -> std::io::Result<()> {
    let mut made = tempfile::Builder::new()
        .prefix(".moves-")
        .tempfile_in(folder)?;
    made.write_all(bytes)?;
    if let Ok(metadata) = file.metadata() {
        made.as_file().set_permissions(metadata.permissions())?;
    }
    made.as_file().sync_all()?;
    made.persist(file).map_err(|error| error.error)?;
    Ok(())
}

/// A path as a sheet in `folder` names it; a volume goes by its name.
fn relative(path: &Path, folder: &Path) -> String {
    if is_volume(&path.to_string_lossy()) {
        return path.to_string_lossy().into_owned();
    }
    let absolute = |path: &Path| std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
    let (path, folder) = (absolute(path), absolute(folder));
    let below = path.strip_prefix(&folder).unwrap_or(&path);
    match below.as_os_str().is_empty() {
        true => ".".to_owned(),
        false => below.to_string_lossy().into_owned(),
    }
}
