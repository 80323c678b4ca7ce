//! The files of a tree: walking it in parallel, what may be looked at, ruling files out fast.

mod entry;
mod fault;
mod globs;
mod in_use;
mod media;
mod scope;
mod sieve;
mod walk;

pub use entry::{Content, Entry, Facts, Names};
pub use fault::{FileFault, ScanFault};
pub use globs::GlobFault;
pub use in_use::InUse;
pub use scope::{ReadAsFault, Scope};
pub use sieve::Sieve;
pub use walk::{Scan, Walked, walk};
