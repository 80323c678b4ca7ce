//! Tables as text: fields parted by commas, semicolons, tabs or bars, in quotes where they
//! need them (RFC 4180).

use std::ops::Range;

use super::{
    Claim, Format, Grammar, Passage, Reader, Records, Role, Sample, Step, Subject, may_matter,
};
use crate::about::About;
use crate::codec::Field;
use crate::layer::{Layers, alone};
use crate::scan::{Hint, Letters, OF_PLACES, Upcoming};
use crate::text::Encoding;

/// Tables as text.
pub(super) struct Table;

const ABOUT: About = About {
    name: "csv",
    what: "tables as text, parted by commas, semicolons, tabs or bars",
    content: "",
    names: &[".csv", ".tsv", ".tab"],
    read: "fields, with quotes where they are needed",
    limits: "a field that gains the delimiter gains quotes; one that begins with = is not evaluated",
};

impl Format for Table {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let file_name = subject.file_name;
        if ABOUT.is_named(file_name) {
            Claim::IfWellFormed
        } else {
            Claim::No
        }
    }

    fn lines_belong_together(&self) -> bool {
        true
    }

    fn is_local(&self) -> bool {
        true
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[
            Sample::new("a.csv", "a,b\n", "1,", "\n"),
            Sample::new("a.csv", "a;b\n", "1;\"", "\"\n"),
        ];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        None
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        let delimiter = delimiter_of(text);
        Box::new(Wrappings {
            delimiter,
            field: alone(Field::of_table(delimiter)),
            columns: names_of_columns(text, delimiter),
        })
    }
}

/// A document's reader: what parts its fields, and what they wear.
struct Wrappings {
    delimiter: u8,
    field: Layers,
    /// The fields of the first row.
    columns: Vec<String>,
}

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        self.passages_of_window(text, 0, each)
    }

    fn whole_records(&self, text: &str, _: u64) -> Option<Records> {
        let bytes = text.as_bytes();
        let (mut at, mut count) = (0, 0);
        let mut whole = None;
        while let Some((_, end)) = field_at(text, at, self.delimiter) {
            match bytes.get(end) {
                // Whether a line end has one sign or two is not seen at the end of the text.
                Some(b'\r' | b'\n') if end + 1 < bytes.len() || bytes[end] == b'\n' => {
                    count += 1;
                    at = behind_line_end(bytes, end);
                    whole = Some(Records { end: at, count });
                }
                Some(_) if end + 1 < bytes.len() => at = end + 1,
                _ => break,
            }
            if at >= bytes.len() {
                break;
            }
        }
        whole
    }

    fn passages_of_window(
        &self,
        text: &str,
        records: usize,
        each: &mut dyn FnMut(Passage<'_>),
    ) -> Grammar {
        // The way to each column's fields, and what its name says of them.
        let named = |name: &String| {
            let site = [Step::Index(0), Step::Key(name.clone())];
            (site, Hint::for_value(name))
        };
        let mut columns: Vec<([Step; 2], Hint)> = self.columns.iter().map(named).collect();
        let unnamed = Hint::for_value("");
        let (mut row, mut column, mut at) = (records, 0usize, 0usize);
        let bytes = text.as_bytes();
        let mut grammar = Grammar::Kept;
        let mut upcoming = Upcoming::new(text, 0, &[OF_PLACES, QUOTES]);
        while at <= bytes.len() {
            // Of whole rows in which no place may be only the number counts.
            if row > 0 && column == 0 && !columns.iter().any(|(_, hint)| hint.names_drive()) {
                let sign = upcoming.sign(at);
                while let Some(length) = memchr::memchr2(b'\n', b'\r', &bytes[at..sign]) {
                    row += 1;
                    at = behind_line_end(bytes, at + length);
                }
                if at == bytes.len() {
                    break;
                }
            }
            let (span, end) = match field_at(text, at, self.delimiter) {
                Some(field) => field,
                None => {
                    grammar = Grammar::Broken;
                    (at..bytes.len(), bytes.len())
                }
            };
            if may_matter(&text[span.clone()]) {
                if column >= columns.len() {
                    let site = [Step::Index(row), Step::Key(String::new())];
                    columns.resize(column + 1, (site, unnamed));
                }
                let (site, hint) = &mut columns[column];
                site[0] = Step::Index(row);
                each(Passage {
                    span,
                    layers: &self.field,
                    role: Role::Value,
                    hint: if row == 0 { Hint::Name } else { *hint },
                    site,
                });
            }
            match bytes.get(end) {
                Some(b'\r' | b'\n') => {
                    (row, column) = (row + 1, 0);
                    at = behind_line_end(bytes, end);
                    if at == bytes.len() {
                        break;
                    }
                }
                Some(_) => {
                    column += 1;
                    at = end + 1;
                }
                None => break,
            }
        }
        grammar
    }
}

/// The names in the first row, without their quotes.
fn names_of_columns(text: &str, delimiter: u8) -> Vec<String> {
    let mut names = Vec::new();
    let mut at = 0;
    loop {
        let field = field_at(text, at, delimiter);
        let (span, end) = field.unwrap_or((at..text.len(), text.len()));
        names.push(text[span].trim_matches('"').to_owned());
        if text.as_bytes().get(end) != Some(&delimiter) {
            return names;
        }
        at = end + 1;
    }
}

/// What is in quotes may hold line ends.
const QUOTES: Letters = [b'"'; 3];

/// Where the next line begins behind the line end at `at`.
fn behind_line_end(bytes: &[u8], at: usize) -> usize {
    if bytes[at..].starts_with(b"\r\n") {
        at + 2
    } else {
        at + 1
    }
}

/// The field at `at`, its quotes included, and where it is over.
fn field_at(text: &str, at: usize, delimiter: u8) -> Option<(Range<usize>, usize)> {
    let bytes = text.as_bytes();
    let is_end = |b: u8| b == delimiter || b == b'\n' || b == b'\r';
    if bytes.get(at) != Some(&b'"') {
        let length = memchr::memchr3(delimiter, b'\n', b'\r', &bytes[at..]);
        let end = length.map_or(bytes.len(), |length| at + length);
        return Some((at..end, end));
    }
    let mut end = at + 1;
    loop {
        end += memchr::memchr(b'"', &bytes[end..])?;
        if bytes.get(end + 1) == Some(&b'"') {
            end += 2;
            continue;
        }
        let over = end + 1;
        let closed = bytes.get(over).is_none_or(|b| is_end(*b));
        return closed.then_some((at..over, over));
    }
}

/// The delimiter of the first line that is outside of quotes most often.
fn delimiter_of(text: &str) -> u8 {
    const CHOICES: [u8; 4] = [b',', b';', b'\t', b'|'];
    let mut quoted = false;
    let mut counts = [0usize; CHOICES.len()];
    for byte in text.bytes() {
        match byte {
            b'"' => quoted = !quoted,
            b'\n' if !quoted => break,
            _ if !quoted => {
                if let Some(which) = CHOICES.iter().position(|choice| *choice == byte) {
                    counts[which] += 1;
                }
            }
            _ => {}
        }
    }
    let most = counts.iter().max().copied().unwrap_or(0);
    let best = counts.iter().position(|count| *count == most).unwrap_or(0);
    CHOICES[best]
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::site_text;

    #[test]
    fn fields_and_their_columns() {
        let cases: [(&str, &[&str], bool); 5] = [
            ("id,path\r\n1,D:\\x\r\n", &["[1].path|D:\\x"], true),
            (
                "a;b\n\"D:\\x; \"\"y\"\"\";c",
                &[
                    "[0].a|a",
                    "[0].b|b",
                    "[1].a|\"D:\\x; \"\"y\"\"\"",
                    "[1].b|c",
                ],
                true,
            ),
            ("a\tb\n,:\t\n", &["[0].a|a", "[0].b|b", "[1].a|,:"], true),
            (
                "a,b\r\n12,34\r\n\"/x\ny\",z",
                &["[0].a|a", "[0].b|b", "[2].a|\"/x\ny\"", "[2].b|z"],
                true,
            ),
            ("a\n\"x", &["[0].a|a", "[1].a|\"x"], false),
        ];
        for (text, expected, fine) in cases {
            let mut all = Vec::new();
            let got = Table.passages(text, Encoding::Utf8, &mut |passage| {
                all.push(format!(
                    "{}|{}",
                    site_text(passage.site),
                    &text[passage.span.clone()]
                ));
            });
            assert_eq!(
                (
                    all.iter().map(String::as_str).collect::<Vec<_>>(),
                    got == Grammar::Kept
                ),
                (expected.to_vec(), fine),
                "{text}"
            );
        }
    }
}
