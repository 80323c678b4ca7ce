//! `lastmaker sheet`.

use std::io::Write;
use std::path::PathBuf;

use crate::exit::{CommandResult, Outcome};
use crate::render;
use crate::shared::{SheetOptions, TalkArgs};

/// Check a sheet and print it as it is understood
///
/// Every fault is given at once, each with its line. With --move and without a sheet it prints
/// one to begin with: lastmaker sheet --move 'D:\Old=E:\New' > moves.toml
#[derive(Debug, clap::Args)]
pub(crate) struct SheetArgs {
    /// The sheet; else `moves.toml` in this folder
    #[arg(value_name = "FILE", conflicts_with_all = ["sheet", "no_sheet"])]
    file: Option<PathBuf>,
    #[command(flatten)]
    options: SheetOptions,
}

pub(crate) fn run(args: &SheetArgs, talk: &TalkArgs) -> CommandResult {
    let ui = talk.ui();
    let sheet = args.options.read(&ui, args.file.as_deref())?;
    let mut out = ui.results(talk.out.as_deref())?;
    render::sheet::write(&mut out, &sheet)?;
    out.flush()?;
    let repeatable = if sheet.is_repeatable() {
        "a second run finds nothing"
    } else {
        "a new place lies under an old one, so the record keeps which files have been through it"
    };
    ui.say(format!(
        "{} in it; {repeatable}.",
        render::count(sheet.moves.len(), "move")
    ));
    Ok(Outcome::Clean)
}
