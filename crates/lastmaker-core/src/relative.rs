//! What a document's relative references are resolved against, in formats of which that is known.

use std::cell::OnceCell;

use crate::codec::{PERCENT, Percent, UriPart, encode_fresh};
use crate::format::{Passage, Role, site_text};
use crate::layer::{Layer, OpenedChain};
use crate::open::{Document, OpenedDocument};
use crate::place::{OPAQUE, Place, Root, same_name};
use crate::report::Target;
use crate::resolve::Resolver;
use crate::scan::is_file_name;
use crate::sheet::Sheet;

/// A name in the path of a URI, in which nothing but unreserved letters stands for itself (RFC 3986, 2.3).
const IN_URI: Percent = Percent {
    part: UriPart::Component,
};

/// The folder against which a file's relative references are resolved.
#[derive(Clone, Debug)]
pub struct Home {
    folder: Place,
    /// The file's own name.
    file: String,
    /// Which package it is a part of, if it is one.
    package: Option<Package>,
    /// Whether the page says itself what its relative references are resolved against.
    has_base: OnceCell<bool>,
}

/// Packages whose parts name files outside of them.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Package {
    OpenDocument,
    OfficeOpenXml,
}

/// How a format's programs take relative references.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Kind {
    /// As paths.
    Path,
    /// As references of URIs (RFC 3986, 4.2).
    Uri,
}

impl Home {
    /// The home of the file at a place; none if that is a root.
    pub fn of(place: Place) -> Option<Self> {
        let mut folder = place;
        let file = folder.components.pop()?;
        Some(Self {
            folder,
            file,
            package: None,
            has_base: OnceCell::new(),
        })
    }

    /// The folder; for a part of a package it may be the package itself.
    pub fn folder(&self) -> &Place {
        &self.folder
    }

    /// The same document in another folder.
    pub fn moved_to(&self, folder: Place) -> Self {
        Self {
            folder,
            ..self.clone()
        }
    }

    /// The home of a document in the file: of the file itself, or of a part of it, as [`Self::of_part`] says.
    pub(crate) fn of_leaf(&self, leaf: &OpenedDocument<'_, '_>) -> Option<Self> {
        if leaf.is_part() {
            self.of_part(leaf.way)
        } else {
            Some(self.clone())
        }
    }

    /// The home of a part of the file; none if nobody resolves relative references in it.
    ///
    /// In an OpenDocument package they are resolved against the package as if it were a folder (OpenDocument
    /// 1.2, part 3, 3.7), in an Office Open XML package those to what is outside against the package's folder
    /// (ECMA-376, part 2, 9.3).
    pub fn of_part(&self, way: &str) -> Option<Self> {
        let (_, extension) = self.file.rsplit_once('.')?;
        let is_one_of = |all: &[&str]| all.iter().any(|one| extension.eq_ignore_ascii_case(one));
        let open = is_one_of(&["odt", "ods", "odp", "odg", "ott", "ots", "otp"]);
        let office = is_one_of(&["docx", "xlsx", "pptx", "docm", "xlsm", "pptm"]);
        let mut home = self.clone();
        if open && ["content.xml", "styles.xml"].contains(&way) {
            home.folder.components.push(self.file.clone());
            home.package = Some(Package::OpenDocument);
            return Some(home);
        }
        home.package = Some(Package::OfficeOpenXml);
        (office && way.ends_with(".rels")).then_some(home)
    }

    /// Whether, and how, the string of a document that begins at `start` of its text and has the way `site` is
    /// taken for the address of a file.
    pub fn kind(&self, document: &Document<'_>, start: usize, site: &str) -> Option<Kind> {
        let text = &document.text.content;
        let last = site.rsplit('.').next().unwrap_or(site);
        let is = |names: &[&str]| names.iter().any(|name| last.eq_ignore_ascii_case(name));
        let numbered = |name: &str| {
            let rest = last
                .get(..name.len())
                .filter(|it| it.eq_ignore_ascii_case(name));
            rest.is_some() && last[name.len()..].bytes().all(|b| b.is_ascii_digit())
        };
        let (kind, is_address) = match (document.format.name(), self.package) {
            ("playlist", None) => (Kind::Path, true),
            ("cue-sheet", None) => (Kind::Path, is(&["FILE"])),
            ("ini", None) if self.is_called(".pls") => (Kind::Path, numbered("File")),
            ("html", None) => {
                let named = is(&["href", "src", "poster", "data"]);
                let has_base = || *self.has_base.get_or_init(|| has_base(text));
                (Kind::Uri, named && !has_base())
            }
            ("style-sheet", None) => {
                let before = text[..start].trim_end_matches(['"', '\'', ' ']);
                let address = before.ends_with("url(") || before.ends_with("@import");
                (Kind::Uri, address)
            }
            ("xml", Some(Package::OpenDocument)) => (Kind::Uri, is(&["xlink:href"])),
            ("xml", Some(Package::OfficeOpenXml)) => {
                (Kind::Uri, is(&["Target"]) && is_external(text, start))
            }
            _ => return None,
        };
        is_address.then_some(kind)
    }

    fn is_called(&self, extension: &str) -> bool {
        self.file.to_ascii_lowercase().ends_with(extension)
    }

    /// The place that `content` names relative to the document; none if it is no relative reference to a
    /// file.
    pub fn place_of(&self, content: &str, kind: Kind) -> Option<Place> {
        const NO_NAMES: [char; 9] = ['{', '}', '<', '>', '$', '*', '|', '\n', '"'];
        if content.is_empty() || content.contains(NO_NAMES) {
            return None;
        }
        let windows = self.folder.root.is_windows();
        match kind {
            Kind::Path => {
                let absolute = content.starts_with(['/', '\\', '~', '%', '#']);
                if absolute || content.contains(':') || (!windows && content.contains('\\')) {
                    return None;
                }
                let bare = !content.contains(['/', '\\']);
                if bare && !is_file_name(content) {
                    return None;
                }
                resolved(&self.folder, content.split(['/', '\\']))
            }
            Kind::Uri => {
                let path = &content[..content.find(['?', '#']).unwrap_or(content.len())];
                let first = path.split('/').next().unwrap_or_default();
                // Behind a scheme, or in another package, it is no name from here.
                let inside = self.package == Some(Package::OpenDocument) && first != "..";
                if path.is_empty() || path.starts_with(['/', '\\']) || first.contains(':') || inside
                {
                    return None;
                }
                if !path.contains('/') && !is_file_name(path) {
                    return None;
                }
                let names: Option<Vec<String>> = path.split('/').map(decoded).collect();
                resolved(&self.folder, names?.iter().map(String::as_str))
            }
        }
    }
}

impl Home {
    /// Whether a place can be named relative to the document: it lies below the same root.
    pub fn reaches(&self, place: &Place) -> bool {
        self.folder.root == place.root && !place.components.is_empty()
    }

    /// How a place is named in full; none if there is no such address.
    pub fn written_in_full(&self, place: &Place, kind: Kind) -> Option<String> {
        match (kind, &place.root) {
            (Kind::Path, _) => Some(place.to_string()),
            (Kind::Uri, Root::Share { .. }) => None,
            (Kind::Uri, root) => {
                let root = match root {
                    Root::Drive(letter) => format!("file:///{letter}:"),
                    _ => "file://".to_owned(),
                };
                let mut names = place.components.iter();
                names.try_fold(root, |uri, name| {
                    Some(format!("{uri}/{}", encode_fresh(&IN_URI, name)?))
                })
            }
        }
    }

    /// How the document names a place that it reaches, in place of `content`; none if what is written would
    /// not name it.
    pub fn written(&self, place: &Place, content: &str, kind: Kind) -> Option<String> {
        let backslash = kind == Kind::Path && self.folder.root.is_windows();
        let separator = match content.find(['/', '\\']) {
            Some(at) if kind == Kind::Path => &content[at..=at],
            None if backslash => "\\",
            _ => "/",
        };
        let name = |name: &String| match kind {
            Kind::Path => Some(name.clone()),
            Kind::Uri => encode_fresh(&IN_URI, name),
        };
        let windows = place.root.is_windows();
        let same = |(a, b): &(&String, &String)| same_name(a, b, !windows);
        let both = self.folder.components.iter().zip(&place.components);
        let shared = both
            .take_while(same)
            .count()
            .min(place.components.len() - 1);
        let ups = self.folder.components.len() - shared;
        let mut names = vec!["..".to_owned(); ups];
        if ups == 0 {
            names.push(".".to_owned());
        }
        let own: Option<Vec<String>> = place.components[shared..].iter().map(name).collect();
        names.extend(own?);
        let text = names.join(separator);
        let comes_to = self.place_of(&text, kind)?;
        comes_to.same(place).then_some(text)
    }
}

/// A string of a document that names a file relative to it.
pub(crate) struct RelativeReference {
    /// The string with its layers taken off, but for percent-encoding: whoever resolves addresses takes that
    /// off.
    pub(crate) chain: OpenedChain,
    /// What it reads so.
    pub(crate) content: String,
    /// How it is taken.
    pub(crate) kind: Kind,
    /// The way to it.
    pub(crate) way: String,
    /// What it names from where its document lies.
    pub(crate) place: Place,
}

impl RelativeReference {
    /// Reads a passage as one; none if it is something else.
    pub(crate) fn read(
        home: &Home,
        document: &Document<'_>,
        passage: &Passage<'_>,
    ) -> Option<Self> {
        let way = site_text(passage.site);
        let kind = home.kind(document, passage.span.start, &way)?;
        if passage.role != Role::Value {
            return None;
        }
        let worn = match passage.layers.split_last() {
            Some((last, others)) if last.name() == PERCENT => others.into(),
            _ => passage.layers.clone(),
        };
        let raw = &document.text.content[passage.span.clone()];
        let chain = OpenedChain::open(&worn, raw.as_bytes()).ok()?;
        let content = chain.content(raw).to_owned();
        let place = home.place_of(&content, kind)?;
        Some(Self {
            chain,
            content,
            kind,
            way,
            place,
        })
    }

    /// What it named before the moves, where that is now, and by which move: of its document, or of what it
    /// names. None if that is not there.
    pub(crate) fn meant(
        &self,
        home: &Home,
        sheet: &Sheet,
        resolver: &Resolver,
    ) -> Option<(Place, Place, usize)> {
        let folder = home.folder();
        let of_document = sheet.arrived_by(folder);
        let origins = sheet.origins(folder).into_iter();
        let before = origins.map(|origin| (origin, of_document));
        let mut folders = before.chain([(folder.clone(), None)]);
        folders.find_map(|(folder, by)| {
            let old = home.moved_to(folder).place_of(&self.content, self.kind)?;
            let moved = sheet.moved_by(&old);
            let moved = moved.map(|(of_target, new)| (new, Some(of_target)));
            // What the moves name may have stayed where it was.
            let mut now = moved.into_iter().chain([(old.clone(), by)]);
            let there = |(new, _): &(Place, _)| resolver.target(new) == Target::Live;
            let (new, by) = now.find(there)?;
            Some((old, new, by?))
        })
    }
}

/// What names lead to from a folder; none above its root.
pub fn resolved<'n>(folder: &Place, names: impl Iterator<Item = &'n str>) -> Option<Place> {
    let mut place = folder.clone();
    for name in names {
        match name {
            "" | "." => {}
            ".." => {
                place.components.pop()?;
            }
            name => place.components.push(name.to_owned()),
        }
    }
    Some(place)
}

/// A name without its percent-encoding; none if that is no UTF-8.
fn decoded(name: &str) -> Option<String> {
    let opened = IN_URI.open(name.as_bytes()).ok()?;
    let name = String::from_utf8(opened.content).ok()?;
    (!name.contains(OPAQUE)).then_some(name)
}

/// Whether a page says itself what its relative references are resolved against (HTML, 4.2.3).
fn has_base(text: &str) -> bool {
    let mut tags = memchr::memchr_iter(b'<', text.as_bytes());
    tags.any(|at| {
        text.get(at + 1..at + 5)
            .is_some_and(|tag| tag.eq_ignore_ascii_case("base"))
    })
}

/// Whether the relationship around `at` leads out of its package.
fn is_external(text: &str, at: usize) -> bool {
    let open = text[..at].rfind('<').unwrap_or(0);
    let close = text[at..].find('>').map_or(text.len(), |n| at + n);
    text[open..close].contains("External")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_document_names_relative_to_it() {
        let home = |place: &str| Home::of(Place::parse(place).unwrap()).unwrap();
        let posix = home("/srv/herbarium/a.odt");
        let home = home(r"H:\Herbarium\Lists\a.m3u");
        let part = posix.of_part("content.xml").unwrap();
        let cases: &[(&Home, Kind, &str, &str)] = &[
            (
                &home,
                Kind::Path,
                r"..\Sheets\a.tif",
                r"H:\Herbarium\Sheets\a.tif",
            ),
            (
                &home,
                Kind::Path,
                "x/./a.tif",
                r"H:\Herbarium\Lists\x\a.tif",
            ),
            (&home, Kind::Path, r"..\..\..\a.tif", ""),
            (&home, Kind::Path, r"D:\a.tif", ""),
            (&home, Kind::Path, "http://x.example/a", ""),
            (&home, Kind::Path, r"\a", ""),
            (&posix, Kind::Path, r"a\b", ""),
            (
                &home,
                Kind::Uri,
                "../Sheets/a%20b.tif#top",
                r"H:\Herbarium\Sheets\a b.tif",
            ),
            (&home, Kind::Uri, "#top", ""),
            (&home, Kind::Uri, "mailto:ines@x.example", ""),
            (&home, Kind::Uri, "{{ name }}/x", ""),
            (&home, Kind::Uri, "%ff/x", ""),
            (&part, Kind::Uri, "Pictures/1.png", ""),
            (&part, Kind::Uri, "../1.png", "/srv/herbarium/1.png"),
        ];
        for (home, kind, content, expected) in cases {
            let place = home.place_of(content, *kind);
            let place = place.map(|place| place.to_string()).unwrap_or_default();
            assert_eq!(place, *expected, "{content}");
        }
        assert!(posix.of_part("meta.xml").is_none());
    }
}
