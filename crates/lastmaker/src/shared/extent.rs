//! How much of an answer is told.

use crate::exit::Failure;
use crate::render::{Extent, How, Listed};

/// How much of an answer is told.
#[derive(Debug, clap::Args)]
pub(crate) struct ExtentArgs {
    /// Only tables and totals, in words
    #[arg(long, conflicts_with = "list", help_heading = "Output")]
    summary: bool,
    /// Only one list, in full and in words
    #[arg(long, value_enum, value_name = "WHAT", help_heading = "Output")]
    list: Option<Listed>,
}

impl ExtentArgs {
    /// How the answer is wanted then.
    pub(crate) fn how(&self, how: How) -> Result<How, Failure> {
        let extent = match (self.summary, self.list) {
            (true, _) => Extent::Summary,
            (false, Some(list)) => Extent::Only(list),
            (false, None) => return Ok(how),
        };
        if !how.form.is_for_people() {
            return Err(Failure::with_help(
                "--summary and --list are about what is told in words",
                "leave them out: the other forms hold everything, for programs to choose from",
            ));
        }
        Ok(How { extent, ..how })
    }
}
