//! Reads markup from tag to tag: what it yields, and the way to it.

use std::ops::Range;
use std::sync::Arc;

use super::page::{URLS, has_scheme};
use super::runs::{Dialect, Gathered, Tail, dialect_of};
use super::tag::{Attribute, tag_at};
use super::urls;
use crate::codec::{Markup, MarkupLetters, Percent, UriPart};
use crate::format::{Grammar, Passage, Role, Step, may_matter};
use crate::layer::{Layer, Layers};
use crate::place::Hint;

pub(super) struct Element {
    pub(super) name: Range<usize>,
    /// Where its start tag is over.
    pub(super) start: usize,
    /// How its text is cut into runs, if it is.
    pub(super) runs: Option<&'static Dialect>,
    /// What the element's text is filed under, where an attribute says so.
    pub(super) label: Option<String>,
}

pub(super) struct Reader<'a, 'e> {
    pub(super) text: &'a str,
    html: bool,
    pub(super) content: Layers,
    double: Layers,
    single: Layers,
    unquoted: Layers,
    /// How the document encodes the URLs in its attributes.
    pub(super) url: Arc<dyn Layer>,
    /// Whether it encodes them where nothing shows it.
    pub(super) encodes: bool,
    pub(super) plain: Layers,
    pub(super) open: Vec<Element>,
    /// The text of the last `<key>`, which names the next value.
    key: Option<String>,
    roots: usize,
    root: &'a str,
    /// The runs of the string that is being read.
    pub(super) gathered: Option<Gathered>,
    /// What the next string may go on from.
    pub(super) tail: Option<Tail>,
    grammar: Grammar,
    pub(super) each: &'e mut dyn FnMut(Passage<'_>),
}

impl<'a, 'e> Reader<'a, 'e> {
    pub(super) fn new(text: &'a str, html: bool, each: &'e mut dyn FnMut(Passage<'_>)) -> Self {
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

    pub(super) fn read(mut self) -> Grammar {
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
                    reader.emit(span, Role::Prose, Hint::Prose, 0, &[]);
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
                    reader.emit(span, Role::Prose, Hint::Prose, 0, &[]);
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
                    self.emit(start..start + length, Role::Value, Hint::Name, kind, &[]);
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
            self.emit(at..next, Role::Prose, Hint::Prose, 0, &[]);
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
        if name == "w:instr" {
            hint = Hint::COMMAND;
        }
        // It may hold more than a place.
        if self.html && lower == "content" {
            hint = Hint::Prose;
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
                self.emit_url(url, Hint::Name, kind, &site);
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
                true => (Role::Prose, Hint::Prose),
                false => (Role::Value, self.hint()),
            };
            self.emit(span, role, hint, 1, &[]);
        }
        self.key = key;
    }

    /// What is known of the text of the innermost element.
    fn hint(&self) -> Hint {
        let Some(element) = self.open.last() else {
            return Hint::Prose;
        };
        let name = &self.text[element.name.clone()];
        let filed = self.key.as_deref().or(element.label.as_deref());
        Hint::for_value(filed.unwrap_or(name))
    }

    /// Yields a passage; `kind` says which layer it wears: none, text, a value in either quote, or one without quotes.
    pub(super) fn emit(
        &mut self,
        span: Range<usize>,
        role: Role,
        hint: Hint,
        kind: usize,
        tail: &[&str],
    ) {
        if span.is_empty() {
            return;
        }
        let layers = self.layers(kind);
        self.pass(span, &layers, (role, hint), tail);
    }

    pub(super) fn pass(
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

    pub(super) fn layers(&self, kind: usize) -> Layers {
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
