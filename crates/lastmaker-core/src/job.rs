//! What every question over a tree needs to know.

use std::path::Path;
use std::sync::atomic::AtomicU64;

use crate::container::Budget;
use crate::judge::Looking;
use crate::layer::VariableForm;
use crate::limits::Means;
use crate::open::{Inside, Reading, Visitor, visit, visit_link};
use crate::place::Place;
use crate::report::LeftFile;
use crate::resolve::Resolver;
use crate::sheet::Sheet;
use crate::text::Encoding;
use crate::tree::{Content, Entry, FileFault, Scan, Scope, Sieve, Walked, walk};

/// In which documents references take a spelling that survives the next move.
#[derive(Clone, Copy, Debug, Default)]
pub struct Portable<'a> {
    /// Whether in those of formats for which it is known how their programs take it.
    pub known: bool,
    /// In those that the sheet names.
    pub said: &'a [SaidPortable],
}

/// Documents that the sheet names, and what it says of their program.
#[derive(Debug)]
pub struct SaidPortable {
    /// Lets the paths below the scope through.
    pub files: Scope,
    /// How the program takes the value of a variable; none if it takes a path relative to the document.
    pub variables: Option<VariableForm>,
}

/// What becomes of references that are relative to their document.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum RelativeReferences {
    /// They are left.
    #[default]
    Left,
    /// Those that a move broke are mended.
    Mended,
    /// Those that lead somewhere name that in full, so that their document can be moved alone.
    InFull,
}

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
    /// What it may cost.
    pub means: &'a Means,
    /// Whether what is evidently mistyped is put right.
    pub repair: bool,
    /// Whether only references are changed whose new places exist.
    pub existing_only: bool,
    /// Which documents get relative references.
    pub portable: Portable<'a>,
    /// What becomes of references that are relative to their document.
    pub relative: RelativeReferences,
    /// Names of the formats whose files are changed; all if there are none.
    pub kinds: &'a [&'static str],
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
            likely: None,
            value: None,
        }
    }

    /// What looking at references rests on.
    pub(crate) fn looking(&self) -> Looking<'_> {
        Looking {
            sheet: self.sheet,
            resolver: self.resolver,
        }
    }

    /// Walks the scope with `sieve`.
    pub(crate) fn walk<T: Send>(
        &self,
        sieve: &Sieve,
        visit: impl Fn(&Entry<'_>) -> Result<Option<T>, FileFault> + Sync,
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

    /// Lets `visitor` see every document in an entry; gives what could not be read, each a
    /// sentence.
    ///
    /// # Errors
    /// Where the entry is too large to be read.
    pub(crate) fn look_inside<V: Visitor>(
        &self,
        entry: &Entry<'_>,
        visitor: &mut V,
    ) -> Result<Vec<String>, FileFault> {
        match entry.content {
            Content::Whole(bytes) => {
                let inside = Inside {
                    bytes,
                    name: &entry.name(),
                    reading: self.reading(entry),
                };
                let looked = self.means.spend(entry.size(), |limits| {
                    let budget = Budget::new(self.max_document).within(limits);
                    visit(inside, &budget, visitor).1
                });
                Ok(looked)
            }
            Content::Link(target) => {
                visit_link(target, visitor);
                Ok(Vec::new())
            }
            Content::TooLarge => Err(FileFault::TooLarge),
        }
    }

    /// The sheet's variables with the values that they have after the moves.
    pub(crate) fn variables_now(&self) -> Vec<(String, Place)> {
        let variables = self.sheet.variables.iter();
        let now = variables.map(|(name, value)| {
            let now = self.sheet.relocated(value);
            (name.clone(), now.unwrap_or_else(|| value.clone()))
        });
        now.collect()
    }
}

/// What could not be read in a file, as a report tells it.
pub(crate) fn left_in(path: &Path, left: Vec<String>) -> Vec<LeftFile> {
    let told = left.into_iter().map(|why| LeftFile::new(path, why));
    told.collect()
}
