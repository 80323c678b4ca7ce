//! Walking trees in parallel, ruling files out fast, reading one document.

mod inner;
mod inside;
mod read;
mod scope;
mod sieve;
mod walk;

pub use inside::{
    Kind, LINK, Leaf, Looking, join_ways, kind_of, look_at_link, look_inside, stands_at,
};
pub use read::{Document, Reading, SitePassage};
pub use scope::{GlobFault, ReadAsFault, Scope};
pub use sieve::Sieve;
pub use walk::{Content, Entry, Scan, ScanFault, Walked, walk};

pub(crate) use inside::{summed_up, too_deep};
pub(crate) use walk::explain;
