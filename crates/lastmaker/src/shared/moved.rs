//! What moved, what is seen where, and what references are written as.

use std::path::{Path, PathBuf};

use lastmaker_core::job::{Job, Portable, RelativeReferences};
use lastmaker_core::sheet::{self, Sheet};

use super::Desk;
use crate::exit::Failure;
use crate::ui::Ui;

/// What moved, and what is seen where.
#[derive(Debug, clap::Args)]
pub(crate) struct SheetOptions {
    /// The sheet that says what moved; else `moves.toml` in this folder, if it is there
    #[arg(long, value_name = "FILE", help_heading = "What moved")]
    pub(crate) sheet: Option<PathBuf>,
    /// Use no sheet, even if `moves.toml` is here
    #[arg(long, conflicts_with = "sheet", help_heading = "What moved")]
    pub(crate) no_sheet: bool,
    /// A move, beside those of the sheet; split at the first `=` with a place on both sides
    #[arg(long = "move", value_name = "OLD=NEW", help_heading = "What moved")]
    pub(crate) moves: Vec<String>,
    /// Where a place is seen from this machine
    #[arg(long, value_name = "PLACE=DIR", help_heading = "What moved")]
    pub(crate) seen_at: Vec<String>,
    /// The files belong to another machine: its drives are not this machine's
    #[arg(long, help_heading = "What moved")]
    pub(crate) elsewhere: bool,
}

impl SheetOptions {
    /// Reads the sheet, `named` if a command names one by itself, and adds what the command
    /// line says.
    pub(crate) fn read(&self, ui: &Ui, named: Option<&Path>) -> Result<Sheet, Failure> {
        let usual = Path::new("moves.toml");
        let file = match named.or(self.sheet.as_deref()) {
            Some(file) => Some(file),
            None if !self.no_sheet && usual.is_file() => {
                ui.say("Using the sheet moves.toml in this folder (--no-sheet uses none).");
                Some(usual)
            }
            None => None,
        };
        let mut sheet = match file {
            Some(file) => read_sheet(file)?,
            None => Sheet::default(),
        };
        for one in &self.moves {
            sheet
                .add_move(one)
                .map_err(|fault| Failure::new(format!("--move: {fault}")))?;
        }
        for one in &self.seen_at {
            sheet
                .add_seen_at(one, Path::new(""))
                .map_err(|fault| Failure::new(format!("--seen-at: {fault}")))?;
        }
        if let Some((_, fault)) = sheet.faults().first() {
            return Err(Failure::new(format!(
                "the moves do not fit together: {fault}"
            )));
        }
        if self.elsewhere {
            sheet.native = false;
        }
        Ok(sheet)
    }
}

/// Reads a sheet, or says everything that is wrong with it.
fn read_sheet(file: &Path) -> Result<Sheet, Failure> {
    let bytes = std::fs::read(file).map_err(|error| {
        Failure::with_help(
            format!("the sheet {} cannot be read: {error}", file.display()),
            "`lastmaker sheet --move OLD=NEW` prints one to begin with",
        )
    })?;
    sheet::read(&bytes, file).map_err(|faults| {
        let lines = faults
            .iter()
            .map(|fault| format!("{}:{}: {}", file.display(), fault.line, fault.what));
        Failure::Said {
            message: "the sheet cannot be used:".to_owned(),
            more: lines.collect(),
            help: Some("nothing was changed; correct these lines and run again".to_owned()),
        }
    })
}

/// Which doubts are accepted.
#[derive(Debug, clap::Args)]
pub(crate) struct AcceptArgs {
    /// Change what is doubtful in this line all the same
    #[arg(long, value_name = "FILE:LINE[:COLUMN]", help_heading = "What moved")]
    accept: Vec<String>,
    /// Change what is doubtful for this reason all the same; its name stands beside each doubt
    #[arg(long, value_name = "NAME", help_heading = "What moved")]
    accept_reason: Vec<String>,
}

impl AcceptArgs {
    /// Adds what the command line accepts to what the sheet does.
    pub(crate) fn add_to(&self, sheet: &mut Sheet) -> Result<(), Failure> {
        for site in &self.accept {
            let added = sheet.accept.add_site(site, Path::new(""));
            added.map_err(|fault| Failure::new(format!("--accept: {fault}")))?;
        }
        for name in &self.accept_reason {
            let added = sheet.accept.add_reason(name);
            added.map_err(|fault| Failure::new(format!("--accept-reason: {fault}")))?;
        }
        Ok(())
    }
}

/// What references are written as beside the new place in full.
#[derive(Debug, clap::Args)]
pub(crate) struct SpellingArgs {
    /// Write references relative to their document where both lie under the same new place, in formats whose
    /// programs are known to take that; the sheet names others under `portable`
    #[arg(long, help_heading = "What moved")]
    pub(crate) portable: bool,
    /// Mend references relative to their document that lead nowhere since it or what they name has moved, in
    /// the same formats
    #[arg(long, help_heading = "What moved")]
    pub(crate) relative: bool,
    /// Have relative references, in the same formats, name in full what they lead to, so that their documents
    /// can be moved alone
    #[arg(long, conflicts_with_all = ["relative", "portable"], help_heading = "What moved")]
    pub(crate) absolute: bool,
}

impl SpellingArgs {
    /// A job as these options have it.
    pub(crate) fn job<'d>(&self, desk: &'d Desk, job: Job<'d>) -> Job<'d> {
        Job {
            relative: match (self.absolute, self.relative) {
                (true, _) => RelativeReferences::InFull,
                (false, true) => RelativeReferences::Mended,
                (false, false) => RelativeReferences::Left,
            },
            portable: Portable {
                known: self.portable,
                said: &desk.portable,
            },
            ..job
        }
    }
}
