//! Markup: XML 1.0 of any kind, and HTML, which forgives more.
//!
//! Yields attribute values, text, CDATA, comments, processing instructions, and the quoted
//! strings of a document type. In HTML the text is running text, scripts are read as
//! JavaScript, and no element need be closed.

mod runs;
mod tag;
mod urls;

use std::ops::Range;
use std::sync::Arc;

use super::{About, Claim, Format, Grammar, Passage, Role, Step, lexed, may_matter};
use crate::codec::{Markup, MarkupLetters, Percent, Runs, Torn, UriPart};
use crate::layer::{Layer, Layers};
use crate::place::Hint;
use crate::text::Encoding;

use runs::{Dialect, Gathered, Tail, dialect_of};
use tag::{Attribute, tag_at};

/// XML.
pub(super) struct Xml;

/// HTML.
pub(super) struct Html;

const XML: About = About {
    name: "xml",
    what: "XML of any kind: settings, SVG, playlists, property lists",
    content: "<?xml, or an element at its start",
    names: &[
        ".xml",
        ".svg",
        ".xspf",
        ".wpl",
        ".plist",
        ".xsl",
        ".xslt",
        ".xsd",
        ".xaml",
        ".xhtml",
        ".rss",
        ".gpx",
        ".kml",
        ".wsf",
        ".resx",
        ".manifest",
        ".vcxproj",
        ".csproj",
        ".props",
        ".targets",
    ],
    read: "attributes, text, CDATA, comments, scripts and styles, with entities as the document has them, in the declared encoding",
    limits: "a document with a signature in it is sealed; entities that the document declares itself are not expanded",
};

impl Format for Xml {
    fn about(&self) -> &About {
        &XML
    }

    fn claims(&self, text: &str, file_name: &str) -> Claim {
        let start = text.trim_start();
        let named = XML.is_named(file_name);
        let element = start.strip_prefix('<').is_some_and(|rest| {
            rest.starts_with(|c: char| c.is_alphabetic() || c == '_' || c == '!')
        });
        if start.starts_with("<?xml") || named {
            Claim::IfWellFormed
        } else if element {
            Claim::Perhaps
        } else {
            Claim::No
        }
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn declared_encoding(&self, text: &str) -> Option<Encoding> {
        let head = text.trim_start().strip_prefix("<?xml")?;
        let head = &head[..head.find("?>")?];
        Encoding::for_label(quoted_behind(head, "encoding")?)
    }

    fn passages(
        &self,
        text: &str,
        _encoding: Encoding,
        each: &mut dyn FnMut(Passage<'_>),
    ) -> Grammar {
        Reader::new(text, false, each).read()
    }
}

const HTML: About = About {
    name: "html",
    what: "web pages",
    content: "<!doctype html> or <html> at its start",
    names: &[".html", ".htm", ".hta"],
    read: "attributes, srcset, style, script strings, text and comments, with character references",
    limits: "what a script puts together from pieces is not seen",
};

impl Format for Html {
    fn about(&self) -> &About {
        &HTML
    }

    fn claims(&self, text: &str, file_name: &str) -> Claim {
        let head: String = text
            .trim_start()
            .chars()
            .take(200)
            .collect::<String>()
            .to_lowercase();
        let named = HTML.is_named(file_name);
        let started = head.starts_with("<!doctype html") || head.starts_with("<html");
        if (named && head.contains('<')) || (started && !file_name.ends_with(".xhtml")) {
            Claim::IfWellFormed
        } else {
            Claim::No
        }
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn declared_encoding(&self, text: &str) -> Option<Encoding> {
        let mut end = text.len().min(1024);
        while !text.is_char_boundary(end) {
            end -= 1;
        }
        let head = &text[..end];
        let at = head.to_ascii_lowercase().find("charset")?;
        let rest = head[at + "charset".len()..]
            .trim_start()
            .strip_prefix('=')?;
        let label = rest.trim_start().trim_start_matches(['"', '\'']);
        let end = label
            .find(|c: char| !(c.is_ascii_alphanumeric() || "-_:.".contains(c)))
            .unwrap_or(label.len());
        Encoding::for_label(&label[..end])
    }

    fn passages(
        &self,
        text: &str,
        _encoding: Encoding,
        each: &mut dyn FnMut(Passage<'_>),
    ) -> Grammar {
        Reader::new(text, true, each).read()
    }
}

/// The quoted text behind `name=`.
fn quoted_behind<'t>(text: &'t str, name: &str) -> Option<&'t str> {
    let rest = text[text.find(name)? + name.len()..].trim_start();
    let rest = rest.strip_prefix('=')?.trim_start();
    let quote = rest.chars().next().filter(|c| matches!(c, '"' | '\''))?;
    let inside = &rest[1..];
    Some(&inside[..inside.find(quote)?])
}

struct Element {
    name: Range<usize>,
    /// Where its start tag is over.
    start: usize,
    /// How its text is cut into runs, if it is.
    runs: Option<&'static Dialect>,
    /// What the element's text is filed under, where an attribute says so.
    label: Option<String>,
}

struct Reader<'a, 'e> {
    text: &'a str,
    html: bool,
    content: Layers,
    double: Layers,
    single: Layers,
    unquoted: Layers,
    /// How the document encodes the URLs in its attributes.
    url: Arc<dyn Layer>,
    /// Whether it encodes them where nothing shows it.
    encodes: bool,
    plain: Layers,
    open: Vec<Element>,
    /// The text of the last `<key>`, which names the next value.
    key: Option<String>,
    roots: usize,
    root: &'a str,
    /// The runs of the string that is being read.
    gathered: Option<Gathered>,
    /// What the next string may go on from.
    tail: Option<Tail>,
    grammar: Grammar,
    each: &'e mut dyn FnMut(Passage<'_>),
}

impl<'a, 'e> Reader<'a, 'e> {
    fn new(text: &'a str, html: bool, each: &'e mut dyn FnMut(Passage<'_>)) -> Self {
        let letters = MarkupLetters::of(text, MarkupLetters::Raw);
        let layer =
            |quote| -> Layers { Arc::new([Arc::new(Markup { quote, letters }) as Arc<dyn Layer>]) };
        Self {
            text,
            html,
            content: layer(None),
            double: layer(Some('"')),
            single: layer(Some('\'')),
            unquoted: layer(Some(' ')),
            url: Arc::new(Percent {
                part: if text.contains("%C") || text.contains("%c") {
                    UriPart::Path
                } else {
                    UriPart::Link
                },
            }),
            encodes: html && text.contains("%20"),
            plain: Arc::new([]),
            open: Vec::new(),
            key: None,
            roots: 0,
            root: "",
            gathered: None,
            tail: None,
            grammar: Grammar::Kept,
            each,
        }
    }

    fn read(mut self) -> Grammar {
        let mut at = 0;
        while at < self.text.len() {
            let rest = &self.text[at..];
            if !rest.starts_with('<') {
                let length = memchr::memchr(b'<', rest.as_bytes()).unwrap_or(rest.len());
                self.content(at..at + length);
                at += length;
            } else if rest.starts_with("<!--") {
                self.end_string();
                at = self.until(at, 4, "-->", |reader, span| {
                    reader.emit(span, Role::Prose, Hint::default(), 0, &[]);
                });
            } else if rest.starts_with("<![CDATA[") {
                self.end_string();
                at = self.until(at, 9, "]]>", |reader, span| {
                    let hint = reader.hint();
                    reader.emit(span, Role::Value, hint, 0, &[]);
                });
            } else if rest.starts_with("<?") {
                self.end_string();
                at = self.until(at, 2, "?>", |reader, span| {
                    reader.emit(span, Role::Prose, Hint::default(), 0, &[]);
                });
            } else if rest.starts_with("<!") {
                at = self.document_type(at);
            } else if let Some(rest) = rest.strip_prefix("</") {
                let length = rest.find('>').unwrap_or(rest.len());
                self.close(rest[..length].trim_end(), at);
                at += 2 + length + 1;
            } else {
                at = self.tag(at);
            }
        }
        self.end_string();
        let whole = self.html || (self.open.is_empty() && self.roots == 1);
        self.grammar.note(whole, Grammar::Broken);
        self.grammar
    }

    /// Takes what ends with `close`; returns where it is over.
    fn until(
        &mut self,
        at: usize,
        lead: usize,
        close: &str,
        take: impl FnOnce(&mut Self, Range<usize>),
    ) -> usize {
        let start = at + lead;
        let found = self.text[start..].find(close);
        self.grammar.note(found.is_some(), Grammar::Broken);
        let end = found.map_or(self.text.len(), |length| start + length);
        take(self, start..end);
        (end + close.len()).min(self.text.len())
    }

    /// `<!DOCTYPE …>` with its quoted strings.
    fn document_type(&mut self, at: usize) -> usize {
        let bytes = self.text.as_bytes();
        let (mut end, mut depth) = (at + 2, 0usize);
        while end < bytes.len() {
            match bytes[end] {
                quote @ (b'"' | b'\'') => {
                    let start = end + 1;
                    let Some(length) = memchr::memchr(quote, &bytes[start..]) else {
                        break;
                    };
                    let kind = if quote == b'"' { 2 } else { 3 };
                    self.emit(
                        start..start + length,
                        Role::Value,
                        Hint::for_name(),
                        kind,
                        &[],
                    );
                    end = start + length;
                }
                b'[' => depth += 1,
                b']' => depth = depth.saturating_sub(1),
                b'<' => depth += 1,
                b'>' if depth > 0 => depth -= 1,
                b'>' => return end + 1,
                _ => {}
            }
            end += 1;
        }
        self.grammar = Grammar::Broken;
        self.text.len()
    }

    fn close(&mut self, name: &str, at: usize) {
        if self.html {
            return;
        }
        if let Some(element) = self.open.last()
            && let Some(dialect) = element.runs
            && element.start == at
        {
            // A run without text is a run all the same.
            self.gather(dialect, at..at);
        }
        self.end_string_at(name);
        self.grammar.note(
            self.open
                .pop()
                .is_some_and(|open| &self.text[open.name] == name),
            Grammar::Broken,
        );
    }

    fn tag(&mut self, at: usize) -> usize {
        let Some(tag) = tag_at(self.text, at, self.html) else {
            self.end_string();
            self.grammar.note(self.html, Grammar::Broken);
            let next = self.text[at + 1..]
                .find('<')
                .map_or(self.text.len(), |n| at + 1 + n);
            self.emit(at..next, Role::Prose, Hint::default(), 0, &[]);
            return next;
        };
        let name = &self.text[tag.name.clone()];
        if self.open.is_empty() {
            self.roots += 1;
            self.root = name;
        }
        self.end_string_at(name);
        let name = name.to_owned();
        let attributes = &tag.attributes;
        // Between runs of a string only what may be a place ends it.
        let read_on = match self.gathered {
            Some(_) => crate::place::may_hold_place,
            None => may_matter,
        };
        let matters = attributes
            .iter()
            .any(|one| read_on(&self.text[one.value.clone()]));
        // `<add key="root" value="D:\x"/>`: one attribute names the other.
        let label = tag
            .attributes
            .iter()
            .find(|one| {
                let name = self.text[one.name.clone()].to_ascii_lowercase();
                matches!(name.as_str(), "key" | "name" | "id")
            })
            .map(|one| self.text[one.value.clone()].to_owned());
        if matters {
            self.end_string();
            for attribute in attributes {
                self.attribute(&name, attribute, label.as_deref());
            }
        }
        if self.html {
            let raw = ["script", "style"]
                .into_iter()
                .find(|raw| name.eq_ignore_ascii_case(raw));
            if let Some(raw) = raw
                && !tag.empty
            {
                return self.raw_text(tag.end, raw);
            }
        }
        if !tag.empty && !self.html {
            self.open.push(Element {
                start: tag.end,
                runs: dialect_of(&name, self.root),
                name: tag.name,
                label,
            });
        }
        tag.end
    }

    fn attribute(&mut self, element: &str, attribute: &Attribute, label: Option<&str>) {
        if !may_matter(&self.text[attribute.value.clone()]) {
            return;
        }
        let name = self.text[attribute.name.clone()].to_owned();
        let lower = name.to_ascii_lowercase();
        let names_other = matches!(lower.as_str(), "key" | "name" | "id");
        let mut hint = match label {
            Some(label) if !names_other => Hint::for_value(label),
            _ => Hint::for_value(&name),
        };
        // It may hold more than a place.
        if self.html && lower == "content" {
            hint.value = false;
        }
        let kind = match attribute.quote {
            Some('\'') => 3,
            Some(_) => 2,
            None => 4,
        };
        let site = [element, name.as_str()];
        if lower == "srcset" {
            let start = attribute.value.start;
            for url in urls::of_picture_list(&self.text[attribute.value.clone()]) {
                let url = start + url.start..start + url.end;
                self.emit_url(url, Hint::for_name(), kind, &site);
            }
            return;
        }
        if lower == "style" {
            return self.style(attribute.value.clone(), kind, &site);
        }
        let raw = &self.text[attribute.value.clone()];
        let url = self.html && URLS.contains(&lower.as_str());
        if url && (self.encodes || raw.contains('%')) && !has_scheme(raw) {
            return self.emit_url(attribute.value.clone(), hint, kind, &site);
        }
        self.emit(
            attribute.value.clone(),
            Role::Value,
            hint,
            kind,
            &[element, &name],
        );
    }

    /// A script or a style of HTML, up to its closing tag.
    fn raw_text(&mut self, start: usize, name: &str) -> usize {
        let lower_rest = &self.text[start..];
        let close = format!("</{name}");
        let length = lower_rest
            .as_bytes()
            .windows(close.len())
            .position(|window| window.eq_ignore_ascii_case(close.as_bytes()))
            .unwrap_or(lower_rest.len());
        let span = start..start + length;
        if name == "script" {
            let text = &self.text[span.clone()];
            let each = &mut *self.each;
            lexed::JAVASCRIPT_SOURCE.passages(text, Encoding::Utf8, &mut |passage| {
                each(Passage {
                    span: passage.span.start + start..passage.span.end + start,
                    ..passage
                });
            });
        } else {
            self.style(span.clone(), 0, &[]);
        }
        span.end
    }

    /// A style sheet or a part of one: its URLs, and between them running text.
    fn style(&mut self, span: Range<usize>, kind: usize, site: &[&str]) {
        let mut from = span.start;
        for url in urls::of_style(&self.text[span.clone()]) {
            let inside = span.start + url.inside.start..span.start + url.inside.end;
            self.emit(from..inside.start, Role::Prose, Hint::default(), kind, &[]);
            from = inside.end;
            match url.quoted {
                true => self.emit(inside, Role::Value, Hint::for_name(), kind, site),
                false => self.emit_url(inside, Hint::for_name(), kind, site),
            }
        }
        self.emit(from..span.end, Role::Prose, Hint::default(), kind, &[]);
    }

    /// Yields a URL, in which a blank is encoded.
    fn emit_url(&mut self, span: Range<usize>, hint: Hint, kind: usize, tail: &[&str]) {
        let markup = self.layers(kind);
        let layers: Layers = markup.iter().cloned().chain([self.url.clone()]).collect();
        self.pass(span, &layers, (Role::Value, hint), tail);
    }

    /// Adds a run to the string that is being read, or begins one.
    fn gather(&mut self, dialect: &'static Dialect, run: Range<usize>) {
        if self
            .gathered
            .as_ref()
            .is_some_and(|known| known.dialect != dialect)
        {
            self.end_string();
        }
        let cell = |element: &Element| &self.text[element.name.clone()] == "table:table-cell";
        let value = !dialect.prose || self.open.iter().rev().take(4).any(cell);
        let text = &self.text[run.clone()];
        let torn = match self.gathered {
            None if !text.is_empty() => self
                .tail
                .take()
                .filter(|tail| tail.dialect == dialect)
                .and_then(|tail| tail.before(text)),
            _ => None,
        };
        let gathered = self.gathered.get_or_insert_with(|| Gathered {
            dialect,
            value,
            runs: Vec::new(),
            torn,
        });
        gathered.runs.push(run);
    }

    /// Ends the string that is being read if it does not go on beyond a tag of `element`.
    fn end_string_at(&mut self, element: &str) {
        let Some(dialect) = self
            .gathered
            .as_ref()
            .map(|known| known.dialect)
            .or_else(|| self.tail.as_ref().map(|tail| tail.dialect))
        else {
            return;
        };
        if dialect.ends_at(element) {
            self.end_string();
            self.tail = None;
        } else if dialect.is_torn_at(element) {
            self.end_string();
        }
    }

    /// Yields the string whose runs have been read: as it stands if it is one run.
    fn end_string(&mut self) {
        let Some(gathered) = self.gathered.take() else {
            return;
        };
        let span = gathered.span();
        let text: String = gathered
            .runs
            .iter()
            .map(|run| &self.text[run.clone()])
            .collect();
        if !text.is_empty() {
            self.tail = Tail::of(gathered.dialect, &text);
        }
        let whole = || gathered.torn.clone().unwrap_or_default() + &text;
        if text.trim().is_empty() || !may_matter(&whole()) {
            return;
        }
        let (mut role, hint) = match gathered.value {
            true => (Role::Value, Hint::for_name()),
            false => (Role::Prose, Hint::default()),
        };
        let mut layers: Vec<Arc<dyn Layer>> = Vec::new();
        if gathered.runs.len() > 1 {
            let inside = |run: &Range<usize>| run.start - span.start..run.end - span.start;
            let runs = gathered.runs.iter().map(inside).collect();
            layers.push(Arc::new(Runs(runs)));
        }
        layers.extend(self.content.iter().cloned());
        if let Some(tail) = gathered.torn {
            role = Role::Torn { tail: tail.len() };
            layers.push(Arc::new(Torn(tail)));
        }
        let layers: Layers = layers.into();
        self.pass(span, &layers, (role, hint), &[]);
    }

    fn content(&mut self, span: Range<usize>) {
        let raw = &self.text[span.clone()];
        if let Some(dialect) = self.open.last().and_then(|element| element.runs) {
            self.key = None;
            return self.gather(dialect, span);
        }
        if raw.trim().is_empty() {
            return;
        }
        if !self.html && self.open.is_empty() {
            self.grammar = Grammar::Broken;
        }
        self.end_string();
        let is_key = self
            .open
            .last()
            .is_some_and(|element| &self.text[element.name.clone()] == "key");
        let key = is_key.then(|| raw.trim().to_owned());
        if may_matter(raw) {
            let (role, hint) = match self.html {
                true => (Role::Prose, Hint::default()),
                false => (Role::Value, self.hint()),
            };
            self.emit(span, role, hint, 1, &[]);
        }
        self.key = key;
    }

    /// What is known of the text of the innermost element.
    fn hint(&self) -> Hint {
        let Some(element) = self.open.last() else {
            return Hint::default();
        };
        let name = &self.text[element.name.clone()];
        let filed = self.key.as_deref().or(element.label.as_deref());
        Hint::for_value(filed.unwrap_or(name))
    }

    /// Yields a passage; `kind` says which layer it wears: none, text, a value in either quote, or one without quotes.
    fn emit(&mut self, span: Range<usize>, role: Role, hint: Hint, kind: usize, tail: &[&str]) {
        if span.is_empty() {
            return;
        }
        let layers = self.layers(kind);
        self.pass(span, &layers, (role, hint), tail);
    }

    fn pass(
        &mut self,
        span: Range<usize>,
        layers: &Layers,
        (role, hint): (Role, Hint),
        tail: &[&str],
    ) {
        let site = match role {
            Role::Prose => Vec::new(),
            _ => self.site(span.clone(), tail),
        };
        (self.each)(Passage {
            span,
            layers,
            role,
            hint,
            site: &site,
        });
    }

    fn layers(&self, kind: usize) -> Layers {
        let all = [
            &self.plain,
            &self.content,
            &self.double,
            &self.single,
            &self.unquoted,
        ];
        all[kind].clone()
    }

    /// The way to what stands at `span`, if that may be a place.
    fn site(&self, span: Range<usize>, tail: &[&str]) -> Vec<Step> {
        if !crate::place::may_hold_place(&self.text[span]) {
            return Vec::new();
        }
        // The names of the innermost elements tell enough.
        let open = &self.open[self.open.len().saturating_sub(8)..];
        let names = open.iter().map(|element| &self.text[element.name.clone()]);
        names
            .chain(tail.iter().copied())
            .map(|name| Step::Key(name.to_owned()))
            .collect()
    }
}

/// Attributes of HTML that hold one URL.
const URLS: [&str; 9] = [
    "href",
    "src",
    "action",
    "data",
    "poster",
    "background",
    "cite",
    "longdesc",
    "formaction",
];

/// Whether a URL begins with a scheme, which is not a drive's letter.
fn has_scheme(raw: &str) -> bool {
    raw.split_once(':').is_some_and(|(scheme, _)| {
        scheme.len() > 1
            && scheme
                .bytes()
                .all(|b| b.is_ascii_alphanumeric() || b"+-.".contains(&b))
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::site_text;

    fn passages(format: &dyn Format, text: &str) -> (Vec<String>, bool) {
        let mut all = Vec::new();
        let fine = format.passages(text, Encoding::Utf8, &mut |passage| {
            let raw = &text[passage.span.clone()];
            all.push(format!("{}|{}", site_text(passage.site), raw.trim()));
        });
        (all, fine == Grammar::Kept)
    }

    #[test]
    fn passages_and_their_sites() {
        let cases: [(&dyn Format, &str, &[&str]); 9] = [
            (
                &Xml,
                "<?xml version='1.0'?><a><b c=\"D:\\x\">E:\\y</b></a>",
                &["|xml version='1.0'", "a.b.c|D:\\x", "a.b|E:\\y"],
            ),
            (
                &Xml,
                "<a><![CDATA[D:\\x<y]]><!-- /z --></a>",
                &["a|D:\\x<y", "|/z"],
            ),
            (&Xml, "<a b='D:\\x\"y' />", &["a.b|D:\\x\"y"]),
            (
                &Xml,
                "<!DOCTYPE a [<!ENTITY e \"D:/x\">]><a>&e;</a>",
                &["|D:/x", "|&e;"],
            ),
            (
                &Xml,
                "<add key=\"root\" value=\"D:\\x\"/>",
                &["|root", "add.value|D:\\x"],
            ),
            (
                &Html,
                "<!doctype html><p>see D:\\x<br>there<img src=D:/a.png>",
                &["|see D:\\x", "img.src|D:/a.png"],
            ),
            (
                &Html,
                "<script>var a = 'D:\\\\x';</script><style>b{c:url(D:/y)}</style>",
                &["a|D:\\\\x", "|b{c:url(", "|D:/y", "|)}"],
            ),
            (&Html, "<a href='x' disabled>y</a>", &["|x", "|y"]),
            (
                &Xml,
                "<dict><key>root</key><string>D:/x</string></dict>",
                &["|root", "dict.string|D:/x"],
            ),
        ];
        for (format, text, expected) in cases {
            let (got, fine) = passages(format, text);
            let got: Vec<&str> = got.iter().map(String::as_str).collect();
            assert_eq!((got, fine), (expected.to_vec(), true), "{text}");
        }
    }

    #[test]
    fn what_breaks_the_grammar() {
        for text in [
            "<a><b></a></b>",
            "<a>",
            "<a b=c/>",
            "<a/><b/>",
            "x<a/>",
            "<a b=\"x/>",
            "<!-- <a/>",
            "",
        ] {
            assert!(!passages(&Xml, text).1, "{text}");
        }
    }

    #[test]
    fn encodings_are_declared() {
        let name =
            |format: &dyn Format, text: &str| format.declared_encoding(text).map(Encoding::name);
        assert_eq!(
            name(&Xml, "<?xml version=\"1.0\" encoding='ISO-8859-2'?><a/>"),
            Some("ISO-8859-2")
        );
        assert_eq!(name(&Xml, "<?xml version=\"1.0\"?><a/>"), None);
        assert_eq!(name(&Html, "<meta charset=utf-8>"), Some("UTF-8"));
        assert_eq!(
            name(&Html, "<meta content=\"text/html; charset=cp1250\">"),
            Some("windows-1250")
        );
    }
}
