//! Files on Windows.

mod belongings;
pub(in crate::record) mod folder;
mod link;

use std::fs::File;

pub use link::kind_of_link;
pub(in crate::record) use link::{new_link, remove_link};

/// Syncs the file systems on which `files` lie: that asks for rights that a user does not have.
pub(in crate::record) fn sync_file_systems(_: &[File]) -> bool {
    false
}
