//! Changing every reference to an old place, keeping the originals.
//!
//! First [`prepare`], which looks and refuses but changes no file of the scope; then, if whoever
//! runs it agrees, [`Prepared::commit`].

use std::collections::HashSet;
use std::path::{Path, PathBuf};

use thiserror::Error;

use super::change_files::{ChangeFileFault, PreparedChangeFiles};
use super::preview::chain;
use crate::job::{Job, RelativeReferences};
use crate::open::Reading;
use crate::plan::{FilePlan, TreePlan, plan_tree};
use crate::record::{
    Beginning, Change, Kind, Made, NewContent, RecordError, RecordState, Store, Timestamp, Watch,
    settle, sweep,
};
use crate::report::{
    Document, Done, LeftFile, NewPlaces, PlanReport, PlanTotals, Reference, RewriteReport,
    Standing, looks_wrong,
};
use crate::sheet::Move;

/// What a rewrite is told beside the job.
#[derive(Clone, Debug, Default)]
pub struct RewriteOptions {
    /// Whether files that were rewritten before and saved since are planned all the same.
    pub again: bool,
    /// Whether to go on although hardly any of the new places exists.
    pub anyway: bool,
    /// Whether to settle a run that was broken off, and go on.
    pub finish: bool,
    /// The folder for registry files of the changes alone.
    pub change_files: Option<PathBuf>,
}

/// Why a rewrite is refused. No file of the scope has been changed.
#[derive(Debug, Error)]
pub enum RewriteRefusal {
    /// Nothing is said to have moved.
    #[error("nothing is said to have moved")]
    NoMoves,
    /// Another run is writing a record.
    #[error("another run is writing the record {0}; wait until it has ended")]
    BeingWritten(String),
    /// A run was broken off, and nobody knows which of its files are which.
    #[error("the run that made record {record} was broken off")]
    Unfinished {
        /// The record.
        record: String,
        /// The record that it takes back, if it is a restore.
        undoes: Option<String>,
    },
    /// The record could not be written any more.
    #[error(
        "{error}; {rewritten} of {of} files were rewritten before that, the others are as they were"
    )]
    BrokenOff {
        /// The record.
        record: String,
        /// Files that were rewritten.
        rewritten: usize,
        /// Files that were to be.
        of: usize,
        /// What was in the way.
        error: RecordError,
    },
    /// Hardly any of the new places exists, or none can be checked.
    #[error("{}", wrong_folder(.0))]
    WrongFolder(NewPlaces),
    /// The registry files cannot be made.
    #[error(transparent)]
    ChangeFiles(#[from] ChangeFileFault),
    /// A record cannot be read or written.
    #[error(transparent)]
    Record(#[from] RecordError),
}

fn wrong_folder(places: &NewPlaces) -> &'static str {
    if places.live + places.dangling == 0 {
        "none of the new places can be checked from here, so nothing was changed"
    } else {
        "hardly any of the new places exists, so nothing was changed: is it the wrong folder?"
    }
}

/// A record whose run was broken off, and is settled now.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Settled {
    /// The record.
    pub record: String,
    /// How many of its files had been rewritten.
    pub rewritten: usize,
    /// How many files it has.
    pub of: usize,
}

/// A rewrite that is planned, and was not refused.
#[derive(Debug)]
pub struct Prepared {
    plan: TreePlan,
    moves: Vec<String>,
    scope: Vec<PathBuf>,
    change_files: PreparedChangeFiles,
    anyway: bool,
    /// Files that would change, and are left because a person wants it so.
    unchosen: Vec<PathBuf>,
}

/// Settles broken runs if that is wanted. Each is told to `settled` as it is done.
///
/// # Errors
/// Where another run is writing, or a broken one is not to be settled.
pub fn settle_unfinished(
    store: &Store,
    finish: bool,
    mut settled: impl FnMut(Settled),
) -> Result<(), RewriteRefusal> {
    for record in store.list() {
        match record.state {
            RecordState::BeingWritten => return Err(RewriteRefusal::BeingWritten(record.id)),
            RecordState::Finished if record.strays > 0 => {
                // What cannot be put in order now is tried again by the next run.
                let _ = record.manifest().and_then(|mut it| sweep(&mut it));
            }
            RecordState::Unfinished => {
                // One that is damaged as well cannot be settled by anybody, so it is in nobody's
                // way; `history` names it.
                let Ok(manifest) = record.manifest() else {
                    continue;
                };
                if !finish {
                    let undoes = manifest.header.undoes;
                    let record = record.id;
                    return Err(RewriteRefusal::Unfinished { record, undoes });
                }
                let manifest = settle(manifest)?;
                settled(Settled {
                    record: record.id,
                    rewritten: manifest.done().count(),
                    of: manifest.entries.len(),
                });
            }
            _ => {}
        }
    }
    Ok(())
}

/// Plans the rewrite of the job's scope, and refuses one that would go wrong. `planned` is shown
/// the plan before that is judged.
///
/// # Errors
/// As [`RewriteRefusal`] says.
pub fn prepare(
    job: &Job<'_>,
    store: &Store,
    options: &RewriteOptions,
    planned: impl FnOnce(&TreePlan),
) -> Result<Prepared, RewriteRefusal> {
    if job.sheet.moves.is_empty() && job.relative != RelativeReferences::InFull {
        return Err(RewriteRefusal::NoMoves);
    }
    let plan = plan_tree(job, &chain(job, store), options.again, true);
    let mut prepared = Prepared {
        plan,
        moves: job.sheet.moves.iter().map(Move::identity).collect(),
        scope: job.scope.canonical(),
        change_files: PreparedChangeFiles::default(),
        anyway: options.anyway,
        unchosen: Vec::new(),
    };
    if prepared.changes_nothing() {
        return Ok(prepared);
    }
    planned(&prepared.plan);
    let places = prepared.plan.totals.new_places;
    if looks_wrong(&places, &prepared.plan.moves) && !options.anyway {
        return Err(RewriteRefusal::WrongFolder(places));
    }
    if let Some(folder) = &options.change_files {
        let reading = Reading {
            encoding: job.encoding,
            ..Reading::default()
        };
        let changing: Vec<&FilePlan> = prepared.plan.changing().collect();
        prepared.change_files = PreparedChangeFiles::prepare(folder, &changing, reading)?;
    }
    Ok(prepared)
}

impl Prepared {
    /// Whether no file is to be changed.
    pub fn changes_nothing(&self) -> bool {
        self.plan.changing().next().is_none()
    }

    /// How many files are to be changed.
    pub fn files(&self) -> usize {
        self.plan.changing().count()
    }

    /// The counts of the plan.
    pub fn totals(&self) -> &PlanTotals {
        &self.plan.totals
    }

    /// Every reference of the plan, in order.
    pub fn references(&self) -> impl Iterator<Item = Reference> + '_ {
        let files = self.plan.files.iter();
        files.flat_map(|file| file.references.iter())
    }

    /// The plan as it is told.
    pub fn report(&self) -> PlanReport {
        self.plan.report()
    }

    /// Leaves files that would change as they are, but for those that `is_chosen` wants, by the name that they are
    /// shown with.
    pub fn choose(&mut self, is_chosen: impl Fn(&str) -> bool) {
        for file in self.plan.files.iter_mut().filter(|file| file.changes) {
            if !is_chosen(&file.references.file().shown) {
                file.changes = false;
                self.unchosen.push(file.path.clone());
            }
        }
    }

    /// The report of a rewrite that has nothing to change.
    pub fn into_report(self) -> RewriteReport {
        RewriteReport {
            plan: self.plan.into_report(),
            done: None,
            failed: Vec::new(),
            anyway: self.anyway,
        }
    }

    /// The moves, old place and new.
    pub fn moves(&self) -> &[String] {
        &self.moves
    }

    /// Makes the changes; the originals go into a record of `store` named after the time `now`.
    ///
    /// # Errors
    /// Where the record itself cannot be written: what was not begun yet is as it was. Registry
    /// files that cannot be written are an error too, although the rewrite is done then.
    pub fn commit(
        self,
        store: &Store,
        now: Timestamp,
        watch: &Watch<'_>,
    ) -> Result<RewriteReport, RewriteRefusal> {
        let changing: Vec<&FilePlan> = self.plan.changing().collect();
        let mut writer = store.begin(Beginning {
            created: now,
            kind: Kind::Rewrite,
            undoes: None,
            moves: self.moves,
            scope: self.scope,
        })?;
        let changes: Vec<Change<'_>> = changing.iter().map(|file| change(file)).collect();
        let outcomes = writer.commit(&changes, watch);
        let outcomes = outcomes.map_err(|error| RewriteRefusal::BrokenOff {
            record: writer.id().to_owned(),
            rewritten: writer.done(),
            of: changes.len(),
            error,
        })?;
        let mut done = Done {
            record: writer.id().to_owned(),
            folder: writer.folder().to_string_lossy().into_owned(),
            left_by_choice: self.unchosen.len(),
            ..Done::default()
        };
        let mut failed = Vec::new();
        let unchosen = self.unchosen.iter().cloned();
        let mut not_rewritten: HashSet<PathBuf> = unchosen.collect();
        for (file, outcome) in changing.iter().zip(outcomes) {
            if outcome.was_stopped() {
                done.stopped_before += 1;
            } else {
                failed.extend(outcome.fault().map(|why| LeftFile::new(&file.path, why)));
            }
            if let Made::Left(_) = outcome.made {
                not_rewritten.insert(file.path.clone());
            } else {
                let moved = |one: &Reference| one.standing == Standing::ToMove;
                done.rewritten_files += 1;
                done.rewritten_references += file.references.iter().filter(moved).count();
            }
        }
        drop(changes);
        let plan = self.plan.into_report();
        let kept = Document {
            command: "rewrite",
            ..Document::of(&plan)
        };
        writer.finish(&serde_json::to_vec_pretty(&kept).map_err(RecordError::report)?)?;
        let rewritten = |export: &Path| !not_rewritten.contains(export);
        let written = self.change_files.write(rewritten)?;
        let shown = written
            .iter()
            .map(|path| path.to_string_lossy().into_owned());
        done.change_files = shown.collect();
        failed.extend(self.change_files.left);
        Ok(RewriteReport {
            plan,
            done: Some(done),
            failed,
            anyway: self.anyway,
        })
    }
}

/// The change that a plan makes of a file.
fn change(file: &FilePlan) -> Change<'_> {
    Change {
        path: file.canonical.clone(),
        links: file.links.clone(),
        before: Some(file.before),
        after: file.after,
        content: match &file.link {
            Some((kind, target)) => NewContent::Link(*kind, target.clone()),
            None => NewContent::Edits(&file.edits),
        },
        moves: file.moves.clone(),
        sites: Some(&file.sites),
        belongings: None,
        modified: None,
        exclusive: file.in_place,
        expendable: false,
    }
}
