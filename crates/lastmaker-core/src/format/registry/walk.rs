//! Reads a registry file line by line.

use std::ops::Range;
use std::sync::Arc;

use super::super::blocks::{Blocks, ESCAPE, Inside, SIGN};
use super::super::{Grammar, Role, Step};
use super::{KEYS, Kind, Wrappings};
use crate::codec::{RegistryHex, typed_by_hand};
use crate::format::cursor::Cursor;
use crate::layer::{Layer, Layers};
use crate::scan::Hint;
use crate::text::{Encoded, Encoding};

/// One walk through a registry file.
pub(super) struct Walk<'a, 'e> {
    pub(super) wear: &'a Wrappings,
    pub(super) cursor: Cursor<'a, 'e>,
    pub(super) site: Vec<Step>,
    pub(super) scope: usize,
}

impl Walk<'_, '_> {
    pub(super) fn read(&mut self) {
        let mut at = 0;
        let mut first = true;
        let mut blocks = Blocks::of(self.cursor.text.as_bytes());
        while at < self.cursor.text.len() {
            if !first && let Some(next) = behind_idle(self.cursor.text.as_bytes(), &mut blocks, at)
            {
                at = next;
                continue;
            }
            let end = self.line_end_from(at);
            let line = &self.cursor.text[at..end];
            let indent = line.len() - line.trim_start().len();
            let start = at + indent;
            at = match line[indent..].chars().next() {
                None => end + 1,
                Some(_) if first => {
                    first = false;
                    end + 1
                }
                Some('[') => self.key(start, end),
                // What describes a key of a hive.
                Some('#') if self.is_hive() => end + 1,
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
        let bytes = self.cursor.text.as_bytes();
        memchr::memchr(b'\n', &bytes[at..]).map_or(bytes.len(), |length| at + length)
    }

    fn stray(&mut self, start: usize, end: usize) -> usize {
        self.cursor.grammar = Grammar::Broken;
        let plain = self.wear.plain.clone();
        self.emit(start..end, Role::Stray, &plain, Hint::Prose);
        end + 1
    }

    fn key(&mut self, start: usize, end: usize) -> usize {
        let mut line = self.cursor.text[start..end].trim_end();
        if self.is_hive() {
            line = line
                .trim_end_matches(|c: char| c.is_ascii_digit())
                .trim_end();
        }
        if !line.ends_with(']') || line.len() < 2 {
            return self.stray(start, end);
        }
        let deletion = usize::from(line[1..].starts_with('-'));
        let span = start + 1 + deletion..start + line.len() - 1;
        if span.start > span.end {
            return self.stray(start, end);
        }
        self.scope += 1;
        self.site = vec![Step::Key(self.cursor.text[span.clone()].to_owned())];
        let role = Role::Name {
            scope: KEYS,
            ignore_case: true,
            outlives_import: !self.is_hive(),
        };
        let layers = if self.is_hive() {
            self.wear.string.clone()
        } else {
            self.wear.plain.clone()
        };
        self.emit(span, role, &layers, Hint::KeyPath);
        end + 1
    }

    fn is_hive(&self) -> bool {
        self.wear.kind == Kind::Hive
    }

    /// A line that begins with a value's name in quotes.
    fn value(&mut self, start: usize, end: usize) -> usize {
        let Some(close) = self.closing_quote(start, end) else {
            return self.stray(start, end);
        };
        let span = start + 1..close;
        let raw = self.cursor.text[span.clone()].to_owned();
        self.site.push(Step::Key(raw.clone()));
        let string = self.wear.string.clone();
        let role = if self.is_by_hand(&raw) {
            Role::Undoubled
        } else {
            Role::Name {
                scope: self.scope,
                ignore_case: true,
                outlives_import: !self.is_hive(),
            }
        };
        self.emit(span, role, &string, Hint::Name);
        let next = self.data(start, close + 1, end);
        self.site.pop();
        next
    }

    /// Whether a string breaks its grammar by a path with single backslashes.
    fn is_by_hand(&mut self, raw: &str) -> bool {
        if memchr::memchr(b'\\', raw.as_bytes()).is_none() {
            return false;
        }
        let by_hand = typed_by_hand(raw);
        if !self.wear.kind.escapes().is_sound(raw) {
            self.cursor.note(false, Grammar::Escapes);
            return true;
        }
        by_hand
    }

    /// The quote that closes the one at `open`, before `end`.
    fn closing_quote(&self, open: usize, end: usize) -> Option<usize> {
        let bytes = &self.cursor.text.as_bytes()[..end];
        let mut at = open + 1;
        while let Some(next) = memchr::memchr2(b'"', b'\\', bytes.get(at..)?) {
            at += next;
            if bytes[at] == b'"' {
                return Some(at);
            }
            at += 2;
        }
        None
    }

    /// What follows a name: `line` is where its line begins, `at` comes after the name.
    fn data(&mut self, line: usize, at: usize, end: usize) -> usize {
        let text = self.cursor.text;
        let rest = &text[at..end];
        let Some(data) = rest.trim_start().strip_prefix('=') else {
            return self.stray(at, end);
        };
        let data = data.trim_start();
        let start = end - data.len();
        // Its words matter only where a place may be, or a lone drive letter.
        let closed = data.len() > 1 && data.trim_end().ends_with('"');
        let idle = closed && data.len() > 8 && !crate::scan::may_hold_place(data);
        let hint = match self.site.last() {
            Some(Step::Key(name)) if !idle => Hint::for_value(name),
            _ => Hint::Name,
        };
        if data.starts_with('"') {
            return self.string(start, end, hint);
        }
        if self.is_hive()
            && let Some(open) = data.find(":\"").filter(|_| data.starts_with("str("))
        {
            return self.string(start + open + 1, end, hint);
        }
        let kind = &data[..data.floor_char_boundary(LONGEST_KIND)];
        let lower = kind.to_ascii_lowercase();
        if data.trim_end() == "-" || lower.starts_with("dword:") {
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
            let next = self.line_end_from((last + 1).min(self.cursor.text.len()));
            let line = self.cursor.text.get(last + 1..next).unwrap_or("");
            let begins_another =
                line.starts_with('[') || line.starts_with("@=") || line.contains("\"=");
            if last >= self.cursor.text.len() || begins_another {
                return self.stray(start, end);
            }
            last = next;
        };
        let span = start + 1..close;
        let role = if self.is_by_hand(&self.cursor.text[span.clone()]) {
            Role::Undoubled
        } else {
            Role::Value
        };
        let string = self.wear.string.clone();
        self.emit(span, role, &string, hint);
        if !self.cursor.text[close + 1..last].trim().is_empty() {
            self.cursor.grammar = Grammar::Broken;
        }
        last + 1
    }

    /// Hex data from `start` on, over as many lines as it takes.
    fn hex(&mut self, line: usize, start: usize, kind: u32, hint: Hint) -> usize {
        let mut end = self.line_end_from(start);
        while self.cursor.text[start..end].trim_end().ends_with('\\')
            && end < self.cursor.text.len()
        {
            end = self.line_end_from(end + 1);
        }
        let data = self.cursor.text[start..end].trim_end();
        let span = start..start + data.len();
        let hex = Arc::new(RegistryHex {
            column: self.cursor.text[line..start].chars().count(),
            line_end: self.wear.line_end,
        });
        let Ok(opened) = hex.open(data.as_bytes()) else {
            self.cursor.grammar = Grammar::Broken;
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
            let finds = crate::scan::Finder::default().find(&text, Hint::Prose);
            if finds.iter().any(|found| found.root.is_windows()) {
                return Some((encoding, Role::Mixed));
            }
        }
        None
    }

    fn emit(&mut self, span: Range<usize>, role: Role, layers: &Layers, hint: Hint) {
        let site: &[Step] = match role {
            Role::Prose => &[],
            _ => &self.site,
        };
        self.cursor.emit(span, layers, role, hint, site);
    }
}

/// Where the line begins that follows the one at `at`, if that is a name and a string, each in its quotes, with no
/// letter in them that every place has, and the string is none that may be a drive: most lines are so.
fn behind_idle(bytes: &[u8], blocks: &mut Blocks<'_>, at: usize) -> Option<usize> {
    let plain = |inside: &Inside| inside.closed && inside.seen & (ESCAPE | SIGN) == 0;
    let quoted = |start: usize| bytes[start..].starts_with(b"\"").then_some(start + 1);
    let name = blocks.inside_of(quoted(at)?);
    let equals = name.end + 1;
    if !plain(&name) || bytes.get(equals) != Some(&b'=') {
        return None;
    }
    let start = quoted(equals + 1)?;
    let value = blocks.inside_of(start);
    if !plain(&value) || bytes[start..value.end].trim_ascii().len() <= 1 {
        return None;
    }
    match bytes[value.end + 1..] {
        [b'\n', ..] => Some(value.end + 2),
        [b'\r', b'\n', ..] => Some(value.end + 3),
        _ => None,
    }
}

/// No longer kind of data has a name: `hex(7fffffff):`, in bytes.
const LONGEST_KIND: usize = 16;

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
