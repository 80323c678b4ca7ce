//! What belongs to a file besides its content: mode, owner, access list, attributes.

use serde::{Deserialize, Serialize};

use crate::record::written::RawText;

/// What belongs to a file besides its content, as far as the system has it.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Belongings {
    /// The mode's permissions (POSIX), or the attributes (Windows).
    pub mode: u32,
    /// Number of the owner.
    #[serde(default)]
    pub owner: u32,
    /// Number of the group.
    #[serde(default)]
    pub group: u32,
    /// The flags that `chattr` sets, those of them that a user may set.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub flags: u32,
    /// Extended attributes, access lists among them.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub attributes: Vec<(RawText, RawText)>,
}

fn is_zero(flags: &u32) -> bool {
    *flags == 0
}
