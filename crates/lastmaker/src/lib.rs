//! The command line: arguments, confirmation, progress, rendering.
//!
//! One file a command under `commands/`; what they share is in `shared`. All computation is
//! in `lastmaker-core`. The program is this and its allocator: a library can be compiled while the core still is.

mod changing;
mod commands;
mod demo;
mod drafting;
mod environment;
mod exit;
mod hints;
mod interrupt;
mod render;
mod shared;
mod sheet_file;
mod timing;
mod ui;

use clap::{Parser, Subcommand};

use crate::exit::Failure;

/// Makes every file that still names the old place fit the new one
///
/// Data has moved to another drive, and programs break, because their settings still name
/// the old place. Say what moved, see every change, make it, check what is left, and take it
/// back if need be.
#[derive(Debug, Parser)]
#[command(name = "lastmaker", version, max_term_width = 100)]
struct Arguments {
    #[command(flatten)]
    talk: shared::TalkArgs,
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    Survey(commands::survey::SurveyArgs),
    Compare(commands::compare::CompareArgs),
    Trace(commands::trace::TraceArgs),
    Preview(commands::preview::PreviewArgs),
    Rewrite(commands::rewrite::RewriteArgs),
    Check(commands::check::CheckArgs),
    Bridge(commands::bridge::BridgeArgs),
    Restore(commands::restore::RestoreArgs),
    History(commands::history::HistoryArgs),
    Explain(commands::explain::ExplainArgs),
    Sheet(commands::sheet::SheetArgs),
    Formats(commands::formats::FormatsArgs),
    Demo(commands::demo::DemoArgs),
    Completions(commands::completions::CompletionsArgs),
    Manual(commands::manual::ManualArgs),
}

/// Runs the command that the program was given; gives its exit code.
pub fn run() -> std::process::ExitCode {
    let arguments = match Arguments::try_parse() {
        Ok(arguments) => arguments,
        Err(error) => {
            ui::print_usage(&error);
            if let Some(meant) = hints::meant(&error) {
                anstream::eprintln!("\n{meant}");
            }
            return exit::code_of_usage(&error);
        }
    };
    interrupt::listen();
    lastmaker_core::base::threads::prepare();
    let talk = &arguments.talk;
    let timed = talk.is_timed().then(|| timing::begin(talk.verbose > 1));
    let result = match arguments.command {
        Command::Survey(args) => commands::survey::run(&args, talk),
        Command::Compare(args) => commands::compare::run(&args, talk),
        Command::Trace(args) => commands::trace::run(&args, talk),
        Command::Preview(args) => commands::preview::run(&args, talk),
        Command::Rewrite(args) => commands::rewrite::run(&args, talk),
        Command::Check(args) => commands::check::run(&args, talk),
        Command::Bridge(args) => commands::bridge::run(&args, talk),
        Command::Restore(args) => commands::restore::run(&args, talk),
        Command::History(args) => commands::history::run(&args, talk),
        Command::Explain(args) => commands::explain::run(&args, talk),
        Command::Sheet(args) => commands::sheet::run(&args, talk),
        Command::Formats(args) => commands::formats::run(&args, talk),
        Command::Demo(args) => commands::demo::run(&args, talk),
        Command::Completions(args) => commands::completions::run(&args, talk),
        Command::Manual(args) => commands::manual::run(&args, talk),
    };
    if let Some(timed) = timed {
        timed.tell();
    }
    if let Err(Failure::Said {
        message,
        more,
        help,
    }) = &result
    {
        ui::complain(message, more, help.as_deref());
    }
    if let Err(Failure::Declined(what)) = &result {
        anstream::eprintln!("{what}");
    }
    exit::code(&result)
}
