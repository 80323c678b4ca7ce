//! `lastmaker manual`.

use std::io::Write;
use std::path::PathBuf;

use clap::CommandFactory;
use clap_mangen::Man;

use crate::Arguments;
use crate::exit::{CommandResult, Failure, Outcome};
use crate::shared::TalkArgs;

/// Write the manual's pages, one for each command
///
/// For example into ~/.local/share/man/man1, where `man lastmaker` finds them.
#[derive(Debug, clap::Args)]
pub(crate) struct ManualArgs {
    /// The folder, which is made if need be; pages of these names that are in it are replaced
    #[arg(value_name = "DIR")]
    folder: PathBuf,
}

pub(crate) fn run(args: &ManualArgs, talk: &TalkArgs) -> CommandResult {
    let failed = |error: std::io::Error| {
        Failure::new(format!(
            "the manual cannot be written into {}: {error}",
            args.folder.display()
        ))
    };
    std::fs::create_dir_all(&args.folder).map_err(failed)?;
    let mut program = Arguments::command();
    program.build();
    let mut pages = vec![program.clone()];
    let commands = program.get_subcommands().filter(|one| !one.is_hide_set());
    for command in commands.filter(|one| one.get_name() != "help") {
        let name = format!("lastmaker-{}", command.get_name());
        pages.push(command.clone().name(name.clone()).display_name(name));
    }
    for page in &pages {
        let mut text = Vec::new();
        Man::new(page.clone()).render(&mut text).map_err(failed)?;
        let name = args.folder.join(format!("{}.1", page.get_name()));
        let mut made = tempfile::NamedTempFile::new_in(&args.folder).map_err(failed)?;
        made.write_all(&text).map_err(failed)?;
        made.persist(&name).map_err(|error| failed(error.error))?;
    }
    talk.ui().say(format!(
        "{} pages written to {}.",
        pages.len(),
        args.folder.display()
    ));
    Ok(Outcome::Clean)
}
