//! `lastmaker survey`.

use lastmaker_core::answers::survey;

use crate::exit::CommandResult;
use crate::render::answer;
use crate::shared::{ScanArgs, TalkArgs};

/// Show which places the files name, and which of them exist
///
/// Needs no sheet. Every absolute place counts, also in hidden folders; the tree shows the few
/// folders that hold nearly all of them.
#[derive(Debug, clap::Args)]
pub(crate) struct SurveyArgs {
    #[command(flatten)]
    scan: ScanArgs,
}

pub(crate) fn run(args: &SurveyArgs, talk: &TalkArgs) -> CommandResult {
    let setup = args.scan.setup(talk, None)?;
    let mut out = setup.ui.results(talk.out.as_deref())?;
    let report = setup.watch("Files read:", || survey(&setup.job().build()));
    answer(talk.how(), &mut out, String::new(), &report)
}
