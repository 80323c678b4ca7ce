//! `lastmaker preview`.

use lastmaker_core::answers::preview;
use lastmaker_core::job::Job;

use crate::exit::{CommandResult, Failure};
use crate::render::answer;
use crate::shared::{
    AcceptArgs, ChoiceArgs, ExtentArgs, RecordArgs, ScanArgs, Setup, SpellingArgs, TalkArgs,
};

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

/// What preview and rewrite both take.
#[derive(Debug, clap::Args)]
pub(crate) struct PlanArgs {
    /// Rewrite logs, backups and recycle bins too
    #[arg(long, help_heading = "What is looked at")]
    pub(crate) history_files: bool,
    /// Change only references whose new place exists; the others are listed
    #[arg(long, help_heading = "What moved")]
    pub(crate) existing_only: bool,
    /// Put right what is evidently mistyped: undoubled backslashes, stray quotes, doubled drives
    #[arg(long, help_heading = "What moved")]
    pub(crate) repair: bool,
    #[command(flatten)]
    pub(crate) spelling: SpellingArgs,
    /// Apply the moves once more to files that were rewritten before and saved since
    #[arg(long, help_heading = "What moved")]
    pub(crate) again: bool,
    #[command(flatten)]
    pub(crate) accept: AcceptArgs,
    #[command(flatten)]
    pub(crate) choice: ChoiceArgs,
}

impl PlanArgs {
    /// Refuses to go on without moves, if they are needed.
    pub(crate) fn need_moves(&self, setup: &Setup) -> Result<(), Failure> {
        if self.spelling.absolute {
            Ok(())
        } else {
            setup.need_moves()
        }
    }

    /// The job as these options have it.
    pub(crate) fn job<'d>(&'d self, setup: &'d Setup) -> Job<'d> {
        let job = setup.job().history_files(self.history_files);
        let job = job.repair(self.repair).existing_only(self.existing_only);
        let job = self.spelling.apply(setup, job).kinds(&self.choice.kinds);
        job.build()
    }
}

pub(crate) fn run(args: &PreviewArgs, talk: &TalkArgs) -> CommandResult {
    let how = args.extent.how(talk.how())?;
    let store = args.records.store()?;
    let mut setup = args.scan.setup(talk, Some(&store))?;
    args.plan.accept.add_to(setup.workspace.sheet_mut())?;
    args.plan.choice.apply(setup.workspace.sheet_mut())?;
    args.plan.need_moves(&setup)?;
    let mut out = setup.ui.results(talk.out.as_deref())?;
    let job = args.plan.job(&setup);
    let report = setup.watch("Files looked at:", || {
        preview(&job, &store, args.plan.again)
    });
    answer(how, &mut out, args.records.again(), &report)
}
