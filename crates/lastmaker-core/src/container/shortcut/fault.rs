//! Why a string of a shortcut cannot be changed.

use thiserror::Error;

/// Why a string of a shortcut cannot be changed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub(super) enum ShortcutFault {
    #[error("the shortcut has no target")]
    NoTarget,
    #[error(
        "its target is told by a list of items that has no form for the new place; make the shortcut anew"
    )]
    NoFormInItems,
    #[error("the string is gone")]
    StringGone,
    #[error("the new target is too long")]
    TargetTooLong,
    #[error("the new string is longer than a shortcut can hold")]
    StringTooLong,
    #[error("the new path is longer than the 259 letters that this block can hold")]
    BlockTooShort,
    #[error(
        "the shortcut's strings are in an unnamed code page, which may lack a letter of the new place"
    )]
    UnnamedCodePage,
}
