//! Registry exports: version 5 (`Windows Registry Editor Version 5.00`) and the older
//! version 4 (`REGEDIT4`).
//!
//! Lines: `[key]` and `[-key]`, `"name"=data` and `@=data`, `;` comments. Data is a string,
//! hex digits carried on by a trailing `\`, `dword:`, or `-` for a deletion. Strings escape
//! `\` and `"`; key names escape nothing.
//!
//! Yields key names, value names, strings, and hex data that is text: types 1, 2, 6 and 7
//! (UTF-16 in version 5, the file's code page in version 4), and other types where all of
//! the data reads as text. Leaves `dword:` and other hex alone; hex data with a place among
//! other bytes is yielded as mixed.

use std::ops::Range;
use std::sync::Arc;

use super::{Claim, Format, Grammar, Passage, Reader, Role, Sample, Step};
use crate::about::About;
use crate::codec::{Escaped, REGISTRY, RegistryHex, Style, typed_by_hand};
use crate::layer::{Layer, Layers, alone};
use crate::place::Hint;
use crate::text::{Encoded, Encoding};

/// Exports of the Windows registry.
pub(super) struct RegistryExport;

const VERSION_5: &str = "Windows Registry Editor Version 5";
const VERSION_4: &str = "REGEDIT4";

/// All keys of an export share one scope; the values of each key one of their own.
const KEYS: usize = 0;

const ABOUT: About = About {
    name: "registry-export",
    what: "exports of the Windows registry, both versions",
    content: "Windows Registry Editor Version 5 or REGEDIT4 at its start",
    names: &[],
    read: "keys, names, strings, and hex(1), hex(2), hex(6), hex(7) and hex data that is text, wrapped as it was",
    limits: "binary data in which places stand among other bytes is sealed; importing leaves renamed names behind",
};

impl Format for RegistryExport {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, text: &str, _file_name: &str) -> Claim {
        let start = text.trim_start();
        if start.starts_with(VERSION_5) || start.starts_with(VERSION_4) {
            Claim::Certain
        } else {
            Claim::No
        }
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[Sample::new(
            "a.reg",
            "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\a]\r\n",
            "\"a\"=\"",
            "\"\r\n",
        )];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::WINDOWS_1252)
    }

    fn reader(&'static self, text: &str, encoding: Encoding) -> Box<dyn Reader> {
        let version_5 = !text.trim_start().starts_with(VERSION_4);
        let narrow = match encoding {
            page if page.is_code_page() => page,
            _ => Encoding::WINDOWS_1252,
        };
        Box::new(Wrappings {
            data_encoding: if version_5 { Encoding::Utf16Le } else { narrow },
            narrow,
            line_end: if text.contains("\r\n") { "\r\n" } else { "\n" },
            string: alone(Escaped {
                escapes: &REGISTRY,
                document: Style::default(),
            }),
            plain: Arc::new([]),
        })
    }
}

/// An export's reader: in which encodings its data is, and what its strings wear.
struct Wrappings {
    /// Of text in hex digits.
    data_encoding: Encoding,
    /// Of text in hex digits that is not in UTF-16.
    narrow: Encoding,
    line_end: &'static str,
    string: Layers,
    plain: Layers,
}

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let mut walk = Walk {
            wear: self,
            text,
            site: Vec::new(),
            scope: KEYS,
            grammar: Grammar::Kept,
            each,
        };
        walk.read();
        walk.grammar
    }
}

/// One walk through an export.
struct Walk<'a, 'e> {
    wear: &'a Wrappings,
    text: &'a str,
    site: Vec<Step>,
    scope: usize,
    grammar: Grammar,
    each: &'e mut dyn FnMut(Passage<'_>),
}

impl Walk<'_, '_> {
    fn read(&mut self) {
        let mut at = 0;
        let mut first = true;
        while at < self.text.len() {
            let end = self.line_end_from(at);
            let line = &self.text[at..end];
            let indent = line.len() - line.trim_start().len();
            let start = at + indent;
            at = match line[indent..].chars().next() {
                None => end + 1,
                Some(_) if first => {
                    first = false;
                    end + 1
                }
                Some('[') => self.key(start, end),
                Some(';') => {
                    self.emit(
                        start + 1..end,
                        Role::Prose,
                        &self.wear.plain.clone(),
                        Hint::Prose,
                    );
                    end + 1
                }
                Some('"') => self.value(start, end),
                Some('@') => {
                    self.site.push(Step::Key("@".to_owned()));
                    let next = self.data(start, start + 1, end);
                    self.site.pop();
                    next
                }
                Some(_) => self.stray(start, end),
            };
        }
    }

    /// The end of the line that `at` is in, without a carriage return.
    fn line_end_from(&self, at: usize) -> usize {
        let bytes = self.text.as_bytes();
        memchr::memchr(b'\n', &bytes[at..]).map_or(bytes.len(), |length| at + length)
    }

    fn stray(&mut self, start: usize, end: usize) -> usize {
        self.grammar = Grammar::Broken;
        let plain = self.wear.plain.clone();
        self.emit(start..end, Role::Stray, &plain, Hint::Prose);
        end + 1
    }

    fn key(&mut self, start: usize, end: usize) -> usize {
        let line = self.text[start..end].trim_end();
        if !line.ends_with(']') || line.len() < 2 {
            return self.stray(start, end);
        }
        let deletion = usize::from(line[1..].starts_with('-'));
        let span = start + 1 + deletion..start + line.len() - 1;
        if span.start > span.end {
            return self.stray(start, end);
        }
        self.scope += 1;
        self.site = vec![Step::Key(self.text[span.clone()].to_owned())];
        let role = Role::Name {
            scope: KEYS,
            ignore_case: true,
            outlives_import: true,
        };
        let plain = self.wear.plain.clone();
        self.emit(span, role, &plain, Hint::KeyPath);
        end + 1
    }

    /// A line that begins with a value's name in quotes.
    fn value(&mut self, start: usize, end: usize) -> usize {
        let Some(close) = self.closing_quote(start, end) else {
            return self.stray(start, end);
        };
        let span = start + 1..close;
        let raw = self.text[span.clone()].to_owned();
        self.site.push(Step::Key(raw.clone()));
        let string = self.wear.string.clone();
        let role = if self.is_by_hand(&raw) {
            Role::ByHand
        } else {
            Role::Name {
                scope: self.scope,
                ignore_case: true,
                outlives_import: true,
            }
        };
        self.emit(span, role, &string, Hint::Name);
        let next = self.data(start, close + 1, end);
        self.site.pop();
        next
    }

    /// Whether a string breaks its grammar by a path with single backslashes.
    fn is_by_hand(&mut self, raw: &str) -> bool {
        let by_hand = typed_by_hand(raw);
        if !REGISTRY.is_sound(raw) {
            self.grammar.note(false, Grammar::Escapes);
            return true;
        }
        by_hand
    }

    /// The quote that closes the one at `open`, before `end`.
    fn closing_quote(&self, open: usize, end: usize) -> Option<usize> {
        let bytes = self.text.as_bytes();
        let mut at = open + 1;
        while at < end {
            match bytes[at] {
                b'"' => return Some(at),
                b'\\' => at += 2,
                _ => at += 1,
            }
        }
        None
    }

    /// What follows a name: `line` is where its line begins, `at` comes after the name.
    fn data(&mut self, line: usize, at: usize, end: usize) -> usize {
        let text = self.text;
        let rest = &text[at..end];
        let Some(data) = rest.trim_start().strip_prefix('=') else {
            return self.stray(at, end);
        };
        let data = data.trim_start();
        let start = end - data.len();
        let hint = match self.site.last() {
            Some(Step::Key(name)) => Hint::for_value(name),
            _ => Hint::Name,
        };
        if data.starts_with('"') {
            return self.string(start, end, hint);
        }
        let trimmed = data.trim_end();
        let lower = trimmed.to_ascii_lowercase();
        if trimmed == "-" || lower.starts_with("dword:") {
            return end + 1;
        }
        match hex_type(&lower) {
            Some((kind, prefix)) => self.hex(line, start + prefix, kind, hint),
            None => self.stray(start, end),
        }
    }

    /// A string; one with line ends in it goes on until a line ends in its quote.
    fn string(&mut self, start: usize, end: usize, hint: Hint) -> usize {
        let mut last = end;
        let close = loop {
            if let Some(close) = self.closing_quote(start, last) {
                break close;
            }
            let next = self.line_end_from((last + 1).min(self.text.len()));
            let line = self.text.get(last + 1..next).unwrap_or("");
            let begins_another =
                line.starts_with('[') || line.starts_with("@=") || line.contains("\"=");
            if last >= self.text.len() || begins_another {
                return self.stray(start, end);
            }
            last = next;
        };
        let span = start + 1..close;
        let raw = self.text[span.clone()].to_owned();
        let role = if self.is_by_hand(&raw) {
            Role::ByHand
        } else {
            Role::Value
        };
        let string = self.wear.string.clone();
        self.emit(span, role, &string, hint);
        if !self.text[close + 1..last].trim().is_empty() {
            self.grammar = Grammar::Broken;
        }
        last + 1
    }

    /// Hex data from `start` on, over as many lines as it takes.
    fn hex(&mut self, line: usize, start: usize, kind: u32, hint: Hint) -> usize {
        let mut end = self.line_end_from(start);
        while self.text[start..end].trim_end().ends_with('\\') && end < self.text.len() {
            end = self.line_end_from(end + 1);
        }
        let data = self.text[start..end].trim_end();
        let span = start..start + data.len();
        let hex = Arc::new(RegistryHex {
            column: self.text[line..start].chars().count(),
            line_end: self.wear.line_end,
        });
        let Ok(opened) = hex.open(data.as_bytes()) else {
            self.grammar = Grammar::Broken;
            return end + 1;
        };
        let (encoding, role) = match kind {
            1 | 2 | 6 | 7 => (self.wear.data_encoding, Role::Value),
            _ => match self.text_by_evidence(&opened.content) {
                Some(found) => found,
                None => return end + 1,
            },
        };
        let layers: Layers = Arc::new([
            hex as Arc<dyn Layer>,
            Arc::new(Encoded(encoding)) as Arc<dyn Layer>,
        ]);
        self.emit(span, role, &layers, hint);
        end + 1
    }

    /// The encoding in which binary data reads as text, and whether all of it does.
    fn text_by_evidence(&self, bytes: &[u8]) -> Option<(Encoding, Role)> {
        let is_text = |text: &str| {
            let body = text.trim_end_matches('\0');
            !body.is_empty()
                && body
                    .chars()
                    .all(|c| !c.is_control() && c != crate::place::OPAQUE || "\r\n\t".contains(c))
        };
        let has_letters = |text: &str| {
            let ascii = text.chars().filter(|c| c.is_ascii_graphic()).count();
            ascii * 2 >= text.trim_end_matches('\0').chars().count()
        };
        for encoding in [Encoding::Utf16Le, self.wear.narrow] {
            let text = encoding.decode(bytes);
            if is_text(&text) && has_letters(&text) {
                return Some((encoding, Role::Value));
            }
        }
        // A place among other bytes: the letters before it may be a length or an offset.
        for encoding in [Encoding::Utf16Le, self.wear.narrow] {
            let text = encoding.decode(bytes);
            let finds = crate::place::Finder::default().find(&text, Hint::Prose);
            if finds.iter().any(|found| found.root.is_windows()) {
                return Some((encoding, Role::Mixed));
            }
        }
        None
    }

    fn emit(&mut self, span: Range<usize>, role: Role, layers: &Layers, hint: Hint) {
        if span.is_empty() {
            return;
        }
        let site: &[Step] = match role {
            Role::Prose => &[],
            _ => &self.site,
        };
        (self.each)(Passage {
            span,
            layers,
            role,
            hint,
            site,
        });
    }
}

/// The type number of hex data and the length of its prefix; `hex:` is 3.
fn hex_type(lower: &str) -> Option<(u32, usize)> {
    if lower.starts_with("hex:") {
        return Some((3, 4));
    }
    let inner = lower.strip_prefix("hex(")?;
    let close = inner.find("):")?;
    let kind = u32::from_str_radix(&inner[..close], 16).ok()?;
    Some((kind, 4 + close + 2))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::OpenedChain;

    fn read(text: &str) -> (Vec<(String, Role)>, bool) {
        let mut all = Vec::new();
        let grammar = RegistryExport.passages(text, Encoding::Utf8, &mut |passage| {
            let raw = &text[passage.span.clone()];
            let content = match OpenedChain::open(passage.layers, raw.as_bytes()) {
                Ok(chain) => chain.content(raw).to_owned(),
                Err(_) => raw.to_owned(),
            };
            all.push((content, passage.role));
        });
        (all, grammar == Grammar::Kept)
    }

    #[test]
    fn every_kind_of_line() {
        let text = "Windows Registry Editor Version 5.00\r\n\r\n\
            ; kept by hand\r\n\
            [HKEY_CURRENT_USER\\Software\\Label Printer]\r\n\
            @=\"D:\\\\Herbarium\"\r\n\
            \"Root\"=\"D:\\\\Herbarium\\\\Sheets\"\r\n\
            \"Count\"=dword:00000007\r\n\
            \"Gone\"=-\r\n\
            \"Expand\"=hex(2):44,00,3a,00,\\\r\n  5c,00,78,00,00,00\r\n\
            \"Raw\"=hex:01,02,03\r\n\
            \"Text\"=hex:44,00,3a,00,5c,00,78,00,00,00\r\n\
            \r\n\
            [-HKEY_CURRENT_USER\\Software\\Old]\r\n";
        let (all, fine) = read(text);
        assert!(fine);
        let texts: Vec<_> = all
            .iter()
            .map(|(text, _)| text.trim_end_matches('\0'))
            .collect();
        assert_eq!(
            texts,
            [
                " kept by hand\r",
                r"HKEY_CURRENT_USER\Software\Label Printer",
                r"D:\Herbarium",
                "Root",
                r"D:\Herbarium\Sheets",
                "Count",
                "Gone",
                "Expand",
                r"D:\x",
                "Raw",
                "Text",
                r"D:\x",
                r"HKEY_CURRENT_USER\Software\Old",
            ]
        );
    }

    #[test]
    fn data_with_a_place_among_other_bytes_is_mixed() {
        let text =
            "REGEDIT4\n[K]\n\"A\"=hex:04,00,01,44,3a,5c,78,5c,79,00\n\"B\"=hex(2):44,3a,5c,78,00\n";
        let (all, fine) = read(text);
        assert!(fine);
        assert_eq!(all[2].1, Role::Mixed);
        assert_eq!(all[4], ("D:\\x\0".to_owned(), Role::Value));
    }

    #[test]
    fn broken_lines_are_stray_and_the_rest_is_read() {
        let cases = [
            ("REGEDIT4\n[K\n\"A\"=\"x\"\n", 3),
            ("REGEDIT4\n[K]\n\"A=\"D:\\x\"\n\"B\"=\"y\"\n", 5),
            ("REGEDIT4\n[K]\n\"A\"=\"D:\\new\n\"B\"=\"y\"\n", 5),
            ("REGEDIT4\n[K]\nnonsense\n", 2),
            ("REGEDIT4\n[K]\n\"A\"=hex(2):4,zz\n", 2),
        ];
        for (text, count) in cases {
            let (all, fine) = read(text);
            assert!(!fine, "{text}");
            assert_eq!(all.len(), count, "{text}: {all:?}");
        }
        let (all, _) = read("REGEDIT4\n[K]\n\"A\"=\"D:\\Herbarium\"\n");
        assert_eq!(all[2].1, Role::ByHand);
        let (all, fine) = read("REGEDIT4\n[K]\n\"A\"=\"one\ntwo\"\n\"B\"=\"y\"\n");
        assert!(fine);
        assert_eq!(all[2].0, "one\ntwo");
    }
}
