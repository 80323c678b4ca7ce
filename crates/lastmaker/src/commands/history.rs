//! `lastmaker history`.

use lastmaker_core::answers::history;

use crate::exit::CommandResult;
use crate::render::answer;
use crate::shared::{RecordArgs, TalkArgs};

/// List the records on this machine, the oldest first
#[derive(Debug, clap::Args)]
pub(crate) struct HistoryArgs {
    #[command(flatten)]
    records: RecordArgs,
    #[command(flatten)]
    talk: TalkArgs,
}

pub(crate) fn run(args: &HistoryArgs) -> CommandResult {
    let store = args.records.store()?;
    let mut out = args.talk.ui().results(args.talk.out.as_deref())?;
    answer(
        args.talk.format,
        &mut out,
        args.records.again(),
        &history(&store),
    )
}
