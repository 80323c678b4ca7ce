//! Reading one document: its text, its format, its passages with places in them.

use std::ops::Range;
use std::sync::Arc;

use super::inner::inner;
use crate::format::{Format, Grammar, Passage, Role, VALUE, recognise, site_text};
use crate::layer::{Layers, OpenedChain};
use crate::place::{Finder, Found, Hint, may_hold_place};
use crate::sheet::Decision;
use crate::text::{Encoding, Text};

/// What the technician says of documents that do not show it themselves.
#[derive(Clone, Copy, Default)]
pub struct Reading {
    /// The encoding of eight-bit text.
    pub encoding: Option<Encoding>,
    /// The format.
    pub format: Option<&'static dyn Format>,
    /// That it is a string by itself, in UTF-8, and what is known of it.
    pub value: Option<Hint>,
}

impl Reading {
    /// The reading of a part of a container: what is said of the file's format is not said of
    /// its parts.
    pub(crate) fn of_part(self) -> Self {
        Self {
            format: None,
            value: None,
            ..self
        }
    }

    /// The reading of a string by itself.
    pub(crate) fn of_string(hint: Hint) -> Self {
        Self {
            value: Some(hint),
            ..Self::default()
        }
    }
}

impl std::fmt::Debug for Reading {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Reading")
            .field("encoding", &self.encoding)
            .field("format", &self.format.map(Format::name))
            .field("value", &self.value)
            .finish()
    }
}

/// A document whose text and format are known.
pub struct Document<'a> {
    /// The decoded text.
    pub text: Text<'a>,
    /// The format that reads it.
    pub format: &'static dyn Format,
    /// The name of the format that it claims to be of, and whose grammar it breaks; then it is
    /// read as plain text.
    pub broke: Option<&'static str>,
    /// Why nothing in it may be changed.
    pub sealed: Option<&'static str>,
    value: Option<Hint>,
}

/// A passage that holds places.
#[derive(Debug)]
pub struct SitePassage {
    /// Which passage of the document it is, counted from 0.
    pub ordinal: usize,
    /// Its span in the document's text, in bytes.
    pub span: Range<usize>,
    /// What it is.
    pub role: Role,
    /// What its format knows of it beside its text.
    pub hint: Hint,
    /// The way to it, as people read it.
    pub site: String,
    /// What wraps it, also where it stands raw because it was typed by hand.
    pub layers: Layers,
    /// The passage with its layers taken off.
    pub chain: OpenedChain,
    /// The places in it, in order.
    pub finds: Vec<Found>,
}

impl SitePassage {
    /// Whether a find begins before the passage, in what that goes on from.
    pub(crate) fn begins_elsewhere(&self, found: &Found) -> bool {
        matches!(self.role, Role::Torn { tail } if found.start < tail)
    }

    /// Whether the old place of a decision is cut in two by the passage's start.
    pub(crate) fn is_torn(&self, decision: &Decision) -> bool {
        let Role::Torn { tail } = self.role else {
            return false;
        };
        match decision {
            Decision::Moves(relocation) | Decision::Doubtful(relocation, _) => {
                relocation.end > tail
            }
            _ => false,
        }
    }
}

impl<'a> Document<'a> {
    /// Decodes and recognises `bytes`; none if they are not text.
    pub fn open(bytes: &'a [u8], file_name: &str, reading: Reading) -> Option<Self> {
        if reading.value.is_some() {
            return Some(Self {
                text: Text::of_string(bytes),
                format: &VALUE,
                broke: None,
                sealed: None,
                value: reading.value,
            });
        }
        let mut text = Text::open(bytes, reading.encoding)?;
        let mut known = recognise(&text.content, file_name, text.encoding, reading.format);
        // What a document says of itself is stronger than its bytes' look, but for a mark.
        if text.mark == 0
            && reading.encoding.is_none()
            && !matches!(text.encoding, Encoding::Utf16Le | Encoding::Utf16Be)
            && let Some(declared) = known.format.declared_encoding(&text.content)
            && declared != text.encoding
            && !matches!(declared, Encoding::Utf16Le | Encoding::Utf16Be)
        {
            text = Text::open(bytes, Some(declared))?;
            known = recognise(&text.content, file_name, text.encoding, reading.format);
        }
        if text.encoding == Encoding::Undecided
            && let Some(own) = known.format.own_encoding()
        {
            text.encoding = own;
        }
        let sealed = signature(&text.content);
        Some(Self {
            text,
            format: known.format,
            broke: known.broke,
            sealed,
            value: None,
        })
    }

    /// Yields every passage in order, and says whether the document keeps its format's
    /// grammar.
    pub fn passages(&self, each: &mut dyn FnMut(usize, Passage<'_>)) -> Grammar {
        if let Some(hint) = self.value {
            return self.whole(hint, each);
        }
        let mut ordinal = 0;
        self.format
            .passages(&self.text.content, self.text.encoding, &mut |passage| {
                each(ordinal, passage);
                ordinal += 1;
            })
    }

    /// Yields the string that the document is.
    fn whole(&self, hint: Hint, each: &mut dyn FnMut(usize, Passage<'_>)) -> Grammar {
        let role = if hint.value { Role::Value } else { Role::Prose };
        let passage = Passage {
            span: 0..self.text.content.len(),
            layers: &(Arc::new([]) as Layers),
            role,
            hint,
            site: &[],
        };
        each(0, passage);
        Grammar::Kept
    }

    /// The passages in which `finder` finds a place that `wanted` wants, with all places in
    /// them, in order; and whether the document keeps its format's grammar. A stretch of a
    /// passage in another syntax is a passage of its own, with the same ordinal.
    pub fn sites(
        &self,
        finder: Finder<'_>,
        mut wanted: impl FnMut(&Found, &str) -> bool,
    ) -> (Vec<SitePassage>, Grammar) {
        let mut sites = Vec::new();
        let grammar = self.passages(&mut |ordinal, passage| {
            let first = sites.len();
            self.sites_of(ordinal, &passage, finder, &mut sites);
            let any = sites[first..].iter().any(|site: &SitePassage| {
                let content = site.chain.content(self.raw(&site.span));
                site.finds.iter().any(|found| wanted(found, content))
            });
            if !any {
                sites.truncate(first);
            }
        });
        (sites, grammar)
    }

    /// Adds one passage to `sites` if there are places in it, and its stretches in another
    /// syntax likewise.
    pub fn sites_of(
        &self,
        ordinal: usize,
        passage: &Passage<'_>,
        finder: Finder<'_>,
        sites: &mut Vec<SitePassage>,
    ) {
        let raw = &self.text.content[passage.span.clone()];
        if passage.layers.len() < 2 && !may_hold_place(raw) && !passage.hint.drive {
            return;
        }
        let worn: Layers = match passage.role {
            Role::ByHand => Arc::new([]),
            _ => passage.layers.clone(),
        };
        let Ok(chain) = OpenedChain::open(&worn, raw.as_bytes()) else {
            return;
        };
        let nest = Nest {
            document: self,
            ordinal,
            span: passage.span.clone(),
            finder,
        };
        let site = SitePassage {
            ordinal,
            span: passage.span.clone(),
            role: passage.role,
            hint: passage.hint,
            site: site_text(passage.site),
            layers: passage.layers.clone(),
            chain,
            finds: Vec::new(),
        };
        let nests = passage.role != Role::ByHand;
        nest.read(site, &worn, nests.then_some(DEEPEST), sites);
    }

    /// The raw text of a passage.
    pub fn raw(&self, span: &Range<usize>) -> &str {
        &self.text.content[span.clone()]
    }
}

/// Strings in strings are followed so deep.
const DEEPEST: usize = 12;

/// One passage of a document while it is read into its stretches.
struct Nest<'d, 'a> {
    document: &'d Document<'a>,
    ordinal: usize,
    span: Range<usize>,
    finder: Finder<'d>,
}

impl Nest<'_, '_> {
    /// Adds `site` if there are places in it, and the stretches in it behind it; `worn` are the
    /// layers that are open, `depth` how deep stretches may nest, if they may.
    fn read(
        &self,
        mut site: SitePassage,
        worn: &Layers,
        depth: Option<usize>,
        sites: &mut Vec<SitePassage>,
    ) {
        let raw = self.document.raw(&self.span);
        let content = site.chain.content(raw);
        let one_byte = matches!(self.document.text.encoding, Encoding::CodePage(_));
        let inners = match depth {
            Some(_) => inner(content, site.hint.value, one_byte),
            None => Vec::new(),
        };
        let mut finds = self.finder.find(content, site.hint);
        finds.retain(|found| {
            let end = found.root_end.max(found.start + 1);
            // The stretches are sorted, so the first that ends behind its start decides.
            let at = inners.partition_point(|i| i.range.end <= found.start);
            inners.get(at).is_none_or(|i| i.range.start >= end)
        });
        site.finds = finds;
        let chain = site.chain.clone();
        let way = site.site.clone();
        if !site.finds.is_empty() {
            sites.push(site);
        }
        for inner in inners {
            let layers: Layers = worn.iter().chain(&inner.layers).cloned().collect();
            let open = if inner.role == Role::ByHand {
                &inner.layers[..1]
            } else {
                &inner.layers[..]
            };
            let Ok(opened) = chain.further(layers.clone(), open, raw.as_bytes()) else {
                continue;
            };
            let nested = SitePassage {
                ordinal: self.ordinal,
                span: self.span.clone(),
                role: inner.role,
                hint: inner.hint,
                site: match (way.is_empty(), inner.site.is_empty()) {
                    (_, true) => way.clone(),
                    (true, false) => inner.site,
                    (false, false) => format!("{way} > {}", inner.site),
                },
                layers: layers.clone(),
                chain: opened,
                finds: Vec::new(),
            };
            let depth = depth
                .filter(|depth| inner.nests && *depth > 0)
                .map(|depth| depth - 1);
            self.read(nested, &layers, depth, sites);
        }
    }
}

/// Why a signed text may not be changed; none if it is not signed.
fn signature(text: &str) -> Option<&'static str> {
    const SIGNS: [(&str, &str); 5] = [
        (
            "-----BEGIN PGP SIGNED MESSAGE-----",
            "the text is signed, and a change would break the signature",
        ),
        (
            "# SIG # Begin signature block",
            "the script is signed, and a change would break the signature; sign it anew after editing it",
        ),
        (
            "' SIG ' Begin signature block",
            "the script is signed, and a change would break the signature; sign it anew after editing it",
        ),
        (
            "http://www.w3.org/2000/09/xmldsig#",
            "the document is signed, and a change would break the signature",
        ),
        (
            "-----BEGIN PKCS7-----",
            "the text is signed, and a change would break the signature",
        ),
    ];
    SIGNS
        .iter()
        .find(|(sign, _)| memchr::memmem::find(text.as_bytes(), sign.as_bytes()).is_some())
        .map(|(_, why)| *why)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn places(bytes: &[u8], name: &str) -> Vec<String> {
        let document = Document::open(bytes, name, Reading::default()).unwrap();
        let mut all = Vec::new();
        for site in document.sites(Finder::default(), |_, _| true).0 {
            let content = site.chain.content(document.raw(&site.span));
            for found in &site.finds {
                all.push(format!(
                    "{} {}",
                    site.site,
                    found.place_until(content, found.hard_end)
                ));
            }
        }
        all
    }

    #[test]
    fn places_behind_their_layers() {
        let json =
            br#"{"root": "D:\\Herbarium\\Gr\u00f6n", "n": 1, "l": ["\\\\mossbank\\press\\x"]}"#;
        assert_eq!(
            places(json, "a.json"),
            ["root D:\\Herbarium\\Gr\u{f6}n", r"l[0] \\mossbank\press\x"]
        );
        let utf16 = Encoding::Utf16Le
            .encode("\u{feff}root=D:\\Herbarium\\x\r\n")
            .unwrap();
        assert_eq!(places(&utf16, "a.ini"), [r"root D:\Herbarium\x"]);
        let registry = b"Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\a]\r\n\
            \"b\"=hex(2):44,00,3a,00,5c,00,78,00,00,00\r\n";
        assert_eq!(places(registry, "a.reg"), [r"HKEY_CURRENT_USER\a.b D:\x"]);
    }
}
