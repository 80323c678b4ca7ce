//! A folder that a technician names: a path on this machine, or a place that is seen from here.

use std::path::{Path, PathBuf};

use thiserror::Error;

use super::Resolver;
use crate::base::platform;
use crate::place::{Place, Root};

/// A folder that was named.
#[derive(Clone, Debug)]
pub struct NamedFolder {
    /// The place that it is; none if no document could name it.
    pub place: Option<Place>,
    /// Where it is on this machine.
    pub path: PathBuf,
    /// What it is called.
    pub name: String,
}

/// Why what was named cannot be looked at.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum UnseenFault {
    /// It is neither a path that exists nor a place.
    #[error("{0} does not exist")]
    Missing(String),
    /// It is a place whose root is seen, but it is not there.
    #[error("{0} does not exist, although its root is seen from here")]
    Dangling(String),
    /// It is a place whose root is not seen from here.
    #[error("{0} is not seen from here; say where with --seen-at PLACE=DIR")]
    Unseen(String),
    /// It is a file.
    #[error("{0} is not a folder")]
    NoFolder(String),
}

impl Resolver {
    /// The folder that `written` names.
    ///
    /// # Errors
    /// Where it is not there, or is no folder.
    pub fn folder_named(&self, written: &str) -> Result<NamedFolder, UnseenFault> {
        let local = Path::new(written);
        match Place::parse(written) {
            Ok(place) => match self.path_of(&place) {
                Some(path) => folder(Some(place), path, written),
                None if local.exists() => folder(Some(place), local.to_owned(), written),
                None if self.is_seen(&place) => Err(UnseenFault::Dangling(written.to_owned())),
                None => Err(UnseenFault::Unseen(written.to_owned())),
            },
            Err(_) if local.exists() => folder(self.place_of(local), local.to_owned(), written),
            Err(_) => Err(UnseenFault::Missing(written.to_owned())),
        }
    }

    /// The folder at a place.
    ///
    /// # Errors
    /// Where it is not there, or is no folder.
    pub fn folder_at(&self, place: &Place) -> Result<NamedFolder, UnseenFault> {
        self.folder_named(&place.to_string())
    }

    /// The place that a path of this machine is, as the sheet sees it or as this machine's own.
    pub fn place_of(&self, path: &Path) -> Option<Place> {
        let canonical = path.canonicalize().ok()?;
        let below = |(place, folder): &(Place, PathBuf)| {
            let rest = canonical.strip_prefix(folder.canonicalize().ok()?).ok()?;
            let mut place = place.clone();
            for name in rest {
                place.components.push(name.to_str()?.to_owned());
            }
            Some(place)
        };
        // The folder that is nearest says it best.
        let seen = self.seen_at.iter().filter_map(below);
        seen.min_by_key(|place| place.components.len()).or_else(|| {
            let familiar = platform::familiar(&canonical);
            let own = self.native.then(|| familiar.to_str())??;
            Place::parse(own).ok()
        })
    }

    /// Whether the root of a place is seen from here.
    pub fn is_seen(&self, place: &Place) -> bool {
        self.seen(place).is_some()
    }
}

fn folder(place: Option<Place>, path: PathBuf, written: &str) -> Result<NamedFolder, UnseenFault> {
    if !path.is_dir() {
        return Err(UnseenFault::NoFolder(written.to_owned()));
    }
    // A path of this machine is called as it was written, a place by its usual form.
    let name = match &place {
        Some(place) if place.root != Root::Posix => place.to_string(),
        _ => written.to_owned(),
    };
    Ok(NamedFolder { place, path, name })
}
