//! `lastmaker rewrite`.

use std::path::PathBuf;

use lastmaker_core::answers::RewriteOptions;

use crate::changing::rewriting::Rewriting;
use crate::exit::CommandResult;
use crate::render::{answer, count};
use crate::shared::{PlanArgs, RecordArgs, ScanArgs, TalkArgs};

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
    let again = args.records.again();
    let mut setup = args.scan.setup(talk, Some(&store))?;
    if let Some(folder) = &args.change_files {
        setup.protect(folder);
    }
    args.plan.decide(&mut setup)?;
    let options = RewriteOptions {
        again: args.plan.again,
        anyway: args.anyway,
        finish: args.finish,
        change_files: args.change_files.clone(),
    };
    let rewriting = Rewriting {
        plan: &args.plan,
        options: &options,
        talk,
        store: &store,
        again: &again,
        yes: args.yes,
    };
    rewriting.settle(&setup)?;
    let mut out = setup.ui.results(talk.out.as_deref())?;
    let report = rewriting.run(&mut setup)?;
    answer(talk.how(), &mut out, again.clone(), &report).map_err(|failure| match &report.done {
        Some(done) => failure.after(&format!(
            "{} were rewritten all the same; take that back with:   lastmaker restore {}{again}",
            count(done.rewritten_files, "file"),
            done.record,
        )),
        None => failure,
    })
}
