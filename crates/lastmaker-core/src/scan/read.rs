//! Reading one document: its text, its format, its passages with places in them.

use std::ops::Range;
use std::sync::Arc;

use super::inner::inner;
use crate::format::{Format, Passage, Role, recognise, site_text};
use crate::layer::{Layers, OpenedChain};
use crate::place::{Finder, Found, Hint, may_hold_place};
use crate::text::{Encoding, Text};

/// A document whose text and format are known.
pub struct Document<'a> {
    /// The decoded text.
    pub text: Text<'a>,
    /// The format that reads it.
    pub format: &'static dyn Format,
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

impl<'a> Document<'a> {
    /// Decodes and recognises `bytes`; none if they are not text. `forced` is the encoding
    /// that the technician says eight-bit text is in.
    pub fn open(bytes: &'a [u8], file_name: &str, forced: Option<Encoding>) -> Option<Self> {
        let mut text = Text::open(bytes, forced)?;
        let format = recognise(&text.content, file_name, text.encoding);
        if text.encoding == Encoding::Undecided
            && let Some(own) = format.own_encoding()
        {
            text.encoding = own;
        }
        Some(Self { text, format })
    }

    /// Yields every passage in order, and says whether the document keeps its format's
    /// grammar.
    pub fn passages(&self, each: &mut dyn FnMut(usize, Passage<'_>)) -> bool {
        let mut ordinal = 0;
        self.format
            .passages(&self.text.content, self.text.encoding, &mut |passage| {
                each(ordinal, passage);
                ordinal += 1;
            })
    }

    /// The passages in which `finder` finds a place that `wanted` wants, with all places in
    /// them, in order; and whether the document keeps its format's grammar. A stretch of a
    /// passage in another syntax is a passage of its own, with the same ordinal.
    pub fn sites(
        &self,
        finder: Finder<'_>,
        mut wanted: impl FnMut(&Found, &str) -> bool,
    ) -> (Vec<SitePassage>, bool) {
        let mut sites = Vec::new();
        let well_formed = self.passages(&mut |ordinal, passage| {
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
        (sites, well_formed)
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
        let content = chain.content(raw);
        let inners = match passage.role {
            Role::ByHand => Vec::new(),
            _ => inner(content),
        };
        let site =
            |layers: Layers, chain: OpenedChain, hint: Hint, finds: Vec<Found>| SitePassage {
                ordinal,
                span: passage.span.clone(),
                role: passage.role,
                hint,
                site: site_text(passage.site),
                layers,
                chain,
                finds,
            };
        let mut finds = finder.find(content, passage.hint);
        finds.retain(|found| {
            let inside = inners.iter().any(|i| {
                i.range.start < found.root_end.max(found.start + 1) && found.start < i.range.end
            });
            !inside
        });
        let mut added = Vec::new();
        for inner in inners {
            let layers: Layers = worn.iter().cloned().chain(inner.layers).collect();
            let Ok(chain) = OpenedChain::open(&layers, raw.as_bytes()) else {
                continue;
            };
            let hint = if inner.slashes {
                Hint::for_uri()
            } else {
                Hint::for_name()
            };
            let content = chain.content(raw);
            let finds = finder.find(content, hint);
            if !finds.is_empty() {
                added.push(site(layers, chain, hint, finds));
            }
        }
        if !finds.is_empty() {
            sites.push(site(passage.layers.clone(), chain, passage.hint, finds));
        }
        sites.extend(added);
    }

    /// The raw text of a passage.
    pub fn raw(&self, span: &Range<usize>) -> &str {
        &self.text.content[span.clone()]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn places(bytes: &[u8], name: &str) -> Vec<String> {
        let document = Document::open(bytes, name, None).unwrap();
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
        assert_eq!(places(&utf16, "a.ini"), [r" D:\Herbarium\x"]);
        let registry = b"Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\a]\r\n\
            \"b\"=hex(2):44,00,3a,00,5c,00,78,00,00,00\r\n";
        assert_eq!(places(registry, "a.reg"), [r"HKEY_CURRENT_USER\a.b D:\x"]);
    }
}
