//! `lastmaker history`.

use std::io::Write;

use crate::exit::{CommandResult, Outcome};
use crate::render;
use crate::shared::{Format, RecordArgs, TalkArgs};

/// List the records on this machine, the oldest first
#[derive(Debug, clap::Args)]
pub(crate) struct HistoryArgs {
    #[command(flatten)]
    records: RecordArgs,
    #[command(flatten)]
    talk: TalkArgs,
}

pub(crate) fn run(args: &HistoryArgs) -> CommandResult {
    let store = args.records.store()?;
    let mut out = args.talk.ui().results(args.talk.out.as_deref())?;
    let records = store.list();
    match args.talk.format {
        Format::Text => render::history::write(&mut out, &records, store.folder())?,
        Format::Json => render::json(&mut out, &render::history::model(&records))?,
    }
    out.flush()?;
    Ok(Outcome::Clean)
}
