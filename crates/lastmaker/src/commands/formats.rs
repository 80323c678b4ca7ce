//! `lastmaker formats`.

use lastmaker_core::answers::formats;

use crate::exit::CommandResult;
use crate::render::answer;
use crate::shared::TalkArgs;

/// List what is read and rewritten, and the limits of each format
///
/// The names are those that --read-as takes.
#[derive(Debug, clap::Args)]
pub(crate) struct FormatsArgs {
    #[command(flatten)]
    talk: TalkArgs,
}

pub(crate) fn run(args: &FormatsArgs) -> CommandResult {
    let mut out = args.talk.ui().results(args.talk.out.as_deref())?;
    answer(args.talk.how(), &mut out, String::new(), &formats())
}
