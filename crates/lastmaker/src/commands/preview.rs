//! `lastmaker preview`.

use lastmaker_core::answers::preview;

use crate::exit::CommandResult;
use crate::render::answer;
use crate::shared::{AcceptArgs, RecordArgs, ScanArgs};

/// Show what a rewrite would change
///
/// Writes nothing. Every reference is shown before and after, in the file's own escaping;
/// what could be read two ways is listed at the end, with the reason.
#[derive(Debug, clap::Args)]
pub(crate) struct PreviewArgs {
    #[command(flatten)]
    scan: ScanArgs,
    #[command(flatten)]
    plan: PlanArgs,
    #[command(flatten)]
    records: RecordArgs,
}

/// What preview and rewrite both take.
#[derive(Debug, clap::Args)]
pub(crate) struct PlanArgs {
    /// Rewrite logs, backups and recycle bins too
    #[arg(long, help_heading = "What is looked at")]
    pub(crate) history_files: bool,
    /// Put right what is evidently mistyped: undoubled backslashes, stray quotes, doubled drives
    #[arg(long, help_heading = "What moved")]
    pub(crate) repair: bool,
    /// Apply the moves once more to files that were rewritten before and saved since
    #[arg(long, help_heading = "What moved")]
    pub(crate) again: bool,
    #[command(flatten)]
    pub(crate) accept: AcceptArgs,
}

pub(crate) fn run(args: &PreviewArgs) -> CommandResult {
    let store = args.records.store()?;
    let mut desk = args.scan.desk(Some(&store))?;
    args.plan.accept.add_to(&mut desk.sheet)?;
    desk.need_moves()?;
    let talk = &args.scan.talk;
    let mut out = desk.ui.results(talk.out.as_deref())?;
    let job = desk.job(args.plan.history_files, args.plan.repair);
    let report = desk
        .ui
        .watch("Files looked at:", &desk.looked_at, None, || {
            preview(&job, &store, args.plan.again)
        });
    answer(talk.format, &mut out, args.records.again(), &report)
}
