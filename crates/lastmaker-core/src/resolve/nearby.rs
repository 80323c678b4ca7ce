//! What is in a folder and in those right below it, read once, for whatever is missing there.

use std::collections::HashMap;
use std::fs;
use std::path::Path;

use super::alike::Likenesses;
use crate::place::fold;

/// How many folders below are read.
const MOST_FOLDERS: usize = 2_000;
/// How many names below are kept.
const MOST_NAMES: usize = 200_000;

/// A folder and those right below it.
#[derive(Debug)]
pub(super) struct Nearby {
    /// The names in it.
    pub(super) likenesses: Likenesses,
    /// Folded names one level deeper, each with the folders that it is in.
    deeper: HashMap<String, Vec<String>>,
}

impl Nearby {
    /// Reads a folder; one that cannot be read counts as empty.
    pub(super) fn of(folder: &Path) -> Self {
        let mut names = Vec::new();
        let mut folders = Vec::new();
        for entry in fs::read_dir(folder).into_iter().flatten().flatten() {
            let Ok(name) = entry.file_name().into_string() else {
                continue;
            };
            if entry.file_type().is_ok_and(|kind| kind.is_dir()) {
                folders.push(name.clone());
            }
            names.push(name);
        }
        names.sort();
        folders.sort();
        let mut deeper: HashMap<String, Vec<String>> = HashMap::new();
        let mut kept = 0;
        for inner in folders.into_iter().take(MOST_FOLDERS) {
            for entry in fs::read_dir(folder.join(&inner))
                .into_iter()
                .flatten()
                .flatten()
            {
                kept += 1;
                if let (Ok(name), true) = (entry.file_name().into_string(), kept <= MOST_NAMES) {
                    deeper.entry(fold(&name)).or_default().push(inner.clone());
                }
            }
        }
        Self {
            likenesses: Likenesses::of(names),
            deeper,
        }
    }

    /// The folders right below that hold something of this name, sorted.
    pub(super) fn holding(&self, name: &str) -> &[String] {
        self.deeper.get(&fold(name)).map_or(&[], Vec::as_slice)
    }
}
