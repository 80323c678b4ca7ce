//! The plan for one file: its document, its container, or where it leads if it is a link.

use std::io;
use std::path::{Path, PathBuf};

use crate::base::compact::CompactList;
use crate::base::phase::{Phase, TARGET};
use crate::container::Budget;
use crate::job::{Job, RelativeReferences, left_in};
use crate::judge::Reason;
use crate::layer::ByteEdits;
use crate::open::{Inside, LINK, LargeText};
use crate::record::{Chain, LinkKind, SiteChange, hash_file, hash_link, kind_of_link, target_from};
use crate::report::{LeftFile, References};
use crate::sheet::{Move, Sheet};
use crate::tree::{Content, Entry, FileFault, Names, Sieve};

use super::decide::options::PlanOptions;
use super::decide::spellings::Spellings;
use super::source::container::{ContentPlan, plan_content, plan_target};
use super::source::windows::{LargePlan, LargePlanFault, plan_large};

/// What becomes of one file.
#[derive(Debug)]
pub struct FilePlan {
    /// The file as it was found.
    pub path: PathBuf,
    /// Its canonical path; the same as `path` if nothing changes.
    pub canonical: PathBuf,
    /// The format that read it.
    pub format: &'static str,
    /// Name of its encoding; empty if it has none as a whole.
    pub encoding: &'static str,
    /// Its references that a move touches, in order.
    pub references: References,
    /// Whether it changes.
    pub changes: bool,
    /// The edits of its bytes, if they are to be made.
    pub edits: ByteEdits,
    /// Hash of what was read; zeros if it is not planned for a record, for which no file is exchanged.
    pub before: blake3::Hash,
    /// Hash of what it will be; likewise.
    pub after: blake3::Hash,
    /// Whether it is read-only.
    pub read_only: bool,
    /// Its other names, all within the scope.
    pub links: Vec<PathBuf>,
    /// The moves that it will have been through, if they are not all those of the sheet.
    pub moves: Option<Vec<String>>,
    /// What changes, piece by piece, as a record keeps it.
    pub sites: CompactList<SiteChange>,
    /// What sort of link it is and where it will lead, if it is a link.
    pub link: Option<(LinkKind, PathBuf)>,
    /// Whether programs write it piece by piece while they have it open.
    pub in_place: bool,
    /// Which file it is, if it has several names.
    pub(super) names: Option<Names>,
    /// Whether it is a log, a backup, or in a recycle bin.
    pub(super) history: bool,
}

/// What stands for the hashes of a file that is not planned for a record.
const NOT_FOR_RECORD: blake3::Hash = blake3::Hash::from_bytes([0; blake3::OUT_LEN]);

/// What a file brought.
#[derive(Debug, Default)]
pub(super) struct Planned {
    /// Its plan, if a move touches something in it.
    pub(super) file: Option<Box<FilePlan>>,
    /// What of it is left as it is, and why.
    pub(super) left: Vec<LeftFile>,
}

impl Planned {
    fn left(path: &Path, why: impl Into<String>) -> Self {
        Self {
            file: None,
            left: vec![LeftFile::new(path, why)],
        }
    }

    /// Whether there is nothing to tell.
    pub(super) fn is_empty(&self) -> bool {
        self.file.is_none() && self.left.is_empty()
    }
}

/// What earlier rewrites did, and what is done about files that were saved since.
#[derive(Clone, Copy)]
pub(super) struct Past<'a> {
    pub(super) chain: &'a Chain,
    /// Whether files that were saved since are planned all the same.
    pub(super) again: bool,
}

/// Which of the moves a file has been through.
enum PastMoves {
    /// These; it is as the last rewrite left it.
    Through(Vec<String>),
    /// Nobody knows: it was saved since.
    SavedSince,
}

impl Past<'_> {
    fn of(&self, entry: &Entry<'_>) -> Result<PastMoves, FileFault> {
        let Some((moves, after)) = self.chain.applied(&entry.canonical) else {
            return Ok(PastMoves::Through(Vec::new()));
        };
        let hash = match entry.content {
            Content::Whole(content) => blake3::hash(content),
            Content::Link(target) => hash_link(target),
            Content::TooLarge => hash_file(entry.path)?,
        };
        if hash.to_hex().as_str() == after {
            Ok(PastMoves::Through(moves.to_vec()))
        } else if self.again {
            Ok(PastMoves::Through(Vec::new()))
        } else {
            Ok(PastMoves::SavedSince)
        }
    }
}

/// Plans the rewrite of what is at `entry`. Without a past every move applies to it.
pub(super) fn plan_file(
    job: &Job<'_>,
    sieve: &Sieve,
    entry: &Entry<'_>,
    past: Option<Past<'_>>,
    for_record: bool,
) -> Result<Planned, FileFault> {
    if entry.is_beside_database() {
        return Ok(Planned::default());
    }
    let been = match past {
        Some(past) => past.of(entry)?,
        None => PastMoves::Through(Vec::new()),
    };
    let done: &[String] = match &been {
        PastMoves::Through(moves) => moves,
        PastMoves::SavedSince => &[],
    };
    let rest = (!done.is_empty()).then(|| job.sheet.without(done));
    let sheet = rest.as_ref().unwrap_or(job.sheet);
    if sheet.moves.is_empty() && job.relative != RelativeReferences::InFull {
        return Ok(Planned::default());
    }
    let below = job.scope.below(entry.path);
    let spellings = Spellings::of(job, sheet, entry, below);
    let options = PlanOptions {
        spellings: Some(&spellings),
        for_record,
        ..PlanOptions::of_job(job, sheet, entry.path)
    };
    let _phase = Phase::Plan.span().entered();
    let mut planned = read_and_plan(job, sieve, entry, options)?;
    let kind = planned.file.as_ref().map(|plan| plan.format);
    if kind.is_some_and(|kind| !job.kinds.is_empty() && !job.kinds.contains(&kind)) {
        return Ok(Planned::default());
    }
    if let Some(plan) = &planned.file {
        tracing::debug!(
            target: TARGET,
            format = plan.format,
            references = plan.references.len(),
            "{}",
            plan.path.display()
        );
    }
    if let Some(plan) = &mut planned.file {
        if !for_record {
            plan.edits = ByteEdits::default();
        }
        if matches!(been, PastMoves::SavedSince) {
            plan.withdraw(&Reason::SavedSince);
        }
        if rest.is_some() {
            plan.moves = Some(moves_with(done, sheet));
            plan.renumber_moves(sheet, job.sheet);
        }
    }
    Ok(planned)
}

/// The moves that a file has been through, and those of `sheet`.
fn moves_with(done: &[String], sheet: &Sheet) -> Vec<String> {
    let all = done.iter().cloned();
    all.chain(sheet.moves.iter().map(Move::identity)).collect()
}

fn read_and_plan(
    job: &Job<'_>,
    sieve: &Sieve,
    entry: &Entry<'_>,
    options: PlanOptions<'_>,
) -> Result<Planned, FileFault> {
    match entry.content {
        Content::Whole(bytes) => {
            let inside = Inside {
                bytes,
                name: &entry.name(),
                reading: job.reading(entry)?,
            };
            let (plan, left) = job.resources.spend(entry.size(), |limits| {
                let budget = Budget::new(job.max_document).within(limits);
                let options = PlanOptions { limits, ..options };
                plan_content(inside, options, sieve, &budget)
            });
            let mut planned = Planned {
                file: None,
                left: left_in(entry.path, left),
            };
            if let Some(plan) = plan {
                let hash = |bytes: &[u8]| {
                    if options.for_record {
                        blake3::hash(bytes)
                    } else {
                        NOT_FOR_RECORD
                    }
                };
                let after = plan.new.as_deref().map(hash);
                planned.file = Some(Box::new(FilePlan::new(entry, plan, hash(bytes), after)?));
            }
            Ok(planned.unless_in_use(entry))
        }
        Content::Link(target) => {
            let Some(plan) = plan_target(target, options, sieve) else {
                return Ok(Planned::default());
            };
            Ok(Planned {
                file: Some(Box::new(FilePlan::of_link(entry, plan, target)?)),
                left: Vec::new(),
            })
        }
        Content::TooLarge => {
            let plan = |text: &LargeText<'_>, limits| {
                plan_large(text, PlanOptions { limits, ..options }, sieve)
            };
            match job.with_large_text(entry, plan) {
                Ok(None) => Ok(Planned::default()),
                Ok(Some(large)) => Ok(Planned {
                    file: Some(Box::new(FilePlan::of_large(entry, large)?)),
                    left: Vec::new(),
                }),
                Err(LargePlanFault::Unread(fault)) => Err(fault.into()),
                Err(fault) => Ok(Planned::left(entry.path, fault.to_string())),
            }
        }
    }
}

impl Planned {
    /// Leaves a file that programs write piece by piece if one may be at it.
    fn unless_in_use(mut self, entry: &Entry<'_>) -> Self {
        let changes = |file: &FilePlan| file.in_place && file.changes;
        let Some(file) = self.file.take_if(|file| changes(file)) else {
            return self;
        };
        match entry.in_use() {
            Some(why) => {
                let number = file.references.len();
                let why = format!("it has {number} references to what moved, but {why}");
                self.left.push(LeftFile::new(entry.path, why));
            }
            None => self.file = Some(file),
        }
        self
    }
}

impl FilePlan {
    /// Without `after` it stays what it was.
    fn new(
        entry: &Entry<'_>,
        plan: ContentPlan,
        before: blake3::Hash,
        after: Option<blake3::Hash>,
    ) -> io::Result<Self> {
        let mut file = Self {
            path: entry.path.to_owned(),
            canonical: entry.path.to_owned(),
            format: plan.format,
            encoding: plan.encoding,
            references: References::of(entry.path.into(), plan.references),
            before,
            after: after.unwrap_or(before),
            read_only: false,
            links: Vec::new(),
            moves: None,
            sites: plan.sites,
            link: None,
            in_place: plan.container.is_some_and(|one| one.is_written_in_place()),
            names: None,
            history: entry.history,
            changes: plan.new.is_some() || !plan.edits.is_empty(),
            edits: plan.edits,
        };
        if file.changes {
            let facts = entry.facts()?;
            file.canonical = facts.canonical;
            file.read_only = facts.read_only;
            file.names = facts.names;
        }
        Ok(file)
    }

    fn of_link(entry: &Entry<'_>, plan: ContentPlan, target: &Path) -> io::Result<Self> {
        let new = plan.new.as_deref().map(target_from).transpose()?;
        let after = new.as_deref().map(hash_link);
        let mut file = Self::new(entry, plan, hash_link(target), after)?;
        file.format = LINK;
        if let Some(new) = new {
            file.link = Some((kind_of_link(entry.path)?, new));
        }
        Ok(file)
    }

    /// What changes piece by piece is not kept of a large one.
    fn of_large(entry: &Entry<'_>, large: LargePlan) -> io::Result<Self> {
        let plan = ContentPlan {
            format: large.format,
            encoding: large.encoding,
            references: large.references,
            edits: large.edits,
            new: None,
            container: None,
            sites: CompactList::default(),
        };
        let before = large.before.unwrap_or(NOT_FOR_RECORD);
        Self::new(entry, plan, before, large.after)
    }

    /// Takes every change back and says why.
    pub(super) fn withdraw(&mut self, reason: &Reason) {
        let (standing, name, why) = (reason.standing(), reason.name(), reason.to_string());
        self.references
            .change(|reference| reference.withdraw(standing, name, &why));
        self.edits = ByteEdits::default();
        self.changes = false;
        self.sites = CompactList::default();
        self.after = self.before;
    }

    /// Names the moves that made its changes by their numbers in `all` instead of in `some`.
    fn renumber_moves(&mut self, some: &Sheet, all: &Sheet) {
        let known = |by: usize| {
            let identity = some.moves[by].identity();
            let known = all.moves.iter().position(|one| one.identity() == identity);
            known.unwrap_or(by)
        };
        self.references.change(|one| one.by = one.by.map(known));
        self.sites.change(|site| {
            let edits = site.was.iter_mut();
            edits.for_each(|edit| edit.by = edit.by.map(known));
        });
    }
}
