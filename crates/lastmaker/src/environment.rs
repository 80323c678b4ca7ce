//! The one place that asks the environment where things are, and what the user wants of every program.

#![expect(clippy::disallowed_methods, reason = "this is that place")]

use std::path::PathBuf;

use etcetera::BaseStrategy;

use crate::exit::Failure;

/// The folder in which this user's records lie unless told otherwise.
pub(crate) fn default_records() -> Result<PathBuf, Failure> {
    let state = state().ok_or_else(|| {
        Failure::with_help(
            "this user has no home folder, so there is no place for records",
            "say where originals are kept with --record-dir FOLDER",
        )
    })?;
    Ok(state.join("records"))
}

/// The folder in which it is remembered how far comparisons came; none for a user without a home.
pub(crate) fn comparisons() -> Option<PathBuf> {
    Some(state()?.join("comparisons"))
}

/// How many letters fit on a line, if the user says so.
pub(crate) fn columns() -> Option<usize> {
    std::env::var("COLUMNS").ok()?.parse().ok()
}

/// The words of the pager that the user has named, else of the usual one of the system.
pub(crate) fn pager() -> Option<Vec<String>> {
    let named = std::env::var("PAGER").ok();
    let named = named.filter(|name| !name.trim().is_empty());
    let named = named.or_else(|| cfg!(unix).then(|| "less".to_owned()))?;
    Some(named.split_whitespace().map(str::to_owned).collect())
}

/// Whether the user says how `less` is to behave.
pub(crate) fn says_how_to_page() -> bool {
    std::env::var_os("LESS").is_some()
}

/// A path as it is written in a file.
pub(crate) fn path_of_bytes(bytes: &[u8]) -> PathBuf {
    #[cfg(unix)]
    {
        use std::os::unix::ffi::OsStrExt;
        PathBuf::from(std::ffi::OsStr::from_bytes(bytes))
    }
    #[cfg(not(unix))]
    PathBuf::from(String::from_utf8_lossy(bytes).into_owned())
}

/// The folder of what the program keeps for this user.
fn state() -> Option<PathBuf> {
    let strategy = etcetera::choose_base_strategy().ok()?;
    let base = strategy
        .state_dir()
        .unwrap_or_else(|| strategy.cache_dir_parent());
    Some(base.join("lastmaker"))
}

/// Where state goes on systems that have no folder of that kind.
trait LocalData {
    fn cache_dir_parent(&self) -> PathBuf;
}

impl<T: BaseStrategy> LocalData for T {
    fn cache_dir_parent(&self) -> PathBuf {
        // On Windows the cache lies in the local, not the roaming, part of the profile.
        self.cache_dir()
    }
}
