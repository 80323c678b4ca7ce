//! What every question over a tree needs to know.

use std::path::Path;
use std::sync::atomic::AtomicU64;

use crate::container::Budget;
use crate::place::{Found, Place, Root, readings};
use crate::report::{FileName, LeftFile};
use crate::resolve::{Resolver, Target};
use crate::scan::{
    Content, Document, Entry, Leaf, Looking, Reading, Scan, ScanFault, Scope, Sieve, SitePassage,
    Walked, look_at_link, look_inside, walk,
};
use crate::sheet::Sheet;
use crate::text::Encoding;

/// One run over a tree.
#[derive(Debug)]
pub struct Job<'a> {
    /// The moves, and what is seen where.
    pub sheet: &'a Sheet,
    /// What may be looked at.
    pub scope: &'a Scope,
    /// Answers whether places exist.
    pub resolver: &'a Resolver,
    /// The encoding that eight-bit text is said to be in.
    pub encoding: Option<Encoding>,
    /// Whether nothing is ruled out before it is read.
    pub thorough: bool,
    /// Whether logs, backups and recycle bins are rewritten too.
    pub history_files: bool,
    /// The largest document that is read as a whole, in bytes.
    pub max_document: u64,
    /// Whether what is evidently mistyped is put right.
    pub repair: bool,
    /// Number of threads.
    pub jobs: usize,
    /// Counts files as they are looked at.
    pub looked_at: &'a AtomicU64,
}

impl Job<'_> {
    /// How the document of an entry is to be read.
    pub(crate) fn reading(&self, entry: &Entry<'_>) -> Reading {
        Reading {
            encoding: self.encoding,
            format: entry.format,
            value: None,
        }
    }

    /// Walks the scope with `sieve`.
    pub(crate) fn walk<T: Send>(
        &self,
        sieve: &Sieve,
        visit: impl Fn(&Entry<'_>) -> Result<Option<T>, String> + Sync,
    ) -> Walked<T> {
        let scan = Scan {
            scope: self.scope,
            sieve,
            thorough: self.thorough,
            max_document: self.max_document,
            jobs: self.jobs,
            looked_at: self.looked_at,
        };
        walk(&scan, visit)
    }

    /// Yields every document in an entry; gives what could not be read. With `binary` runs of
    /// letters in files of no known kind are documents too.
    ///
    /// # Errors
    /// Where the entry is too large to be read.
    pub(crate) fn look_inside(
        &self,
        entry: &Entry<'_>,
        binary: bool,
        each: &mut dyn FnMut(&Leaf<'_, '_>),
    ) -> Result<Vec<String>, String> {
        let budget = Budget::new(self.max_document);
        let looking = Looking {
            budget: &budget,
            binary,
        };
        let name = name_in_folder(entry.path);
        match entry.content {
            Content::Whole(content) => {
                let reading = self.reading(entry);
                Ok(look_inside(content, &name, reading, looking, each))
            }
            Content::Link(target) => {
                look_at_link(target, each);
                Ok(Vec::new())
            }
            Content::TooLarge => Err(
                "it is larger than a document may be; raise --max-document to have it read"
                    .to_owned(),
            ),
        }
    }

    /// The sheet's variables with the values that they have after the moves.
    pub(crate) fn variables_now(&self) -> Vec<(String, Place)> {
        self.sheet
            .variables
            .iter()
            .map(|(name, value)| {
                let now = self.sheet.relocated(value).unwrap_or_else(|| value.clone());
                (name.clone(), now)
            })
            .collect()
    }

    /// Where a found place ends: at the first of its readings that exists, else at the
    /// likeliest; and whether it exists.
    pub(crate) fn resolve(&self, found: &Found, content: &str) -> (usize, Place, Target) {
        let meant = self.meant(found, content);
        let found = meant.as_ref().unwrap_or(found);
        let mut first = None;
        for end in readings(found, content) {
            let place = found.place_until(content, end);
            let target = self.resolver.target(&place);
            if target == Target::Live {
                return (end, place, target);
            }
            let known = first.get_or_insert((end, place, target));
            if known.2 == Target::Unreachable {
                break;
            }
        }
        first.unwrap_or_else(|| {
            let place = found.place_until(content, found.hard_end);
            let target = self.resolver.target(&place);
            (found.hard_end, place, target)
        })
    }

    /// What a find names if the sheet speaks of that, and not of what it seems to name: a drive
    /// that is written as a folder, or behind an administrative share.
    fn meant(&self, found: &Found, content: &str) -> Option<Found> {
        let other = found.other_reading(content)?;
        let spoken_of = |found: &Found| {
            let place = found.place_until(content, readings(found, content)[0]);
            self.sheet.is_old_place(&place) || self.sheet.is_new_place(&place)
        };
        (!spoken_of(found) && spoken_of(&other)).then_some(other)
    }

    /// Whether a find is a place rather than something that looks like one: a POSIX place
    /// counts if it begins with a folder that exists or is usual, a share if it stands alone
    /// or in quotes. What the sheet speaks of always counts.
    pub(crate) fn counts(&self, found: &Found, place: &Place) -> bool {
        if self.sheet.is_old_place(place) || self.sheet.is_new_place(place) {
            return true;
        }
        match &found.root {
            Root::Drive(_) => found.doubt.is_none(),
            Root::Share { .. } => found.delimited,
            Root::Posix => place
                .components
                .first()
                .is_some_and(|first| self.is_usual(first)),
        }
    }

    fn is_usual(&self, first: &str) -> bool {
        const USUAL: [&str; 19] = [
            "bin", "boot", "dev", "etc", "home", "lib", "media", "mnt", "opt", "private", "root",
            "run", "sbin", "srv", "tmp", "usr", "var", "Users", "Volumes",
        ];
        let top = Place {
            root: Root::Posix,
            components: vec![first.to_owned()],
        };
        USUAL.contains(&first) || self.resolver.target(&top) == Target::Live
    }
}

/// The name of a file for a report.
pub(crate) fn file_name(path: &Path) -> FileName {
    FileName::from(path)
}

/// The faults of a scan as a report tells them.
pub(crate) fn left_by_scan(faults: &[ScanFault]) -> Vec<LeftFile> {
    faults
        .iter()
        .map(|fault| LeftFile {
            file: fault.path.to_string_lossy().into_owned(),
            why: fault.why.clone(),
        })
        .collect()
}

/// What could not be read in a file, as a report tells it.
pub(crate) fn left_in(path: &Path, left: Vec<String>) -> Vec<LeftFile> {
    let file = path.to_string_lossy();
    left.into_iter()
        .map(|why| LeftFile {
            file: file.clone().into_owned(),
            why,
        })
        .collect()
}

/// The last name of a path, by which a format may be known.
pub(crate) fn name_in_folder(path: &Path) -> String {
    path.file_name()
        .map(|name| name.to_string_lossy().into_owned())
        .unwrap_or_default()
}

/// The text of a passage with its layers taken off.
pub(crate) fn content_of<'a>(document: &'a Document<'_>, site: &'a SitePassage) -> &'a str {
    site.chain.content(document.raw(&site.span))
}
