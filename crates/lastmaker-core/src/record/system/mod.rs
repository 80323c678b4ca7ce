//! What systems do differently with a file that is kept, replaced or linked: each has a folder, which has all that
//! only it does, and which is the only code of a record that knows on which system it runs.

pub(super) mod belongings;
pub(super) mod durable;
pub(super) mod folder;
pub(super) mod link;
#[cfg(unix)]
mod unix;
#[cfg(windows)]
mod windows;

#[cfg(unix)]
use unix as this;
#[cfg(windows)]
use windows as this;

pub use this::kind_of_link;
pub(super) use this::{new_link, remove_link};
