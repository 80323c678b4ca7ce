//! `lastmaker preview`.

use lastmaker_core::answers::preview;

use crate::exit::CommandResult;
use crate::render::answer;
use crate::shared::{ExtentArgs, PlanArgs, RecordArgs, ScanArgs, TalkArgs};

/// Show what a rewrite would change
///
/// Writes nothing. Every reference is shown before and after, in the file's own escaping, then what
/// could be read two ways, with the reason, and the totals last. Where more than a hundred change, there
/// are tables instead, and a line for each file; -v shows everything all the same.
#[derive(Debug, clap::Args)]
pub(crate) struct PreviewArgs {
    #[command(flatten)]
    scan: ScanArgs,
    #[command(flatten)]
    plan: PlanArgs,
    #[command(flatten)]
    extent: ExtentArgs,
    #[command(flatten)]
    records: RecordArgs,
}

pub(crate) fn run(args: &PreviewArgs, talk: &TalkArgs) -> CommandResult {
    let how = args.extent.how(talk.how())?;
    let store = args.records.store()?;
    let mut setup = args.scan.setup(talk, Some(&store))?;
    args.plan.decide(&mut setup)?;
    let mut out = setup.ui.results(talk.out.as_deref())?;
    let job = args.plan.job(&setup);
    let report = setup.watch("Files looked at:", || {
        preview(&job, &store, args.plan.again)
    });
    answer(how, &mut out, args.records.again(), &report)
}
