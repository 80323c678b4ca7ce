//! Reading one document: its text, its format, its passages with places in them.

use std::cell::OnceCell;
use std::rc::Rc;
use std::sync::{Arc, LazyLock};

use aho_corasick::{AhoCorasick, MatchKind};

use super::lines::LineCounter;
use super::reading::Reading;
use super::site::SitePassage;
use super::stretches::Nest;
use super::window::{WindowAt, WindowKind};
use crate::format::{
    Format, Grammar, Passage, Passages, Reader, Role, VALUE, recognise, site_text,
};
use crate::layer::{Layers, OpenedChain, Span, TextSpan};
use crate::scan::{Finder, Found, Hint};
use crate::text::{Detected, Encoding, Text};

/// A document whose text and format are known.
pub struct Document<'a> {
    /// The decoded text.
    pub text: Text<'a>,
    /// The format that reads it.
    pub format: &'static dyn Format,
    reader: Rc<dyn Reader>,
    passages: Option<Box<Passages>>,
    /// Its file name, by which its format may be known.
    pub name: &'a str,
    /// How it was read.
    pub reading: Reading,
    /// The name of the format that it claims to be of, and whose grammar it breaks; then it is
    /// read as plain text.
    pub broke: Option<&'static str>,
    /// What it is a window of, and where, if it is one.
    part: Option<(&'a WindowKind<'a>, WindowAt)>,
    /// Why what it says itself forbids any change; looked for only when it is asked for.
    signature: OnceCell<Option<&'static str>>,
    /// Why what it lies in forbids any change.
    pub(super) sealed_around: Option<&'static str>,
}

impl<'a> Document<'a> {
    /// Decodes and recognises `bytes`; none if they are not text.
    pub fn open(bytes: &'a [u8], name: &'a str, reading: Reading) -> Option<Self> {
        if reading.value.is_some() {
            let text = Text::of_string(bytes);
            return Some(Self {
                reader: VALUE.reader(&text.content, text.encoding).into(),
                text,
                passages: None,
                format: &VALUE,
                name,
                reading,
                broke: None,
                part: None,
                signature: OnceCell::from(None),
                sealed_around: None,
            });
        }
        let mut text = Text::open_likely(bytes, reading.encoding, reading.likely)?;
        let mut known = recognise(&text.content, name, text.encoding, reading.format);
        if let Some(declared) =
            declared_instead(&text.detected(), reading, known.format, &text.content)
        {
            text = Text::open(bytes, Some(declared))?;
            known = recognise(&text.content, name, text.encoding, reading.format);
        } else if reading.encoding.is_none() && known.format.leaves_encoding_open() {
            text.sure = false;
        }
        if text.encoding == Encoding::Undecided
            && let Some(own) = known.format.own_encoding()
        {
            text.encoding = own;
        }
        Some(Self {
            text,
            reader: known.reader,
            passages: known.passages,
            format: known.format,
            name,
            reading,
            broke: known.broke,
            part: None,
            signature: OnceCell::new(),
            sealed_around: None,
        })
    }

    /// Opens other bytes in its place, read as it was; none if they are not text.
    pub fn again<'b>(&self, bytes: &'b [u8]) -> Option<Document<'b>>
    where
        'a: 'b,
    {
        match self.part {
            Some((kind, at)) => Some(Document::window(kind, bytes, at)),
            None => Document::open(bytes, self.name, self.reading),
        }
    }

    /// The window that is at `at`, of a text whose windows are of this kind.
    pub(super) fn window(kind: &'a WindowKind<'a>, raw: &'a [u8], at: WindowAt) -> Self {
        Self {
            text: Text::of_part(raw, kind.found.encoding, kind.found.sure, kind.mark_at(at)),
            format: kind.format,
            reader: Rc::clone(&kind.reader),
            passages: None,
            name: kind.name,
            reading: kind.reading,
            broke: kind.broke,
            part: Some((kind, at)),
            signature: OnceCell::from(kind.signature),
            sealed_around: None,
        }
    }

    /// Where it is in the text of which it is a window; at the start if it is none.
    pub fn at(&self) -> WindowAt {
        self.part.map(|(_, at)| at).unwrap_or_default()
    }

    /// Why nothing in it may be changed; none if it may.
    pub fn sealed(&self) -> Option<&'static str> {
        let own = self.signature.get_or_init(|| signature(&self.text.content));
        own.or(self.sealed_around)
    }

    /// Yields every passage in order, and says whether the document keeps its format's
    /// grammar. The way to a passage may be left out where no place may be.
    pub fn passages(&self, each: &mut dyn FnMut(usize, Passage<'_>)) -> Grammar {
        if let Some(hint) = self.reading.value {
            return self.whole(hint, each);
        }
        match &self.passages {
            Some(passages) => passages.each(&mut counted(each)),
            None => self.passages_with_ways(each),
        }
    }

    /// The same, each passage with the way to it.
    pub fn passages_with_ways(&self, each: &mut dyn FnMut(usize, Passage<'_>)) -> Grammar {
        let records = self.at().records;
        let text = &self.text.content;
        self.reader
            .passages_of_window(text, records, &mut counted(each))
    }

    /// Yields the string that the document is.
    fn whole(&self, hint: Hint, each: &mut dyn FnMut(usize, Passage<'_>)) -> Grammar {
        let role = if hint.is_value() {
            Role::Value
        } else {
            Role::Prose
        };
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
    /// passage in another syntax is a passage of its own, with the same ordinal. `note` is shown
    /// every passage of the document.
    pub fn sites(
        &self,
        finder: Finder<'_>,
        mut wanted: impl FnMut(&Found, &str) -> bool,
        mut note: impl FnMut(&Passage<'_>) -> bool,
    ) -> (Vec<SitePassage>, Grammar) {
        let mut sites = Vec::new();
        let grammar = self.passages(&mut |ordinal, passage| {
            if !note(&passage) {
                return;
            }
            let first = sites.len();
            self.sites_of(ordinal, &passage, finder, &mut sites);
            // Each is asked about, so that it may be counted.
            let of_site = |site: &SitePassage| {
                let content = self.content_of(site);
                site.finds
                    .iter()
                    .filter(|found| wanted(found, content))
                    .count()
            };
            let number: usize = sites[first..].iter().map(of_site).sum();
            if number == 0 {
                sites.truncate(first);
            }
        });
        (sites, grammar)
    }

    /// Shows every passage in which `finder` finds a place to `each`, one after another.
    pub fn each_site(&self, finder: Finder<'_>, mut each: impl FnMut(&SitePassage)) {
        let mut sites = Vec::new();
        self.passages(&mut |ordinal, passage| {
            self.sites_of(ordinal, &passage, finder, &mut sites);
            sites.drain(..).for_each(|site| each(&site));
        });
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
        if !passage.may_hold_place(raw) {
            return;
        }
        let worn: Layers = match passage.role {
            Role::Undoubled => Arc::new([]),
            _ => passage.layers.clone(),
        };
        let Ok(chain) = OpenedChain::open(&worn, raw.as_bytes()) else {
            return;
        };
        let span = Span::new(passage.span.clone());
        let nest = Nest {
            raw,
            one_byte: self.text.encoding.is_code_page(),
            finder,
        };
        let site = SitePassage {
            ordinal,
            span: span.clone(),
            role: passage.role,
            hint: passage.hint,
            site: site_text(passage.site),
            layers: passage.layers.clone(),
            chain,
            finds: Vec::new(),
        };
        let nests = passage.role != Role::Undoubled;
        nest.read(site, &worn, nests.then_some(Nest::DEEPEST), sites);
    }

    /// Tells the lines of its text, as they are counted in its file.
    pub fn lines(&self) -> LineCounter {
        LineCounter::from_line(1 + self.at().lines)
    }

    /// The raw text of a passage.
    pub fn raw(&self, span: &TextSpan) -> &str {
        &self.text.content[span.range()]
    }

    /// A passage with its layers taken off.
    pub fn content_of<'s>(&'s self, site: &'s SitePassage) -> &'s str {
        site.chain.content(self.raw(&site.span))
    }
}

/// The encoding that a document says it is in, if that counts for more than what was found: it is stronger than its
/// bytes' look, but for a mark.
pub(super) fn declared_instead(
    found: &Detected,
    reading: Reading,
    format: &'static dyn Format,
    text: &str,
) -> Option<Encoding> {
    let wide = |encoding| matches!(encoding, Encoding::Utf16Le | Encoding::Utf16Be);
    if found.mark != 0 || reading.encoding.is_some() || wide(found.encoding) {
        return None;
    }
    let declared = format.declared_encoding(text)?;
    let differs = declared != found.encoding || !found.sure;
    (differs && !wide(declared)).then_some(declared)
}

/// Gives each passage its number.
fn counted(each: &mut dyn FnMut(usize, Passage<'_>)) -> impl FnMut(Passage<'_>) {
    let mut ordinal = 0;
    move |passage| {
        each(ordinal, passage);
        ordinal += 1;
    }
}

/// What shows that a text is signed, and why it may not be changed then; what comes first decides.
const SIGNATURES: [(&str, &str); 11] = [
    ("-----BEGIN PGP SIGNED MESSAGE-----", SIGNED_TEXT),
    ("-----BEGIN SSH SIGNATURE-----", SIGNED_TEXT),
    ("-----BEGIN PKCS7-----", SIGNED_TEXT),
    (
        "\nContent-Type: multipart/signed",
        "the message is signed, and a change would break the signature",
    ),
    ("SIG # Begin signature block", SIGNED_SCRIPT),
    ("SIG // Begin signature block", SIGNED_SCRIPT),
    ("SIG '' Begin signature block", SIGNED_SCRIPT),
    ("' SIG ' Begin signature block", SIGNED_SCRIPT),
    (
        "http://www.w3.org/2000/09/xmldsig#",
        "the document is signed, and a change would break the signature",
    ),
    (
        "\nsignscope:s:",
        "the connection is signed, and a change would break the signature; sign it anew after editing it",
    ),
    (
        "\"super_mac\":",
        "its program keeps a code for its values and sets back what was changed by others; \
         change it in the program",
    ),
];
const SIGNED_TEXT: &str = "the text is signed, and a change would break the signature";
const SIGNED_SCRIPT: &str =
    "the script is signed, and a change would break the signature; sign it anew after editing it";

/// Why a signed text may not be changed; none if it is not signed.
fn signature(text: &str) -> Option<&'static str> {
    let mut signatures = Signatures::default();
    signatures.look_through(text.as_bytes());
    signatures.first()
}

/// The signatures that a text has, as far as it was looked through.
#[derive(Debug, Default)]
pub(super) struct Signatures(Option<usize>);

impl Signatures {
    /// No sign of one is longer, in bytes.
    pub(super) const LONGEST: usize = 64;

    /// Looks for signs in the next piece of a text.
    pub(super) fn look_through(&mut self, text: &[u8]) {
        static SIGNS: LazyLock<AhoCorasick> = LazyLock::new(|| {
            // Only where the first of several counts are a few strings looked for by vector instructions.
            let mut builder = AhoCorasick::builder();
            let signs = builder.match_kind(MatchKind::LeftmostFirst);
            let signs = signs.build(SIGNATURES.map(|(sign, _)| sign));
            signs.expect("a few short strings fit into an automaton")
        });
        let found = SIGNS.find_iter(text);
        let first = found.map(|found| found.pattern().as_usize()).min();
        self.0 = self.0.into_iter().chain(first).min();
    }

    /// Why the text may not be changed, if it has one.
    pub(super) fn first(&self) -> Option<&'static str> {
        self.0.map(|first| SIGNATURES[first].1)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn places(bytes: &[u8], name: &str) -> Vec<String> {
        let document = Document::open(bytes, name, Reading::default()).unwrap();
        let mut all = Vec::new();
        document.each_site(Finder::default(), |site| {
            let content = document.content_of(site);
            for found in &site.finds {
                all.push(format!(
                    "{} {}",
                    site.site,
                    found.place_until(content, found.hard_end)
                ));
            }
        });
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
