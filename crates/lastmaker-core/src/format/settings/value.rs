//! The values of settings lines.

use std::ops::Range;

use super::walk::Walk;
use super::{BareValue, Commands, Quotes};
use crate::codec::{ByteArray, Escapes, typed_by_hand};
use crate::format::{Grammar, Role, may_matter, string_role};
use crate::scan::{Hint, Key};

impl Walk<'_, '_> {
    /// The value of `key`.
    pub(super) fn value(&mut self, span: Range<usize>, key: &str) {
        let dialect = self.wear.dialect;
        if let BareValue::List(escapes, _) = dialect.bare {
            return self.items(span, key, escapes);
        }
        let raw = &self.cursor.text[span.clone()];
        if dialect.commands == Commands::Units && (may_matter(raw) || raw.contains("mount")) {
            return self.unit_value(span, key);
        }
        if !may_matter(raw) && !self.lists_files() {
            return;
        }
        let mut hint = Hint::for_value(key);
        match dialect.commands {
            Commands::Exec if key == "Exec" => {
                let worn = self.wear.launcher.clone();
                return self.command_words(span, key, &worn);
            }
            Commands::Exec => {
                hint = Hint::Value(Key {
                    command: false,
                    ..Key::of(key)
                });
            }
            Commands::ByKey | Commands::Units => {}
        }
        if let BareValue::Word(_) = dialect.bare {
            let end = word_end(raw);
            let worn = self.wear.value.clone();
            self.emit(
                span.start..span.start + end,
                &worn,
                Role::Value,
                hint,
                Some(key),
            );
            return self.prose(span.start + end..span.end);
        }
        if self.in_quotes(&span, key, hint) {
            return;
        }
        // A comment may follow the value, or the value may hold such a sign.
        let remark = memchr::memchr2_iter(b';', b'#', raw.as_bytes())
            .any(|at| at > 0 && matches!(raw.as_bytes()[at - 1], b' ' | b'\t'));
        if remark && dialect.bare.escapes().is_none() {
            hint = Hint::Prose;
        }
        let role = match (dialect.key_escapes, dialect.bare) {
            // What escapes its keys shows where a place was typed by hand.
            (Some(_), BareValue::Escaped(escapes, _)) => string_role(raw, escapes, Role::Value).0,
            _ => Role::Value,
        };
        let layers = self.wear.value.clone();
        self.emit(span, &layers, role, hint, Some(key));
    }

    /// Yields the inside of a value in quotes; whether it is one.
    fn in_quotes(&mut self, span: &Range<usize>, key: &str, hint: Hint) -> bool {
        let raw = &self.cursor.text[span.clone()];
        let quotes = self.wear.dialect.quotes;
        for quote in ['"', '\''] {
            let escapes = quotes == Quotes::Shell && quote == '"';
            let Some(inside) = in_quotes(raw, quote, escapes) else {
                continue;
            };
            let layers = match quotes {
                Quotes::Letters => return false,
                Quotes::Whole if inside.end + 1 < raw.len() => continue,
                Quotes::Whole => &self.wear.quoted,
                Quotes::Shell if quote == '"' => &self.wear.double,
                // Some readers of such files take a backslash for an escape, others do not; a
                // share with one pair of backslashes shows which.
                Quotes::Shell => {
                    let text = &raw[inside.clone()];
                    if text.starts_with(r"\\") && typed_by_hand(text) {
                        &self.wear.literal
                    } else {
                        &self.wear.single
                    }
                }
            };
            let layers = layers.clone();
            let span = span.start + inside.start..span.start + inside.end;
            self.emit(span, &layers, Role::Value, hint, Some(key));
            return true;
        }
        false
    }

    /// The items of a value that commas part, some in quotes.
    fn items(&mut self, span: Range<usize>, key: &str, escapes: &'static Escapes) {
        let raw = &self.cursor.text[span.clone()];
        let (items, closed) = parted(raw);
        self.cursor.note(closed, Grammar::Broken);
        for item in items {
            let text = &raw[item.clone()];
            let trimmed = text.trim();
            let from = item.start + (text.len() - text.trim_start().len());
            let whole = from..from + trimmed.len();
            let quoted = trimmed.len() >= 2 && trimmed.starts_with('"') && trimmed.ends_with('"');
            let inside = if quoted {
                whole.start + 1..whole.end - 1
            } else {
                whole.clone()
            };
            let (role, sound) = string_role(&raw[inside.clone()], escapes, Role::Value);
            self.cursor.note(sound, Grammar::Escapes);
            let bytes = ByteArray::is_one(&raw[inside.clone()]);
            let (place, layers) = match role {
                Role::Undoubled => (inside, &self.wear.value),
                _ if bytes => (whole, &self.wear.bytes),
                _ => (whole, &self.wear.item),
            };
            let layers = layers.clone();
            let place = span.start + place.start..span.start + place.end;
            self.emit(place, &layers, role, Hint::for_value(key), Some(key));
        }
    }
}

/// Where a value ends before a comment, which a sign outside of quotes begins.
fn word_end(raw: &str) -> usize {
    let (mut quoted, mut escaped) = (false, false);
    let sign = raw.bytes().position(|byte| {
        let was = escaped;
        escaped = byte == b'\\' && !was;
        quoted ^= byte == b'"' && !was;
        !quoted && matches!(byte, b'#' | b';')
    });
    raw[..sign.unwrap_or(raw.len())].trim_end().len()
}

/// The stretches that commas outside of quotes part, and whether every quote is closed.
fn parted(raw: &str) -> (Vec<Range<usize>>, bool) {
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
    (items, !quoted)
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
