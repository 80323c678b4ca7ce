//! `lastmaker survey`.

use std::io::Write;

use lastmaker_core::survey::survey;

use crate::exit::{CommandResult, Outcome};
use crate::render;
use crate::shared::{Format, ScanArgs};

/// Show which places the files name, and which of them exist
///
/// Needs no sheet. Every absolute place counts, also in hidden folders; the tree shows the few
/// folders that hold nearly all of them.
#[derive(Debug, clap::Args)]
pub(crate) struct SurveyArgs {
    #[command(flatten)]
    scan: ScanArgs,
}

pub(crate) fn run(args: &SurveyArgs) -> CommandResult {
    let desk = args.scan.desk(None)?;
    let mut out = desk.ui.results(args.scan.talk.out.as_deref())?;
    let report = desk.ui.watch("Files read:", &desk.looked_at, None, || {
        survey(&desk.job(false, false))
    });
    match args.scan.talk.format {
        Format::Text => render::survey::write(&mut out, &report)?,
        Format::Json => render::json(&mut out, &report)?,
    }
    out.flush()?;
    Ok(Outcome::of(!report.left.is_empty()))
}
