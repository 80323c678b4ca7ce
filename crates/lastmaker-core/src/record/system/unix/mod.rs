//! Files on systems like POSIX.

mod belongings;
pub(in crate::record) mod folder;
mod link;
#[cfg(target_os = "linux")]
mod linux;
#[cfg(not(target_os = "linux"))]
mod other;

pub use link::kind_of_link;
pub(in crate::record) use link::{new_link, remove_link};
#[cfg(target_os = "linux")]
pub(in crate::record) use linux::sync_file_systems;
#[cfg(not(target_os = "linux"))]
pub(in crate::record) use other::sync_file_systems;

#[cfg(target_os = "linux")]
use linux::flags;
#[cfg(not(target_os = "linux"))]
use other::flags;
