//! What the records of a store did to each file, one after the other, and how a file stands
//! towards one of them.

use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use super::manifest::{Entry, Kind, Manifest};
use super::store::{RecordState, Store};
use super::system::folder::open_parent;

/// What the records of a store did to each file.
#[derive(Debug, Default)]
pub struct Chain {
    files: HashMap<PathBuf, Vec<Link>>,
}

/// One change of a file.
#[derive(Clone, Debug)]
struct Link {
    /// Where its record comes among all.
    order: usize,
    by: Arc<By>,
    before: String,
    after: String,
    moves: Option<Vec<String>>,
}

/// What made a change.
#[derive(Debug)]
struct By {
    id: String,
    kind: Kind,
    undoes: Option<String>,
    moves: Vec<String>,
}

/// How a file stands towards a record.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum FileState {
    /// As the record's run left it.
    AsLeft,
    /// As the record's run left it but for what has been taken back since.
    InPart,
    /// It is its original, or what was before that.
    Original,
    /// It was saved since, and what the record's run had changed in it was taken back then.
    Undone,
    /// A later rewrite, of this record, changed it again.
    RewrittenBy(String),
    /// It was changed since.
    Changed,
    /// It is gone.
    Missing,
}

impl Chain {
    /// Reads the records of `store`.
    pub fn of(store: &Store) -> Self {
        let mut chain = Self::default();
        for (order, record) in store.list().into_iter().enumerate() {
            if matches!(
                record.state,
                RecordState::ListOnly(_) | RecordState::Damaged(_)
            ) {
                continue;
            }
            if let Ok(manifest) = record.manifest() {
                chain.add(order, &manifest);
            }
        }
        chain
    }

    fn add(&mut self, order: usize, manifest: &Manifest) {
        let header = &manifest.header;
        let by = Arc::new(By {
            id: header.id.clone(),
            kind: header.kind,
            undoes: header.undoes.clone(),
            moves: header.moves.clone(),
        });
        for entry in manifest.done() {
            for path in entry.paths() {
                self.files.entry(path).or_default().push(Link {
                    order,
                    by: by.clone(),
                    before: entry.before.clone(),
                    after: entry.after.clone(),
                    moves: entry.moves.clone(),
                });
            }
        }
    }

    /// How the file at `path`, which has this hash now, stands towards `entry` of the record `id`.
    pub(super) fn state(
        &self,
        path: &Path,
        entry: &Entry,
        id: &str,
        now: Option<&str>,
    ) -> FileState {
        let Some(now) = now else {
            let gone = open_parent(path)
                .is_ok_and(|(folder, name)| folder.has(&name).is_ok_and(|there| !there));
            return if gone || path.symlink_metadata().is_err() {
                FileState::Missing
            } else {
                FileState::Changed
            };
        };
        if now == entry.after {
            return FileState::AsLeft;
        }
        if now == entry.before {
            return FileState::Original;
        }
        let links = self.files.get(path).map_or(&[][..], Vec::as_slice);
        let own = links.iter().find(|link| link.by.id == id);
        let own = own.map_or(usize::MAX, |link| link.order);
        // From how the run left it, one restore after the other.
        let mut left = vec![entry.after.as_str()];
        let mut undone = false;
        for link in links
            .iter()
            .filter(|link| link.by.undoes.as_deref() == Some(id))
        {
            if left.contains(&link.before.as_str()) {
                left.push(&link.after);
            }
            undone |= link.after == now;
        }
        if left.contains(&now) {
            return FileState::InPart;
        }
        if undone {
            return FileState::Undone;
        }
        if links
            .iter()
            .any(|link| link.order < own && link.before == now)
        {
            return FileState::Original;
        }
        let rewrote =
            |link: &&Link| link.order > own && link.by.kind == Kind::Rewrite && link.after == now;
        match links.iter().rev().find(rewrote) {
            Some(link) => FileState::RewrittenBy(link.by.id.clone()),
            None => FileState::Changed,
        }
    }

    /// The moves that the file at `path` has been through, and the hash that it had then;
    /// none if no rewrite touched it, or the last one was taken back.
    pub fn applied(&self, path: &Path) -> Option<(&[String], &str)> {
        let links = self.files.get(path)?;
        let last = links.last()?;
        let told = |link| {
            let link: &Link = link;
            let moves = link.moves.as_ref().unwrap_or(&link.by.moves);
            (moves.as_slice(), link.after.as_str())
        };
        if last.by.kind == Kind::Rewrite {
            return Some(told(last));
        }
        let rewrites = links[..links.len() - 1].iter().rev();
        let rewrites: Vec<&Link> = rewrites
            .filter(|link| link.by.kind == Kind::Rewrite)
            .collect();
        // A restore may have brought back what an earlier rewrite had made, or what was before
        // one; or it took back a part.
        if let Some(made) = rewrites.iter().find(|link| link.after == last.after) {
            return Some(told(made));
        }
        if rewrites.iter().any(|link| link.before == last.after) {
            None
        } else {
            rewrites.first().map(|link| told(link))
        }
    }
}
