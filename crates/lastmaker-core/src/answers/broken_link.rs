//! Links of the file system that are relative and lead nowhere.

use std::path::{Path, PathBuf};

use crate::open::LINK;
use crate::place::Place;
use crate::report::{FileName, Reference, Standing, Target};
use crate::tree::{Content, Entry};

/// The reference that a relative link is which leads nowhere, and where it would lead; it is judged whatever the sheet
/// says, since the moves cannot speak of it.
pub(super) fn broken_link(entry: &Entry<'_>) -> Option<(Reference, Place)> {
    let Content::Link(target) = entry.content else {
        return None;
    };
    let folder = entry.path.parent().unwrap_or(Path::new(""));
    let why = match leads(folder, target) {
        Leads::Somewhere => return None,
        Leads::Nowhere => "the link is relative and leads nowhere",
        Leads::Round => "the link leads round to itself",
    };
    // Where it would lead: its folder's real place, and from there as it says.
    let place = folder.canonicalize().ok()?.join(target);
    let place = Place::parse(&place.to_string_lossy()).ok()?;
    let name = FileName::from(entry.path);
    let written = target.to_string_lossy();
    let reference = Reference {
        target: Some(Target::Dangling),
        why: Some(why.to_owned()),
        ..Reference::new(name, &written, place.to_string(), Standing::Elsewhere, LINK)
    };
    Some((reference, place))
}

/// How far a relative link leads.
enum Leads {
    Somewhere,
    Nowhere,
    Round,
}

/// Follows a relative link in `folder` as long as it leads to relative ones.
fn leads(folder: &Path, target: &Path) -> Leads {
    // Systems follow about as many.
    const MOST_LINKS: usize = 40;
    let mut folder: PathBuf = folder.to_owned();
    let mut target = target.to_owned();
    for _ in 0..MOST_LINKS {
        if !target.is_relative() || target.has_root() {
            return Leads::Somewhere;
        }
        let there = folder.join(&target);
        if there.symlink_metadata().is_err() {
            return Leads::Nowhere;
        }
        match crate::record::link_target(&there) {
            Some(next) => {
                folder = there.parent().map(Path::to_owned).unwrap_or_default();
                target = next;
            }
            None => return Leads::Somewhere,
        }
    }
    Leads::Round
}
