//! What of which record is to go back.

use std::path::{Path, PathBuf};

use clap::ValueEnum;
use lastmaker_core::answers::RestoreWish;
use lastmaker_core::record::{ChangedPolicy, Store, is_name, is_record};
use lastmaker_core::tree::Scope;

use crate::exit::Failure;
use crate::shared::{mebibytes, place};

/// What of which record is to go back.
#[derive(Debug, clap::Args)]
pub(super) struct WishArgs {
    /// The record, as `history` names it, or its folder; then files and folders, if only those
    /// are to go back
    #[arg(value_name = "RECORD|PATH")]
    pub(super) what: Vec<PathBuf>,
    /// What to do with files that were saved again since
    #[arg(long, value_enum, default_value_t, value_name = "HOW")]
    changed: Changed,
    /// Take back only what the move from this old place changed
    #[arg(long, value_name = "PLACE")]
    move_from: Option<String>,
    /// Only files of this name or path
    #[arg(long, value_name = "GLOB")]
    only: Vec<String>,
    /// Leave out files and folders of this name or path
    #[arg(long, value_name = "GLOB")]
    skip: Vec<String>,
    /// A folder that the record names is called otherwise here
    #[arg(long, value_name = "OLD=NEW", help_heading = "Records")]
    from_dir: Vec<String>,
    /// The largest document that is taken back in part, in MiB
    #[arg(long, value_name = "MIB", default_value_t = 256)]
    max_document: u64,
}

#[derive(Clone, Copy, Debug, Default, ValueEnum)]
enum Changed {
    /// Leave them and name them
    #[default]
    Leave,
    /// Put the original back all the same
    Original,
    /// Take back only what the rewrite changed, where it still stands
    Edits,
}

impl Changed {
    fn policy(self) -> ChangedPolicy {
        match self {
            Self::Leave => ChangedPolicy::Leave,
            Self::Original => ChangedPolicy::Original,
            Self::Edits => ChangedPolicy::Edits,
        }
    }
}

impl WishArgs {
    pub(super) fn wish(&self, store: &Store) -> Result<RestoreWish, Failure> {
        let (record, paths) = match self.what.split_first() {
            Some((first, rest)) if is_meant_as_record(first, store) => {
                (Some(first.to_string_lossy().into_owned()), rest)
            }
            _ => (None, &self.what[..]),
        };
        let here = [PathBuf::from(".")];
        let paths = match (&record, paths) {
            (None, []) => &here[..],
            (_, paths) => paths,
        };
        let paths = paths.iter().map(|path| canonical(path));
        let move_from = self.move_from.as_deref();
        let move_from = move_from.map(|from| place("--move-from", from));
        let from_dirs = self.from_dir.iter().map(|one| from_dir(one));
        Ok(RestoreWish {
            record,
            paths: paths.collect::<Result<_, _>>()?,
            scope: Scope::new(Vec::new(), &self.skip, &self.only)
                .map_err(|fault| Failure::new(fault.to_string()))?,
            move_from: move_from.transpose()?,
            policy: self.changed.policy(),
            from_dirs: from_dirs.collect::<Result<_, _>>()?,
            max_document: mebibytes(self.max_document),
        })
    }
}

/// Whether the first argument is a record rather than a file or folder.
fn is_meant_as_record(first: &Path, store: &Store) -> bool {
    let text = first.to_string_lossy();
    is_name(&text) || is_record(first) || is_record(&store.folder().join(first))
}

/// A path in canonical form, also of what is gone.
fn canonical(path: &Path) -> Result<PathBuf, Failure> {
    let absolute = std::path::absolute(path)
        .map_err(|error| Failure::new(format!("{}: {error}", path.display())))?;
    for above in absolute.ancestors() {
        if let (Ok(known), Ok(below)) = (above.canonicalize(), absolute.strip_prefix(above)) {
            return Ok(if below.as_os_str().is_empty() {
                known
            } else {
                known.join(below)
            });
        }
    }
    Ok(absolute)
}

/// What `--from-dir` says.
fn from_dir(written: &str) -> Result<(PathBuf, PathBuf), Failure> {
    let parts = written.split_once('=');
    let Some((old, new)) = parts.filter(|(old, new)| !old.is_empty() && !new.is_empty()) else {
        return Err(Failure::new(format!(
            "--from-dir: {written:?} is not of the form OLD=NEW"
        )));
    };
    let new = Path::new(new).canonicalize().map_err(|error| {
        Failure::with_help(
            format!("--from-dir: {new} cannot be found: {error}"),
            "say where the folder is seen on this machine",
        )
    })?;
    Ok((PathBuf::from(old), new))
}
