//! `lastmaker check`.

use lastmaker_core::answers::check;

use crate::exit::CommandResult;
use crate::render::answer;
use crate::shared::ScanArgs;

/// Show what still dangles, with the likeliest place of each
///
/// With a sheet, what lies under an old or a new place is judged; what dangles elsewhere is
/// one count.
#[derive(Debug, clap::Args)]
pub(crate) struct CheckArgs {
    #[command(flatten)]
    scan: ScanArgs,
    /// List what dangles elsewhere too
    #[arg(long)]
    all: bool,
}

pub(crate) fn run(args: &CheckArgs) -> CommandResult {
    let desk = args.scan.desk(None)?;
    let talk = &args.scan.talk;
    let mut out = desk.ui.results(talk.out.as_deref())?;
    let report = desk.ui.watch("Files read:", &desk.looked_at, None, || {
        check(&desk.job(false, false), args.all)
    });
    answer(talk.format, &mut out, String::new(), &report)
}
