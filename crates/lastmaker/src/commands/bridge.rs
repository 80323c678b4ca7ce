//! `lastmaker bridge`.

use std::io::Write;
use std::path::PathBuf;

use clap::ValueEnum;
use lastmaker_core::answers::{Asked, BridgePlan, asked, standing, take_away};
use lastmaker_core::bridge::Site;
use lastmaker_core::bridge::script::{Language, Task};
use lastmaker_core::place::Place;
use lastmaker_core::record::{Rewrites, Store, Timestamp, Watch};
use lastmaker_core::report::{Answer, BridgeReport};
use lastmaker_core::sheet::Move;
use lastmaker_core::tree::Scope;

use crate::exit::{CommandResult, Failure, Outcome};
use crate::interrupt::with_files_in_hand;
use crate::render::answer;
use crate::shared::{ReadingArgs, RecordArgs, Setup, SheetOptions, TalkArgs, place, scope};

/// Links at the old places, for what cannot be told where its data went
///
/// Without places it works out, from the sheet and from what a rewrite cannot change, the fewest links that
/// make everything resolve, and shows them. With two it is about a link at OLD that leads to NEW. Nothing is
/// changed without --make or --remove; what those do goes into a record, which `restore` takes back.
#[derive(Debug, clap::Args)]
pub(crate) struct BridgeArgs {
    /// The old place, and the new one
    #[arg(value_names = ["OLD", "NEW"], num_args = 0..=2)]
    places: Vec<String>,
    /// One link inside of OLD for each child of NEW that --only and --skip let through; run again with another
    /// choice, it adds and takes away
    #[arg(long)]
    each: bool,
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
    /// Give what stands at an old place another name
    #[arg(long)]
    set_aside: bool,
    /// Files and folders whose references are to be served; else those of the sheet
    #[arg(long = "in", value_name = "PATH", help_heading = "What is looked at")]
    paths: Vec<PathBuf>,
    /// Leave out files, or with --each children, of this name or path
    #[arg(long, value_name = "GLOB", help_heading = "What is looked at")]
    skip: Vec<String>,
    /// Only files, or with --each children, of this name or path
    #[arg(long, value_name = "GLOB", help_heading = "What is looked at")]
    only: Vec<String>,
    #[command(flatten)]
    sheet: SheetOptions,
    #[command(flatten)]
    reading: ReadingArgs,
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
    let by_hand = args.by_hand()?;
    let setup = args.setup(talk, &store, by_hand.as_ref())?;
    let mut out = setup.ui.results(talk.out.as_deref())?;
    let job = setup.job().build();
    let site = Site {
        sheet: job.sheet,
        resolver: job.resolver,
        set_aside: args.set_aside,
    };
    let asked = if setup.looks_at_files() && args.remove.is_empty() {
        Some(args.asked(&setup, &store))
    } else {
        None
    };
    let again = args.records.again();
    if args.list {
        let report = standing(&job, asked.as_ref());
        return answer(talk.how(), &mut out, again, &report);
    }
    if !args.remove.is_empty() {
        let places = args.remove.iter().map(|one| place("--remove", one));
        let places: Vec<Place> = places.collect::<Result<_, _>>()?;
        let report = done(|watch| take_away(&job, &places, &store, Timestamp::now(), watch))?;
        return answer(talk.how(), &mut out, again, &report);
    }
    let plan = args.plan(&site, by_hand, asked)?;
    if let Some(language) = args.script {
        out.write_all(plan.script(args.task(language)).as_bytes())?;
        out.flush()?;
        return Ok(Outcome::of(plan.into_report().has_findings()));
    }
    let report = if args.make {
        done(|watch| plan.make(args.lasting, &store, Timestamp::now(), watch))?
    } else {
        plan.into_report()
    };
    answer(talk.how(), &mut out, again, &report)
}

impl BridgeArgs {
    /// The two places, if both are given.
    fn by_hand(&self) -> Result<Option<(Place, Place)>, Failure> {
        match &self.places[..] {
            [] if self.each => Err(Failure::with_help(
                "--each needs two places",
                "lastmaker bridge --each OLD NEW",
            )),
            [] => Ok(None),
            [old] if self.list => {
                let old = place("OLD", old)?;
                Ok(Some((old.clone(), old)))
            }
            [old, new] => Ok(Some((place("OLD", old)?, place("NEW", new)?))),
            _ => Err(Failure::with_help(
                "one place alone is no bridge",
                "name the old place and the new one: lastmaker bridge OLD NEW",
            )),
        }
    }

    fn setup(
        &self,
        talk: &TalkArgs,
        store: &Store,
        by_hand: Option<&(Place, Place)>,
    ) -> Result<Setup, Failure> {
        let ui = talk.ui();
        let mut sheet = self.sheet.read(&ui, None)?;
        let paths = if self.paths.is_empty() {
            sheet.paths.clone()
        } else {
            self.paths.clone()
        };
        if let Some((old, new)) = by_hand {
            sheet.moves = vec![Move::new(old.clone(), new.clone())];
        }
        if self.remove.is_empty() {
            if sheet.moves.is_empty() {
                return Err(Failure::with_help(
                    "nothing says what moved",
                    "name the old place and the new one, say it with --move 'D:\\Old=E:\\New', or in a sheet",
                ));
            }
            if paths.is_empty() && by_hand.is_none() && !self.list {
                return Err(Failure::with_help(
                    "nothing says whose references are to be served",
                    "name files or folders with --in PATH, give the sheet [scan] paths = ['…'], or name the old place \
                     and the new one",
                ));
            }
        }
        // With --each the globs are about children.
        let globs = if self.each {
            [&[][..], &[]]
        } else {
            [&self.skip[..], &self.only]
        };
        let own = [talk.out.as_deref(), Some(store.folder())];
        let scope = scope(&sheet, paths, globs, own)?;
        self.reading.setup(ui, sheet, scope)
    }

    fn asked(&self, setup: &Setup, store: &Store) -> Asked {
        let rewrites: Rewrites = store.rewrites();
        setup.ui.watch(
            "Files looked at:",
            setup.workspace.looked_at(),
            None,
            || asked(&setup.job().build(), &rewrites),
        )
    }

    fn plan(
        &self,
        site: &Site<'_>,
        by_hand: Option<(Place, Place)>,
        asked: Option<Asked>,
    ) -> Result<BridgePlan, Failure> {
        Ok(match by_hand {
            None => BridgePlan::worked_out(site, asked.unwrap_or_default()),
            Some((old, new)) if self.each => {
                let chosen = Scope::new(Vec::new(), &self.skip, &self.only)
                    .map_err(|fault| Failure::new(fault.to_string()))?;
                BridgePlan::of_each(site, &old, &new, &chosen, asked)
            }
            Some((old, new)) => BridgePlan::of_one(site, &old, &new, asked),
        })
    }

    fn task(&self, language: ScriptLanguage) -> Task {
        Task {
            language: language.language(),
            reverse: self.reverse,
            lasting: self.lasting,
        }
    }
}

/// Does what goes into a record, to the end of the step in hand.
fn done(
    work: impl FnOnce(&Watch<'_>) -> Result<BridgeReport, lastmaker_core::record::RecordError>,
) -> Result<BridgeReport, Failure> {
    let made = with_files_in_hand(|stop| {
        work(&Watch {
            made: &|_| {},
            stop,
        })
    });
    Ok(made?)
}
