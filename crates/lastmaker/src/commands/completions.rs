//! `lastmaker completions`.

use clap::CommandFactory;
use clap_complete::Shell;

use crate::Arguments;
use crate::exit::{CommandResult, Outcome};
use crate::shared::TalkArgs;

/// Print what a shell needs to complete commands and options
///
/// Bash: lastmaker completions bash > ~/.local/share/bash-completion/completions/lastmaker
/// Zsh: into a file called _lastmaker in a folder of $fpath. Fish: into
/// ~/.config/fish/completions/lastmaker.fish. PowerShell: add the output to $PROFILE.
#[derive(Debug, clap::Args)]
#[command(verbatim_doc_comment)]
pub(crate) struct CompletionsArgs {
    /// The shell
    #[arg(value_enum)]
    shell: Shell,
}

pub(crate) fn run(args: &CompletionsArgs, talk: &TalkArgs) -> CommandResult {
    let mut out = talk.ui().results(talk.out.as_deref())?;
    let mut text = Vec::new();
    clap_complete::generate(
        args.shell,
        &mut Arguments::command(),
        "lastmaker",
        &mut text,
    );
    out.write_all(&text)?;
    out.flush()?;
    Ok(Outcome::Clean)
}
