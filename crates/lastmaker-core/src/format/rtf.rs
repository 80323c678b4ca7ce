//! Rich text (Rich Text Format specification 1.9.1): runs of text between control words.
//!
//! Pictures, objects and other groups of hex digits are passed over.

use std::ops::Range;

use super::{Claim, Format, Grammar, Passage, Reader, Role, Sample, Subject};
use crate::about::About;
use crate::codec::RtfText;
use crate::format::cursor::Cursor;
use crate::layer::{Layers, alone};
use crate::scan::Hint;
use crate::text::Encoding;

/// Rich text.
pub(super) struct RichText;

const ABOUT: About = About {
    name: "rtf",
    what: "rich text",
    content: "{\\rtf at its start",
    names: &[],
    read: "text and field instructions, with \\\\, \\'e9 and \\u233? as the document has them",
    limits: "pictures and embedded objects are passed over; a place that formatting parts is not seen",
};

impl Format for RichText {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let text = subject.text;
        if text.starts_with("{\\rtf") {
            Claim::IfWellFormed
        } else {
            Claim::No
        }
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[Sample::new(
            "a.rtf",
            "{\\rtf1\\ansi ",
            "{\\field{\\*\\fldinst HYPERLINK \"",
            "\"}}\\par\n",
        )
        .ending_with("}")];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::WINDOWS_1252)
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        let page = text
            .find("\\ansicpg")
            .map(|at| digits(&text[at + 8..]))
            .and_then(|number| Encoding::for_label(&format!("windows-{number}")))
            .unwrap_or(Encoding::WINDOWS_1252);
        let unicode = text.contains("\\u") && has_unicode(text);
        let layers = (0..=MOST_FALLBACKS).map(|fallbacks| {
            alone(RtfText {
                page,
                fallbacks,
                unicode,
            })
        });
        Box::new(Wrappings(layers.collect()))
    }
}

/// No more letters may stand in for one that is written by its number.
const MOST_FALLBACKS: usize = 8;

/// A document's reader: what its text wears, by how many letters stand in for one that is
/// written by its number.
struct Wrappings(Vec<Layers>);

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let mut walk = Walk {
            wear: self,
            cursor: Cursor::new(text, each),
            at: 0,
            groups: Vec::new(),
            fallbacks: 1,
            run: None,
        };
        walk.read();
        walk.cursor.grammar
    }
}

/// One walk through a document.
struct Walk<'a, 'e> {
    wear: &'a Wrappings,
    cursor: Cursor<'a, 'e>,
    at: usize,
    /// The fallbacks in force around each open group.
    groups: Vec<usize>,
    /// How many letters stand in for one that is written by its number.
    fallbacks: usize,
    /// Where the run of text began that is being read.
    run: Option<usize>,
}

impl Walk<'_, '_> {
    fn read(&mut self) {
        let bytes = self.cursor.text.as_bytes();
        while self.at < bytes.len() {
            match bytes[self.at] {
                b'{' => {
                    self.flush();
                    self.groups.push(self.fallbacks);
                    self.at += 1;
                }
                b'}' => {
                    self.close();
                    if self.groups.is_empty() {
                        // What follows the last group is no part of the document.
                        break;
                    }
                }
                b'\\' => self.control(),
                b'\r' | b'\n' => self.at += 1,
                _ => {
                    self.run.get_or_insert(self.at);
                    let plain = |b: &&u8| !matches!(b, b'{' | b'}' | b'\\' | b'\r' | b'\n');
                    self.at += bytes[self.at..].iter().take_while(plain).count();
                }
            }
        }
        self.at = self.at.min(bytes.len());
        self.flush();
        self.cursor.note(self.groups.is_empty(), Grammar::Broken);
    }

    fn close(&mut self) {
        self.flush();
        match self.groups.pop() {
            Some(outer) => self.fallbacks = outer,
            None => self.cursor.grammar = Grammar::Broken,
        }
        self.at += 1;
    }

    fn control(&mut self) {
        match control_at(self.cursor.text, self.at) {
            Control::Text(width) => {
                self.run.get_or_insert(self.at);
                self.at += width;
            }
            Control::Word { span, name, number } => {
                self.flush();
                let number = usize::try_from(number);
                self.at = span.end;
                match name {
                    "uc" => self.fallbacks = number.unwrap_or(1).min(MOST_FALLBACKS),
                    "bin" => {
                        self.at = (self.at + number.unwrap_or(0)).min(self.cursor.text.len());
                        self.end_letter();
                    }
                    _ => {}
                }
            }
        }
    }

    /// Goes on to where a letter begins.
    fn end_letter(&mut self) {
        while !self.cursor.text.is_char_boundary(self.at) {
            self.at += 1;
        }
    }

    /// Yields the run of text that ends here.
    fn flush(&mut self) {
        let Some(start) = self.run.take() else { return };
        let span = start..self.at;
        if crate::scan::may_hold_place(&self.cursor.text[span.clone()]) {
            (self.cursor.each)(Passage {
                span,
                layers: &self.wear.0[self.fallbacks],
                role: Role::Prose,
                hint: Hint::Prose,
                site: &[],
            });
        }
    }
}

enum Control<'t> {
    /// An escaped letter, so wide.
    Text(usize),
    /// A control word or symbol.
    Word {
        span: Range<usize>,
        name: &'t str,
        number: i64,
    },
}

/// What the backslash at `at` begins.
fn control_at(text: &str, at: usize) -> Control<'_> {
    let bytes = text.as_bytes();
    match bytes.get(at + 1) {
        Some(b'\\' | b'{' | b'}' | b'~' | b'_' | b'-') => return Control::Text(2),
        Some(b'\'') => return Control::Text(4.min(bytes.len() - at)),
        Some(b'u')
            if bytes
                .get(at + 2)
                .is_some_and(|b| b.is_ascii_digit() || *b == b'-') =>
        {
            let rest = &text[at + 2..];
            let width = 2 + rest
                .bytes()
                .enumerate()
                .take_while(|(index, b)| b.is_ascii_digit() || (*index == 0 && *b == b'-'))
                .count();
            // The blank or the letter that follows it is a part of the run anyway.
            return Control::Text(width);
        }
        _ => {}
    }
    let rest = &text[at + 1..];
    let letters = rest.bytes().take_while(u8::is_ascii_alphabetic).count();
    if letters == 0 {
        let width = rest.chars().next().map_or(0, char::len_utf8);
        return Control::Word {
            span: at..at + 1 + width,
            name: &rest[..width],
            number: 0,
        };
    }
    let sign = usize::from(rest[letters..].starts_with('-'));
    let digits = rest[letters + sign..]
        .bytes()
        .take_while(u8::is_ascii_digit)
        .count();
    let number = rest[letters..letters + sign + digits].parse().unwrap_or(0);
    let mut end = letters + if digits > 0 { sign + digits } else { 0 };
    end += usize::from(rest[end..].starts_with(' '));
    Control::Word {
        span: at..at + 1 + end,
        name: &rest[..letters],
        number,
    }
}

fn digits(text: &str) -> &str {
    let length = text.bytes().take_while(u8::is_ascii_digit).count();
    &text[..length]
}

/// Whether letters are written by their number somewhere.
fn has_unicode(text: &str) -> bool {
    text.match_indices("\\u")
        .any(|(at, _)| text[at + 2..].starts_with(|c: char| c.is_ascii_digit() || c == '-'))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn runs_of_text() {
        let cases: [(&str, &[&str], bool); 6] = [
            (r"{\rtf1\ansi see D:\\x\\y\par}", &[r"see D:\\x\\y"], true),
            (
                r"{\rtf1{\fonttbl{\f0 A;}}\f0 D:\\a{\b E:\\b}}",
                &[r"D:\\a", r"E:\\b"],
                true,
            ),
            (r"{\rtf1\uc1 D:\\\u228?x}", &[r"D:\\\u228?x"], true),
            (r"{\rtf1 D:\\\'e4x\~y}", &[r"D:\\\'e4x\~y"], true),
            (r"{\rtf1 D:\\x", &[r"D:\\x"], false),
            (
                r#"{\rtf1{\field{\*\fldinst HYPERLINK "file:///D:/x"}}}"#,
                &[r#"HYPERLINK "file:///D:/x""#],
                true,
            ),
        ];
        for (text, expected, fine) in cases {
            let mut all = Vec::new();
            let got = RichText.passages(text, Encoding::Utf8, &mut |passage| {
                all.push(&text[passage.span.clone()]);
            });
            assert_eq!(
                (all, got == Grammar::Kept),
                (expected.to_vec(), fine),
                "{text}"
            );
        }
    }
}
