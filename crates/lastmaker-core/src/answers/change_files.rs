//! Registry files of a rewrite's changes alone, and their undo.

use std::collections::HashSet;
use std::fs::{DirBuilder, OpenOptions};
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use thiserror::Error;

use crate::open::Reading;
use crate::plan::FilePlan;
use crate::record::hash_bytes;
use crate::registry_changes::{ChangeFiles, EXPORT, change_files};
use crate::report::LeftFile;

/// Why change files cannot be made or written.
#[derive(Debug, Error)]
pub enum ChangeFileFault {
    /// An export cannot be read.
    #[error("{} cannot be read again, so nothing was changed: {source}", path.display())]
    Unread {
        /// The export.
        path: PathBuf,
        /// What the system said.
        source: io::Error,
    },
    /// One is there already.
    #[error("{} is there already, so nothing was changed", .0.display())]
    InTheWay(PathBuf),
    /// It cannot be written; the rewrite itself is done.
    #[error("{} cannot be written: {source}", path.display())]
    Unwritten {
        /// The file or folder.
        path: PathBuf,
        /// What the system said.
        source: io::Error,
    },
}

/// The change files that a rewrite will write, made before it and written after it.
#[derive(Debug, Default)]
pub(super) struct PreparedChangeFiles {
    folder: PathBuf,
    files: Vec<Prepared>,
    /// Exports whose changes cannot be told apart.
    pub(super) left: Vec<LeftFile>,
}

/// The change files of one export.
#[derive(Debug)]
struct Prepared {
    export: PathBuf,
    /// The first part of their names.
    name: String,
    made: ChangeFiles,
}

impl PreparedChangeFiles {
    /// Makes the change files of the registry exports among `changing`, for `folder`.
    pub(super) fn prepare(
        folder: &Path,
        changing: &[&FilePlan],
        reading: Reading,
    ) -> Result<Self, ChangeFileFault> {
        let mut prepared = Self {
            folder: folder.to_owned(),
            ..Self::default()
        };
        let mut names = HashSet::new();
        for file in changing.iter().filter(|file| file.format == EXPORT) {
            let bytes = std::fs::read(&file.path).map_err(|source| ChangeFileFault::Unread {
                path: file.path.clone(),
                source,
            })?;
            // What was planned on is what is there.
            let same = hash_bytes(&bytes) == file.before;
            let Some(made) = change_files(&bytes, &file.edits, reading).filter(|_| same) else {
                let why = "its changes cannot be told apart, so there is no change file of it; import the whole export";
                prepared.left.push(LeftFile::new(&file.path, why));
                continue;
            };
            let stem = file.path.file_stem().unwrap_or_default().to_string_lossy();
            let name = distinct(&stem, &mut names);
            for path in prepared.paths(&name) {
                if path.symlink_metadata().is_ok() {
                    return Err(ChangeFileFault::InTheWay(path));
                }
            }
            prepared.files.push(Prepared {
                export: file.path.clone(),
                name,
                made,
            });
        }
        Ok(prepared)
    }

    fn paths(&self, name: &str) -> [PathBuf; 2] {
        ["changes", "undo"].map(|what| self.folder.join(format!("{name}.{what}.reg")))
    }

    /// Writes the change files of those exports that `was_rewritten`, and gives their paths.
    pub(super) fn write(
        &self,
        was_rewritten: impl Fn(&Path) -> bool,
    ) -> Result<Vec<PathBuf>, ChangeFileFault> {
        let unwritten = |path: &Path| {
            let path = path.to_owned();
            move |source| ChangeFileFault::Unwritten { path, source }
        };
        let mut written = Vec::new();
        for file in &self.files {
            if !was_rewritten(&file.export) {
                continue;
            }
            let mut folder = DirBuilder::new();
            let made = folder.recursive(true).create(&self.folder);
            made.map_err(unwritten(&self.folder))?;
            let paths = self.paths(&file.name);
            for (path, bytes) in paths.iter().zip([&file.made.changes, &file.made.undo]) {
                OpenOptions::new()
                    .write(true)
                    .create_new(true)
                    .open(path)
                    .and_then(|mut file| file.write_all(bytes))
                    .map_err(unwritten(path))?;
            }
            written.extend(paths);
        }
        Ok(written)
    }
}

/// A name like `stem` that is not among `names` yet, in any case.
fn distinct(stem: &str, names: &mut HashSet<String>) -> String {
    let mut name = stem.to_owned();
    let mut count = 1;
    while !names.insert(name.to_lowercase()) {
        count += 1;
        name = format!("{stem}-{count}");
    }
    name
}
