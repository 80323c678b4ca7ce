//! `lastmaker compare`.

use std::sync::atomic::AtomicU64;

use lastmaker_core::compare::{Comparing, Journal, Pair, Seen, compare};
use lastmaker_core::report::{CompareReport, LeftFile};
use lastmaker_core::resolve::{NamedFolder, Resolver, UnseenFault};
use lastmaker_core::sheet::Sheet;
use lastmaker_core::tree::Scope;

use crate::environment;
use crate::exit::{CommandResult, Failure};
use crate::render::answer;
use crate::shared::{SheetOptions, TalkArgs, threads};
use crate::ui::Ui;

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
    let resolver = Resolver::new(&sheet);
    let (pairs, unseen) = pairs(args, &sheet, &resolver)?;
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
    let report = report(&ui, &pairs, unseen, &comparing);
    answer(talk.how(), &mut out, String::new(), &report)
}

fn report(
    ui: &Ui,
    pairs: &[Pair],
    unseen: Vec<LeftFile>,
    comparing: &Comparing<'_>,
) -> CompareReport {
    let (what, counter) = if comparing.content {
        ("Compared, in MB:", comparing.compared)
    } else {
        ("Files listed:", comparing.listed)
    };
    let compared = ui.watch(what, counter, None, || {
        pairs.iter().map(|pair| compare(pair, comparing)).collect()
    });
    CompareReport::new(compared, unseen, comparing.content)
}

/// What is compared with what, and the moves of which a side is not seen.
fn pairs(
    args: &CompareArgs,
    sheet: &Sheet,
    resolver: &Resolver,
) -> Result<(Vec<Pair>, Vec<LeftFile>), Failure> {
    if let (Some(old), Some(new)) = (&args.old, &args.new) {
        let side = |written: &str| resolver.folder_named(written).map_err(unseen);
        let (old, new) = (side(old)?, side(new)?);
        let same = |named: &NamedFolder, of: &_| named.place.as_ref().is_some_and(|it| it.same(of));
        let mut moves = sheet.moves.iter();
        let of_move = moves.position(|one| same(&old, &one.from) && same(&new, &one.to));
        let pair = Pair::new(seen(old), seen(new));
        let pair = match of_move {
            Some(index) => pair.of_move(sheet, index),
            None => pair,
        };
        return Ok((vec![pair], Vec::new()));
    }
    if sheet.moves.is_empty() {
        return Err(Failure::with_help(
            "there is nothing to compare",
            "name the old folder and the new one, or give a sheet that says what moved",
        ));
    }
    let mut pairs = Vec::new();
    let mut left = Vec::new();
    let mut first = None;
    for (index, one) in sheet.moves.iter().enumerate() {
        let sides = resolver.folder_at(&one.from);
        let sides = sides.and_then(|old| Ok((old, resolver.folder_at(&one.to)?)));
        match sides {
            Ok((old, new)) => pairs.push(Pair::new(seen(old), seen(new)).of_move(sheet, index)),
            Err(fault) => {
                let name = one.from.to_string();
                left.push(LeftFile::new(name.as_ref(), fault.to_string()));
                first.get_or_insert(fault);
            }
        }
    }
    match first {
        Some(fault) if pairs.is_empty() => Err(unseen(fault)),
        _ => Ok((pairs, left)),
    }
}

fn seen(named: NamedFolder) -> Seen {
    Seen {
        name: named.name,
        path: named.path,
    }
}

/// Why a side cannot be looked at, and what to do.
pub(crate) fn unseen(fault: UnseenFault) -> Failure {
    let help = match &fault {
        UnseenFault::Missing(_) | UnseenFault::Dangling(_) => {
            "check the spelling; nothing was looked at"
        }
        UnseenFault::Unseen(_) => "for example --seen-at 'D:\\=/media/old-disk'",
        UnseenFault::NoFolder(_) => "name the folder that it is in",
    };
    Failure::with_help(fault.to_string(), help)
}
