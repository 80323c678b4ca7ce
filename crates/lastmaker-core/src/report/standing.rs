//! How a reference stands, and whether what it names exists: the words of the contract.

use serde::{Deserialize, Serialize};

/// How a reference stands towards the sheet.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum Standing {
    /// No move touches it.
    Elsewhere,
    /// A rewrite changes it.
    ToMove,
    /// It names a new place.
    Moved,
    /// An exception of the sheet keeps it, or it names nothing on this machine.
    Kept,
    /// It names the old place after a rewrite.
    Leftover,
    /// It could be read two ways.
    Doubtful,
    /// It is evidently mistyped.
    Malformed,
    /// It is in a document, or in a part of one, that cannot be rewritten safely.
    Sealed,
    /// Entries that must differ would become the same.
    Collision,
}

impl Standing {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Elsewhere => "elsewhere",
            Self::ToMove => "to-move",
            Self::Moved => "moved",
            Self::Kept => "kept",
            Self::Leftover => "leftover",
            Self::Doubtful => "doubtful",
            Self::Malformed => "malformed",
            Self::Sealed => "sealed",
            Self::Collision => "collision",
        }
    }
}

/// Whether a place exists.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Target {
    /// It exists.
    Live,
    /// Its root is seen, but the place is not there.
    Dangling,
    /// Its root is not to be seen from here, so nobody can tell.
    Unreachable,
}

impl Target {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Live => "live",
            Self::Dangling => "dangling",
            Self::Unreachable => "unreachable",
        }
    }
}
