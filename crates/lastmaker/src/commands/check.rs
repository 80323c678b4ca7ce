//! `lastmaker check`.

use lastmaker_core::answers::{CheckOptions, check};

use crate::exit::CommandResult;
use crate::render::answer;
use crate::shared::{ExtentArgs, RecordArgs, ScanArgs, TalkArgs};

/// Show what still dangles and why, with the likeliest place of each
///
/// What dangles for one cause is told together, with the likeliest cures and their evidence; -v
/// lists every reference. With a sheet, what lies under an old or a new place is judged, and only
/// files that speak of one are read; what dangles elsewhere in them is one count.
#[derive(Debug, clap::Args)]
pub(crate) struct CheckArgs {
    #[command(flatten)]
    scan: ScanArgs,
    /// Read every file, and list what dangles elsewhere and what cannot be checked from here too
    #[arg(long)]
    all: bool,
    /// Look at references that are relative to their document too, in formats whose programs are known to
    /// take them so
    #[arg(long)]
    relative: bool,
    #[command(flatten)]
    extent: ExtentArgs,
    #[command(flatten)]
    records: RecordArgs,
}

pub(crate) fn run(args: &CheckArgs, talk: &TalkArgs) -> CommandResult {
    let how = args.extent.how(talk.how())?;
    // Without a place for records there are none.
    let store = args.records.store().ok();
    let setup = args.scan.setup(talk, store.as_ref())?;
    let mut out = setup.ui.results(talk.out.as_deref())?;
    let rewrites = store.map(|store| store.rewrites()).unwrap_or_default();
    let options = CheckOptions {
        all: args.all,
        relative: args.relative,
        rewrites: &rewrites,
        indexed: setup.workspace.looked_at(),
    };
    let report = setup.watch("Files and names read:", || {
        check(&setup.job().build(), &options)
    });
    answer(how, &mut out, String::new(), &report)
}
