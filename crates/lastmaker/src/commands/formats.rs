//! `lastmaker formats`.

use std::io::Write;

use lastmaker_core::format::formats;

use crate::exit::{CommandResult, Outcome};
use crate::render;
use crate::shared::{Format, TalkArgs};

/// List what is read and rewritten, and the limits of each format
///
/// The names are those that --read-as takes.
#[derive(Debug, clap::Args)]
pub(crate) struct FormatsArgs {
    #[command(flatten)]
    talk: TalkArgs,
}

pub(crate) fn run(args: &FormatsArgs) -> CommandResult {
    let report = formats();
    let mut out = args.talk.ui().results(args.talk.out.as_deref())?;
    match args.talk.format {
        Format::Text => render::formats::write(&mut out, &report)?,
        Format::Json => render::json(&mut out, &report)?,
    }
    out.flush()?;
    Ok(Outcome::Clean)
}
