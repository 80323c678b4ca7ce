//! `lastmaker rewrite`.

use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicU64, Ordering};

use lastmaker_core::answers::{
    Prepared, RewriteOptions, RewriteRefusal, Settled, prepare, settle_unfinished,
};
use lastmaker_core::record::{Store, Timestamp, Watch};
use lastmaker_core::report::RewriteReport;
use lastmaker_core::sheet::Additions;

use super::deciding::{Accepted, Decision, decide};
use super::preview::PlanArgs;
use crate::exit::{CommandResult, Failure};
use crate::interrupt::with_files_in_hand;
use crate::render::evidence::{write_missing, write_moves};
use crate::render::{answer, count};
use crate::shared::{RecordArgs, ScanArgs, Setup, TalkArgs};
use crate::sheet_file::{self, folder_of, relative};
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

pub(crate) fn run(args: &RewriteArgs, talk: &TalkArgs) -> CommandResult {
    let store = args.records.store()?;
    let mut setup = args.scan.setup(talk, Some(&store))?;
    if let Some(folder) = &args.change_files {
        setup.protect(folder);
    }
    args.plan.accept.add_to(setup.workspace.sheet_mut())?;
    args.plan.choice.apply(setup.workspace.sheet_mut())?;
    args.plan.need_moves(&setup)?;
    settle(args, &store, &setup.ui)?;
    let mut out = setup.ui.results(talk.out.as_deref())?;
    let options = RewriteOptions {
        again: args.plan.again,
        anyway: args.anyway,
        finish: args.finish,
        change_files: args.change_files.clone(),
    };
    let report = loop {
        let mut prepared = prepared(args, talk, &setup, &store, &options)?;
        if prepared.changes_nothing() {
            break prepared.into_report();
        }
        if !args.yes {
            match decide(&setup.ui, talk, &prepared)? {
                Decision::Make => {}
                Decision::Some(chosen) => prepared.choose(|file| chosen.contains(file)),
                Decision::Accept(doubts) => {
                    accept(&mut setup, &doubts)?;
                    continue;
                }
            }
        }
        break commit(args, prepared, &store, &setup.ui)?;
    };
    let told = answer(talk.how(), &mut out, args.records.again(), &report);
    told.map_err(|failure| match &report.done {
        Some(done) => failure.after(&format!(
            "{} were rewritten all the same; take that back with:   lastmaker restore {}{}",
            count(done.rewritten_files, "file"),
            done.record,
            args.records.again()
        )),
        None => failure,
    })
}

/// Why a rewrite ended in the middle, and how to go on.
fn broken_off(args: &RewriteArgs, refusal: RewriteRefusal) -> Failure {
    match &refusal {
        RewriteRefusal::BrokenOff { record, .. } => {
            Failure::with_help(refusal.to_string(), how_to_go_on(args, record))
        }
        _ => refusal.into(),
    }
}

fn how_to_go_on(args: &RewriteArgs, record: &str) -> String {
    format!(
        "`lastmaker restore {record}{again}` takes back what it did; `lastmaker rewrite --finish …` keeps that and goes on",
        again = args.records.again()
    )
}

/// A run that was broken off comes first: nobody knows which of its files are which.
fn settle(args: &RewriteArgs, store: &Store, ui: &Ui) -> Result<(), Failure> {
    let told = |settled: Settled| {
        ui.say(format!(
            "Record {} is settled: {} of its {} files were rewritten, the others are as they were.",
            settled.record, settled.rewritten, settled.of
        ));
    };
    settle_unfinished(store, args.finish, told).map_err(|refusal| match &refusal {
        RewriteRefusal::Unfinished { record, undoes } => {
            let record = undoes.as_ref().unwrap_or(record);
            Failure::with_help(refusal.to_string(), how_to_go_on(args, record))
        }
        _ => refusal.into(),
    })
}

/// Plans the rewrite and shows what it comes to.
fn prepared(
    args: &RewriteArgs,
    talk: &TalkArgs,
    setup: &Setup,
    store: &Store,
    options: &RewriteOptions,
) -> Result<Prepared, Failure> {
    let job = args.plan.job(setup);
    let (mut moves, mut missing) = (Vec::new(), Vec::new());
    let prepared = setup.watch("Files looked at:", || {
        prepare(&job, store, options, |plan| {
            moves.clone_from(&plan.moves);
            missing.clone_from(&plan.missing);
        })
    });
    setup.ui.show(|out| {
        write_moves(out, &moves)?;
        write_missing(out, &missing, talk.verbose > 0)
    });
    Ok(prepared?)
}

/// Makes the changes.
fn commit(
    args: &RewriteArgs,
    prepared: Prepared,
    store: &Store,
    ui: &Ui,
) -> Result<RewriteReport, Failure> {
    let files = prepared.files() as u64;
    let counter = AtomicU64::new(0);
    let made = |made: usize| {
        counter.fetch_add(made as u64, Ordering::Relaxed);
    };
    let commit = |stop: &_| {
        let watch = Watch { made: &made, stop };
        prepared.commit(store, Timestamp::now(), &watch)
    };
    let committed = ui.watch("Files rewritten:", &counter, Some(files), || {
        with_files_in_hand(commit)
    });
    committed.map_err(|refusal| broken_off(args, refusal))
}

/// Accepts these doubts, and writes that into the sheet if it is wanted.
fn accept(setup: &mut Setup, doubts: &[Accepted]) -> Result<(), Failure> {
    for doubt in doubts {
        let site = doubt.site(&doubt.file);
        let added = setup
            .workspace
            .sheet_mut()
            .accept
            .add_site(&site, Path::new(""));
        added.map_err(|fault| Failure::new(fault.to_string()))?;
    }
    let Some(sheet) = setup.workspace.sheet().file.as_deref() else {
        return Ok(());
    };
    let question = format!(
        "Write {} into {}, so that a later run knows?  [y]es, [n]o:",
        count(doubts.len(), "decision"),
        shown(&sheet.to_string_lossy())
    );
    if setup.ui.choose(&question, &["yes", "no"]) != Some("yes") {
        return Ok(());
    }
    let from_sheet =
        |doubt: &Accepted| doubt.site(&relative(Path::new(&doubt.file), folder_of(sheet)));
    let accepted: Vec<String> = doubts.iter().map(from_sheet).collect();
    sheet_file::write(sheet, |text| {
        let additions = Additions {
            accepted: &accepted,
            ..Additions::default()
        };
        additions.to(text.unwrap_or_default())
    })
}
