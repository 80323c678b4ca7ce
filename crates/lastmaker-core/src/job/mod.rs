//! What every question over a tree needs to know.

mod workspace;

pub use workspace::{JobBuilder, Workspace};

use std::io;
use std::path::Path;
use std::sync::atomic::AtomicU64;

use crate::base::limits::{Limits, Resources};
use crate::container::Budget;
use crate::judge::Looking;
use crate::layer::VariableForm;
use crate::open::{
    FileSource, Inside, LargeFault, LargeText, Reading, Source, Visitor, WindowSize, encoding_of,
    pieces, visit, visit_link, visit_windows,
};
use crate::place::Place;
use crate::report::LeftFile;
use crate::resolve::Resolver;
use crate::sheet::Sheet;
use crate::text::{Detected, Encoding, detect, encoding_of_names};
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

/// One run over a tree, begun by [`Workspace::job`].
#[derive(Debug)]
#[non_exhaustive]
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
    pub resources: &'a Resources,
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
    ///
    /// # Errors
    /// As reading does.
    pub(crate) fn reading(&self, entry: &Entry<'_>) -> io::Result<Reading> {
        let likely = match self.encoding {
            Some(_) => None,
            None => self.likely_encoding(entry)?,
        };
        Ok(Reading {
            encoding: self.encoding,
            format: entry.format,
            likely,
            value: None,
        })
    }

    /// The encoding in which the eight-bit text of an entry names an old place, or else a new one, if one has a
    /// letter beyond ASCII in its name.
    fn likely_encoding(&self, entry: &Entry<'_>) -> io::Result<Option<Encoding>> {
        let sheet = self.sheet;
        if !sheet.has_names_beyond_ascii() {
            return Ok(None);
        }
        match entry.content {
            Content::Link(_) => Ok(None),
            Content::Whole(bytes) => self.encoding_by_names(detect(bytes, None), |each| {
                each(bytes);
                Ok(())
            }),
            Content::TooLarge => {
                let source = FileSource::new(entry.path)?;
                let (found, _) = encoding_of(&source, None)?;
                self.encoding_by_names(found, |each| pieces(&source, each))
            }
        }
    }

    /// The encoding in which eight-bit text that `all` gives piece by piece names an old place, or else a new one.
    fn encoding_by_names(
        &self,
        found: Option<Detected>,
        all: impl Fn(&mut dyn FnMut(&[u8])) -> io::Result<()>,
    ) -> io::Result<Option<Encoding>> {
        let Some(Detected { encoding, .. }) = found else {
            return Ok(None);
        };
        let old = encoding_of_names(encoding, self.sheet.old_names(), &all)?;
        match old {
            Some(_) => Ok(old),
            None => encoding_of_names(encoding, self.sheet.new_names(), &all),
        }
    }

    /// How large the windows are in which a large text is read.
    fn window_size(&self) -> WindowSize {
        // While it is found out how long records are, nothing is reserved for them.
        WindowSize::of(self.max_document, self.resources.largest_document() / 2)
    }

    /// Opens a large text, and shows it to `work` with what it may cost when there is room for its windows.
    ///
    /// # Errors
    /// Where it cannot be read, or not in windows; and as `work`.
    pub(crate) fn with_large_text<T, E: From<LargeFault>>(
        &self,
        entry: &Entry<'_>,
        work: impl FnOnce(&LargeText<'_>, Limits) -> Result<T, E>,
    ) -> Result<T, E> {
        let opened = || {
            let source = FileSource::new(entry.path)?;
            Ok::<_, LargeFault>((source, self.reading(entry)?))
        };
        let (source, reading) = opened()?;
        let name = entry.name();
        let text = LargeText::open(&source, &name, reading, self.window_size())?;
        let window = text.longest() as u64;
        self.resources
            .spend_on_windows(source.size(), window, |limits| work(&text, limits))
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

    /// Lets a visitor see every document in an entry, within what that may cost; gives it back, and what could
    /// not be read, each a sentence.
    ///
    /// # Errors
    /// Where the entry cannot be read, or is too large.
    pub(crate) fn look_inside<V: Visitor>(
        &self,
        entry: &Entry<'_>,
        visitor: impl FnOnce(Limits) -> V,
    ) -> Result<(V, Vec<String>), FileFault> {
        match entry.content {
            Content::Whole(bytes) => {
                let inside = Inside {
                    bytes,
                    name: &entry.name(),
                    reading: self.reading(entry)?,
                };
                Ok(self.resources.spend(entry.size(), |limits| {
                    let budget = Budget::new(self.max_document).within(limits);
                    let mut visitor = visitor(limits);
                    let (_, left) = visit(inside, &budget, &mut visitor);
                    (visitor, left)
                }))
            }
            Content::Link(target) => {
                let mut visitor = visitor(Limits::default());
                visit_link(target, &mut visitor);
                Ok((visitor, Vec::new()))
            }
            Content::TooLarge => self.with_large_text(entry, |text, limits| {
                let mut visitor = visitor(limits);
                let left = visit_windows(text, &mut visitor, &mut |_, _| {})?;
                Ok((visitor, left))
            }),
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
