//! Walking trees in parallel, ruling files out fast, reading one document.

mod inner;
mod read;
mod scope;
mod sieve;
mod walk;

pub use read::{Document, Reading, SitePassage};
pub use scope::{GlobFault, ReadAsFault, Scope};
pub use sieve::Sieve;
pub use walk::{Entry, Scan, ScanFault, Walked, walk};

pub(crate) use walk::explain;
