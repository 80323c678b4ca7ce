//! Words of a POSIX shell (POSIX.1-2017, Shell Command Language, 2.2): pieces without quotes, in
//! single quotes, in double quotes and in `$'…'`, one after the other.

use std::ops::Range;

use super::{Escaped, Escapes, SHELL_ANSI, SHELL_DOUBLE, SHELL_WORD, Style, encode_fresh};
use crate::base::chunk::{Chunk, length_until};
use crate::layer::{
    Edit, Edits, Expansion, Layer, Malformed, MapBuilder, Opened, Unfit, VariableForm,
};

/// What a person calls the layer of a shell's word.
pub const SHELL: &str = "shell word";

/// A word as it is written, its quotes included.
#[derive(Debug)]
pub struct ShellWord {
    /// Whether the document escapes blanks outside of quotes, as some writers do; else a piece
    /// without quotes that gains a letter which means something to the shell gains quotes.
    pub backslashes: bool,
}

/// How a piece is quoted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Quoting {
    Bare,
    Single,
    Double,
    Ansi,
}

impl Quoting {
    fn open(self) -> &'static str {
        match self {
            Self::Bare => "",
            Self::Single => "'",
            Self::Double => "\"",
            Self::Ansi => "$'",
        }
    }

    fn close(self) -> &'static str {
        match self {
            Self::Bare => "",
            Self::Single | Self::Ansi => "'",
            Self::Double => "\"",
        }
    }

    fn escapes(self) -> Option<&'static Escapes> {
        match self {
            Self::Bare => Some(&SHELL_WORD),
            Self::Single => None,
            Self::Double => Some(&SHELL_DOUBLE),
            Self::Ansi => Some(&SHELL_ANSI),
        }
    }
}

/// One piece of a word.
struct Piece {
    quoting: Quoting,
    inside: Range<usize>,
    /// Where it is over, its closing quote included.
    over: usize,
    closed: bool,
}

/// The piece that begins at `at`; none if the word is over there.
fn piece(text: &[u8], at: usize) -> Option<Piece> {
    let quoted = |quoting: Quoting, close: usize| {
        let start = at + quoting.open().len();
        let closed = close < text.len();
        Some(Piece {
            quoting,
            inside: start..close.min(text.len()),
            over: (close + 1).min(text.len()),
            closed,
        })
    };
    match text[at] {
        b'\'' => {
            let length = memchr::memchr(b'\'', &text[at + 1..]);
            quoted(
                Quoting::Single,
                length.map_or(text.len(), |length| at + 1 + length),
            )
        }
        b'"' => quoted(Quoting::Double, double_end(text, at + 1)),
        b'$' if text.get(at + 1) == Some(&b'\'') => {
            let mut end = at + 2;
            while end < text.len() && text[end] != b'\'' {
                end += if text[end] == b'\\' { 2 } else { 1 };
            }
            quoted(Quoting::Ansi, end)
        }
        _ => {
            let end = bare_end(text, at);
            (end > at).then_some(Piece {
                quoting: Quoting::Bare,
                inside: at..end,
                over: end,
                closed: true,
            })
        }
    }
}

/// Where the double quotes are closed that were opened before `at`.
fn double_end(text: &[u8], at: usize) -> usize {
    let marked = |letters: Chunk| {
        let signs = letters.equal(b'\\').or(letters.equal(b'$'));
        letters.equal(b'"').or(signs)
    };
    let mut end = at;
    while end < text.len() {
        let rest = &text[end..];
        end += length_until(rest, marked, |letter| matches!(letter, b'"' | b'\\' | b'$'));
        match text.get(end..).unwrap_or_default() {
            // A command in the middle has quotes of its own.
            [b'$', b'(', ..] => end = command_end(text, end + 2),
            [b'$', ..] => end += 1,
            [b'\\', ..] => end += 2,
            _ => break,
        }
    }
    end
}

/// Where the command that began before `at` is closed.
fn command_end(text: &[u8], at: usize) -> usize {
    let (mut depth, mut end) = (1usize, at);
    while end < text.len() && depth > 0 {
        match text[end] {
            b'\\' => end += 1,
            b'(' => depth += 1,
            b')' => depth -= 1,
            _ => {}
        }
        end += 1;
    }
    end
}

/// The letters that mean something in a piece without quotes; all but the first two end it.
const SIGNS: &[u8] = b"\\$ \t\r\n;&|()<>'\"`";

const IS_SIGN: [bool; 256] = {
    let mut all = [false; 256];
    let mut at = 0;
    while at < SIGNS.len() {
        all[SIGNS[at] as usize] = true;
        at += 1;
    }
    all
};

/// Whether a piece without quotes is where this letter is.
fn is_bare(letter: u8) -> bool {
    !IS_SIGN[usize::from(letter)]
}

/// How many letters there are before the next sign.
fn plain_length(text: &[u8]) -> usize {
    // All signs are among these, beside a few that are none.
    let marked = |letters: Chunk| {
        let ends = letters.equal(b';').or(letters.equal(b'|'));
        let brackets = letters.equal(b'<').or(letters.equal(b'>'));
        let quotes = letters.equal(b'\\').or(letters.equal(b'`'));
        letters.up_to(b')').or(ends).or(brackets).or(quotes)
    };
    length_until(text, marked, |letter| !is_bare(letter))
}

/// Where a piece without quotes ends that begins at `at`.
fn bare_end(text: &[u8], at: usize) -> usize {
    let mut end = at;
    while end < text.len() {
        end += plain_length(&text[end..]);
        match text.get(end..).unwrap_or_default() {
            // What is escaped is a whole letter; a line so ended goes on in the next.
            [b'\\', rest @ ..] => {
                end += if rest.starts_with(b"\r\n") { 3 } else { 2 };
                while text.get(end).is_some_and(|byte| byte & 0xC0 == 0x80) {
                    end += 1;
                }
            }
            // `${name}` is one thing, whatever is in it.
            [b'$', b'{', ..] => {
                end = memchr::memchr(b'}', &text[end..]).map_or(text.len(), |n| end + n + 1);
            }
            [b'$', b'\'', ..] => break,
            [b'$', ..] => end += 1,
            _ => break,
        }
    }
    end.min(text.len())
}

/// Where the word ends that begins at `at`, and whether its quotes are closed.
pub fn shell_word_end(text: &str, at: usize) -> (usize, bool) {
    let bytes = text.as_bytes();
    let mut end = at;
    let mut closed = true;
    while let Some(letter) = bytes.get(end) {
        if is_bare(*letter) {
            (end, closed) = (bare_end(bytes, end), true);
            continue;
        }
        let Some(piece) = piece(bytes, end) else {
            break;
        };
        (end, closed) = (piece.over, piece.closed);
    }
    (end, closed)
}

/// A piece with its quoting taken off.
struct OpenPiece {
    piece: Piece,
    layer: Option<Escaped>,
    opened: Opened,
    /// Where its letters are in the word's content.
    content: Range<usize>,
}

impl ShellWord {
    fn open_pieces(outer: &[u8]) -> Result<Vec<OpenPiece>, Malformed> {
        let mut all: Vec<OpenPiece> = Vec::new();
        let mut at = 0;
        while at < outer.len() {
            let Some(piece) = piece(outer, at) else {
                return Err(Malformed {
                    what: "the end of a word",
                    at,
                });
            };
            at = piece.over;
            let raw = &outer[piece.inside.clone()];
            let layer = piece.quoting.escapes().map(|escapes| Escaped {
                escapes,
                document: Style::default(),
            });
            let opened = match &layer {
                Some(layer) => layer.open(raw)?,
                None if raw.is_ascii() => Opened::same(raw),
                None => crate::layer::open_units(raw, |rest| {
                    let letter = super::doubled::first_letter(rest);
                    let width = letter.map_or(1, char::len_utf8);
                    (letter.unwrap_or(crate::place::OPAQUE), width)
                }),
            };
            let start = all.last().map_or(0, |piece| piece.content.end);
            all.push(OpenPiece {
                content: start..start + opened.content.len(),
                piece,
                layer,
                opened,
            });
        }
        Ok(all)
    }

    /// Writes `edits` of one piece's content.
    fn lift_piece(
        &self,
        outer: &[u8],
        open: &OpenPiece,
        edits: Vec<Edit>,
    ) -> Result<Vec<Edit>, Unfit> {
        let raw = &outer[open.piece.inside.clone()];
        let Some(layer) = &open.layer else {
            return edits.into_iter().map(|edit| single(open, edit)).collect();
        };
        if open.piece.quoting == Quoting::Bare
            && !self.backslashes
            && let Some(quoted) = in_quotes(raw, &edits)
        {
            return Ok(quoted);
        }
        let edits = Edits::new(edits).map_err(|_| Unfit::Overlap)?;
        Ok(layer.lift(raw, &open.opened, &edits)?.into_vec())
    }
}

/// An edit inside of single quotes, where a single quote can only be outside.
fn single(open: &OpenPiece, edit: Edit) -> Result<Edit, Unfit> {
    let span = open.opened.map.outer(edit.span).ok_or(Unfit::InsideUnit)?;
    let text = String::from_utf8(edit.with).map_err(|_| Unfit::InsideUnit)?;
    Ok(Edit {
        span,
        with: text.replace('\'', r"'\''").into_bytes(),
    })
}

/// The edits of a piece without quotes that put its end in single quotes; none if it needs none,
/// or if they would take something's meaning away.
fn in_quotes(raw: &[u8], edits: &[Edit]) -> Option<Vec<Edit>> {
    let first = edits.first()?;
    let text = std::str::from_utf8(raw).ok()?;
    let means = |letter: char| SHELL_WORD.escaped.contains(letter) || "\\~".contains(letter);
    let with = |edit: &Edit| std::str::from_utf8(&edit.with).ok().map(str::to_owned);
    let new: Option<Vec<String>> = edits.iter().map(with).collect();
    let new = new?.concat();
    let needs = new.contains(means) && !new.contains('\'');
    // Nothing is escaped in it, so content and raw text are the same.
    if !needs || text.contains(means) {
        return None;
    }
    let mut quoted = edits.to_vec();
    let end = raw.len();
    if first.span.end == end {
        quoted[0].with.push(b'\'');
    } else if let Some(last) = quoted.iter_mut().skip(1).find(|edit| edit.span.end == end) {
        last.with.push(b'\'');
    } else {
        quoted.push(Edit {
            span: end..end,
            with: b"'".to_vec(),
        });
    }
    quoted[0].with.insert(0, b'\'');
    Some(quoted)
}

impl Layer for ShellWord {
    fn name(&self) -> &'static str {
        SHELL
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let mut content = Vec::with_capacity(outer.len());
        let mut map = MapBuilder::default();
        for open in Self::open_pieces(outer)? {
            let inside = open.piece.inside;
            let raw = &outer[inside.clone()];
            let escapes = || open.layer.is_some() && memchr::memchr(b'\\', raw).is_some();
            if raw.is_ascii() && !escapes() {
                content.extend_from_slice(raw);
                map.bytes(inside);
                continue;
            }
            let text = String::from_utf8_lossy(&open.opened.content);
            let shift = inside.start;
            for (at, letter) in text.char_indices() {
                let span = open
                    .opened
                    .map
                    .outer(at..at + letter.len_utf8())
                    .unwrap_or_default();
                map.unit(letter.len_utf8(), span.start + shift..span.end + shift);
            }
            content.extend_from_slice(text.as_bytes());
        }
        Ok(Opened {
            content,
            map: map.finish(outer.len()),
        })
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        let pieces = Self::open_pieces(outer).map_err(|_| Unfit::InsideUnit)?;
        let mut of_pieces: Vec<Vec<Edit>> = pieces.iter().map(|_| Vec::new()).collect();
        let mut lifted = Vec::new();
        for edit in inner.as_slice() {
            let Edit { span, with } = edit;
            let within = pieces
                .iter()
                .position(|open| open.content.start <= span.start && span.end <= open.content.end);
            if let Some(index) = within {
                let start = pieces[index].content.start;
                of_pieces[index].push(Edit {
                    span: span.start - start..span.end - start,
                    with: with.clone(),
                });
                continue;
            }
            // It spans pieces: it is written as the first of them is, and what is left of the last
            // is opened anew after it.
            let text = std::str::from_utf8(with).map_err(|_| Unfit::InsideUnit)?;
            let first = pieces.iter().find(|open| span.start < open.content.end);
            let last = pieces.iter().rfind(|open| span.end > open.content.start);
            match (first, last) {
                (Some(first), Some(last)) => {
                    let mut written = match &first.layer {
                        Some(layer) => encode_fresh(layer, text).ok_or(Unfit::InsideUnit)?,
                        None => text.replace('\'', r"'\''"),
                    };
                    written.push_str(first.piece.quoting.close());
                    written.push_str(last.piece.quoting.open());
                    lifted.push(Edit {
                        span: opened.map.outer(span.clone()).ok_or(Unfit::InsideUnit)?,
                        with: written.into_bytes(),
                    });
                }
                // There is nothing here at all.
                _ => {
                    let bare = Escaped {
                        escapes: &SHELL_WORD,
                        document: Style::default(),
                    };
                    let quoted = (!self.backslashes)
                        .then(|| in_quotes(b"", std::slice::from_ref(edit)))
                        .flatten();
                    match quoted {
                        Some(quoted) => lifted.extend(quoted),
                        None => lifted.extend(bare.lift(outer, opened, inner)?.into_vec()),
                    }
                }
            }
        }
        for (open, edits) in pieces.iter().zip(of_pieces) {
            if edits.is_empty() {
                continue;
            }
            let shift = open.piece.inside.start;
            for edit in self.lift_piece(outer, open, edits)? {
                lifted.push(Edit {
                    span: edit.span.start + shift..edit.span.end + shift,
                    with: edit.with,
                });
            }
        }
        Edits::new(lifted).map_err(|_| Unfit::Overlap)
    }

    fn expansion(&self, outer: &[u8], span: Range<usize>) -> Option<Expansion> {
        let mut at = 0;
        let piece = loop {
            let piece = piece(outer, outer.get(at).map(|_| at)?)?;
            if span.start < piece.over {
                break piece;
            }
            at = piece.over;
        };
        let within = piece.inside.start <= span.start && span.end <= piece.inside.end;
        let expands = matches!(piece.quoting, Quoting::Bare | Quoting::Double);
        (within && expands).then_some(Expansion {
            form: VariableForm::DOLLAR,
            keeps_blanks: piece.quoting == Quoting::Double,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::splice;
    use proptest::prelude::*;

    fn changed(outer: &str, old: &str, new: &str, backslashes: bool) -> String {
        let layer = ShellWord { backslashes };
        let opened = layer.open(outer.as_bytes()).unwrap();
        let content = String::from_utf8(opened.content.clone()).unwrap();
        let start = content.find(old).unwrap();
        let edits = Edits::new(vec![Edit {
            span: start..start + old.len(),
            with: new.as_bytes().to_vec(),
        }])
        .unwrap();
        let lifted = layer.lift(outer.as_bytes(), &opened, &edits).unwrap();
        String::from_utf8(splice(outer.as_bytes(), &lifted)).unwrap()
    }

    #[test]
    fn each_piece_keeps_its_quoting() {
        let cases = [
            ("D:/H/x", "D:/H", "H:/C", false, "H:/C/x"),
            ("D:/H/x", "D:/H", "H:/a b", false, "'H:/a b/x'"),
            ("D:/H/x", "D:/H", "H:/a b", true, r"H:/a\ b/x"),
            ("D:/H", "D:/H", "H:/a b", false, "'H:/a b'"),
            ("-ID:/H/x", "D:/H", "H:/a b", false, "-I'H:/a b/x'"),
            ("D:/H/$x", "D:/H", "H:/a b", false, r"H:/a\ b/$x"),
            ("D:/H/x", "D:/H", "H:/it's", false, r"H:/it\'s/x"),
            (r"D:\\H\\x", r"D:\H", r"H:\a b", false, r"H:\\a\ b\\x"),
            (r"'D:\H\x'", r"D:\H", r"H:\it's", false, r"'H:\it'\''s\x'"),
            (r#""D:\H\x""#, r"D:\H", r"H:\a $b", false, r#""H:\a \$b\x""#),
            (
                r"$'D:\\H\\x'",
                r"D:\H",
                r"H:\it's",
                false,
                r"$'H:\\it\'s\\x'",
            ),
            (r#""D:/"H/x"#, "D:/H", "H:/a b", false, r#""H:/a b"/x"#),
            (r#"D:/"H b"/x"#, "D:/H b", "H:/c d", false, r#"H:/c\ d""/x"#),
            ("D:/H:D:/x", "D:/H", "H:/a b", false, "'H:/a b:D:/x'"),
        ];
        for (outer, old, new, backslashes, expected) in cases {
            assert_eq!(changed(outer, old, new, backslashes), expected, "{outer}");
        }
    }

    #[test]
    fn words_end_where_the_shell_ends_them() {
        let cases = [
            ("a b", 1, true),
            (r"a\ b c", 4, true),
            ("a'b c'\"d e\"f;g", 12, true),
            ("a\"$(ls \"x y\") z\"b", 17, true),
            ("a$'b\\'c' d", 8, true),
            ("a${b c}d e", 8, true),
            ("a'b", 3, false),
            ("a\\", 2, true),
            ("a\\\u{e9}b c", 5, true),
        ];
        for (text, end, closed) in cases {
            assert_eq!(shell_word_end(text, 0), (end, closed), "{text}");
        }
    }

    proptest! {
        /// What is written is one word again, and reads as the content with the edit made.
        #[test]
        fn writing_and_reading_agree(
            pieces in prop::collection::vec(
                prop_oneof!["[a-z/:.]{1,4}", "'[a-z $]{0,4}'", "\"[a-z '/]{0,4}\""], 1..4),
            new in "[a-zA-Z:/\\\\ '\"$&\u{e9}]{1,8}",
            (from, length) in (0usize..12, 0usize..6),
            backslashes: bool,
        ) {
            let outer = pieces.concat();
            let layer = ShellWord { backslashes };
            let opened = layer.open(outer.as_bytes()).unwrap();
            let content = String::from_utf8(opened.content.clone()).unwrap();
            let from = from.min(content.len());
            let span = from..(from + length).min(content.len());
            prop_assume!(!content.is_empty());
            let edits = Edits::new(vec![Edit { span: span.clone(), with: new.clone().into_bytes() }]).unwrap();
            let lifted = layer.lift(outer.as_bytes(), &opened, &edits).unwrap();
            let written = String::from_utf8(splice(outer.as_bytes(), &lifted)).unwrap();
            prop_assert_eq!(shell_word_end(&written, 0), (written.len(), true), "{}", &written);
            let again = layer.open(written.as_bytes()).unwrap();
            let mut expected = content;
            expected.replace_range(span, &new);
            prop_assert_eq!(String::from_utf8(again.content).unwrap(), expected, "{}", &written);
        }
    }
}
