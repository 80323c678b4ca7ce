//! Links at old places, for what cannot be told where its data went.

mod existing;
mod fewest;
mod ground;
pub mod script;
mod site;

pub use existing::{Existing, crossed, existing, link_at};
pub use fewest::{Need, fewest};
pub use site::{Refusal, Site, Verdict};

use std::path::PathBuf;

use crate::place::Place;
use crate::record::LinkKind;

/// What leads from an old place to a new one.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Way {
    /// A link of the file system; of which sort is known where the new place is seen.
    Link(Option<LinkKind>),
    /// A letter that stands in for a folder, where the old drive is gone. Windows forgets it when the user
    /// signs out.
    Letter,
}

/// A link at an old place, or one that there could be.
#[derive(Clone, Debug)]
pub struct Bridge {
    /// The old place.
    pub old: Place,
    /// The new place.
    pub new: Place,
    /// What it is.
    pub way: Way,
    /// What can be said of it.
    pub verdict: Verdict,
    /// The references that it would serve; none if they were not looked for.
    pub serves: Option<Served>,
}

/// How much goes through a link.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Served {
    /// References.
    pub references: usize,
    /// Files that they are in.
    pub files: usize,
}

/// What is to be made on this machine for a link.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Works {
    /// The link.
    pub path: PathBuf,
    /// Where it leads.
    pub target: PathBuf,
    /// Folders that it needs and that are missing, outermost first.
    pub folders: Vec<PathBuf>,
    /// What stands in the way gets this name.
    pub aside: Option<PathBuf>,
}
