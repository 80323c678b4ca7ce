//! What a run may look at: the paths given, less what is skipped and what is its own.

use std::collections::HashSet;
use std::path::{Path, PathBuf};

use super::globs::{GlobFault, Globs};
use thiserror::Error;

use crate::format::{Format, named};

/// Why files cannot be read as a format.
#[derive(Debug, Error)]
pub enum ReadAsFault {
    /// There is no `=`.
    #[error("{0:?} says no format; write it as GLOB=FORMAT")]
    NoFormat(String),
    /// No format has that name.
    #[error("no format is called {0:?}; `lastmaker formats` lists them")]
    Unknown(String),
    /// The glob cannot be read.
    #[error(transparent)]
    Glob(#[from] GlobFault),
}

/// What a run may look at.
#[derive(Clone, Default)]
pub struct Scope {
    /// Files and folders, as the technician wrote them.
    pub paths: Vec<PathBuf>,
    /// The same, to be looked up.
    roots: HashSet<PathBuf>,
    skip: Globs,
    only: Option<Globs>,
    read_as: Vec<(Globs, &'static dyn Format)>,
    /// Files and folders that the run must never touch, in canonical form: the sheet,
    /// records, its own outputs.
    pub own: Vec<PathBuf>,
}

impl std::fmt::Debug for Scope {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Scope")
            .field("paths", &self.paths)
            .field("own", &self.own)
            .finish_non_exhaustive()
    }
}

impl Scope {
    /// The scope of `paths`.
    ///
    /// # Errors
    /// Where a glob cannot be read.
    pub fn new(paths: Vec<PathBuf>, skip: &[String], only: &[String]) -> Result<Self, GlobFault> {
        let only = match only {
            [] => None,
            only => Some(Globs::new(only, &paths)?),
        };
        Ok(Self {
            skip: Globs::new(skip, &paths)?,
            only,
            roots: paths.iter().cloned().collect(),
            paths,
            read_as: Vec::new(),
            own: Vec::new(),
        })
    }

    /// Has files of a name or path read as a format: `GLOB=FORMAT`, split at the last `=`. What is
    /// said later is stronger.
    ///
    /// # Errors
    /// Where the glob cannot be read, or no format has that name.
    pub fn read_as(&mut self, written: &str) -> Result<(), ReadAsFault> {
        let (glob, name) = written
            .rsplit_once('=')
            .ok_or_else(|| ReadAsFault::NoFormat(written.to_owned()))?;
        let format = named(name).ok_or_else(|| ReadAsFault::Unknown(name.to_owned()))?;
        self.read_as
            .insert(0, (Globs::new(&[glob.to_owned()], &self.paths)?, format));
        Ok(())
    }

    /// The format that the path below a root is said to be in.
    pub(super) fn said_format(&self, below_root: &Path) -> Option<&'static dyn Format> {
        let said = self
            .read_as
            .iter()
            .find(|(globs, _)| globs.is_match(below_root));
        said.map(|(_, format)| *format)
    }

    /// The files and folders under which everything lies that may be looked at, in canonical form.
    pub(crate) fn canonical(&self) -> Vec<PathBuf> {
        let mut all = Vec::with_capacity(self.paths.len());
        for path in &self.paths {
            all.extend(path.canonicalize().ok());
            // A link that leads nowhere is looked at itself.
            if path.is_symlink() {
                all.extend(link_itself(path));
            }
        }
        all
    }

    /// Adds a file or folder that is never touched, also one that is yet to be made.
    pub fn protect(&mut self, path: &Path) {
        // It may be yet to be made.
        let there = path.canonicalize().ok();
        self.own.extend(there.or_else(|| link_itself(path)));
    }

    /// Whether the path below a root is to be left out as a file or folder of that name.
    pub(crate) fn skips(&self, below_root: &Path) -> bool {
        self.skip.is_match(below_root)
    }

    /// A path as it is below the path that the technician gave.
    pub(crate) fn below<'p>(&self, path: &'p Path) -> &'p Path {
        let mut above = path.ancestors();
        let root = above.find(|above| self.roots.contains(*above));
        let below = root.and_then(|root| path.strip_prefix(root).ok());
        let below = below.filter(|below| !below.as_os_str().is_empty());
        below.unwrap_or_else(|| path.file_name().map_or(path, Path::new))
    }

    /// Globs that have matched nothing so far.
    pub fn unmatched(&self) -> impl Iterator<Item = &str> {
        let all = self.only.iter().chain([&self.skip]);
        all.flat_map(Globs::unmatched)
    }

    /// Whether the path below a root is left out. Folders are never left out by `only`.
    pub(crate) fn leaves_out(&self, below_root: &Path, is_folder: bool) -> bool {
        if self.skips(below_root) {
            return true;
        }
        !is_folder
            && self
                .only
                .as_ref()
                .is_some_and(|only| !only.is_match(below_root))
    }
}

/// The path of a file or link that need not be there, in canonical form but for its last name.
pub(super) fn link_itself(path: &Path) -> Option<PathBuf> {
    let absolute = std::path::absolute(path).ok()?;
    let parent = absolute.parent()?.canonicalize().ok()?;
    Some(parent.join(absolute.file_name()?))
}

/// What shells and editors remember of earlier sessions.
const HISTORIES: [&str; 8] = [
    ".bash_history",
    ".zsh_history",
    ".sh_history",
    ".python_history",
    ".lesshst",
    ".viminfo",
    ".sqlite_history",
    "consolehost_history.txt",
];

/// Whether a file keeps history rather than settings: logs, backups, recycle bins and the records of
/// package managers are counted but not rewritten.
pub(super) fn is_history(below_root: &Path) -> bool {
    let name = below_root
        .file_name()
        .map(|name| name.to_string_lossy().to_lowercase());
    let by_name = name.is_some_and(|name| {
        // What rotates logs numbers them, and packs the older ones.
        let unpacked = [".gz", ".xz", ".bz2", ".zst"];
        let plain = unpacked.iter().find_map(|suffix| name.strip_suffix(suffix));
        let stem = plain.unwrap_or(&name);
        let number = stem.trim_end_matches(|c: char| c.is_ascii_digit());
        let numbered = number.len() < stem.len() && number.ends_with('.');
        let rotated =
            numbered && (plain.is_some() || number.trim_end_matches('.').ends_with(".log"));
        name.ends_with('~')
            || rotated
            || HISTORIES.contains(&name.as_str())
            || [".bak", ".old", ".log", ".orig"]
                .iter()
                .any(|suffix| stem.ends_with(suffix))
    });
    by_name || is_kept_by_a_system(below_root)
}

/// Folders below `lib` in which package managers keep what they have installed where.
const PACKAGE_DATABASES: [&str; 4] = ["dpkg", "rpm", "pacman", "apk"];

/// Whether a file lies in a recycle bin, or in a package manager's record of what it installed.
fn is_kept_by_a_system(below_root: &Path) -> bool {
    let folders: Vec<String> = below_root
        .parent()
        .into_iter()
        .flat_map(Path::components)
        .map(|folder| folder.as_os_str().to_string_lossy().to_lowercase())
        .collect();
    let bin = |folder: &String| folder == "$recycle.bin" || folder.starts_with(".trash");
    let packages = folders
        .windows(2)
        .any(|two| two[0] == "lib" && PACKAGE_DATABASES.contains(&two[1].as_str()));
    let recorded = folders
        .last()
        .is_some_and(|folder| folder.ends_with(".dist-info"))
        && below_root.ends_with("RECORD");
    folders.iter().any(bin) || packages || recorded
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn globs_match_names_at_any_depth_and_paths_from_the_root() {
        let cases = [
            ("*.tmp", "a/b/c.tmp", true),
            ("*.tmp", "c.tmp.x", false),
            ("cache", "a/cache", true),
            (r"a\*.ini", "a/b.ini", true),
            ("a/*.ini", "a/c/b.ini", false),
            ("a/**/*.ini", "a/c/b.ini", true),
            ("./a/b", "a/b", true),
            ("cache/", "x/cache", true),
        ];
        for (glob, path, expected) in cases {
            let scope = Scope::new(vec![], &[glob.to_owned()], &[]).unwrap();
            assert_eq!(
                scope.leaves_out(Path::new(path), false),
                expected,
                "{glob} {path}"
            );
            let only = Scope::new(vec![], &[], &[glob.to_owned()]).unwrap();
            assert_eq!(
                only.leaves_out(Path::new(path), false),
                !expected,
                "{glob} {path}"
            );
        }
        assert!(Scope::new(vec![], &["[".to_owned()], &[]).is_err());
        // A path may be given as it is shown, below the path that was named.
        let globs = ["files/a/*.ini", "b.ini", "*.none"].map(str::to_owned);
        let only = Scope::new(vec!["files".into()], &[], &globs).unwrap();
        assert!(!only.leaves_out(Path::new("a/x.ini"), false));
        assert_eq!(only.unmatched().collect::<Vec<_>>(), ["b.ini", "*.none"]);
    }

    #[test]
    fn history_is_told_by_name() {
        for path in [
            "a/x.log",
            "x.INI.bak",
            "viewer.log.1",
            "viewer.log.2.gz",
            "viewer.3.gz",
            ".bash_history",
            "x~",
            "var/lib/dpkg/info/viewer.list",
            "packages/viewer-2.dist-info/RECORD",
            "$RECYCLE.BIN/s/x.ini",
            ".Trash-1000/files/x",
        ] {
            assert!(is_history(Path::new(path)), "{path}");
        }
        for path in ["a/x.ini", "logs/x.json", "catalog", "dpkg/x.cfg", "RECORD"] {
            assert!(!is_history(Path::new(path)), "{path}");
        }
    }
}
