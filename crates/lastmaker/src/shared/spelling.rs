//! What references are written as.

use lastmaker_core::job::{JobBuilder, Portable, RelativeReferences};

use super::Setup;

/// What references are written as beside the new place in full.
#[derive(Debug, clap::Args)]
pub(crate) struct SpellingArgs {
    /// Write references relative to their document where both lie under the same new place, or from the value of a
    /// variable that the sheet knows, in formats whose programs are known to take that; the sheet names others
    /// under `portable`
    #[arg(long, help_heading = "What moved")]
    pub(crate) portable: bool,
    /// Mend references relative to their document that lead nowhere since it or what they name has moved, in
    /// the same formats
    #[arg(long, help_heading = "What moved")]
    pub(crate) relative: bool,
    /// Have relative references, in the same formats, name in full what they lead to, so that their documents
    /// can be moved alone
    #[arg(long, conflicts_with_all = ["relative", "portable"], help_heading = "What moved")]
    pub(crate) absolute: bool,
}

impl SpellingArgs {
    /// Has a run do as these options say.
    pub(crate) fn apply<'d>(&self, setup: &'d Setup, job: JobBuilder<'d>) -> JobBuilder<'d> {
        let relative = match (self.absolute, self.relative) {
            (true, _) => RelativeReferences::InFull,
            (false, true) => RelativeReferences::Mended,
            (false, false) => RelativeReferences::Left,
        };
        job.relative(relative).portable(Portable {
            known: self.portable,
            said: &setup.portable,
        })
    }
}
