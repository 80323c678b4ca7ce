//! The one place that asks the environment where things are.

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
