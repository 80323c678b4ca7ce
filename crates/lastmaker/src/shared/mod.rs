//! Options that most commands take, as typed and as meant.

mod choice;
mod extent;
mod moved;
mod plan;
mod scan;
mod spelling;
mod talk;

use std::path::{Path, PathBuf};

use lastmaker_core::place::Place;
use lastmaker_core::record::Store;

pub(crate) use choice::ChoiceArgs;
pub(crate) use extent::ExtentArgs;
pub(crate) use moved::{AcceptArgs, SheetOptions};
pub(crate) use plan::PlanArgs;
pub(crate) use scan::{ReadingArgs, ScanArgs, Setup, scope, threads};
pub(crate) use spelling::SpellingArgs;
pub(crate) use talk::TalkArgs;

use crate::environment;
use crate::exit::Failure;
use crate::ui::{quoted, shown};

/// A place that an argument names.
pub(crate) fn place(argument: &str, written: &str) -> Result<Place, Failure> {
    Place::parse(written)
        .map_err(|fault| Failure::new(format!("{argument}: {written:?} is no place: {fault}")))
}

/// A limit given in MiB, in bytes.
pub(crate) fn mebibytes(limit: u64) -> u64 {
    limit.saturating_mul(1 << 20)
}

/// Refuses a path that is not there.
pub(crate) fn must_exist(path: &Path) -> Result<(), Failure> {
    explain_swallowed_quote(path)?;
    if path.symlink_metadata().is_err() {
        return Err(Failure::with_help(
            format!("{} does not exist", path.display()),
            "check the spelling; nothing was looked at",
        ));
    }
    Ok(())
}

/// `"D:\My Data\"` reaches a program with a quote at its end.
fn explain_swallowed_quote(path: &Path) -> Result<(), Failure> {
    let text = path.to_string_lossy();
    if text.contains('"') && !path.exists() {
        return Err(Failure::with_help(
            format!("{text:?} holds a quote"),
            "the shell took the backslash before the closing quote for an escape; leave that backslash out",
        ));
    }
    Ok(())
}

/// Where records are kept.
#[derive(Debug, clap::Args)]
pub(crate) struct RecordArgs {
    /// The folder in which originals are kept; else one in this user's state folder
    #[arg(long, value_name = "FOLDER", help_heading = "Records")]
    pub(crate) record_dir: Option<PathBuf>,
}

impl RecordArgs {
    pub(crate) fn store(&self) -> Result<Store, Failure> {
        Ok(Store::new(match &self.record_dir {
            Some(folder) => std::path::absolute(folder)?,
            None => environment::default_records()?,
        }))
    }

    /// The option that finds the same records again.
    pub(crate) fn again(&self) -> String {
        match &self.record_dir {
            Some(folder) => format!(
                " --record-dir {}",
                quoted(&shown(&folder.to_string_lossy()))
            ),
            None => String::new(),
        }
    }
}
