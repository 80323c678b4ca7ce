//! Putting the originals of a record back, all or in part.
//!
//! First [`find_record`], then [`RestorePlan::new`], which changes no file; then, if whoever runs
//! it agrees, [`RestorePlan::commit`]: whatever is replaced goes into a record of its own.

mod find;
mod parts;

use std::path::{Path, PathBuf};

use rayon::prelude::*;

use crate::place::Place;
use crate::record::{
    Beginning, ChangedPolicy, FileState, Kind, Made, Manifest, Outcome, RecordError, RecordWriter,
    RestoreItem, Store, Timestamp, Watch, original_change, part_change, restore_items,
};
use crate::report::{LeftFile, RestoreReport, TakenBack};
use crate::tree::Scope;
use crate::undo::Undone;

pub use find::{FoundRecord, RestoreRefusal, find_record};

/// How many files are dealt with before the next ones are read.
const AT_ONCE: usize = 256;

/// What is to be taken back.
#[derive(Debug)]
pub struct RestoreWish {
    /// The record, by its name or folder; else the latest rewrite that is not taken back of what
    /// lies under `paths`.
    pub record: Option<String>,
    /// Only what lies under these, in canonical form; without a record they are what it is looked
    /// for by.
    pub paths: Vec<PathBuf>,
    /// Only what its globs let through.
    pub scope: Scope,
    /// Only what the move from this place changed.
    pub move_from: Option<Place>,
    /// What to do with files that were saved again since.
    pub policy: ChangedPolicy,
    /// Where folders of the record are seen now: as they were called, and as they are.
    pub from_dirs: Vec<(PathBuf, PathBuf)>,
    /// The largest document that is read as a whole, in bytes.
    pub max_document: u64,
}

impl RestoreWish {
    /// Whether a file of `record` is asked for.
    fn wants(&self, record: &Manifest, path: &Path) -> bool {
        let under = self.paths.is_empty() || self.paths.iter().any(|root| path.starts_with(root));
        let below = record.roots.below(path);
        let below = below.unwrap_or_else(|| path.file_name().map_or(path, Path::new));
        let skipped = below.ancestors().any(|part| self.scope.skips(part));
        under && !skipped && !self.scope.leaves_out(below, false)
    }
}

/// What a restore would do.
#[derive(Debug)]
pub struct RestorePlan<'a> {
    record: &'a Manifest,
    wish: &'a RestoreWish,
    /// Which of the record's moves is taken back; none if all are.
    by: Option<usize>,
    /// What is to be done to each file that something is to be done to.
    todo: Vec<(RestoreItem, Way)>,
    report: RestoreReport,
}

/// How a file goes back.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Way {
    /// Its original is put back.
    Original,
    /// What the rewrite changed is taken back piece by piece.
    Parts,
}

impl<'a> RestorePlan<'a> {
    /// Looks at the files of `found`.
    ///
    /// # Errors
    /// Where the record does not have the move that is to be taken back.
    pub fn new(found: &'a FoundRecord, wish: &'a RestoreWish) -> Result<Self, RestoreRefusal> {
        let record = &found.manifest;
        let by = match &wish.move_from {
            Some(from) => Some(find::number_of_move(record, from)?),
            None => None,
        };
        let items = restore_items(record, &found.chain, |path| wish.wants(record, path));
        let report = RestoreReport {
            record: record.header.id.clone(),
            moves: record.header.moves.clone(),
            preview: true,
            not_asked_for: record.done().count() - items.len(),
            ..RestoreReport::default()
        };
        let mut plan = Self {
            record,
            wish,
            by,
            todo: Vec::new(),
            report,
        };
        for item in items {
            match plan.way(&item) {
                Ok(Some(way)) => plan.todo.push((item, way)),
                Ok(None) => plan.report.already_original += 1,
                Err(why) => plan.report.left.push(left(&item.entry.path.to_path(), why)),
            }
        }
        Ok(plan)
    }

    /// How a file goes back; none if it is back already.
    fn way(&self, item: &RestoreItem) -> Result<Option<Way>, String> {
        let policy = self.wish.policy;
        if item.state == FileState::Original {
            return Ok(None);
        }
        let as_left = matches!(item.state, FileState::AsLeft | FileState::InPart);
        if let Some(by) = self.by
            && (as_left || policy == ChangedPolicy::Edits)
        {
            let edits = || item.entry.sites.iter().flat_map(|site| site.was);
            if item.entry.sites.is_empty() {
                return Err(NOT_IN_PIECES.to_owned());
            }
            if !edits().any(|edit| edit.by.is_none_or(|it| it == by)) {
                return Ok(None);
            }
            let alone = edits().all(|edit| edit.by == Some(by));
            return if alone && item.state == FileState::AsLeft {
                self.whole(item)
            } else {
                Ok(Some(Way::Parts))
            };
        }
        match (&item.state, policy) {
            (FileState::AsLeft | FileState::InPart, _) => self.whole(item),
            (FileState::Missing, ChangedPolicy::Original) => self.whole(item),
            (FileState::Missing, _) => {
                Err("it is gone; --changed original puts the original back".to_owned())
            }
            (_, ChangedPolicy::Original) => self.whole(item),
            (FileState::Undone, _) => Ok(None),
            (_, ChangedPolicy::Edits) if item.entry.sites.is_empty() => {
                Err(NOT_IN_PIECES.to_owned())
            }
            (_, ChangedPolicy::Edits) => Ok(Some(Way::Parts)),
            (FileState::RewrittenBy(record), ChangedPolicy::Leave) => Err(format!(
                "record {record} rewrote it again since; take that back first"
            )),
            (_, ChangedPolicy::Leave) => Err(
                "it was saved again since; --changed edits takes back only what the rewrite changed, --changed \
                 original puts the whole original back"
                    .to_owned(),
            ),
        }
    }

    fn whole(&self, item: &RestoreItem) -> Result<Option<Way>, String> {
        if item.entry.created {
            return Err("there was no such file before".to_owned());
        }
        if !item.entry.kept {
            return Err(
                "for want of space the version before was not kept; run the rewrite again to make it"
                    .to_owned(),
            );
        }
        Ok(Some(Way::Original))
    }

    /// How many files are to be dealt with.
    pub fn files(&self) -> usize {
        self.todo.len()
    }

    /// The folder that all those files lie in.
    pub fn folder(&self) -> Option<String> {
        let mut paths = self.todo.iter().map(|(item, _)| item.entry.path.to_path());
        let first = paths.next()?;
        let mut folder = first.parent()?.to_owned();
        for path in paths {
            while !path.starts_with(&folder) && folder.pop() {}
        }
        Some(familiar(&folder))
    }

    /// What would be done.
    pub fn into_report(mut self) -> RestoreReport {
        for chunk in self.todo.chunks(AT_ONCE) {
            let undone = self.undone(chunk);
            for ((item, _), undone) in chunk.iter().zip(undone) {
                tell(&mut self.report, item, undone.as_ref());
            }
        }
        self.report
    }

    /// What is taken back piece by piece of each file that goes back so.
    fn undone(&self, chunk: &[(RestoreItem, Way)]) -> Vec<Option<Undone>> {
        let undone = |(item, way): &(RestoreItem, Way)| {
            (*way == Way::Parts)
                .then(|| parts::undone(self.record, item, self.by, self.wish.max_document))
        };
        chunk.par_iter().map(undone).collect()
    }

    /// Does it. The new record is named after the time `now`.
    ///
    /// # Errors
    /// Where the new record cannot be written.
    pub fn commit(
        mut self,
        store: &Store,
        now: Timestamp,
        watch: &Watch<'_>,
    ) -> Result<RestoreReport, RecordError> {
        self.report.preview = false;
        let mut writer: Option<RecordWriter> = None;
        let todo = std::mem::take(&mut self.todo);
        for chunk in todo.chunks(AT_ONCE) {
            let undone = self.undone(chunk);
            let mut changes = Vec::with_capacity(chunk.len());
            let mut of = Vec::with_capacity(chunk.len());
            for ((item, _), mut undone) in chunk.iter().zip(undone) {
                let change = match &mut undone {
                    None => original_change(self.record, item),
                    Some(undone) => undone.content.take().map(|new| part_change(item, new)),
                };
                match (change, undone) {
                    (Some(change), undone) => {
                        changes.push(change);
                        of.push((item, undone));
                    }
                    (None, Some(undone)) => tell(&mut self.report, item, Some(&undone)),
                    (None, None) => {
                        let why =
                            "its original in the record is not what was kept, so it is not used";
                        self.report.left.push(left(&item.entry.path.to_path(), why));
                    }
                }
            }
            if changes.is_empty() {
                continue;
            }
            let writer = match &mut writer {
                Some(writer) => writer,
                none => none.insert(store.begin(self.beginning(now))?),
            };
            self.report.kept_in = Some(writer.id().to_owned());
            let outcomes = writer.commit(&changes, watch)?;
            for ((item, undone), outcome) in of.into_iter().zip(outcomes) {
                self.tell_outcome(item, undone, &outcome);
            }
        }
        if let Some(writer) = writer {
            let report = serde_json::to_vec(&crate::report::Document::of(&self.report));
            writer.finish(&report.map_err(RecordError::report)?)?;
        }
        Ok(self.report)
    }

    fn beginning(&self, now: Timestamp) -> Beginning {
        let header = &self.record.header;
        let scope = header.scope.iter().map(crate::record::PathText::to_path);
        Beginning {
            created: now,
            kind: Kind::Restore,
            undoes: Some(header.id.clone()),
            moves: header.moves.clone(),
            scope: scope.collect(),
        }
    }

    fn tell_outcome(&mut self, item: &RestoreItem, undone: Option<Undone>, outcome: &Outcome) {
        let path = item.entry.path.to_path();
        if outcome.was_stopped() {
            self.report.stopped_before += 1;
            return;
        }
        if let Some(why) = outcome.fault() {
            self.report.left.push(left(&path, why));
        }
        if matches!(outcome.made, Made::Left(_)) {
            return;
        }
        tell(&mut self.report, item, undone.as_ref());
    }
}

/// Why what a rewrite changed cannot be taken back by itself.
const NOT_IN_PIECES: &str = "what was changed in it is not known piece by piece, because it is a link or larger than \
     --max-document was; --changed original puts the whole original back";

/// Tells that a file's original was put back, or what was taken back of it, or would be.
fn tell(report: &mut RestoreReport, item: &RestoreItem, undone: Option<&Undone>) {
    let file = familiar(&item.entry.path.to_path());
    let Some(undone) = undone else {
        return report.restored.push(file);
    };
    let sites = parts::told(item, undone);
    report.edits_taken_back.push(TakenBack {
        file,
        taken_back: sites.iter().filter(|site| site.taken_back).count(),
        of: sites.len(),
        sites,
    });
}

fn left(path: &Path, why: impl Into<String>) -> LeftFile {
    let mut left = LeftFile::new(path, why);
    left.file.shown = familiar(path);
    left
}

/// A canonical path as people know it.
pub fn familiar(path: &Path) -> String {
    let known = crate::base::platform::familiar(path);
    known.to_string_lossy().into_owned()
}
