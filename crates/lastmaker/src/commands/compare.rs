//! `lastmaker compare`.

use std::sync::atomic::AtomicU64;

use lastmaker_core::answers::Comparison;
use lastmaker_core::compare::{Comparing, Journal};
use lastmaker_core::tree::Scope;

use crate::environment;
use crate::exit::{CommandResult, Failure};
use crate::render::answer;
use crate::shared::{SheetOptions, TalkArgs, threads};

/// Show whether all of an old place is also at its new one
///
/// Names, sizes and links are compared folder by folder, contents too if wanted; the last line
/// says whether the copy is whole. Without OLD and NEW all moves of the sheet are compared; what
/// an exception keeps, and what went elsewhere by another move, is no part of a copy. Nothing is
/// changed.
#[derive(Debug, clap::Args)]
pub(crate) struct CompareArgs {
    /// The old folder: a path here, or a place that the sheet sees from here
    #[arg(value_name = "OLD", requires = "new")]
    old: Option<String>,
    /// The new folder
    #[arg(value_name = "NEW")]
    new: Option<String>,
    /// Compare what is in the files too; a comparison that was broken off goes on where it was
    #[arg(long)]
    content: bool,
    #[command(flatten)]
    sheet: SheetOptions,
    /// Leave out files and folders of this name or path
    #[arg(long, value_name = "GLOB", help_heading = "What is looked at")]
    skip: Vec<String>,
    /// Compare only files of this name or path
    #[arg(long, value_name = "GLOB", help_heading = "What is looked at")]
    only: Vec<String>,
    /// Number of threads; else one for each processor
    #[arg(long, value_name = "N", help_heading = "What is looked at")]
    jobs: Option<usize>,
}

pub(crate) fn run(args: &CompareArgs, talk: &TalkArgs) -> CommandResult {
    let ui = talk.ui();
    let sheet = args.sheet.read(&ui, None)?;
    let comparison = match (&args.old, &args.new) {
        (Some(old), Some(new)) => Comparison::between(old, new, &sheet),
        _ if sheet.moves.is_empty() => {
            return Err(Failure::with_help(
                "there is nothing to compare",
                "name the old folder and the new one, or give a sheet that says what moved",
            ));
        }
        _ => Comparison::of_moves(&sheet),
    }?;
    let scope = Scope::new(Vec::new(), &args.skip, &args.only)
        .map_err(|fault| Failure::new(fault.to_string()))?;
    let mut out = ui.results(talk.out.as_deref())?;
    let (listed, compared) = (AtomicU64::new(0), AtomicU64::new(0));
    let journal = environment::comparisons().map(Journal::new);
    let comparing = Comparing {
        scope: &scope,
        content: args.content,
        journal: journal.as_ref(),
        jobs: threads(args.jobs),
        listed: &listed,
        compared: &compared,
    };
    let (what, counter) = if args.content {
        ("Compared, in MB:", &compared)
    } else {
        ("Files listed:", &listed)
    };
    let report = ui.watch(what, counter, None, || comparison.run(&comparing));
    answer(talk.how(), &mut out, String::new(), &report)
}
