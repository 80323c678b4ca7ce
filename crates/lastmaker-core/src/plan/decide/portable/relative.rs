//! References that are written relative to their document, so that the next move of the folder in which
//! both lie changes nothing.
//!
//! Only a string that is one reference and nothing else becomes relative, in formats whose programs are known
//! to resolve such names against the document's folder, or where the sheet says so. What the relative name
//! comes to is worked out again from the name itself and must be the new place.

use std::path::{Path, PathBuf};

use crate::codec::{FILE_URI, STRETCH};
use crate::judge::FoundIn;
use crate::layer::Edit;
use crate::open::{Document, OpenedDocument, SitePassage};
use crate::place::{Place, same_name};
use crate::relative::{Home, Kind, resolved};
use crate::scan::{Fit, Hint, fit};
use crate::sheet::{Relocation, Sheet};

use super::{Change, Respelled};

/// What a file's references are made relative to.
#[derive(Clone, Debug)]
pub(super) struct NewHome {
    home: Home,
    /// The move whose new place both lie under.
    by: usize,
    /// Whether the sheet says of this file that its references are relative.
    said: bool,
}

impl NewHome {
    /// That of the file at `canonical`, if it lies under a new place of the sheet; `said` says that the sheet
    /// names it, `folder_of` where a new place is seen.
    pub(super) fn of(
        said: bool,
        sheet: &Sheet,
        canonical: &Path,
        folder_of: impl Fn(&Place) -> Option<PathBuf>,
    ) -> Option<Self> {
        let under = |(by, to): (usize, &Place)| {
            let rest = canonical.strip_prefix(folder_of(to)?).ok()?;
            let mut place = to.clone();
            for name in rest {
                place.components.push(name.to_str()?.to_owned());
            }
            let home = Home::of(place)?;
            Some(Self { home, by, said })
        };
        let moves = sheet.moves.iter().map(|one| &one.to).enumerate();
        // The innermost new place has it.
        moves
            .filter_map(under)
            .max_by_key(|home| sheet.moves[home.by].to.components.len())
    }

    /// That of a document in the file; none if nobody resolves relative references in it. Of a part the sheet
    /// says nothing.
    pub(super) fn of_leaf(&self, leaf: &OpenedDocument<'_, '_>) -> Option<Self> {
        Some(Self {
            home: self.home.of_leaf(leaf)?,
            said: self.said && !leaf.is_part(),
            ..*self
        })
    }
}

/// What makes the reference of a case relative, which goes to `new`; none if it stays absolute.
pub(super) fn relative(
    document: &Document<'_>,
    Change {
        case,
        relocation,
        new,
        ..
    }: Change<'_>,
    NewHome { home, by, said }: &NewHome,
) -> Option<Respelled> {
    let FoundIn {
        site,
        found,
        content,
    } = case;
    let start = site.span.start().get();
    let of_sheet = said.then_some(Kind::Path);
    let kind = home.kind(document, start, &site.site).or(of_sheet)?;
    if *by != relocation.by || !names_file(site) {
        return None;
    }
    let is_uri = kind == Kind::Uri;
    let depth = depth_of_string(site, is_uri)?;
    let (ups, cut) = parting(case, relocation, new, home.folder())?;
    let (kept_names, before) = (&content[cut..], content[..cut].chars().next_back()?);
    if kept_names.is_empty() || (is_uri && content[cut - 1..].contains('\\')) {
        return None;
    }
    let lead = match ups {
        0 => format!(".{before}"),
        ups => format!("..{before}").repeat(ups),
    };
    // The string is this reference and nothing else, but for the fragment of a URI.
    let chain = site.chain.outermost(depth);
    let whole = chain.content(document.raw(&site.span));
    let kept = site.chain.span_at(depth, cut..content.len())?;
    let behind = whole.get(kept.end..)?;
    let alone = if !is_uri {
        behind.is_empty()
    } else {
        is_file_scheme(whole) && (behind.is_empty() || behind.starts_with(['#', '?']))
    };
    let names = kept_names.split(['\\', '/']);
    if !alone || found.start != 0 || !comes_to(home.folder(), ups, names, new) {
        return None;
    }
    Some(Respelled {
        chain,
        edit: Edit {
            span: 0..kept.start,
            with: lead.into_bytes(),
        },
        reads: None,
        means_them: false,
    })
}

/// Whether a reference is one that a program takes as the name of a file.
fn names_file(site: &SitePassage) -> bool {
    !matches!(
        site.hint,
        Hint::Prose | Hint::Code | Hint::Command { .. } | Hint::Script
    )
}

/// How many layers the string wears that the reference is, those of a URI left aside; none if it is a part
/// of another program's string.
fn depth_of_string(site: &SitePassage, is_uri: bool) -> Option<usize> {
    /// A URI is a stretch, with its lead and its percent-encoding.
    const OF_URI: usize = 3;
    let layers = &site.layers;
    let stands_in_uri = layers.len() >= OF_URI && layers[layers.len() - 2].name() == FILE_URI;
    if is_uri != stands_in_uri || site.chain.depth() != layers.len() {
        return None;
    }
    let depth = layers.len() - if is_uri { OF_URI } else { 0 };
    let nested = layers[..depth].iter().any(|layer| layer.name() == STRETCH);
    (!nested).then_some(depth)
}

/// How many folders up from `folder` the reference parts from it, and where in its content its own names
/// begin then, behind a separator.
fn parting(
    case: FoundIn<'_>,
    relocation: &Relocation,
    new: &Place,
    folder: &Place,
) -> Option<(usize, usize)> {
    let FoundIn { found, content, .. } = case;
    let to = &relocation.to;
    if !new.is_under(to) || !folder.is_under(to) {
        return None;
    }
    let own = folder.components.get(to.components.len()..)?;
    let wanted = new.components.get(to.components.len()..)?;
    let same = |(a, b): &(&String, &String)| same_name(a, b, !to.root.is_windows());
    let shared = own.iter().zip(wanted).take_while(same).count();
    let shared = shared.min(wanted.len().checked_sub(1)?);
    // Where the last name that both have ends in the reference.
    let mut old = found.place_until(content, relocation.end);
    old.components.truncate(relocation.depth);
    old.components.extend(wanted[..shared].iter().cloned());
    let Fit::Clear(prefix) = fit(found, content, &old, !old.root.is_windows()) else {
        return None;
    };
    let tail = content.get(prefix.end..)?;
    let names = tail.trim_start_matches(['\\', '/']);
    (names.len() < tail.len()).then_some((own.len() - shared, content.len() - names.len()))
}

fn is_file_scheme(uri: &str) -> bool {
    uri.get(..5)
        .is_some_and(|scheme| scheme.eq_ignore_ascii_case("file:"))
}

/// Whether a relative reference comes to `new`.
fn comes_to<'n>(
    folder: &Place,
    ups: usize,
    names: impl Iterator<Item = &'n str>,
    new: &Place,
) -> bool {
    let all = std::iter::repeat_n("..", ups).chain(names);
    resolved(folder, all).is_some_and(|place| place.same(new))
}
