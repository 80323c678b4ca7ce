//! `lastmaker trace`.

use std::io::Write;
use std::path::{Path, PathBuf};

use lastmaker_core::answers::{TraceOptions, trace};
use lastmaker_core::place::Place;
use lastmaker_core::report::TraceReport;
use lastmaker_core::resolve::Resolver;
use lastmaker_core::sheet::is_volume;
use lastmaker_core::text::Text;
use lastmaker_core::trace::{Draft, Drafted};

use super::compare::unseen;
use crate::exit::{CommandResult, Failure};
use crate::render::{answer, count, grouped};
use crate::shared::{Desk, ScanArgs};

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

pub(crate) fn run(args: &TraceArgs) -> CommandResult {
    let desk = args.scan.desk(None)?;
    let resolver = Resolver::new(&desk.sheet);
    let into = folders(&resolver, &args.into)?;
    let old = folders(&resolver, &args.old)?;
    let talk = &args.scan.talk;
    let mut out = desk.ui.results(talk.out.as_deref())?;
    let options = TraceOptions {
        into: &into,
        old: &old,
        indexed: &desk.looked_at,
    };
    let mut report = desk
        .ui
        .watch("Files and names read:", &desk.looked_at, None, || {
            trace(&desk.job(false, false), &options)
        });
    let drafted = match &args.write {
        Some(file) => Some(write(args, &desk, &report, file)?),
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
        desk.ui.say(format!(
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
        let folder = resolver.folder_named(written).map_err(unseen)?;
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

/// Writes the drafted sheet, in one step.
fn write(
    args: &TraceArgs,
    desk: &Desk,
    report: &TraceReport,
    file: &Path,
) -> Result<Drafted, Failure> {
    let failed = |what: &str, error: &dyn std::fmt::Display| {
        Failure::with_help(
            format!("the sheet {} cannot be {what}: {error}", file.display()),
            "nothing was changed",
        )
    };
    let existing = match std::fs::read(file) {
        Ok(bytes) => Some(bytes),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => None,
        Err(error) => return Err(failed("read", &error)),
    };
    let text = match &existing {
        Some(bytes) => {
            Some(Text::open(bytes, None).ok_or_else(|| failed("read", &"it is not text"))?)
        }
        None => None,
    };
    let folder = file.parent().unwrap_or(Path::new(""));
    let from_sheet = |path: &Path| relative(path, folder);
    let paths: Vec<String> = args
        .scan
        .paths
        .iter()
        .map(|path| from_sheet(path))
        .collect();
    let seen_at = desk.sheet.seen_at.iter();
    let seen_at: Vec<(Place, String)> = seen_at
        .map(|(place, path)| (place.clone(), from_sheet(path)))
        .collect();
    let draft = Draft {
        report,
        existing: text.as_ref().map(|text| text.content.as_ref()),
        paths: &paths,
        seen_at: &seen_at,
    };
    let drafted = draft.make().map_err(|fault| failed("edited", &fault))?;
    let bytes = match (&text, &existing) {
        (Some(text), Some(existing)) => {
            let encoded = text.encoding.encode(&drafted.text);
            encoded.map(|encoded| [&existing[..text.mark], &encoded].concat())
        }
        _ => Ok(drafted.text.clone().into_bytes()),
    };
    let bytes = bytes.map_err(|fault| failed("written", &fault))?;
    put(file, folder, &bytes).map_err(|error| failed("written", &error))?;
    Ok(drafted)
}

fn put(file: &Path, folder: &Path, bytes: &[u8]) -> std::io::Result<()> {
    let folder = if folder.as_os_str().is_empty() {
        Path::new(".")
    } else {
        folder
    };
    let mut made = tempfile::Builder::new()
        .prefix(".moves-")
        .tempfile_in(folder)?;
    made.write_all(bytes)?;
    if let Ok(metadata) = file.metadata() {
        made.as_file().set_permissions(metadata.permissions())?;
    }
    made.as_file().sync_all()?;
    made.persist(file).map_err(|error| error.error)?;
    Ok(())
}

/// A path as a sheet in `folder` names it; a volume goes by its name.
fn relative(path: &Path, folder: &Path) -> String {
    if is_volume(&path.to_string_lossy()) {
        return path.to_string_lossy().into_owned();
    }
    let folder = if folder.as_os_str().is_empty() {
        Path::new(".")
    } else {
        folder
    };
    let absolute = |path: &Path| std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
    let (path, folder) = (absolute(path), absolute(folder));
    let below = path.strip_prefix(&folder).unwrap_or(&path);
    match below.as_os_str().is_empty() {
        true => ".".to_owned(),
        false => below.to_string_lossy().into_owned(),
    }
}
