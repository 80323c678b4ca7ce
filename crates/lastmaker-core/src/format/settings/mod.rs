//! Settings lines: sections, keys and values, one a line. One reader, a table of dialects.

mod dialects;
mod signs;

use std::ops::Range;
use std::sync::Arc;

use super::{About, Claim, Format, Grammar, Passage, Role, Step, may_matter, string_role};
use crate::codec::{
    BUILD_WORD, BareText, ByteArray, DESKTOP, ENVIRONMENT, Escaped, Escapes, Field, HEX_SETTINGS,
    PHP_SINGLE, PROPERTIES, PROPERTIES_KEY, QUOTED_SETTING, RAW_SINGLE, RECIPE, SETTING,
    SHELL_DOUBLE, Style, UNIT, typed_by_hand,
};
use crate::layer::{Layer, Layers};
use crate::place::{Hint, Key};
use crate::text::Encoding;

pub(super) use dialects::*;
use signs::{looks_escaped, looks_sectioned};

/// How values are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Values {
    /// As they are, or in quotes that escape nothing.
    Plain,
    /// As they are; blanks part words.
    Words,
    /// With escapes, quotes and comma lists: the dialect that escapes as C does.
    Escaped,
    /// With the escapes of Java's property files, keys too.
    Properties,
    /// With the escapes of desktop entries.
    Desktop,
    /// With the escapes of service units.
    Unit,
    /// In quotes of either kind, as shells read them, or as they are.
    Assignments,
    /// Each line is a place.
    Lines,
    /// Words, and strings in double quotes that escape nothing.
    Cue,
}

/// A dialect of settings lines.
pub(in crate::format) struct Lines {
    about: About,
    /// Lines that only this dialect has near its start.
    signs: &'static [&'static str],
    comments: &'static [&'static str],
    separators: &'static [u8],
    values: Values,
    own: Option<Encoding>,
}

impl Format for Lines {
    fn about(&self) -> &About {
        &self.about
    }

    fn claims(&self, text: &str, file_name: &str) -> Claim {
        if self.values == Values::Escaped {
            let ini = INI.claims(text, file_name) != Claim::No;
            return if ini && looks_escaped(text) {
                Claim::IfWellFormed
            } else {
                Claim::No
            };
        }
        let named = self.about.is_named(file_name);
        let mut head = text.lines().map(str::trim).filter(|line| !line.is_empty());
        let signed = !self.signs.is_empty()
            && head
                .by_ref()
                .take(40)
                .any(|line| self.signs.contains(&line));
        let sectioned = self.about.name == INI.about.name && looks_sectioned(text);
        if named || signed {
            Claim::IfWellFormed
        } else if sectioned {
            Claim::Perhaps
        } else {
            Claim::No
        }
    }

    fn own_encoding(&self) -> Option<Encoding> {
        self.own
    }

    fn passages(
        &self,
        text: &str,
        _encoding: Encoding,
        each: &mut dyn FnMut(Passage<'_>),
    ) -> Grammar {
        let escaped = |escapes: &'static Escapes, fallback: Style| -> Layers {
            Arc::new([Arc::new(Escaped {
                escapes,
                document: Style::of(text, escapes, fallback),
            }) as Arc<dyn Layer>])
        };
        let bare = |bare| -> Layers { Arc::new([Arc::new(BareText(bare)) as Arc<dyn Layer>]) };
        let letters = Style {
            letters: true,
            ..Style::default()
        };
        let (escapes, value) = match self.values {
            Values::Escaped => (Some(&HEX_SETTINGS), escaped(&HEX_SETTINGS, letters)),
            Values::Properties => (
                Some(&PROPERTIES),
                escaped(
                    &PROPERTIES,
                    Style {
                        upper_hex: true,
                        ..letters
                    },
                ),
            ),
            Values::Desktop => (Some(&DESKTOP), escaped(&DESKTOP, Style::default())),
            Values::Unit => (Some(&UNIT), escaped(&UNIT, Style::default())),
            Values::Words => (None, bare(&BUILD_WORD)),
            Values::Assignments => (None, bare(&ENVIRONMENT)),
            _ => (None, bare(&SETTING)),
        };
        let field: Arc<dyn Layer> = Arc::new(Field::of_list());
        let bytes: Arc<dyn Layer> = Arc::new(ByteArray);
        let item: Layers = std::iter::once(field)
            .chain(value.iter().cloned())
            .collect();
        let mut reader = Reader {
            dialect: self,
            text,
            escapes,
            name: escaped(&PROPERTIES_KEY, letters),
            bytes: item.iter().cloned().chain([bytes]).collect(),
            item,
            value,
            quoted: bare(&QUOTED_SETTING),
            double: escaped(&SHELL_DOUBLE, Style::default()),
            single: escaped(&PHP_SINGLE, Style::default()),
            literal: bare(&RAW_SINGLE),
            recipe: bare(&RECIPE),
            plain: Arc::new([]),
            section: None,
            scope: 0,
            grammar: Grammar::Kept,
            each,
        };
        reader.read();
        reader.grammar
    }
}

/// Keys of service units whose values blanks part, some of them in quotes.
const UNIT_LISTS: [&str; 7] = [
    "Environment",
    "EnvironmentFile",
    "RequiresMountsFor",
    "ReadWritePaths",
    "ReadOnlyPaths",
    "InaccessiblePaths",
    "BindPaths",
];

/// Whether a line can neither name a place nor begin a section: most lines of most files.
fn is_idle(line: &str) -> bool {
    let bytes = line.as_bytes();
    // A letter alone may name a drive.
    let lone = bytes
        .trim_ascii_end()
        .iter()
        .rev()
        .nth(1)
        .is_none_or(|byte| !byte.is_ascii_alphanumeric());
    !lone
        && !crate::place::may_hold_place(line)
        && memchr::memchr3(b'"', b'\'', b'[', bytes).is_none()
}

/// Whether a place with a root of its own stands directly behind the colon of `key`.
fn begins_with_root(key: &str, value: &str) -> bool {
    const SCHEMES: [&str; 3] = ["file", "http", "https"];
    let bytes = value.as_bytes();
    let drive = bytes.first().is_some_and(u8::is_ascii_alphabetic)
        && bytes.get(1) == Some(&b':')
        && matches!(bytes.get(2), Some(b'\\' | b'/'));
    drive || (value.starts_with(r"\\") && !SCHEMES.contains(&key.trim()))
}

struct Reader<'a, 'e> {
    dialect: &'a Lines,
    text: &'a str,
    escapes: Option<&'static Escapes>,
    value: Layers,
    /// What a key wears where keys are escaped.
    name: Layers,
    /// What an item of a list wears.
    item: Layers,
    /// What a byte array wears.
    bytes: Layers,
    quoted: Layers,
    double: Layers,
    single: Layers,
    literal: Layers,
    recipe: Layers,
    plain: Layers,
    section: Option<String>,
    scope: usize,
    grammar: Grammar,
    each: &'e mut dyn FnMut(Passage<'_>),
}

impl Reader<'_, '_> {
    fn read(&mut self) {
        let mut at = 0;
        while at < self.text.len() {
            let end = self.logical_end(at);
            self.line(at, end);
            at = end;
            at += self.text[at..].bytes().take_while(|b| *b == b'\r').count();
            at += usize::from(self.text[at..].starts_with('\n'));
            if at == end {
                break;
            }
        }
    }

    /// Where the line that begins at `at` ends, continued ones included, without its line end.
    fn logical_end(&self, at: usize) -> usize {
        let continues = matches!(
            self.dialect.values,
            Values::Properties | Values::Unit | Values::Words
        );
        let comment = self.is_comment(self.text[at..].trim_start_matches([' ', '\t']));
        let bytes = self.text.as_bytes();
        let mut from = at;
        loop {
            let newline = memchr::memchr(b'\n', &bytes[from..]).map_or(bytes.len(), |n| from + n);
            let mut end = newline;
            if end > at && bytes[end - 1] == b'\r' {
                end -= 1;
            }
            let backslashes = bytes[at..end]
                .iter()
                .rev()
                .take_while(|b| **b == b'\\')
                .count();
            if continues && !comment && backslashes % 2 == 1 && newline < bytes.len() {
                from = newline + 1;
            } else {
                return end;
            }
        }
    }

    fn is_comment(&self, line: &str) -> bool {
        self.dialect.comments.iter().any(|sign| {
            line.starts_with(sign)
                && (sign.len() == 1
                    || line[sign.len()..].is_empty()
                    || line[sign.len()..].starts_with([' ', '\t']))
        })
    }

    fn line(&mut self, start: usize, end: usize) {
        let line = &self.text[start..end];
        if is_idle(line) {
            return;
        }
        // A recipe of a makefile is a command line of a shell.
        if self.dialect.values == Values::Words && line.starts_with('\t') {
            let layers = self.recipe.clone();
            return self.emit(start..end, &layers, Role::Value, Hint::COMMAND, None);
        }
        let blank = line.len() - line.trim_start().len();
        let start = start + blank;
        let line = self.text[start..end].trim_end();
        if line.is_empty() {
            return;
        }
        let end = start + line.len();
        if self.is_comment(line) {
            return self.emit(
                start..end,
                &self.plain.clone(),
                Role::Prose,
                Hint::Prose,
                None,
            );
        }
        match self.dialect.values {
            Values::Lines => {
                return self.emit(
                    start..end,
                    &self.plain.clone(),
                    Role::Value,
                    Hint::Name,
                    None,
                );
            }
            Values::Cue => return self.cue(start, end),
            _ => {}
        }
        if line.starts_with('[') && self.dialect.values != Values::Properties {
            return self.head(start, end);
        }
        let Some(parting) = self.parting(line) else {
            // A key alone, or a continued value; read as running text.
            return self.emit(
                start..end,
                &self.plain.clone(),
                Role::Prose,
                Hint::Prose,
                None,
            );
        };
        let key = line[..parting].trim_end();
        let mut value = parting + line[parting..].chars().next().map_or(0, char::len_utf8);
        if self.dialect.values == Values::Words || self.dialect.values == Values::Plain {
            // `:=` and the like are one sign.
            value += line[value..].bytes().take_while(|b| *b == b'=').count();
        }
        value += line[value..].len() - line[value..].trim_start().len();
        self.key(start..start + key.len());
        if value < line.len() {
            let name = key.trim_start_matches("export ").trim().to_owned();
            self.value(start + value..end, &name);
        }
    }

    /// Where key and value part.
    fn parting(&self, line: &str) -> Option<usize> {
        let escaped = self.dialect.values == Values::Properties;
        let mut backslash = false;
        let bytes = line.as_bytes();
        let found = line.bytes().enumerate().find(|(at, letter)| {
            let was = backslash;
            backslash = escaped && *letter == b'\\' && !was;
            let parts = self.dialect.separators.contains(letter)
                || (escaped && matches!(letter, b' ' | b'\t'));
            if was || !parts {
                return false;
            }
            // The colon of a drive, a scheme or a time parts nothing.
            let next = bytes.get(at + 1).copied();
            *letter != b':'
                || escaped
                || next.is_none_or(|b| matches!(b, b' ' | b'\t' | b'='))
                || (*at > 1 && begins_with_root(&line[..*at], &line[at + 1..]))
        });
        let found = found.map(|(at, _)| at);
        if !escaped {
            return found;
        }
        // A blank parts them too, unless a sign stands behind it.
        let found = found?;
        let rest = line[found..].trim_start_matches([' ', '\t']);
        match rest.starts_with(['=', ':']) {
            true => Some(line.len() - rest.len()),
            false => Some(found),
        }
    }

    fn head(&mut self, start: usize, end: usize) {
        let line = &self.text[start..end];
        let Some(close) = line.find(']') else {
            self.grammar = Grammar::Broken;
            return;
        };
        self.section = Some(line[1..close].to_owned());
        self.scope += 1;
        let role = Role::Name {
            scope: 0,
            ignore_case: false,
            outlives_import: false,
        };
        let layers = self.plain.clone();
        self.emit(start + 1..start + close, &layers, role, Hint::Name, None);
        if close + 1 < line.len() {
            let rest = start + close + 1..end;
            self.emit(rest, &layers, Role::Prose, Hint::Prose, None);
        }
    }

    fn key(&mut self, span: Range<usize>) {
        let raw = &self.text[span.clone()];
        if !crate::place::may_hold_place(raw) {
            return;
        }
        let role = Role::Name {
            scope: self.scope,
            ignore_case: false,
            outlives_import: false,
        };
        let layers = match self.dialect.values {
            Values::Properties => self.name.clone(),
            _ => self.plain.clone(),
        };
        self.emit(span, &layers, role, Hint::Name, None);
    }

    fn value(&mut self, mut span: Range<usize>, key: &str) {
        let raw = &self.text[span.clone()];
        if !may_matter(raw) && self.dialect.values != Values::Escaped {
            return;
        }
        let mut hint = Hint::for_value(key);
        match self.dialect.values {
            Values::Escaped => return self.items(span, key),
            Values::Unit if key.starts_with("Exec") => {
                // Signs before a program say how it is run.
                let signs = raw.len() - raw.trim_start_matches(['@', '-', ':', '+', '!']).len();
                hint = Hint::COMMAND;
                span.start += signs;
            }
            Values::Unit if UNIT_LISTS.contains(&key) => hint = Hint::COMMAND,
            Values::Desktop if key == "Exec" => hint = Hint::COMMAND,
            Values::Desktop => {
                hint = Hint::Value(Key {
                    command: false,
                    ..Key::of(key)
                });
            }
            Values::Unit if !raw.contains('\\') => {}
            Values::Assignments => {
                for (quote, layers) in [('"', self.double.clone()), ('\'', self.single.clone())] {
                    if let Some(inside) = in_quotes(raw, quote, quote == '"') {
                        // Some readers of such files take a backslash for an escape, others do
                        // not; a share with one pair of backslashes shows which.
                        let text = &raw[inside.clone()];
                        let literal =
                            quote == '\'' && text.starts_with(r"\\") && typed_by_hand(text);
                        let layers = if literal {
                            self.literal.clone()
                        } else {
                            layers
                        };
                        let span = span.start + inside.start..span.start + inside.end;
                        return self.emit(span, &layers, Role::Value, hint, Some(key));
                    }
                }
            }
            Values::Plain => {
                for quote in ['"', '\''] {
                    if let Some(inside) = in_quotes(raw, quote, false)
                        && inside.end + 1 == raw.len()
                    {
                        let span = span.start + inside.start..span.start + inside.end;
                        let layers = self.quoted.clone();
                        return self.emit(span, &layers, Role::Value, hint, Some(key));
                    }
                }
            }
            _ => {}
        }
        // A comment may stand behind the value, or the value may hold such a sign.
        let remark = memchr::memchr2_iter(b';', b'#', raw.as_bytes())
            .any(|at| at > 0 && matches!(raw.as_bytes()[at - 1], b' ' | b'\t'));
        if remark && self.escapes.is_none() {
            hint = Hint::Prose;
        }
        let layers = self.value.clone();
        let role = match self.escapes {
            Some(escapes) if self.dialect.values == Values::Properties => {
                string_role(raw, escapes, Role::Value).0
            }
            _ => Role::Value,
        };
        self.emit(span, &layers, role, hint, Some(key));
    }

    /// The items of a value that commas part, some in quotes.
    fn items(&mut self, span: Range<usize>, key: &str) {
        let raw = &self.text[span.clone()];
        let bytes = raw.as_bytes();
        let (mut at, mut start, mut quoted) = (0, 0, false);
        let mut items = Vec::new();
        while at < bytes.len() {
            match bytes[at] {
                b'\\' => at += 1,
                b'"' => quoted = !quoted,
                b',' if !quoted => {
                    items.push(start..at);
                    start = at + 1;
                }
                _ => {}
            }
            at += 1;
        }
        items.push(start..bytes.len());
        self.grammar.note(!quoted, Grammar::Broken);
        for item in items {
            let text = &raw[item.clone()];
            let trimmed = text.trim();
            let from = item.start + (text.len() - text.trim_start().len());
            let whole = from..from + trimmed.len();
            let quoted = trimmed.len() >= 2 && trimmed.starts_with('"') && trimmed.ends_with('"');
            let inside = match quoted {
                true => whole.start + 1..whole.end - 1,
                false => whole.clone(),
            };
            let (role, sound) = string_role(&raw[inside.clone()], &HEX_SETTINGS, Role::Value);
            self.grammar.note(sound, Grammar::Escapes);
            let bytes = ByteArray::is_one(&raw[inside.clone()]);
            let (place, layers) = match role {
                Role::ByHand => (inside, self.value.clone()),
                _ if bytes => (whole, self.bytes.clone()),
                _ => (whole, self.item.clone()),
            };
            let place = span.start + place.start..span.start + place.end;
            self.emit(place, &layers, role, Hint::for_value(key), Some(key));
        }
    }

    /// A line of a cue sheet: its quoted strings are values, the rest running text.
    fn cue(&mut self, start: usize, end: usize) {
        let line = &self.text[start..end];
        let word = line.split(' ').next().unwrap_or("").to_owned();
        match (line.find('"'), line.rfind('"')) {
            (Some(open), Some(close)) if open < close => {
                let layers = self.quoted.clone();
                let span = start + open + 1..start + close;
                self.emit(span, &layers, Role::Value, Hint::Name, Some(&word));
            }
            _ => self.emit(
                start..end,
                &self.plain.clone(),
                Role::Prose,
                Hint::Prose,
                None,
            ),
        }
    }

    fn emit(
        &mut self,
        span: Range<usize>,
        layers: &Layers,
        role: Role,
        hint: Hint,
        key: Option<&str>,
    ) {
        if span.is_empty() {
            return;
        }
        let mut site = Vec::new();
        if let Some(key) = key {
            let parts = self.section.as_deref().into_iter().chain([key]);
            site.extend(parts.map(|part| Step::Key(part.to_owned())));
        }
        (self.each)(Passage {
            span,
            layers,
            role,
            hint,
            site: &site,
        });
    }
}

/// The inside of the quotes that `raw` begins with.
fn in_quotes(raw: &str, quote: char, escapes: bool) -> Option<Range<usize>> {
    let rest = raw.strip_prefix(quote)?;
    let mut escaped = false;
    let close = rest.char_indices().find(|(_, letter)| {
        let was = escaped;
        escaped = escapes && *letter == '\\' && !was;
        !was && *letter == quote
    })?;
    Some(1..1 + close.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::site_text;

    fn values(dialect: &Lines, text: &str) -> Vec<String> {
        let mut all = Vec::new();
        dialect.passages(text, Encoding::Utf8, &mut |passage| {
            if matches!(passage.role, Role::Value | Role::ByHand) {
                let raw = &text[passage.span.clone()];
                all.push(format!("{}|{raw}", site_text(passage.site)));
            }
        });
        all
    }

    #[test]
    fn values_and_their_keys() {
        let cases: [(&Lines, &str, &[&str]); 14] = [
            (&INI, "[a]\r\nb = D:\\x\r\n; c = d\r\n", &[r"a.b|D:\x"]),
            (&INI, "b=\"D:\\x y\"\nc: E:\\z\n", &[r"b|D:\x y", r"c|E:\z"]),
            (&INI, "key:D:\\x=1\nD:\\x=1\n", &["key|D:\\x=1", "D:\\x|1"]),
            (
                &ESCAPED_INI,
                "p=D:\\\\a, \"E:\\\\b, c\"\n",
                &[r"p|D:\\a", r#"p|"E:\\b, c""#],
            ),
            (
                &JAVA_PROPERTIES,
                "a\\=b = D\\:\\\\x\nc D:/y\n",
                &[r"a\=b|D\:\\x", "c|D:/y"],
            ),
            (
                &JAVA_PROPERTIES,
                "a = D\\:\\\\\\\n   x\n",
                &["a|D\\:\\\\\\\n   x"],
            ),
            (
                &DESKTOP_ENTRY,
                "[Desktop Entry]\nExec=/srv/v %f\n",
                &["Desktop Entry.Exec|/srv/v %f"],
            ),
            (
                &SERVICE_UNIT,
                "[Service]\nExecStart=/srv/v -d \\\n  /srv/x\n",
                &["Service.ExecStart|/srv/v -d \\\n  /srv/x"],
            ),
            (
                &DOTENV,
                "export A=\"D:\\\\x\" # n\nB='y'\nC=z\n",
                &[r"A|D:\\x", "B|y", "C|z"],
            ),
            (
                &BUILD,
                "prefix=/srv/x\nR := D:/y\n",
                &["prefix|/srv/x", "R|D:/y"],
            ),
            (&PLAYLIST, "#EXTM3U\r\nD:\\a b.wav\r\n", &[r"|D:\a b.wav"]),
            (&CUE, "FILE \"D:\\a b.wav\" WAVE\n", &[r"FILE|D:\a b.wav"]),
            (&INI, "a=", &[]),
            (&INI, "\u{e4}=\u{f6}", &["\u{e4}|\u{f6}"]),
        ];
        for (dialect, text, expected) in cases {
            assert_eq!(values(dialect, text), expected, "{text}");
        }
    }

    #[test]
    fn escaped_settings_are_told_from_plain_ones() {
        let cases = [
            ("[a]\nb=D:\\\\x\n", true),
            ("[a]\nb=D:\\x\n", false),
            ("[a]\nb=@ByteArray(x)\n", true),
            ("[a]\nb=D:/x\n", false),
            ("[a]\nb=Gr\\xfcn\n", true),
        ];
        for (text, escaped) in cases {
            assert_eq!(looks_escaped(text), escaped, "{text}");
        }
    }
}
