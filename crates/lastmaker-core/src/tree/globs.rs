//! Globs that files and folders are chosen by.

use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use globset::{GlobBuilder, GlobSet, GlobSetBuilder};
use thiserror::Error;

/// A glob that cannot be read.
#[derive(Debug, Error)]
#[error("{glob:?} is not a pattern that file names can be compared with: {why}")]
pub struct GlobFault {
    /// The glob as typed.
    pub glob: String,
    /// What is wrong with it.
    pub why: String,
}

/// Some globs, and which of them matched something.
#[derive(Clone, Default)]
pub(super) struct Globs {
    set: GlobSet,
    /// Of each glob of the set, the number of the pattern that it comes from.
    of: Vec<usize>,
    patterns: Vec<String>,
    matched: Arc<[AtomicBool]>,
}

impl Globs {
    /// Those of `patterns`, for paths below `roots`. Both slashes part names; a glob without a separator matches
    /// names at any depth, and one that begins with a root matches below it.
    pub(super) fn new(patterns: &[String], roots: &[PathBuf]) -> Result<Self, GlobFault> {
        let mut set = GlobSetBuilder::new();
        let mut of = Vec::new();
        for (number, pattern) in patterns.iter().enumerate() {
            for glob in forms(pattern, roots) {
                let built = GlobBuilder::new(&glob)
                    .literal_separator(true)
                    .case_insensitive(cfg!(windows))
                    .build();
                set.add(built.map_err(|why| fault(pattern, &why))?);
                of.push(number);
            }
        }
        Ok(Self {
            set: set.build().map_err(|why| fault("", &why))?,
            of,
            patterns: patterns.to_vec(),
            matched: patterns.iter().map(|_| AtomicBool::new(false)).collect(),
        })
    }

    /// Whether one of them matches.
    pub(super) fn is_match(&self, path: &Path) -> bool {
        if self.set.is_empty() {
            return false;
        }
        let all = self.set.matches(path);
        for glob in &all {
            self.matched[self.of[*glob]].store(true, Ordering::Relaxed);
        }
        !all.is_empty()
    }

    /// Those that have matched nothing so far.
    pub(super) fn unmatched(&self) -> impl Iterator<Item = &str> {
        let all = self.patterns.iter().zip(self.matched.iter());
        let unmatched = all.filter(|(_, matched)| !matched.load(Ordering::Relaxed));
        unmatched.map(|(pattern, _)| pattern.as_str())
    }
}

fn fault(glob: &str, why: &globset::Error) -> GlobFault {
    GlobFault {
        glob: glob.to_owned(),
        why: why.kind().to_string(),
    }
}

/// The globs that a pattern stands for.
fn forms(pattern: &str, roots: &[PathBuf]) -> Vec<String> {
    let slashed = pattern.replace('\\', "/");
    let slashed = slashed.trim_end_matches('/');
    if !slashed.contains('/') {
        return vec![format!("**/{slashed}")];
    }
    let plain = slashed.trim_start_matches("./");
    let mut all = vec![plain.to_owned()];
    for root in roots {
        let root = root.to_string_lossy().replace('\\', "/");
        let root = root.trim_start_matches("./").trim_end_matches('/');
        let below = plain.strip_prefix(root).and_then(|it| it.strip_prefix('/'));
        all.extend(below.filter(|it| !it.is_empty()).map(str::to_owned));
    }
    all
}
