//! Registry files of a rewrite's changes alone, and their undo.

use std::collections::HashSet;
use std::fs::{DirBuilder, OpenOptions};
use std::io::Write;
use std::path::{Path, PathBuf};

use lastmaker_core::record::hash_bytes;
use lastmaker_core::registry_changes::{ChangeFiles, EXPORT, change_files};
use lastmaker_core::report::LeftFile;
use lastmaker_core::rewrite::FilePlan;
use lastmaker_core::scan::Reading;

use crate::exit::Failure;

/// The change files that a rewrite will write, made before it and written behind it.
#[derive(Debug, Default)]
pub(crate) struct Prepared {
    folder: PathBuf,
    files: Vec<(PathBuf, String, ChangeFiles)>,
    /// Exports whose changes cannot be told apart.
    pub(crate) left: Vec<LeftFile>,
}

/// Makes the change files of the registry exports among `changing`, for `folder`.
pub(crate) fn prepare(
    folder: &Path,
    changing: &[&FilePlan],
    reading: Reading,
) -> Result<Prepared, Failure> {
    let mut prepared = Prepared {
        folder: folder.to_owned(),
        ..Prepared::default()
    };
    let mut names = HashSet::new();
    for file in changing.iter().filter(|file| file.format == EXPORT) {
        let bytes = std::fs::read(&file.path)?;
        // What was planned on is what is there.
        let same = hash_bytes(&bytes) == file.before;
        let Some(made) = change_files(&bytes, &file.edits, reading).filter(|_| same) else {
            prepared.left.push(LeftFile {
                file: file.path.to_string_lossy().into_owned(),
                why: "its changes cannot be told apart, so there is no change file of it; import the whole export".to_owned(),
            });
            continue;
        };
        let stem = file.path.file_stem().unwrap_or_default().to_string_lossy();
        let mut name = stem.clone().into_owned();
        let mut count = 1;
        while !names.insert(name.to_lowercase()) {
            count += 1;
            name = format!("{stem}-{count}");
        }
        for path in prepared.paths(&name) {
            if path.symlink_metadata().is_ok() {
                return Err(Failure::with_help(
                    format!(
                        "{} is there already, so nothing was changed",
                        path.display()
                    ),
                    "move it away, or name another folder with --change-files",
                ));
            }
        }
        prepared.files.push((file.path.clone(), name, made));
    }
    Ok(prepared)
}

impl Prepared {
    fn paths(&self, name: &str) -> [PathBuf; 2] {
        ["changes", "undo"].map(|what| self.folder.join(format!("{name}.{what}.reg")))
    }

    /// Writes the change files of those exports that `was_rewritten`, and gives their paths.
    pub(crate) fn write(
        &self,
        was_rewritten: impl Fn(&Path) -> bool,
    ) -> Result<Vec<PathBuf>, Failure> {
        let mut written = Vec::new();
        for (export, name, made) in &self.files {
            if !was_rewritten(export) {
                continue;
            }
            DirBuilder::new().recursive(true).create(&self.folder)?;
            let paths = self.paths(name);
            for (path, bytes) in paths.iter().zip([&made.changes, &made.undo]) {
                let written = OpenOptions::new()
                    .write(true)
                    .create_new(true)
                    .open(path)
                    .and_then(|mut file| file.write_all(bytes));
                written.map_err(|error| {
                    Failure::with_help(
                        format!("{} cannot be written: {error}", path.display()),
                        "the rewrite itself is done; import the rewritten exports instead",
                    )
                })?;
            }
            written.extend(paths);
        }
        Ok(written)
    }
}
