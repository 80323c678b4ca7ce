//! What moved, and what is seen where.

use std::path::{Path, PathBuf};

use lastmaker_core::sheet::{self, Sheet};

use crate::exit::Failure;
use crate::ui::{Ui, shown};

/// What moved, and what is seen where.
#[derive(Clone, Debug, clap::Args)]
pub(crate) struct SheetOptions {
    /// The sheet that says what moved; else `moves.toml` in this folder or the nearest above it
    #[arg(long, value_name = "FILE", help_heading = "What moved")]
    pub(crate) sheet: Option<PathBuf>,
    /// Use no sheet, even if there is a `moves.toml`
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
        let usual = match (named.or(self.sheet.as_deref()), self.no_sheet) {
            (None, false) => usual_sheet(),
            _ => None,
        };
        if let Some(found) = &usual {
            ui.say(format!(
                "Using the sheet {} (--no-sheet uses none).",
                found.told
            ));
        }
        let file = named
            .or(self.sheet.as_deref())
            .or(usual.as_ref().map(|found| found.file.as_path()));
        let mut sheet = match file {
            Some(file) => read_sheet(file)?,
            None => Sheet::default(),
        };
        for one in &self.moves {
            sheet.add_move(one).map_err(|fault| no_move(one, &fault))?;
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

/// A sheet that is used although nobody named it.
struct UsualSheet {
    file: PathBuf,
    /// How it is named to people.
    told: String,
}

/// `moves.toml` in this folder, or the nearest above it.
fn usual_sheet() -> Option<UsualSheet> {
    const NAME: &str = "moves.toml";
    if Path::new(NAME).is_file() {
        return Some(UsualSheet {
            file: PathBuf::from(NAME),
            told: format!("{NAME} in this folder"),
        });
    }
    let here = std::env::current_dir().ok()?;
    let mut above = here.ancestors().skip(1).map(|folder| folder.join(NAME));
    let file = above.find(|file| file.is_file())?;
    let told = shown(&file.to_string_lossy());
    Some(UsualSheet { file, told })
}

/// Why an argument is no move. A POSIX shell takes backslashes outside of quotes for itself.
fn no_move(written: &str, fault: &dyn std::fmt::Display) -> Failure {
    let message = format!("--move: {fault}");
    let swallowed = |side: &str| {
        let mut letters = side.chars();
        let drive = letters
            .next()
            .is_some_and(|letter| letter.is_ascii_alphabetic());
        drive && letters.next() == Some(':') && letters.next().is_some_and(|c| c.is_alphanumeric())
    };
    let sides: Vec<&str> = written.splitn(2, '=').collect();
    match sides[..] {
        [old, new] if swallowed(old) || swallowed(new) => Failure::with_help(
            message,
            r"a shell takes a backslash outside of quotes for itself; put the move in single quotes: --move 'D:\Old=E:\New'",
        ),
        _ => Failure::new(message),
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
