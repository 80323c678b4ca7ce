//! Markdown (CommonMark) and reStructuredText: running text with code spans and links, whose
//! bounds are exact. Settings at its head, between two lines `---`, are read as YAML.

use std::ops::Range;

use super::yaml::YAML;
use super::{Claim, Format, Grammar, Passage, Reader, Sample, Subject, emit};
use crate::about::About;
use crate::codec::{BareText, MARKED_TEXT, Percent, UriPart};
use crate::layer::{Layers, alone};
use crate::scan::Hint;
use crate::text::Encoding;

/// Markdown and reStructuredText.
pub(super) struct Markdown;

const ABOUT: About = About {
    name: "markdown",
    what: "Markdown and reStructuredText",
    content: "",
    names: &[".md", ".markdown", ".rst", ".mkd"],
    read: "code spans, links and running text",
    limits: "in running text a place followed by a blank is doubtful",
};

impl Format for Markdown {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let file_name = subject.file_name;
        Claim::certain_if(ABOUT.is_named(file_name))
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[Sample::new("a.md", "", "[k](", ")\n")];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn reader(&'static self, text: &str, encoding: Encoding) -> Box<dyn Reader> {
        Box::new(Wrappings {
            head: Head::of(text, encoding),
            plain: alone(BareText(&MARKED_TEXT)),
            link: alone(Percent {
                part: UriPart::Link,
            }),
        })
    }
}

/// The settings at the head of a text.
struct Head {
    range: Range<usize>,
    reader: Box<dyn Reader>,
}

impl Head {
    /// The head of `text`, if it has one that keeps the grammar of settings.
    fn of(text: &str, encoding: Encoding) -> Option<Self> {
        let line_end = text.find('\n')? + 1;
        if text[..line_end].trim_end() != "---" {
            return None;
        }
        let mut at = line_end;
        for line in text[line_end..].split_inclusive('\n') {
            if matches!(line.trim_end(), "---" | "...") {
                let range = line_end..at;
                let head = &text[range.clone()];
                let reader = YAML.reader(head, encoding);
                let kept = reader.passages(head, &mut |_| {}) == Grammar::Kept;
                return kept.then_some(Self { range, reader });
            }
            at += line.len();
        }
        None
    }
}

/// A document's reader: what its text wears.
struct Wrappings {
    head: Option<Head>,
    plain: Layers,
    /// The target of a link.
    link: Layers,
}

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let Self { head, plain, link } = self;
        let mut at = 0;
        if let Some(Head { range, reader }) = head
            && let Some(settings) = text.get(range.clone())
        {
            reader.passages(settings, &mut |passage| {
                let span = passage.span.start + range.start..passage.span.end + range.start;
                each(Passage { span, ..passage });
            });
            at = range.end;
        }
        for line in text[at..].split_inclusive('\n') {
            let start = at;
            at += line.len();
            let body = line.trim_end_matches(['\r', '\n']);
            if !crate::scan::may_hold_place(body) {
                continue;
            }
            let moved = |span: Range<usize>| start + span.start..start + span.end;
            let mut from = 0;
            for span in exact_spans(body) {
                emit(moved(from..span.start), plain, Hint::Prose, each);
                // Blanks would end the target of a link, but not the inside of angle brackets.
                let before = &body[..span.start];
                let target = before.ends_with("](") || is_definition(before);
                // A URI with a scheme encodes its own letters.
                let encoded = body[span.clone()].to_ascii_lowercase().starts_with("file:");
                let layers = if target && !encoded { link } else { plain };
                emit(moved(span.clone()), layers, Hint::Name, each);
                from = span.end;
            }
            emit(moved(from..body.len()), plain, Hint::Prose, each);
        }
        Grammar::Kept
    }
}

/// The insides of code spans, angle brackets and link targets of one line, in order.
fn exact_spans(line: &str) -> Vec<Range<usize>> {
    let bytes = line.as_bytes();
    let mut spans = Vec::new();
    let mut at = 0;
    if let Some(colon) = line.find("]:")
        && is_definition(&line[..colon + 2])
    {
        let rest = line[colon + 2..].trim_start();
        let start = line.len() - rest.len();
        let end = start + rest.find(char::is_whitespace).unwrap_or(rest.len());
        if !rest.is_empty() && !rest.starts_with('<') {
            spans.push(start..end);
            at = end;
        }
    }
    while let Some(next) = memchr::memchr3(b'`', b'<', b'(', &bytes[at..]) {
        let open = at + next;
        let span = match bytes[open] {
            b'`' => {
                let ticks = bytes[open..].iter().take_while(|b| **b == b'`').count();
                let start = open + ticks;
                line[start..]
                    .find(&"`".repeat(ticks))
                    .map(|length| start..start + length)
            }
            b'<' => line[open + 1..]
                .find(['<', '>'])
                .filter(|length| line[open + 1 + length..].starts_with('>'))
                .map(|length| open + 1..open + 1 + length),
            _ if line[..open].ends_with(']') => {
                let start = open + 1;
                let angle = line[start..].starts_with('<');
                line[start..]
                    .find([')', ' '])
                    .filter(|_| !angle)
                    .map(|length| start..start + length)
            }
            _ => None,
        };
        match span {
            Some(span) => {
                at = span.end + 1;
                spans.push(span);
            }
            None => at = open + 1,
        }
        at = at.min(bytes.len());
    }
    spans
}

/// Whether `before` is all that comes before the target of a link's definition: `[name]: `.
fn is_definition(before: &str) -> bool {
    let name = before.trim_end().strip_suffix("]:");
    name.is_some_and(|name| {
        let indent = name.len() - name.trim_start_matches(' ').len();
        indent < 4 && name[indent..].starts_with('[') && !name.contains(']')
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn exact_bounds() {
        let cases: [(&str, &[&str]); 6] = [
            ("see `D:\\x y` there", &["D:\\x y"]),
            ("``D:\\a`b`` z", &["D:\\a`b"]),
            ("[map](D:/x/y.map \"title\")", &["D:/x/y.map"]),
            ("[map](<D:/x y>)", &["D:/x y"]),
            ("a < b (D:/x)", &[]),
            ("`open", &[]),
        ];
        for (line, expected) in cases {
            let got: Vec<&str> = exact_spans(line)
                .into_iter()
                .map(|span| &line[span])
                .collect();
            assert_eq!(got, expected, "{line}");
        }
    }
}
