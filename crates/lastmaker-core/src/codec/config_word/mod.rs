//! Words of configuration files: bare, or in quotes, with escapes of their own in each, and letters
//! that begin a variable or a code unless they are doubled.

mod syntaxes;

pub use syntaxes::*;

use super::bare::without_drive;
use super::{Escaped, Escapes, Style};
use crate::layer::{Edit, Edits, Layer, Malformed, Opened, Unfit, lift_each};

/// How words of one syntax are written.
#[derive(Debug)]
pub struct WordSyntax {
    /// What a person calls such a word.
    pub name: &'static str,
    /// The escapes of a word without quotes; what they list as escaped cannot stand bare.
    pub bare: &'static Escapes,
    /// What cannot stand bare, and only quotes can hold.
    pub quoted_only: &'static str,
    /// Each quote with the escapes inside of it; a bare word that needs quotes gains the first.
    pub quotes: &'static [(char, &'static Escapes)],
    /// Letters that stand for themselves only where they are doubled.
    pub doubled: &'static str,
    /// Letters that the syntax cannot write at all, or not surely.
    pub refused: &'static str,
    /// Letters that part a word where it is bare, and not in quotes.
    pub unquotable: &'static str,
    /// Whether a bare word that could gain quotes or an escape gains an escape.
    pub prefers_escapes: bool,
}

/// A word, its quotes included. A word whose quotes are only around a part of it is no such word.
#[derive(Debug)]
pub struct ConfigWord(pub &'static WordSyntax);

/// How one word is written.
struct Written {
    /// The quotes around it.
    quote: Option<char>,
    escapes: &'static Escapes,
}

impl WordSyntax {
    fn written(&self, outer: &[u8]) -> Written {
        let quote = self.quotes.iter().find(|(quote, _)| {
            let quote = *quote as u8;
            outer.len() >= 2 && outer.first() == Some(&quote) && outer.last() == Some(&quote)
        });
        Written {
            quote: quote.map(|(quote, _)| *quote),
            escapes: quote.map_or(self.bare, |(_, escapes)| escapes),
        }
    }

    /// Opens the doubled letters of what the escapes have left.
    fn undouble(&self, opened: &Opened) -> Opened {
        let text = String::from_utf8_lossy(&opened.content).into_owned();
        crate::layer::open_units(text.as_bytes(), |rest| {
            let letter = crate::codec::doubled::first_letter(rest).unwrap_or(crate::place::OPAQUE);
            let width = letter.len_utf8();
            let twice = self.doubled.contains(letter) && rest[width..].first() == Some(&rest[0]);
            (letter, if twice { 2 * width } else { width })
        })
    }

    fn double(&self, text: &str) -> String {
        let mut doubled = String::with_capacity(text.len());
        for letter in text.chars() {
            doubled.push(letter);
            if self.doubled.contains(letter) {
                doubled.push(letter);
            }
        }
        doubled
    }

    /// Whether `letter` can stand in a word without quotes only as an escape.
    fn needs_escape(&self, letter: char) -> bool {
        self.bare.escaped.contains(letter)
    }
}

impl Layer for ConfigWord {
    fn name(&self) -> &'static str {
        self.0.name
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let written = self.0.written(outer);
        let inside = inside(outer, &written);
        let escaped = layer(written.escapes).open(&outer[inside.clone()])?;
        let undoubled = self.0.undouble(&escaped);
        let mut map = crate::layer::MapBuilder::default();
        let text = String::from_utf8_lossy(&undoubled.content);
        for (at, letter) in text.char_indices() {
            let through = undoubled.map.outer(at..at + letter.len_utf8());
            let span = through
                .and_then(|span| escaped.map.outer(span))
                .unwrap_or_default();
            map.unit(
                letter.len_utf8(),
                span.start + inside.start..span.end + inside.start,
            );
        }
        let map = map.finish(inside.end);
        Ok(Opened {
            content: text.into_owned().into_bytes(),
            map,
        })
    }

    fn lift_accepted(&self, outer: &[u8], _: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        self.rewrite(outer, inner, self.0.written(outer).escapes)
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        let syntax = self.0;
        let written = syntax.written(outer);
        let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
        let edits = || inner.as_slice().iter();
        let new: String = edits()
            .map(|edit| text(without_drive(&edit.with)))
            .collect();
        let stood = edits().map(|edit| text(&opened.content[edit.span.clone()]));
        let stood: String = stood.collect();
        // Where a word is of Windows, its separators are what they were.
        let separates = opened.content.contains(&b'\\');
        let comes = |letters: &str| {
            new.chars().find(|letter| {
                let known = stood.contains(*letter) || (*letter == '\\' && separates);
                letters.contains(*letter) && !known
            })
        };
        if let Some(letter) = comes(syntax.refused) {
            return Err(self.means(letter));
        }
        let quotes_only = new.chars().find(|l| syntax.quoted_only.contains(*l));
        let escape = new.chars().find(|letter| syntax.needs_escape(*letter));
        let bare = written.quote.is_none();
        if bare && quotes_only.or(escape).is_some() && syntax.holds_quotes(outer) {
            return Err(Unfit::NotWritable {
                what: "the word has quotes in its middle, and needs others now",
            });
        }
        let quotes_rather =
            escape.is_some() && !syntax.prefers_escapes && syntax.gains_cleanly(outer);
        let gains = bare && (quotes_only.is_some() || quotes_rather);
        if !gains {
            return self.rewrite(outer, inner, written.escapes);
        }
        let Some((quote, escapes)) = syntax.quotes.first().copied() else {
            return Err(self.means(quotes_only.or(escape).unwrap_or(' ')));
        };
        if !syntax.gains_cleanly(outer) {
            return Err(Unfit::NotWritable {
                what: "the word needs quotes now, and has escapes or quotes inside already",
            });
        }
        let edits = self.rewrite(outer, inner, escapes)?;
        Ok(around(outer, edits.into_vec(), quote))
    }
}

impl WordSyntax {
    /// Whether quotes can come around a bare word and leave what it says: it has no escapes and no
    /// quotes inside.
    fn gains_cleanly(&self, outer: &[u8]) -> bool {
        let odd = |byte: &u8| *byte == self.bare.mark || self.unquotable.as_bytes().contains(byte);
        !self.quotes.is_empty() && !outer.iter().any(odd) && !self.holds_quotes(outer)
    }

    /// Whether there are quotes somewhere in a word.
    fn holds_quotes(&self, outer: &[u8]) -> bool {
        let quote = |byte: &u8| self.quotes.iter().any(|(quote, _)| *quote as u8 == *byte);
        outer.iter().any(quote)
    }
}

impl ConfigWord {
    fn means(&self, letter: char) -> Unfit {
        Unfit::Means {
            letter,
            within: self.0.name,
        }
    }

    /// The edits of what is inside of the quotes, written with these escapes.
    fn rewrite(
        &self,
        outer: &[u8],
        inner: &Edits,
        escapes: &'static Escapes,
    ) -> Result<Edits, Unfit> {
        let written = self.0.written(outer);
        let inside = inside(outer, &written);
        let outer = &outer[inside.clone()];
        let not_so = |_| Unfit::InsideUnit;
        let escaped = layer(written.escapes).open(outer).map_err(not_so)?;
        let undoubled = self.0.undouble(&escaped);
        let doubled = lift_each(&escaped.content, &undoubled, inner, |with, _| {
            let text = std::str::from_utf8(with).map_err(|_| Unfit::InsideUnit)?;
            Ok(self.0.double(text).into_bytes())
        })?;
        let raw = String::from_utf8_lossy(outer);
        let written = Escaped {
            escapes,
            document: Style::of(&raw, escapes, Style::default()),
        };
        let lifted = written.lift(outer, &escaped, &doubled)?;
        let shifted = lifted.into_vec().into_iter().map(|edit| Edit {
            span: edit.span.start + inside.start..edit.span.end + inside.start,
            ..edit
        });
        Edits::new(shifted.collect()).map_err(|_| Unfit::Overlap)
    }
}

fn layer(escapes: &'static Escapes) -> Escaped {
    Escaped {
        escapes,
        document: Style::default(),
    }
}

fn inside(outer: &[u8], written: &Written) -> std::ops::Range<usize> {
    match written.quote {
        Some(_) => 1..outer.len() - 1,
        None => 0..outer.len(),
    }
}

/// The edits with quotes around the whole word.
fn around(outer: &[u8], mut edits: Vec<Edit>, quote: char) -> Edits {
    let end = outer.len();
    let sign = |span: std::ops::Range<usize>| Edit {
        span,
        with: quote.to_string().into_bytes(),
    };
    match edits.first_mut() {
        Some(first) if first.span.start == 0 => first.with.insert(0, quote as u8),
        _ => edits.insert(0, sign(0..0)),
    }
    match edits.last_mut() {
        Some(last) if last.span.end == end => last.with.push(quote as u8),
        _ => edits.push(sign(end..end)),
    }
    Edits::new(edits).unwrap_or_default()
}
