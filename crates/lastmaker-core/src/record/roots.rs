//! The files and folders under which all files of a record lie, to be looked up: a run over a list of files has
//! very many.

use std::collections::HashSet;
use std::path::{Path, PathBuf};

use super::written::PathText;

/// The roots of a record.
#[derive(Clone, Debug, Default)]
pub struct Roots(HashSet<PathBuf>);

impl Roots {
    pub(super) fn of(scope: &[PathText]) -> Self {
        Self(scope.iter().map(PathText::to_path).collect())
    }

    /// Whether a path is one of them, or lies under one.
    pub(super) fn hold(&self, path: &Path) -> bool {
        path.ancestors().any(|above| self.0.contains(above))
    }

    /// A path as it is below the root that is nearest above it; none for what is below no root.
    pub fn below<'p>(&self, path: &'p Path) -> Option<&'p Path> {
        let mut above = path.ancestors().skip(1);
        let root = above.find(|above| self.0.contains(*above))?;
        path.strip_prefix(root).ok()
    }
}
