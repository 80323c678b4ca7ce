//! The phases of a run, each a span that whoever wants to know its cost can time. Without anybody who listens a span
//! costs next to nothing.

use tracing::{Level, Span, span};

/// What is traced is traced under this name.
pub const TARGET: &str = "lastmaker";

/// A phase of a run.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Phase {
    /// Folders are listed, and the files in them looked at.
    Walk,
    /// Files are read.
    Read,
    /// Files are ruled out by a first look.
    Sieve,
    /// Documents are read, and changes planned.
    Plan,
    /// New copies are read again and proved.
    Prove,
    /// Changes are written.
    Commit,
}

impl Phase {
    /// A span that lasts as long as the phase does.
    pub fn span(self) -> Span {
        match self {
            Self::Walk => span!(target: TARGET, Level::DEBUG, "walk"),
            Self::Read => span!(target: TARGET, Level::DEBUG, "read"),
            Self::Sieve => span!(target: TARGET, Level::DEBUG, "sieve"),
            Self::Plan => span!(target: TARGET, Level::DEBUG, "plan"),
            Self::Prove => span!(target: TARGET, Level::DEBUG, "prove"),
            Self::Commit => span!(target: TARGET, Level::DEBUG, "commit"),
        }
    }
}
