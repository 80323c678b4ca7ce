//! Which links are asked for, and whose references they are to serve.

use std::path::PathBuf;

use lastmaker_core::answers::{Asked, BridgePlan, asked};
use lastmaker_core::bridge::Site;
use lastmaker_core::job::Job;
use lastmaker_core::place::Place;
use lastmaker_core::record::Store;
use lastmaker_core::sheet::{Move, Sheet};
use lastmaker_core::tree::Scope;

use crate::exit::Failure;
use crate::shared::{ReadingArgs, Setup, SheetOptions, TalkArgs, place, scope};

/// Which links are asked for, and whose references they are to serve.
#[derive(Debug, clap::Args)]
pub(super) struct WishArgs {
    /// The old place, and the new one
    #[arg(value_names = ["OLD", "NEW"], num_args = 0..=2)]
    places: Vec<String>,
    /// One link inside of OLD for each child of NEW that --only and --skip let through; run again with another
    /// choice, it adds and takes away
    #[arg(long)]
    each: bool,
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
}

/// What is asked for, as read.
pub(super) struct Wished<'a> {
    args: &'a WishArgs,
    /// The two places, if both are given.
    places: Option<(Place, Place)>,
    pub(super) setup: Setup,
}

impl WishArgs {
    /// Reads what is asked for: about links that stand (`listing`), about some to be taken away (`removing`), or about
    /// new ones.
    pub(super) fn read(
        &self,
        listing: bool,
        removing: bool,
        store: &Store,
        talk: &TalkArgs,
    ) -> Result<Wished<'_>, Failure> {
        let places = self.by_hand(listing)?;
        let ui = talk.ui();
        let mut sheet = self.sheet.read(&ui, None)?;
        let paths = if self.paths.is_empty() {
            sheet.paths.clone()
        } else {
            self.paths.clone()
        };
        if let Some((old, new)) = &places {
            sheet.moves = vec![Move::new(old.clone(), new.clone())];
        }
        if !removing {
            must_be_said(&sheet, !paths.is_empty() || places.is_some() || listing)?;
        }
        // With --each the globs are about children.
        let globs = if self.each {
            [&[][..], &[]]
        } else {
            [&self.skip[..], &self.only]
        };
        let own = [talk.out.as_deref(), Some(store.folder())];
        let scope = scope(&sheet, paths, globs, own)?;
        Ok(Wished {
            args: self,
            places,
            setup: self.reading.setup(ui, sheet, scope)?,
        })
    }

    fn by_hand(&self, listing: bool) -> Result<Option<(Place, Place)>, Failure> {
        match &self.places[..] {
            [] if self.each => Err(Failure::with_help(
                "--each needs two places",
                "lastmaker bridge --each OLD NEW",
            )),
            [] => Ok(None),
            [old] if listing => {
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
}

/// Refuses to go on where nothing says what moved, or whose references are meant.
fn must_be_said(sheet: &Sheet, serves: bool) -> Result<(), Failure> {
    if sheet.moves.is_empty() {
        return Err(Failure::with_help(
            "nothing says what moved",
            "name the old place and the new one, say it with --move 'D:\\Old=E:\\New', or in a sheet",
        ));
    }
    if serves {
        return Ok(());
    }
    Err(Failure::with_help(
        "nothing says whose references are to be served",
        "name files or folders with --in PATH, give the sheet [scan] paths = ['…'], or name the old place \
         and the new one",
    ))
}

impl Wished<'_> {
    /// What the files ask for, if any are to be looked at.
    pub(super) fn asked(&self, store: &Store) -> Option<Asked> {
        let setup = &self.setup;
        let looking = || asked(&setup.job().build(), &store.rewrites());
        let looked_at = setup.workspace.looked_at();
        let asked = || setup.ui.watch("Files looked at:", looked_at, None, looking);
        setup.looks_at_files().then(asked)
    }

    /// The links that serve it.
    pub(super) fn plan(&self, job: &Job<'_>, store: &Store) -> Result<BridgePlan, Failure> {
        let asked = self.asked(store);
        let site = Site {
            sheet: job.sheet,
            resolver: job.resolver,
            set_aside: self.args.set_aside,
        };
        let Some((old, new)) = &self.places else {
            return Ok(BridgePlan::worked_out(&site, asked.unwrap_or_default()));
        };
        if !self.args.each {
            return Ok(BridgePlan::of_one(&site, old, new, asked));
        }
        let chosen = Scope::new(Vec::new(), &self.args.skip, &self.args.only)
            .map_err(|fault| Failure::new(fault.to_string()))?;
        Ok(BridgePlan::of_each(&site, old, new, &chosen, asked))
    }
}
