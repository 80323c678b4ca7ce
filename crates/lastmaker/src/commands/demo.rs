//! `lastmaker demo`.

use std::path::PathBuf;

use crate::demo::{LARGE_STEPS, STEPS, Walk, digest, lay_out, lay_out_large, say_what_next};
use crate::exit::{CommandResult, Failure, Outcome};
use crate::shared::TalkArgs;
use crate::ui::Ui;

/// Run the whole job on shipped made-up data
///
/// Lays out the Linden Herbarium, a small collection whose data moved from D:\Herbarium to
/// H:\Collections\Herbarium, and walks through the job with the real commands.
#[derive(Debug, clap::Args)]
pub(crate) struct DemoArgs {
    /// An empty folder to lay the data out in; else a temporary one, which is kept
    #[arg(value_name = "DIR")]
    dir: Option<PathBuf>,
    /// Some two thousand files, to see how the output scales
    #[arg(long)]
    large: bool,
    /// Do not wait for a key between the steps
    #[arg(long)]
    no_pause: bool,
}

pub(crate) fn run(args: &DemoArgs, talk: &TalkArgs) -> CommandResult {
    let ui = Ui {
        pager: false,
        ..talk.ui()
    };
    let (folder, steps) = if args.large {
        (lay_out_large(args.dir.as_deref())?, LARGE_STEPS)
    } else {
        (lay_out(args.dir.as_deref())?, STEPS)
    };
    let before = digest(&folder)?;
    let mut out = ui.results(None)?;
    let walk = Walk::new(&folder, !args.no_pause, talk.color)?;
    if !walk.through(steps, &mut out)? {
        return Ok(Outcome::Clean);
    }
    if before != digest(&folder)? {
        return Err(Failure::new(
            "after the restore the files are not what they were before; this is a defect",
        ));
    }
    say_what_next(&mut out, &folder)?;
    Ok(Outcome::Clean)
}
