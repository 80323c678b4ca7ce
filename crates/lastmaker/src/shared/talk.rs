//! How a command talks: options that stand before the command or behind it.

use std::path::PathBuf;

use crate::render::{Extent, How, forms};
use crate::ui::{Color, Ui};

/// How a command talks.
#[derive(Debug, clap::Args)]
pub(crate) struct TalkArgs {
    /// How results are written
    #[arg(
        long,
        global = true,
        value_parser = forms::parser(),
        default_value = forms::usual(),
        value_name = "FORMAT",
        help_heading = "Output"
    )]
    pub(crate) format: forms::Asked,
    /// Write the results to a new file instead of standard output
    #[arg(long, global = true, value_name = "FILE", help_heading = "Output")]
    pub(crate) out: Option<PathBuf>,
    /// When to use colours
    #[arg(
        long,
        global = true,
        value_enum,
        default_value_t,
        value_name = "WHEN",
        help_heading = "Output"
    )]
    pub(crate) color: Color,
    /// Say nothing but results and errors
    #[arg(short, long, global = true, help_heading = "Output")]
    pub(crate) quiet: bool,
    /// Do not show long results through a pager
    #[arg(long, global = true, help_heading = "Output")]
    pub(crate) no_pager: bool,
    /// Tell at the end what took how long
    #[arg(long, global = true, help_heading = "Output")]
    pub(crate) stats: bool,
    /// Say more; twice, and each file is told of as it is planned, and what took how long
    #[arg(short, long, global = true, action = clap::ArgAction::Count, help_heading = "Output")]
    pub(crate) verbose: u8,
}

impl TalkArgs {
    /// How answers are wanted.
    pub(crate) fn how(&self) -> How {
        How {
            form: self.format,
            verbose: self.verbose > 0,
            extent: Extent::Usual,
            width: self.ui().width().filter(|_| self.out.is_none()),
        }
    }

    /// Whether it is timed what takes how long.
    pub(crate) fn is_timed(&self) -> bool {
        self.stats || self.verbose > 1
    }

    pub(crate) fn ui(&self) -> Ui {
        Ui {
            color: self.color,
            quiet: self.quiet,
            verbose: self.verbose > 0,
            pager: !self.no_pager && !self.quiet,
        }
    }
}
