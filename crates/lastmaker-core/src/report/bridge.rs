//! What is told of links at old places.

use serde::Serialize;

use super::{Answer, LeftFile, is_zero};

/// `bridge`: links at old places, those that there could be, and what was done with them.
#[derive(Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct BridgeReport {
    /// The links, by move and old place.
    pub bridges: Vec<BridgeLine>,
    /// Whether it tells only of links that stand already.
    #[serde(skip)]
    pub only_standing: bool,
    /// References that name an old place and will go on doing so, but whose new place is not there
    /// either: no link serves them.
    #[serde(skip_serializing_if = "is_zero")]
    pub beyond_help: usize,
    /// References that a rewrite can change, so that they need no link.
    #[serde(skip_serializing_if = "is_zero")]
    pub to_rewrite: usize,
    /// The record of what was done.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub kept_in: Option<String>,
    /// Files that could not be looked at.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub left: Vec<LeftFile>,
}

/// One link, or one that there could be.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct BridgeLine {
    /// The old place.
    pub old: String,
    /// The new place, or where the link leads.
    pub new: String,
    /// What it is.
    pub kind: BridgeKind,
    /// How it stands.
    pub state: BridgeState,
    /// The short name of why it stands so.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reason: Option<&'static str>,
    /// Why it stands so.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub why: Option<String>,
    /// References that it serves, if they were looked for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub references: Option<usize>,
    /// Files that they are in.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub files: Option<usize>,
    /// Folders that it needs and that are missing.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub folders: Vec<String>,
    /// What stands in the way would get, or got, this name.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub set_aside: Option<String>,
}

/// What leads from an old place to a new one.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum BridgeKind {
    /// A link, of which sort shows where it is made.
    Link,
    /// A symbolic link.
    SymbolicLink,
    /// A junction.
    Junction,
    /// A drive's letter that stands in for a folder.
    Letter,
}

/// How a link stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum BridgeState {
    /// It can be made here.
    Possible,
    /// It is not to be seen from here whether it can: a script looks where it is run.
    Unseen,
    /// It could be made, but the places are another machine's: a script makes it there.
    Elsewhere,
    /// It stands already.
    Stands,
    /// It cannot be made.
    Refused,
    /// It was made.
    Made,
    /// It was taken away.
    Taken,
    /// It was left, as it could not be done.
    Left,
    /// References go through it.
    Needed,
    /// None does.
    Needless,
    /// What it leads to is not there.
    Broken,
    /// It cannot be followed.
    Blocked,
}

impl BridgeState {
    /// Whether somebody has to do something about it.
    fn wants_attention(self) -> bool {
        matches!(
            self,
            Self::Refused | Self::Left | Self::Broken | Self::Blocked
        )
    }
}

impl Answer for BridgeReport {
    fn command(&self) -> &'static str {
        "bridge"
    }

    fn has_findings(&self) -> bool {
        self.beyond_help > 0
            || !self.left.is_empty()
            || self.bridges.iter().any(|one| one.state.wants_attention())
    }
}
