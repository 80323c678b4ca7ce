//! What a run rests on, and how one is begun.

use std::sync::atomic::{AtomicU64, Ordering};

use super::{Job, Portable, RelativeReferences};
use crate::base::limits::Resources;
use crate::base::threads::processors;
use crate::resolve::Resolver;
use crate::sheet::Sheet;
use crate::text::Encoding;
use crate::tree::Scope;

/// The largest document that is read as a whole unless something else is said, in bytes.
const LARGEST_DOCUMENT: u64 = 256 << 20;
/// The memory for the files in hand unless something else is said, in bytes.
const MEMORY: u64 = 768 << 20;

/// What all runs over a tree share: the sheet, what is looked at, what is seen of the disks, and what it may cost.
///
/// ```
/// use lastmaker_core::answers::survey;
/// use lastmaker_core::job::Workspace;
/// use lastmaker_core::sheet::Sheet;
/// use lastmaker_core::tree::Scope;
///
/// let scope = Scope::new(vec!["src".into()], &[], &[]).unwrap();
/// let workspace = Workspace::new(Sheet::default(), scope);
/// let report = survey(&workspace.job().threads(1).build());
/// assert!(report.files > 0);
/// ```
#[derive(Debug)]
pub struct Workspace {
    sheet: Sheet,
    scope: Scope,
    resolver: Resolver,
    resources: Resources,
    looked_at: AtomicU64,
}

impl Workspace {
    /// A workspace for this sheet, over the files of this scope. Places are looked up where the sheet says that
    /// they are seen.
    pub fn new(sheet: Sheet, scope: Scope) -> Self {
        Self {
            resolver: Resolver::new(&sheet),
            resources: Resources::new(MEMORY, None),
            looked_at: AtomicU64::new(0),
            sheet,
            scope,
        }
    }

    /// The same, with what a run may cost.
    #[must_use]
    pub fn with_resources(self, resources: Resources) -> Self {
        Self { resources, ..self }
    }

    /// The sheet.
    pub fn sheet(&self) -> &Sheet {
        &self.sheet
    }

    /// The sheet, to be added to. What is seen where was taken from it when the workspace was made.
    pub fn sheet_mut(&mut self) -> &mut Sheet {
        &mut self.sheet
    }

    /// What is looked at.
    pub fn scope(&self) -> &Scope {
        &self.scope
    }

    /// What is looked at, to be narrowed.
    pub fn scope_mut(&mut self) -> &mut Scope {
        &mut self.scope
    }

    /// Counts files as a run looks at them; for whoever shows how far it is.
    pub fn looked_at(&self) -> &AtomicU64 {
        &self.looked_at
    }

    /// Begins a run: everything has its usual value until something else is said.
    pub fn job(&self) -> JobBuilder<'_> {
        self.looked_at.store(0, Ordering::Relaxed);
        JobBuilder(Job {
            sheet: &self.sheet,
            scope: &self.scope,
            resolver: &self.resolver,
            encoding: None,
            thorough: false,
            history_files: false,
            max_document: LARGEST_DOCUMENT,
            resources: &self.resources,
            repair: false,
            existing_only: false,
            portable: Portable::default(),
            relative: RelativeReferences::Left,
            kinds: &[],
            jobs: processors(),
            looked_at: &self.looked_at,
        })
    }
}

/// A run that is being set up.
#[derive(Debug)]
#[must_use = "a run does nothing until it is built"]
pub struct JobBuilder<'a>(Job<'a>);

impl<'a> JobBuilder<'a> {
    /// The encoding that eight-bit text is in whose bytes do not show it.
    pub fn encoding(mut self, encoding: Option<Encoding>) -> Self {
        self.0.encoding = encoding;
        self
    }

    /// Nothing is ruled out before it is read.
    pub fn thorough(mut self, thorough: bool) -> Self {
        self.0.thorough = thorough;
        self
    }

    /// Logs, backups and recycle bins are rewritten too.
    pub fn history_files(mut self, history_files: bool) -> Self {
        self.0.history_files = history_files;
        self
    }

    /// The largest document that is read as a whole, in bytes; never more than there is room for.
    pub fn max_document(mut self, bytes: u64) -> Self {
        self.0.max_document = bytes;
        self
    }

    /// What is evidently mistyped is put right.
    pub fn repair(mut self, repair: bool) -> Self {
        self.0.repair = repair;
        self
    }

    /// Only references are changed whose new places exist.
    pub fn existing_only(mut self, existing_only: bool) -> Self {
        self.0.existing_only = existing_only;
        self
    }

    /// Which documents get spellings that survive the next move.
    pub fn portable(mut self, portable: Portable<'a>) -> Self {
        self.0.portable = portable;
        self
    }

    /// What becomes of references that are relative to their document.
    pub fn relative(mut self, relative: RelativeReferences) -> Self {
        self.0.relative = relative;
        self
    }

    /// Only files of the formats of these names are changed; of all formats if there are none.
    pub fn kinds(mut self, kinds: &'a [&'static str]) -> Self {
        self.0.kinds = kinds;
        self
    }

    /// Number of threads, one at least; else one for each processor.
    pub fn threads(mut self, threads: usize) -> Self {
        self.0.jobs = threads.max(1);
        self
    }

    /// The run.
    pub fn build(self) -> Job<'a> {
        let job = self.0;
        Job {
            max_document: job.max_document.min(job.resources.largest_document()),
            ..job
        }
    }
}
