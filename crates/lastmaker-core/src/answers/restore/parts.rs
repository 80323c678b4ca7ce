//! What of a file is taken back piece by piece.

use crate::record::{Manifest, RestoreItem, SiteChange, original_content, present_content};
use crate::report::TakenBackSite;

use crate::undo::{Undoing, Undone, undo};

/// Takes back in a file's present content what the rewrite changed, or what the move `by` did.
pub(super) fn undone(
    record: &Manifest,
    item: &RestoreItem,
    by: Option<usize>,
    max_document: u64,
) -> Undone {
    let sites: Vec<SiteChange> = item.entry.sites.iter().collect();
    let contents = original_content(record, item, max_document)
        .and_then(|original| Ok((original, present_content(item, max_document)?)));
    let Ok((original, present)) = contents else {
        return Undone {
            content: None,
            taken_back: vec![false; sites.len()],
        };
    };
    let path = item.entry.path.to_path();
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    undo(Undoing {
        name: &name,
        original: &original,
        present: &present,
        sites: &sites,
        by,
        max_document,
    })
}

/// Each stretch, and whether it is taken back; those that were not to be are passed over.
pub(super) fn told(item: &RestoreItem, undone: &Undone) -> Vec<TakenBackSite> {
    let sites = item.entry.sites.iter().zip(&undone.taken_back);
    let told = sites.map(|(site, taken_back)| TakenBackSite {
        was: before(&site),
        site: site.site,
        written: site.now,
        taken_back: *taken_back,
    });
    told.collect()
}

/// A stretch as it was before the rewrite.
fn before(site: &SiteChange) -> String {
    let mut text = String::with_capacity(site.now.len());
    let mut from = 0;
    for edit in &site.was {
        text.push_str(site.now.get(from..edit.at).unwrap_or(""));
        text.push_str(&edit.was);
        from = edit.at + edit.length;
    }
    text.push_str(site.now.get(from..).unwrap_or(""));
    text
}
