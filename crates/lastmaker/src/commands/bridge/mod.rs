//! `lastmaker bridge`.

mod wish;

use std::io::Write;

use clap::ValueEnum;
use lastmaker_core::answers::{standing, take_away};
use lastmaker_core::bridge::script::{Language, Task};
use lastmaker_core::place::Place;
use lastmaker_core::record::Timestamp;
use lastmaker_core::report::Answer;

use self::wish::WishArgs;
use crate::changing::changing_links;
use crate::exit::{CommandResult, Outcome};
use crate::render::answer;
use crate::shared::{RecordArgs, TalkArgs, place};

/// Links at the old places, for what cannot be told where its data went
///
/// Without places it works out, from the sheet and from what a rewrite cannot change, the fewest links that
/// make everything resolve, and shows them. With two it is about a link at OLD that leads to NEW. Nothing is
/// changed without --make or --remove; what those do goes into a record, which `restore` takes back.
#[derive(Debug, clap::Args)]
pub(crate) struct BridgeArgs {
    #[command(flatten)]
    wish: WishArgs,
    /// Make the links
    #[arg(long, group = "doing")]
    make: bool,
    /// Print a script that makes them where it is run
    #[arg(long, group = "doing", value_enum, value_name = "LANGUAGE")]
    script: Option<ScriptLanguage>,
    /// Show the links that stand at old places, and whether anything goes through them
    #[arg(long, group = "doing")]
    list: bool,
    /// Take the link at this place away; what it leads to is not touched
    #[arg(long, group = "doing", value_name = "PLACE")]
    remove: Vec<String>,
    /// The script takes away what the other makes
    #[arg(long, requires = "script")]
    reverse: bool,
    /// A drive's letter that stands in for a folder is given again at each sign-in
    #[arg(long, requires = "doing", conflicts_with_all = ["list", "remove"])]
    lasting: bool,
    #[command(flatten)]
    records: RecordArgs,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
enum ScriptLanguage {
    /// For the command interpreter of Windows
    Cmd,
    /// For PowerShell
    Powershell,
    /// For a POSIX shell
    Sh,
}

impl ScriptLanguage {
    fn language(self) -> Language {
        match self {
            Self::Cmd => Language::Cmd,
            Self::Powershell => Language::PowerShell,
            Self::Sh => Language::Sh,
        }
    }
}

pub(crate) fn run(args: &BridgeArgs, talk: &TalkArgs) -> CommandResult {
    let store = args.records.store()?;
    let again = args.records.again();
    let remove = args.remove.iter().map(|one| place("--remove", one));
    let remove: Vec<Place> = remove.collect::<Result<_, _>>()?;
    let wished = args
        .wish
        .read(args.list, !remove.is_empty(), &store, talk)?;
    let mut out = wished.setup.ui.results(talk.out.as_deref())?;
    let job = wished.setup.job().build();
    if args.list {
        let report = standing(&job, wished.asked(&store).as_ref());
        return answer(talk.how(), &mut out, again, &report);
    }
    if !remove.is_empty() {
        let report =
            changing_links(|watch| take_away(&job, &remove, &store, Timestamp::now(), watch))?;
        return answer(talk.how(), &mut out, again, &report);
    }
    let plan = wished.plan(&job, &store)?;
    if let Some(language) = args.script {
        let task = Task {
            language: language.language(),
            reverse: args.reverse,
            lasting: args.lasting,
        };
        out.write_all(plan.script(task).as_bytes())?;
        out.flush()?;
        return Ok(Outcome::of(plan.into_report().has_findings()));
    }
    let report = if args.make {
        changing_links(|watch| plan.make(args.lasting, &store, Timestamp::now(), watch))?
    } else {
        plan.into_report()
    };
    answer(talk.how(), &mut out, again, &report)
}
