//! Stretches of a decoded string that are in another syntax: documents within a string, URIs,
//! whole paths that are percent-encoded inside of other URLs, and strings that are preceded by
//! their length.

use std::ops::Range;
use std::sync::Arc;

use crate::codec::{ConnectionValue, Counted, FileUri, Percent, Subrange, UriPart};
use crate::format::{Format, Grammar, Role, nested, shell_commands};
use crate::layer::{Layer, Layers};
use crate::place::OPAQUE;
use crate::scan::{Finder, Hint};
use crate::text::Encoding;

use super::site::{SitePassage, join_ways};

/// A stretch in another syntax, and the layers that take it off.
struct Inner {
    range: Range<usize>,
    layers: Vec<Arc<dyn Layer>>,
    role: Role,
    hint: Hint,
    /// The way to it inside of the string, as people read it.
    site: String,
    /// Whether there may be stretches in it again that are not of its own syntax.
    nests: bool,
}

/// One passage of a document while it is read into its stretches.
pub(super) struct Nest<'d> {
    /// The passage as it is written.
    pub(super) raw: &'d str,
    /// Whether its document has one byte for each letter.
    pub(super) one_byte: bool,
    pub(super) finder: Finder<'d>,
}

impl Nest<'_> {
    /// Strings in strings are followed so deep.
    pub(super) const DEEPEST: usize = 12;

    /// Adds `site` if there are places in it, and the stretches in it after it; `worn` are the
    /// layers that are open, `depth` how deep stretches may nest, if they may.
    pub(super) fn read(
        &self,
        site: SitePassage,
        worn: &Layers,
        depth: Option<usize>,
        sites: &mut Vec<SitePassage>,
    ) {
        let raw = self.raw;
        let content = site.chain.content(raw);
        let inners = match depth {
            Some(_) => inner(content, site.hint, self.one_byte),
            None => Vec::new(),
        };
        let mut finds = self.finder.find(content, site.hint);
        finds.retain(|found| {
            let end = found.root_end.max(found.start + 1);
            // The stretches are sorted, so the first that ends after its start decides.
            let at = inners.partition_point(|i| i.range.end <= found.start);
            inners.get(at).is_none_or(|i| i.range.start >= end)
        });
        if inners.is_empty() {
            sites.extend((!finds.is_empty()).then_some(SitePassage { finds, ..site }));
            return;
        }
        if !finds.is_empty() {
            sites.push(SitePassage {
                finds,
                ..site.clone()
            });
        }
        for inner in inners {
            let layers: Layers = worn.iter().chain(&inner.layers).cloned().collect();
            let open = if inner.role == Role::Undoubled {
                &inner.layers[..1]
            } else {
                &inner.layers[..]
            };
            let Ok(opened) = site.chain.further(layers.clone(), open, raw.as_bytes()) else {
                continue;
            };
            let nested = SitePassage {
                role: match site.role {
                    // What is in the way of the whole is in the way of its stretches.
                    Role::Mixed | Role::Counted | Role::Foreign(_) => site.role,
                    _ => inner.role,
                },
                hint: inner.hint,
                site: join_ways(&site.site, &inner.site),
                layers: layers.clone(),
                chain: opened,
                ..site.clone()
            };
            let depth = depth
                .filter(|depth| inner.nests && *depth > 0)
                .map(|depth| depth - 1);
            self.read(nested, &layers, depth, sites);
        }
    }
}

/// The stretches of `content` in another syntax, in order and disjoint; a whole value may be a
/// document by itself.
fn inner(content: &str, hint: Hint, one_byte: bool) -> Vec<Inner> {
    let whole = match hint {
        Hint::Script => strings_of(shell_commands(), content),
        hint if hint.is_value() => document(content).or_else(|| connection(content)),
        _ => None,
    };
    if let Some(all) = whole {
        return all;
    }
    let mut all = Vec::new();
    let mut at = 0;
    let bytes = content.as_bytes();
    while let Some(next) = memchr::memchr2(b':', b'%', &bytes[at..]) {
        let mark = at + next;
        let found = match bytes[mark] {
            b':' => file_uri(content, mark, hint).or_else(|| counted(content, mark, one_byte)),
            _ => encoded_path(content, mark),
        };
        match found {
            Some(inner) if inner.range.start >= at => {
                at = inner.range.end.max(mark + 1);
                all.push(inner);
            }
            _ => at = mark + 1,
        }
    }
    all
}

/// The strings of a document that a string holds.
fn document(content: &str) -> Option<Vec<Inner>> {
    strings_of(nested(content)?, content)
}

/// The strings of a text of this format; none if it breaks the grammar.
fn strings_of(format: &'static dyn Format, content: &str) -> Option<Vec<Inner>> {
    let mut all = Vec::new();
    let grammar = format.passages(content, Encoding::Utf8, &mut |passage| {
        let mut layers: Vec<Arc<dyn Layer>> = vec![Arc::new(Subrange(passage.span.clone()))];
        layers.extend(passage.layers.iter().cloned());
        all.push(Inner {
            range: passage.span,
            layers,
            // Two equal names in a string are no business of the document around it.
            role: match passage.role {
                Role::Name { .. } => Role::Value,
                role => role,
            },
            hint: passage.hint,
            site: crate::format::site_text(passage.site),
            nests: true,
        });
    });
    (grammar == Grammar::Kept).then_some(all)
}

/// Keys by which a list of settings shows that it says how a database is reached.
const CONNECTION: [&str; 10] = [
    "attachdbfilename",
    "data source",
    "database",
    "dbq",
    "defaultdir",
    "driver",
    "dsn",
    "filedsn",
    "initial catalog",
    "provider",
];

/// The values of a connection string: `Provider=…;Data Source=D:\x;…`, some in quotes.
fn connection(content: &str) -> Option<Vec<Inner>> {
    const LONGEST: usize = 1 << 14;
    if content.len() > LONGEST || !content.contains(';') || !content.contains('=') {
        return None;
    }
    let mut all = Vec::new();
    let (mut known, mut pairs) = (false, 0);
    let mut at = 0;
    while at < content.len() {
        let rest = &content[at..];
        if rest.trim_matches([' ', ';']).is_empty() {
            break;
        }
        let equals = rest.find(['=', ';', '"', '\''])?;
        let key = rest[..equals].trim();
        let is_key =
            rest[equals..].starts_with('=') && !key.is_empty() && !key.contains(['\\', '/', ':']);
        if !is_key {
            return None;
        }
        known |= CONNECTION.contains(&key.to_ascii_lowercase().as_str());
        pairs += 1;
        let behind = at + equals + 1;
        let value = content[behind..].trim_start();
        let start = content.len() - value.len();
        let (range, next) = match value.chars().next().filter(|c| matches!(c, '"' | '\'')) {
            Some(quote) => {
                let close = start + 1 + value[1..].find(quote)?;
                let next = content[close..]
                    .find(';')
                    .map_or(content.len(), |n| close + n + 1);
                (start + 1..close, next)
            }
            None => {
                let end = value.find(';').map_or(content.len(), |n| start + n);
                (start..end, (end + 1).min(content.len()))
            }
        };
        if !range.is_empty() {
            all.push(Inner {
                layers: vec![Arc::new(Subrange(range.clone())), Arc::new(ConnectionValue)],
                range,
                role: Role::Value,
                hint: Hint::for_value(key),
                site: key.to_owned(),
                nests: true,
            });
        }
        at = next;
    }
    (known && pairs > 1).then_some(all)
}

/// A string that is preceded by its length: `s:12:"…";`, where `colon` is the first or the
/// second colon.
fn counted(content: &str, colon: usize, one_byte: bool) -> Option<Inner> {
    let start = colon + 1;
    let tagged = content[..colon].ends_with(['s', 'S']) && stands_free(content, colon - 1);
    if !tagged {
        return None;
    }
    let layer = Counted {
        quoted: true,
        letters: one_byte,
    };
    let digits = content[start..]
        .bytes()
        .take_while(u8::is_ascii_digit)
        .count();
    let lead = content[start + digits..].strip_prefix(':')?;
    let quote = lead.trim_start_matches('\\');
    if digits == 0 || !quote.starts_with('"') {
        return None;
    }
    if quote.len() < lead.len() {
        // The quotes are escaped in a way that this text does not show, so what is counted is not known.
        let open = content.len() - quote.len() + 1;
        let reach = reach(content, open, &content[start..start + digits]);
        let close = escaped_quote(&content[open..reach], lead.len() - quote.len());
        return Some(counted_by_others(open..open + close));
    }
    let (role, end) = match layer.bounds(&content[start..]) {
        Some((_, end)) => (Role::Value, start + end + 1),
        // The length is wrong already, or counts something else: nothing is safe here.
        None => {
            let open = start + digits + 2;
            let reach = reach(content, open, &content[start..start + digits]);
            let close = content[open..reach].find('"').map_or(reach, |n| open + n);
            return Some(counted_by_others(open..close));
        }
    };
    Some(Inner {
        range: start..end,
        layers: vec![Arc::new(Subrange(start..end)), Arc::new(layer)],
        role,
        hint: Hint::Name,
        site: String::new(),
        nests: true,
    })
}

/// How far a string may reach at the most that begins at `open` and whose length these digits say: an escape, or a
/// letter of a code page, takes four bytes at the most. A number that is beyond the text counts nothing in it.
fn reach(content: &str, open: usize, digits: &str) -> usize {
    let count = digits.parse::<usize>().ok();
    match count.filter(|count| *count <= content.len() - open) {
        Some(count) => {
            let most = open.saturating_add(count.saturating_mul(4));
            content.floor_char_boundary(most)
        }
        None => {
            let line = memchr::memchr(b'\n', &content.as_bytes()[open..]);
            line.map_or(content.len(), |length| open + length)
        }
    }
}

/// A string whose length is written before it, and could not be put right.
fn counted_by_others(range: Range<usize>) -> Inner {
    Inner {
        layers: vec![Arc::new(Subrange(range.clone()))],
        range,
        role: Role::Counted,
        hint: Hint::Name,
        site: String::new(),
        nests: false,
    }
}

/// Where a quote with just so many backslashes before it stands; the end of `text` if there is none.
fn escaped_quote(text: &str, backslashes: usize) -> usize {
    let quotes = text.match_indices('"').map(|(at, _)| at);
    let mut starts = quotes.map(|at| (at, text[..at].trim_end_matches('\\').len()));
    starts
        .find(|(at, start)| at - start == backslashes)
        .map_or(text.len(), |(_, start)| start)
}

/// Whether a stretch is all of its string, or in double quotes.
fn is_bounded(content: &str, range: Range<usize>) -> bool {
    let (before, after) = (&content[..range.start], &content[range.end..]);
    let whole = before.is_empty() && after.is_empty();
    whole || (before.ends_with('"') && after.starts_with('"'))
}

/// A `file:` URI whose scheme ends with the colon at `colon`.
fn file_uri(content: &str, colon: usize, hint: Hint) -> Option<Inner> {
    let letters = |c: char| c.is_ascii_alphanumeric() || "+-.".contains(c);
    let scheme = content[..colon].trim_end_matches(letters).len();
    let name = &content[scheme..colon];
    let begins = name.starts_with(|c: char| c.is_ascii_alphabetic());
    let form = FileUri::of_scheme(name).filter(|_| begins && stands_free(content, scheme))?;
    let start = colon + 1;
    let end = uri_end(content, scheme, start);
    let text = content.get(start..end)?;
    let layers: Vec<Arc<dyn Layer>> = vec![
        Arc::new(Subrange(start..end)),
        Arc::new(form),
        Arc::new(Percent {
            part: if hint.is_value() || (hint == Hint::Prose && is_bounded(content, scheme..end)) {
                UriPart::Path
            } else {
                UriPart::Guarded
            },
        }),
    ];
    form.open(text.as_bytes()).ok()?;
    Some(Inner {
        range: start..end,
        layers,
        role: Role::Value,
        hint: Hint::UriPath,
        site: String::new(),
        nests: false,
    })
}

fn stands_free(content: &str, at: usize) -> bool {
    content[..at]
        .chars()
        .next_back()
        .is_none_or(|c| !c.is_alphanumeric() && !"_+-.".contains(c) && c != OPAQUE)
}

/// Where a URI ends that begins at `scheme`: at a blank, a quote, a bracket that was opened
/// before it, or where its path gives way to a query or fragment. Punctuation at its end is
/// the sentence's.
fn uri_end(content: &str, scheme: usize, start: usize) -> usize {
    let opened = content[..scheme].chars().next_back();
    let closes = match opened {
        Some('(') => Some(')'),
        Some('[') => Some(']'),
        Some('\'') => Some('\''),
        Some('`') => Some('`'),
        _ => None,
    };
    let rest = &content[start..];
    let end = rest
        .char_indices()
        .find(|(_, c)| {
            c.is_whitespace()
                || c.is_control()
                || "\"<>|?#*^{}".contains(*c) && !is_bar(rest, *c)
                || Some(*c) == closes
        })
        .map_or(rest.len(), |(at, _)| at);
    start
        + rest[..end]
            .trim_end_matches(['.', ',', ';', '!', ')', '\''])
            .len()
}

/// Whether a bar stands for a drive's colon: `///D|/x`.
fn is_bar(rest: &str, letter: char) -> bool {
    let path = rest.trim_start_matches('/');
    letter == '|'
        && path.as_bytes().get(1) == Some(&b'|')
        && path.starts_with(|c: char| c.is_ascii_alphabetic())
}

/// A path that is percent-encoded as a whole: `D%3A%5Cx`, `D%3A%2Fx`, `%5C%5Cserver%5Cshare`,
/// `%2Fsrv%2Fx`.
fn encoded_path(content: &str, percent: usize) -> Option<Inner> {
    let rest = content.get(percent..)?;
    let starts = |text: &str| {
        rest.get(..text.len())
            .is_some_and(|head| head.eq_ignore_ascii_case(text))
    };
    let start = if starts("%3A%5C") || starts("%3A%2F") {
        let letter = percent.checked_sub(1)?;
        if !content.as_bytes()[letter].is_ascii_alphabetic() {
            return None;
        }
        let before = content[..letter].chars().next_back();
        before
            .is_none_or(|c| "=&?;,/ \"'(".contains(c))
            .then_some(letter)?
    } else if starts("%5C%5C") || starts("%2F") {
        let before = content[..percent].chars().next_back();
        before
            .is_none_or(|c| "=&?;, \"'(".contains(c))
            .then_some(percent)?
    } else {
        return None;
    };
    let tail = &content[start..];
    let length = tail
        .find(|c: char| c.is_whitespace() || c.is_control() || "&#;\"'<>()/\\".contains(c))
        .unwrap_or(tail.len());
    let range = start..start + length;
    let layers: Vec<Arc<dyn Layer>> = vec![
        Arc::new(Subrange(range.clone())),
        Arc::new(Percent {
            part: UriPart::Component,
        }),
    ];
    Some(Inner {
        range,
        layers,
        role: Role::Value,
        hint: Hint::Name,
        site: String::new(),
        nests: false,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn stretches_in_another_syntax() {
        let cases: [(&str, &[&str]); 23] = [
            (
                r#"Provider=Some.OLEDB;Data Source="D:\a;b\c.mdb";Mode=Read;"#,
                &["Some.OLEDB", r"D:\a;b\c.mdb", "Read"],
            ),
            (r"DBQ=D:\a; DefaultDir=D:\b", &[r"D:\a", r"D:\b"]),
            (r"a=D:\a;b=D:\b", &[]),
            ("see file:///D:/x.", &["///D:/x"]),
            ("(file:///D:/x) y", &["///D:/x"]),
            ("FILE:///d%3A/a%20b#top", &["///d%3A/a%20b"]),
            ("file:///D|/x", &["///D|/x"]),
            (r"file:///D:\x\y z", &[r"///D:\x\y"]),
            ("<a href=\"file://server/share/x\">", &["//server/share/x"]),
            ("profile:///D:/x", &[]),
            ("http://h/?p=D%3A%5Ca%20b%5Cc&q=1", &["D%3A%5Ca%20b%5Cc"]),
            ("http://h/?p=%5C%5Csrv%5Cshare", &["%5C%5Csrv%5Cshare"]),
            ("http://h/?p=%2Fsrv%2Fa&q=1", &["%2Fsrv%2Fa"]),
            ("http://h/a%2Fb", &[]),
            ("xD%3A%5Ca", &[]),
            ("\u{e9}%3A%5Ca", &[]),
            ("file: nothing", &[]),
            ("file:///a file:///b", &["///a", "///b"]),
            (r#"a:1:{i:0;s:6:"D:\a\b";}"#, &[r#"6:"D:\a\b""#]),
            (r#"s:9:"D:\a\b";"#, &[r"D:\a\b"]),
            (r#"{"a": "D:/x", "b": 1}"#, &["a", "D:/x", "b"]),
            (r#"<a b="D:/x"/>"#, &["D:/x"]),
            ("{not one", &[]),
        ];
        for (content, expected) in cases {
            let got: Vec<&str> = inner(content, Hint::Name, false)
                .iter()
                .map(|i| &content[i.range.clone()])
                .collect();
            assert_eq!(got, expected, "{content}");
        }
    }
}
