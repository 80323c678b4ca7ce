//! `lastmaker rewrite`.

use std::io::Write;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicU64, Ordering};

use lastmaker_core::record::{
    Change, Kind, NewContent, Outcome as Made, RecordState, Store, settle,
};
use lastmaker_core::report::LeftFile;
use lastmaker_core::rewrite::{FilePlan, TreePlan, plan_tree};
use serde::Serialize;

use super::change_files;
use super::preview::PlanArgs;
use crate::exit::{CommandResult, Failure, Outcome};
use crate::render;
use crate::shared::{Desk, Format, RecordArgs, ScanArgs};
use crate::ui::{Ui, shown};

/// Change every reference to an old place, keeping the originals
///
/// Each file is at all times its old self or its new self. The originals go into a record
/// first; `restore` puts them back. Close the programs whose files these are.
#[derive(Debug, clap::Args)]
pub(crate) struct RewriteArgs {
    #[command(flatten)]
    scan: ScanArgs,
    #[command(flatten)]
    plan: PlanArgs,
    /// Do not ask
    #[arg(long)]
    yes: bool,
    /// Go on although hardly any of the new places exists
    #[arg(long)]
    anyway: bool,
    /// Also write registry files of the changes alone into this folder, and their undo
    #[arg(long, value_name = "FOLDER", help_heading = "Registry exports")]
    change_files: Option<PathBuf>,
    /// First settle a rewrite that was broken off
    #[arg(long, help_heading = "Records")]
    finish: bool,
    #[command(flatten)]
    records: RecordArgs,
}

pub(crate) fn run(args: &RewriteArgs) -> CommandResult {
    let store = args.records.store()?;
    let mut desk = args.scan.desk(Some(&store))?;
    if let Some(folder) = &args.change_files {
        desk.protect(folder);
    }
    desk.need_moves()?;
    settle_unfinished(args, &store, &desk.ui)?;
    let mut out = desk.ui.results(args.scan.talk.out.as_deref())?;
    let plan = desk
        .ui
        .watch("Files looked at:", &desk.looked_at, None, || {
            plan_tree(
                &desk.job(args.plan.history_files, args.plan.repair),
                &desk.ledger(&store),
                args.plan.again,
            )
        });
    let changing: Vec<&FilePlan> = plan
        .files
        .iter()
        .filter(|file| !file.edits.is_empty())
        .collect();
    if changing.is_empty() {
        return report(args, &mut out, &plan, None, Vec::new());
    }
    guard_against_wrong_folder(args, &plan, &desk.ui)?;
    let prepared = match &args.change_files {
        Some(folder) => change_files::prepare(folder, &changing, desk.reading())?,
        None => change_files::Prepared::default(),
    };
    confirm(args, &plan, &desk.ui)?;
    let (mut done, mut failed) = commit(&desk, &store, &plan, &changing)?;
    let was_rewritten = |export: &Path| {
        let shown = export.to_string_lossy();
        !failed.iter().any(|left| left.file == shown)
    };
    done.change_files = prepared
        .write(was_rewritten)?
        .iter()
        .map(|path| path.to_string_lossy().into_owned())
        .collect();
    failed.extend(prepared.left);
    report(args, &mut out, &plan, Some(&done), failed)
}

/// A run that was broken off comes first: nobody knows which of its files are which.
fn settle_unfinished(args: &RewriteArgs, store: &Store, ui: &Ui) -> Result<(), Failure> {
    for summary in store.list() {
        let Some(manifest) = summary
            .manifest
            .filter(|_| summary.state == RecordState::Unfinished)
        else {
            if summary.state == RecordState::BeingWritten {
                return Err(Failure::new(format!(
                    "another run is writing the record {}; wait until it has ended",
                    summary.id
                )));
            }
            continue;
        };
        if !args.finish {
            return Err(Failure::with_help(
                format!("the run that made record {} was broken off", summary.id),
                format!(
                    "`lastmaker restore {}{again}` takes back what it did; `lastmaker rewrite --finish …` keeps that and goes on",
                    summary.id,
                    again = args.records.again()
                ),
            ));
        }
        let settled = settle(store, &manifest)?;
        ui.say(format!(
            "Record {} is settled: {} of its {} files were rewritten, the others are as they were.",
            summary.id,
            settled.done().count(),
            settled.entries.len()
        ));
    }
    Ok(())
}

fn guard_against_wrong_folder(args: &RewriteArgs, plan: &TreePlan, ui: &Ui) -> Result<(), Failure> {
    let places = plan.totals.new_places;
    ui.say(render::plan::new_places(&places));
    if places.looks_wrong() && !args.anyway {
        let message = if places.live + places.dangling == 0 {
            "none of the new places can be checked from here, so nothing was changed"
        } else {
            "hardly any of the new places exists, so nothing was changed: is it the wrong folder?"
        };
        return Err(Failure::with_help(
            message,
            "say where the new place is seen with --seen-at PLACE=DIR, or go on with --anyway",
        ));
    }
    Ok(())
}

fn confirm(args: &RewriteArgs, plan: &TreePlan, ui: &Ui) -> Result<(), Failure> {
    if args.yes {
        return Ok(());
    }
    let question = format!(
        "Rewrite {} in {}?",
        render::count(plan.totals.to_move, "reference"),
        render::count(plan.totals.changing_files, "file")
    );
    match ui.ask(&question) {
        Some(true) => Ok(()),
        Some(false) => Err(Failure::new("declined; nothing was changed")),
        None => Err(Failure::with_help(
            "there is nobody to ask, so nothing was changed",
            "look at `lastmaker preview`, then run again with --yes",
        )),
    }
}

/// What a rewrite did.
#[derive(Debug, Serialize)]
pub(crate) struct Done {
    pub(crate) record: String,
    pub(crate) folder: String,
    pub(crate) rewritten_files: usize,
    pub(crate) rewritten_references: usize,
    /// Registry files of the changes alone, and their undo.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) change_files: Vec<String>,
}

fn commit(
    desk: &Desk,
    store: &Store,
    plan: &TreePlan,
    changing: &[&FilePlan],
) -> Result<(Done, Vec<LeftFile>), Failure> {
    let moves = desk
        .sheet
        .moves
        .iter()
        .map(lastmaker_core::sheet::Move::identity)
        .collect();
    let mut writer = store.begin(render::now(), Kind::Rewrite, None, moves)?;
    let changes: Vec<Change<'_>> = changing
        .iter()
        .map(|file| Change {
            path: file.canonical.clone(),
            links: file.links.clone(),
            before: Some(file.before),
            after: file.after,
            content: match &file.link {
                Some((kind, target)) => NewContent::Link(*kind, target.clone()),
                None if file.whole => NewContent::Container(&file.edits),
                None => NewContent::Edits(&file.edits),
            },
            moves: file.moves.clone(),
            modified: None,
            exclusive: file.in_place,
            expendable: false,
        })
        .collect();
    let counter = AtomicU64::new(0);
    let outcomes = desk.ui.watch(
        "Files rewritten:",
        &counter,
        Some(changes.len() as u64),
        || {
            writer.commit(&changes, &|made| {
                counter.fetch_add(made as u64, Ordering::Relaxed);
            })
        },
    )?;
    let mut done = Done {
        record: writer.id().to_owned(),
        folder: writer.folder().to_string_lossy().into_owned(),
        rewritten_files: 0,
        rewritten_references: 0,
        change_files: Vec::new(),
    };
    let mut failed = Vec::new();
    for (file, outcome) in changing.iter().zip(outcomes) {
        if let Made::Left(why) | Made::Partly(why) = &outcome {
            failed.push(LeftFile {
                file: file.path.to_string_lossy().into_owned(),
                why: why.clone(),
            });
        }
        match outcome {
            Made::Left(_) => {}
            Made::Done | Made::Partly(_) => {
                done.rewritten_files += 1;
                let moved = |r: &&lastmaker_core::report::Reference| {
                    r.standing == lastmaker_core::report::Standing::ToMove
                };
                done.rewritten_references += file.references.iter().filter(moved).count();
            }
        }
    }
    let report = serde_json::to_vec_pretty(&plan.report("rewrite")).unwrap_or_default();
    writer.finish(&report)?;
    Ok((done, failed))
}

/// The plan as machines read it, with what was done.
#[derive(Serialize)]
struct Report<'a> {
    #[serde(flatten)]
    plan: lastmaker_core::rewrite::PlanReport<'a>,
    #[serde(skip_serializing_if = "Option::is_none")]
    done: Option<&'a Done>,
    failed: &'a [LeftFile],
}

fn report(
    args: &RewriteArgs,
    out: &mut dyn Write,
    plan: &TreePlan,
    done: Option<&Done>,
    failed: Vec<LeftFile>,
) -> CommandResult {
    match args.scan.talk.format {
        Format::Json => render::json(
            out,
            &Report {
                plan: plan.report("rewrite"),
                done,
                failed: &failed,
            },
        )?,
        Format::Text => {
            match done {
                None => writeln!(out, "Nothing was to be rewritten.")?,
                Some(done) => writeln!(
                    out,
                    "Rewrote {} in {}.",
                    render::count(done.rewritten_references, "reference"),
                    render::count(done.rewritten_files, "file")
                )?,
            }
            render::plan::write_remainder(out, plan)?;
            render::left(out, &failed, "Not rewritten")?;
            let files = done.map_or(&[][..], |done| &done.change_files);
            if !files.is_empty() {
                writeln!(out, "\nTo import, the changes alone and their undo:")?;
            }
            for file in files {
                writeln!(out, "  {}", shown(file))?;
            }
            if let Some(done) = done.filter(|done| done.rewritten_files > 0) {
                writeln!(out)?;
                writeln!(out, "The originals are in {}", shown(&done.folder))?;
                writeln!(
                    out,
                    "Take it back with:   lastmaker restore {}{}",
                    done.record,
                    args.records.again()
                )?;
            }
        }
    }
    out.flush()?;
    Ok(Outcome::of(plan.has_findings() || !failed.is_empty()))
}
