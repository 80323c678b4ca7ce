//! The one place that asks the environment where things are.

use std::path::PathBuf;

use etcetera::BaseStrategy;

use crate::exit::Failure;

/// The folder in which this user's records lie unless told otherwise.
pub(crate) fn default_records() -> Result<PathBuf, Failure> {
    let strategy = etcetera::choose_base_strategy().map_err(|_| {
        Failure::with_help(
            "this user has no home folder, so there is no place for records",
            "say where originals are kept with --record-dir FOLDER",
        )
    })?;
    let base = strategy
        .state_dir()
        .unwrap_or_else(|| strategy.cache_dir_parent());
    Ok(base.join("lastmaker").join("records"))
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
