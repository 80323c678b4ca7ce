//! The sheet that a trace drafts.

use std::path::{Path, PathBuf};

use lastmaker_core::place::Place;
use lastmaker_core::report::TraceReport;
use lastmaker_core::trace::{Draft, Drafted};

use crate::exit::Failure;
use crate::sheet_file::{self, folder_of, relative};

/// Drafts a sheet of what a trace found, and writes it. In one that is there, comments and order stay.
pub(crate) fn write(
    file: &Path,
    report: &TraceReport,
    paths: &[PathBuf],
    seen_at: &[(Place, PathBuf)],
) -> Result<Drafted, Failure> {
    let from_sheet = |path: &Path| relative(path, folder_of(file));
    let paths: Vec<String> = paths.iter().map(|path| from_sheet(path)).collect();
    let seen_at: Vec<(Place, String)> = seen_at
        .iter()
        .map(|(place, path)| (place.clone(), from_sheet(path)))
        .collect();
    let mut drafted = Drafted::default();
    sheet_file::write(file, |existing| {
        let draft = Draft {
            report,
            existing,
            paths: &paths,
            seen_at: &seen_at,
        };
        drafted = draft.make()?;
        Ok::<_, lastmaker_core::sheet::EditFault>(drafted.text.clone())
    })?;
    Ok(drafted)
}
