//! `lastmaker check`.

use std::io::Write;

use lastmaker_core::check::check;

use crate::exit::{CommandResult, Outcome};
use crate::render;
use crate::shared::{Format, ScanArgs};

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
    let mut out = desk.ui.results(args.scan.talk.out.as_deref())?;
    let report = desk.ui.watch("Files read:", &desk.looked_at, None, || {
        check(&desk.job(false, false), args.all)
    });
    match args.scan.talk.format {
        Format::Text => render::check::write(&mut out, &report, !desk.sheet.moves.is_empty())?,
        Format::Json => render::json(&mut out, &report)?,
    }
    out.flush()?;
    Ok(Outcome::of(report.has_findings()))
}
