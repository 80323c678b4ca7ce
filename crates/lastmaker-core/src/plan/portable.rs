//! References that are written relative to their document, so that the next move of the folder in which
//! both lie changes nothing.
//!
//! Only a string that is one reference and nothing else becomes relative, in formats whose programs are known
//! to resolve such names against the document's folder, or where the sheet says so. What the relative name
//! comes to is worked out again from the name itself and must be the new place.

use std::path::Path;

use crate::codec::{FILE_URI, STRETCH};
use crate::format::Role;
use crate::job::Portable;
use crate::judge::Case;
use crate::layer::{Edit, OpenedChain};
use crate::open::{Document, SitePassage};
use crate::place::{Fit, Hint, Place, fit, same_name};
use crate::sheet::{Relocation, Sheet};

/// The folder against which a file's relative references are resolved.
#[derive(Clone, Debug)]
pub struct Home {
    /// The folder.
    folder: Place,
    /// The file's own name.
    file: String,
    /// The move whose new place both lie under.
    by: usize,
    /// Whether the sheet says of this file that its references are relative.
    said: bool,
    /// Whether it is the home of a part of the file.
    part: bool,
}

/// How a format's programs take relative references.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Kind {
    /// As paths.
    Path,
    /// As references of URIs (RFC 3986, 4.2).
    Uri,
}

impl Home {
    /// The home of the file at `canonical`, if it lies under a new place of the sheet; `below` is its path
    /// below the scope, `folder_of` says where a new place is seen.
    pub(super) fn of(
        portable: Portable<'_>,
        sheet: &Sheet,
        canonical: &Path,
        below: &Path,
        folder_of: impl Fn(&Place) -> Option<std::path::PathBuf>,
    ) -> Option<Self> {
        let said = portable
            .said
            .is_some_and(|globs| !globs.leaves_out(below, false));
        if !said && !portable.known {
            return None;
        }
        let under = |(by, to): (usize, &Place)| {
            let rest = canonical.strip_prefix(folder_of(to)?).ok()?;
            let names = rest.iter().map(|name| name.to_str().map(str::to_owned));
            let mut names: Vec<String> = names.collect::<Option<_>>()?;
            let file = names.pop()?;
            let mut folder = to.clone();
            folder.components.extend(names);
            Some(Self {
                folder,
                file,
                by,
                said,
                part: false,
            })
        };
        let moves = sheet.moves.iter().map(|one| &one.to).enumerate();
        // The innermost new place has it.
        moves
            .filter_map(under)
            .max_by_key(|home| sheet.moves[home.by].to.components.len())
    }

    /// The home of a part of the file; none if nobody resolves relative references in it.
    ///
    /// In an OpenDocument package they are resolved against the package as if it were a folder (OpenDocument
    /// 1.2, part 3, 3.7), in an Office Open XML package those to what is outside against the package's folder
    /// (ECMA-376, part 2, 9.3).
    pub(super) fn of_part(&self, way: &str) -> Option<Self> {
        let (_, extension) = self.file.rsplit_once('.')?;
        let is_one_of = |all: &[&str]| all.iter().any(|one| extension.eq_ignore_ascii_case(one));
        let mut home = Self {
            part: true,
            ..self.clone()
        };
        // What the sheet says of a file is not said of a package's parts.
        home.said = false;
        if is_one_of(&["odt", "ods", "odp", "odg", "ott", "ots", "otp"])
            && ["content.xml", "styles.xml"].contains(&way)
        {
            home.folder.components.push(self.file.clone());
            return Some(home);
        }
        let rels = way.ends_with(".rels");
        (rels && is_one_of(&["docx", "xlsx", "pptx", "docm", "xlsm", "pptm"])).then_some(home)
    }

    /// Whether, and how, a reference of a document becomes relative: in formats that are known only where
    /// its program takes it for the address of a file.
    fn kind(&self, document: &Document<'_>, site: &SitePassage) -> Option<Kind> {
        let text = &document.text.content;
        let file_list = ["playlist", "cue-sheet"].contains(&document.format.name())
            || self.file.to_ascii_lowercase().ends_with(".pls");
        let address = match document.format.name() {
            _ if file_list => return Some(Kind::Path),
            "html" => is_address(&site.site, &["href", "src", "poster", "data"]) && !has_base(text),
            "xml" if self.part => is_address(&site.site, &["xlink:href", "Target"]),
            "style-sheet" => {
                let before = text[..site.span.start().get()].trim_end_matches(['"', '\'', ' ']);
                before.ends_with("url(") || before.ends_with("@import")
            }
            _ if self.said => return Some(Kind::Path),
            _ => false,
        };
        address.then_some(Kind::Uri)
    }
}

/// Whether a way ends with one of these names.
fn is_address(site: &str, names: &[&str]) -> bool {
    let last = site.rsplit('.').next().unwrap_or(site);
    names.iter().any(|name| last.eq_ignore_ascii_case(name))
}

/// Whether a page says itself what its relative references are resolved against (HTML, 4.2.3).
fn has_base(text: &str) -> bool {
    let mut tags = memchr::memchr_iter(b'<', text.as_bytes());
    tags.any(|at| {
        text.get(at + 1..at + 5)
            .is_some_and(|tag| tag.eq_ignore_ascii_case("base"))
    })
}

/// A reference that becomes relative: an edit of the string that it is.
#[derive(Clone, Debug)]
pub(crate) struct Relative {
    /// The string with its layers taken off, but for those of the URI.
    pub(super) chain: OpenedChain,
    /// What is put in.
    pub(super) edit: Edit,
}

impl Relative {
    /// What the string reads then; `raw` is its passage as written.
    pub(super) fn content(&self, raw: &str) -> String {
        let kept = &self.chain.content(raw)[self.edit.span.end..];
        format!("{}{kept}", String::from_utf8_lossy(&self.edit.with))
    }
}

/// What makes the reference of a case relative, which goes to `new`; none if it stays absolute.
pub(super) fn relative(
    document: &Document<'_>,
    case: Case<'_>,
    relocation: &Relocation,
    new: &Place,
    home: &Home,
) -> Option<Relative> {
    let Case {
        site,
        found,
        content,
    } = case;
    let kind = home.kind(document, site)?;
    if home.by != relocation.by || !is_plain(case, relocation, new) {
        return None;
    }
    let is_uri = kind == Kind::Uri;
    let depth = depth_of_string(site, is_uri)?;
    let (ups, cut) = parting(case, relocation, new, &home.folder)?;
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
    let alone = match is_uri {
        false => behind.is_empty(),
        true => is_file_scheme(whole) && (behind.is_empty() || behind.starts_with(['#', '?'])),
    };
    let names = kept_names.split(['\\', '/']);
    if !alone || found.start != 0 || !comes_to(&home.folder, ups, names, new) {
        return None;
    }
    Some(Relative {
        chain,
        edit: Edit {
            span: 0..kept.start,
            with: lead.into_bytes(),
        },
    })
}

/// Whether a reference is one that a program takes as the name of a file, as it stands.
fn is_plain(case: Case<'_>, relocation: &Relocation, new: &Place) -> bool {
    let Case { site, found, .. } = case;
    let text = matches!(site.hint, Hint::Prose | Hint::Code);
    let command = matches!(site.hint, Hint::Command { .. } | Hint::Script);
    let crosses = found.root.is_windows() != new.root.is_windows();
    let odd = found.doubt.is_some() || found.flaw.is_some() || relocation.seen.is_some();
    site.role == Role::Value && !text && !command && !crosses && !odd
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
    case: Case<'_>,
    relocation: &Relocation,
    new: &Place,
    folder: &Place,
) -> Option<(usize, usize)> {
    let Case { found, content, .. } = case;
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
    let mut place = folder.clone();
    let Some(kept) = place.components.len().checked_sub(ups) else {
        return false;
    };
    place.components.truncate(kept);
    for name in names {
        match name {
            "" | "." => {}
            ".." => {
                if place.components.pop().is_none() {
                    return false;
                }
            }
            name => place.components.push(name.to_owned()),
        }
    }
    place.same(new)
}
