//! What preview and rewrite both take.

use lastmaker_core::job::Job;

use super::{AcceptArgs, ChoiceArgs, Setup, SpellingArgs};
use crate::exit::Failure;

/// What preview and rewrite both take.
#[derive(Debug, clap::Args)]
pub(crate) struct PlanArgs {
    /// Rewrite logs, backups and recycle bins too
    #[arg(long, help_heading = "What is looked at")]
    history_files: bool,
    /// Change only references whose new place exists; the others are listed
    #[arg(long, help_heading = "What moved")]
    existing_only: bool,
    /// Put right what is evidently mistyped: undoubled backslashes, stray quotes, doubled drives
    #[arg(long, help_heading = "What moved")]
    repair: bool,
    #[command(flatten)]
    spelling: SpellingArgs,
    /// Apply the moves once more to files that were rewritten before and saved since
    #[arg(long, help_heading = "What moved")]
    pub(crate) again: bool,
    #[command(flatten)]
    accept: AcceptArgs,
    #[command(flatten)]
    choice: ChoiceArgs,
}

impl PlanArgs {
    /// Adds to the sheet what these options decide, and refuses to go on without moves if they are needed.
    pub(crate) fn decide(&self, setup: &mut Setup) -> Result<(), Failure> {
        self.accept.add_to(setup.workspace.sheet_mut())?;
        self.choice.apply(setup.workspace.sheet_mut())?;
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
