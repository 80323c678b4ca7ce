//! Exit codes: 0 done, 1 done with findings, 2 could not run.

use std::io;
use std::process::ExitCode;

use lastmaker_core::answers::{ChangeFileFault, RestoreRefusal, RewriteRefusal};
use lastmaker_core::record::RecordError;
use lastmaker_core::resolve::UnseenFault;

use crate::interrupt;

/// How a command that ran came out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Outcome {
    /// Nothing is left to do.
    Clean,
    /// Something wants a person's attention.
    Findings,
}

impl Outcome {
    pub(crate) fn of(findings: bool) -> Self {
        if findings {
            Self::Findings
        } else {
            Self::Clean
        }
    }
}

/// Why a command could not run.
#[derive(Debug)]
pub(crate) enum Failure {
    /// What was wrong, and what to do next.
    Said {
        message: String,
        /// Each on a line of its own.
        more: Vec<String>,
        help: Option<String>,
    },
    /// Whoever was asked said no. That is no fault.
    Declined(String),
    /// Whoever read the output has had enough.
    ReaderGone,
}

impl Failure {
    pub(crate) fn new(message: impl Into<String>) -> Self {
        Self::Said {
            message: message.into(),
            more: Vec::new(),
            help: None,
        }
    }

    /// The same, and that something was done all the same.
    pub(crate) fn after(self, done: &str) -> Self {
        match self {
            Self::Said {
                message,
                mut more,
                help,
            } => {
                more.push(done.to_owned());
                Self::Said {
                    message,
                    more,
                    help,
                }
            }
            Self::Declined(what) => Self::Declined(what),
            Self::ReaderGone => Self::ReaderGone,
        }
    }

    pub(crate) fn with_help(message: impl Into<String>, help: impl Into<String>) -> Self {
        Self::Said {
            message: message.into(),
            more: Vec::new(),
            help: Some(help.into()),
        }
    }
}

impl From<UnseenFault> for Failure {
    fn from(fault: UnseenFault) -> Self {
        let help = match &fault {
            UnseenFault::Missing(_) | UnseenFault::Dangling(_) => {
                "check the spelling; nothing was looked at"
            }
            UnseenFault::Unseen(_) => "for example --seen-at 'D:\\=/media/old-disk'",
            UnseenFault::NoFolder(_) => "name the folder that it is in",
        };
        Self::with_help(fault.to_string(), help)
    }
}

impl From<io::Error> for Failure {
    /// Errors of writing results: all others are said where they happen.
    fn from(error: io::Error) -> Self {
        // 232 and 233 are what Windows says of a closed pipe.
        let closed = error.kind() == io::ErrorKind::BrokenPipe
            || matches!(error.raw_os_error(), Some(232 | 233) if cfg!(windows));
        if closed {
            Self::ReaderGone
        } else {
            Self::new(format!("the results cannot be written: {error}"))
        }
    }
}

impl From<RecordError> for Failure {
    fn from(error: RecordError) -> Self {
        Self::new(error.to_string())
    }
}

impl From<RestoreRefusal> for Failure {
    fn from(refusal: RestoreRefusal) -> Self {
        Self::new(refusal.to_string())
    }
}

impl From<RewriteRefusal> for Failure {
    fn from(refusal: RewriteRefusal) -> Self {
        let help = match &refusal {
            RewriteRefusal::NoMoves => {
                r"say it with --move 'D:\Old=E:\New', or in a sheet (`lastmaker sheet --help`)"
            }
            RewriteRefusal::WrongFolder(_) => {
                "say where the new place is seen with --seen-at PLACE=DIR, or go on with --anyway"
            }
            RewriteRefusal::ChangeFiles(ChangeFileFault::InTheWay(_)) => {
                "move it away, or name another folder with --change-files"
            }
            RewriteRefusal::ChangeFiles(ChangeFileFault::Unwritten { .. }) => {
                "the rewrite itself is done; import the rewritten exports instead"
            }
            RewriteRefusal::Record(_) => "",
            RewriteRefusal::BeingWritten(_)
            | RewriteRefusal::BrokenOff { .. }
            | RewriteRefusal::Unfinished { .. }
            | RewriteRefusal::ChangeFiles(ChangeFileFault::Unread { .. }) => {
                return Self::new(refusal.to_string());
            }
        };
        match refusal {
            RewriteRefusal::Record(error) => error.into(),
            refusal => Self::with_help(refusal.to_string(), help),
        }
    }
}

pub(crate) type CommandResult = Result<Outcome, Failure>;

pub(crate) fn code(result: &CommandResult) -> ExitCode {
    let code = match result {
        Ok(Outcome::Clean) | Err(Failure::ReaderGone) => 0,
        Ok(Outcome::Findings) => 1,
        Err(Failure::Said { .. } | Failure::Declined(_)) => 2,
    };
    ExitCode::from(interrupt::code().unwrap_or(code))
}

/// Help and version are no errors; wrong arguments are.
pub(crate) fn code_of_usage(error: &clap::Error) -> ExitCode {
    ExitCode::from(if error.use_stderr() { 2 } else { 0 })
}
