//! `lastmaker restore`.

use std::io::Write;
use std::path::PathBuf;
use std::sync::atomic::{AtomicU64, Ordering};

use clap::ValueEnum;
use lastmaker_core::record::{
    ChangedPolicy, Kind, Manifest, Outcome as Made, RecordState, RestoreItem, RestoreState, Store,
    restore, restore_plan, settle,
};
use lastmaker_core::report::{LeftFile, SCHEMA};
use serde::Serialize;

use crate::exit::{CommandResult, Failure, Outcome};
use crate::render;
use crate::shared::{Format, RecordArgs, TalkArgs};
use crate::ui::{Ui, familiar, shown};

/// Put the originals of a record back
///
/// Files that a program has saved since are named and left, unless --changed says what to do
/// with them. Whatever is replaced goes into a record of its own first, so that a restore can
/// be taken back too.
#[derive(Debug, clap::Args)]
pub(crate) struct RestoreArgs {
    /// The record, as `history` names it; else the latest rewrite that was not taken back
    #[arg(value_name = "RECORD")]
    record: Option<String>,
    /// What to do with files that were saved again since
    #[arg(long, value_enum, default_value_t, value_name = "HOW")]
    changed: Changed,
    #[command(flatten)]
    records: RecordArgs,
    #[command(flatten)]
    talk: TalkArgs,
}

#[derive(Clone, Copy, Debug, Default, ValueEnum)]
enum Changed {
    /// Leave them and name them
    #[default]
    Leave,
    /// Put the original back all the same
    Original,
    /// Take back only what the rewrite changed, where it still stands
    Edits,
}

/// What a restore did.
#[derive(Debug, Default, Serialize)]
struct Report {
    schema: u32,
    command: &'static str,
    record: String,
    restored: Vec<String>,
    already_original: usize,
    edits_taken_back: Vec<TakenBack>,
    left: Vec<LeftFile>,
    #[serde(skip_serializing_if = "Option::is_none")]
    kept_in: Option<String>,
}

#[derive(Debug, Serialize)]
struct TakenBack {
    file: String,
    taken_back: usize,
    of: usize,
}

pub(crate) fn run(args: &RestoreArgs) -> CommandResult {
    let store = args.records.store()?;
    let ui = args.talk.ui();
    let mut out = ui.results(args.talk.out.as_deref())?;
    let record = find(args, &store, &ui)?;
    let policy = match args.changed {
        Changed::Leave => ChangedPolicy::Leave,
        Changed::Original => ChangedPolicy::Original,
        Changed::Edits => ChangedPolicy::Edits,
    };
    let items = restore_plan(&record, policy);
    let mut report = Report {
        schema: SCHEMA,
        command: "restore",
        record: record.header.id.clone(),
        ..Report::default()
    };
    sort_out(&items, policy, &mut report);
    if items
        .iter()
        .any(|item| item.whole || item.content.is_some())
    {
        make(&store, &record, &items, &ui, &mut report)?;
    }
    match args.talk.format {
        Format::Json => render::json(&mut out, &report)?,
        Format::Text => write(&mut out, &report, args)?,
    }
    out.flush()?;
    Ok(Outcome::of(!report.left.is_empty()))
}

/// The record that is meant, settled if its run was broken off.
fn find(args: &RestoreArgs, store: &Store, ui: &Ui) -> Result<Manifest, Failure> {
    let record = match &args.record {
        Some(id) => store.open(id)?,
        None => store
            .list()
            .into_iter()
            .rev()
            .filter(|summary| summary.taken_back_by.is_empty())
            .filter(|summary| {
                matches!(
                    summary.state,
                    RecordState::Finished | RecordState::Unfinished
                )
            })
            .filter_map(|summary| summary.manifest)
            .find(|manifest| manifest.header.kind == Kind::Rewrite)
            .ok_or_else(|| {
                Failure::with_help(
                    "there is no rewrite to take back",
                    format!("records are looked for in {}", store.folder().display()),
                )
            })?,
    };
    if record.finished {
        return Ok(record);
    }
    ui.say(format!(
        "The run that made record {} was broken off; what it did is taken back.",
        record.header.id
    ));
    Ok(settle(store, &record)?)
}

/// Names what is left as it is.
fn sort_out(items: &[RestoreItem], policy: ChangedPolicy, report: &mut Report) {
    for item in items {
        let file = familiar(&item.entry.path.to_path());
        let why = match (&item.state, policy) {
            _ if item.whole || item.content.is_some() => continue,
            (RestoreState::Original, _) => {
                report.already_original += 1;
                continue;
            }
            (RestoreState::Changed, ChangedPolicy::Leave) => {
                "it was saved again since; --changed edits takes back only what the rewrite changed, --changed original \
                 puts the whole original back"
            }
            (RestoreState::Changed, _) => {
                "it was saved again since, and nothing that the rewrite wrote still stands in it"
            }
            (RestoreState::Missing, _) => "it is gone; --changed original puts the original back",
            _ if item.entry.created => "there was no such file before",
            (RestoreState::AsLeft, _) => {
                "for want of space the version before was not kept; run the rewrite again to make it"
            }
        };
        report.left.push(LeftFile {
            file,
            why: why.to_owned(),
        });
    }
}

fn make(
    store: &Store,
    record: &Manifest,
    items: &[RestoreItem],
    ui: &Ui,
    report: &mut Report,
) -> Result<(), Failure> {
    let undoes = Some(record.header.id.clone());
    let mut writer = store.begin(render::now(), Kind::Restore, undoes, Vec::new())?;
    let counter = AtomicU64::new(0);
    let outcomes = ui.watch(
        "Files restored:",
        &counter,
        Some(items.len() as u64),
        || {
            restore(record, items, &mut writer, &|made| {
                counter.fetch_add(made as u64, Ordering::Relaxed);
            })
        },
    )?;
    report.kept_in = Some(writer.id().to_owned());
    writer.finish(&[])?;
    for (path, outcome) in outcomes {
        let file = familiar(&path);
        match outcome {
            Made::Left(why) | Made::Partly(why) => report.left.push(LeftFile { file, why }),
            Made::Done => match edits_of(items, &path) {
                Some((taken_back, of)) => report.edits_taken_back.push(TakenBack {
                    file,
                    taken_back,
                    of,
                }),
                None => report.restored.push(file),
            },
        }
    }
    Ok(())
}

fn edits_of(items: &[RestoreItem], path: &PathBuf) -> Option<(usize, usize)> {
    items
        .iter()
        .find(|item| item.entry.path.to_path() == *path)?
        .edits
}

fn write(out: &mut dyn Write, report: &Report, args: &RestoreArgs) -> Result<(), Failure> {
    writeln!(
        out,
        "Put back {} of record {}.",
        render::count(report.restored.len(), "original"),
        report.record
    )?;
    if report.already_original > 0 {
        writeln!(
            out,
            "{} already.",
            render::are(
                report.already_original,
                "file",
                "the original",
                "the originals"
            )
        )?;
    }
    for file in &report.edits_taken_back {
        writeln!(
            out,
            "{}: took back {} of {}, the rest of it stays as it was saved",
            shown(&file.file),
            file.taken_back,
            render::count(file.of, "change")
        )?;
    }
    render::left(out, &report.left, "Left as they are")?;
    if let Some(id) = &report.kept_in {
        writeln!(
            out,
            "\nWhat was replaced is kept; take this back with:   lastmaker restore {id}{}",
            args.records.again()
        )?;
    }
    Ok(())
}
