//! `lastmaker formats`.

use lastmaker_core::answers::formats;

use crate::exit::CommandResult;
use crate::render::answer;
use crate::shared::TalkArgs;

/// List what is read and rewritten, and the limits of each format
///
/// The names are those that --read-as takes.
#[derive(Debug, clap::Args)]
pub(crate) struct FormatsArgs {}

pub(crate) fn run(_: &FormatsArgs, talk: &TalkArgs) -> CommandResult {
    let mut out = talk.ui().results(talk.out.as_deref())?;
    answer(talk.how(), &mut out, String::new(), &formats())
}
