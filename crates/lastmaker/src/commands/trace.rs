//! `lastmaker trace`.

use std::path::PathBuf;

use lastmaker_core::answers::{TraceOptions, trace};
use lastmaker_core::place::Place;
use lastmaker_core::resolve::Resolver;

use crate::drafting;
use crate::exit::{CommandResult, Failure};
use crate::render::{answer, count, grouped};
use crate::shared::{ScanArgs, TalkArgs};

/// Find where dangling targets went, and draft a sheet
///
/// Knows only where things might be now: every place that dangles is looked for there by its name.
/// The fewest moves that explain the most references are told, each with what speaks for and
/// against it; what fits two ways is told and not guessed. Nothing is changed but the sheet that
/// --write names.
#[derive(Debug, clap::Args)]
pub(crate) struct TraceArgs {
    #[command(flatten)]
    scan: ScanArgs,
    /// Folders where things might be now: paths here, or places that are seen from here
    #[arg(long, value_name = "DIR", num_args = 1.., required = true)]
    into: Vec<String>,
    /// An old folder that still exists: sizes and contents in it tell files of one name apart
    #[arg(long, value_name = "DIR")]
    old: Vec<String>,
    /// Write the moves into this sheet; in one that is there, comments and order stay
    #[arg(long, value_name = "FILE")]
    write: Option<PathBuf>,
}

pub(crate) fn run(args: &TraceArgs, talk: &TalkArgs) -> CommandResult {
    let setup = args.scan.setup(talk, None)?;
    let job = setup.job().build();
    let into = folders(job.resolver, &args.into)?;
    let old = folders(job.resolver, &args.old)?;
    let mut out = setup.ui.results(talk.out.as_deref())?;
    let options = TraceOptions {
        into: &into,
        old: &old,
        indexed: setup.workspace.looked_at(),
    };
    let mut report = setup.watch("Files and names read:", || trace(&job, &options));
    let drafted = match &args.write {
        Some(file) => Some(drafting::write(
            file,
            &report,
            &args.scan.paths,
            &setup.workspace.sheet().seen_at,
        )?),
        None => None,
    };
    report.written = args.write.as_ref().map(|file| file.display().to_string());
    let told = answer(talk.how(), &mut out, String::new(), &report);
    if let (Some(drafted), Some(file)) = (drafted, &args.write) {
        let open = match drafted.in_comments {
            0 => String::new(),
            open => format!(
                ", {} more as comments, for a person to decide",
                grouped(open)
            ),
        };
        setup.ui.say(format!(
            "{} written to {}{}.",
            count(drafted.moves, "move"),
            file.display(),
            open
        ));
    }
    told
}

/// The folders that were named, with the places that they are.
fn folders(resolver: &Resolver, named: &[String]) -> Result<Vec<(Place, PathBuf)>, Failure> {
    let mut all = Vec::new();
    for written in named {
        let folder = resolver.folder_named(written)?;
        let Some(place) = folder.place else {
            return Err(Failure::with_help(
                format!("{written} is no place that a document could name"),
                "say what it is called with --seen-at PLACE=DIR",
            ));
        };
        all.push((place, folder.path));
    }
    Ok(all)
}
