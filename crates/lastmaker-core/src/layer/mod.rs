//! What wraps a string: a codec or an encoding.
//!
//! A layer *opens* (gives the content and a map from its units to the outer ones) and
//! *lifts* (turns edits of the content into edits of what is around it). A passage wears a
//! chain of layers, so a UTF-16 text in a registry's hex digits in a UTF-8 file is nothing
//! special.

mod chain;
mod edit;
mod level;
mod map;
mod spliced;
mod variable_form;

pub use chain::{OpenedChain, lift_together};
pub use edit::{ByteEdits, Edit, Edits, TextEdits, splice};
pub use level::{ByteSpan, InBytes, InLayer, InText, Offset, Span, TextOffset, TextSpan};
pub use map::{MapBuilder, UnitMap};
pub use spliced::SplicedReader;
pub use variable_form::{Expansion, VariableForm};

use std::fmt::Debug;
use std::ops::Range;
use std::sync::Arc;

use thiserror::Error;

/// The content of a layer, and where each unit of it came from.
#[derive(Clone, Debug)]
pub struct Opened {
    /// The content: UTF-8 if the layer yields text, else bytes for the next layer.
    pub content: Vec<u8>,
    /// From offsets of the content to offsets of the outer text.
    pub map: UnitMap,
}

impl Opened {
    /// What a layer takes nothing off from: each byte is a unit.
    pub fn same(outer: &[u8]) -> Self {
        let mut map = MapBuilder::default();
        map.bytes(0..outer.len());
        Self {
            content: outer.to_vec(),
            map: map.finish(outer.len()),
        }
    }
}

/// A text that is not in the syntax of its layer.
#[derive(Clone, Copy, Debug, Error, PartialEq, Eq)]
#[error("{what} at byte {at}")]
pub struct Malformed {
    /// What does not belong there.
    pub what: &'static str,
    /// Offset into the outer text, in bytes.
    pub at: usize,
}

/// Why an edit of the content has no counterpart outside.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
pub enum Unfit {
    /// The encoding lacks a letter.
    #[error("the file's encoding, {encoding}, has no letter {letter:?}")]
    NoSuchLetter {
        /// The letter.
        letter: char,
        /// The encoding's name.
        encoding: &'static str,
    },
    /// Nothing in the file shows how it would write a letter outside ASCII.
    #[error("nothing in the file shows how it writes {letter:?}; say so with --encoding")]
    Undecided {
        /// The letter.
        letter: char,
    },
    /// A letter would mean something else there, and the syntax has no way to write it, or none
    /// that is known.
    #[error("{letter:?} would mean something else in this {within}")]
    Means {
        /// The letter.
        letter: char,
        /// What a person calls the text around it.
        within: &'static str,
    },
    /// The syntax has no way to hold the new place as it is.
    #[error("{what}")]
    NotWritable {
        /// Why, and what to do.
        what: &'static str,
    },
    /// An edit begins or ends inside a unit.
    #[error("the change would cut an escape in two")]
    InsideUnit,
    /// Two edits overlap.
    #[error("two changes overlap")]
    Overlap,
}

/// One wrapping.
pub trait Layer: Debug + Send + Sync {
    /// What a person calls it, in lower case.
    fn name(&self) -> &'static str;

    /// Whether what parts the names of a place is written without any separator or colon.
    fn hides_separators(&self) -> bool {
        false
    }

    /// Whether text so wrapped tells a person nothing: hex digits, say.
    fn is_illegible(&self) -> bool {
        false
    }

    /// Takes the wrapping off.
    ///
    /// # Errors
    /// Where `outer` is not in this layer's syntax; nothing is guessed.
    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed>;

    /// Turns edits of the content into edits of `outer`, escaped the way the surroundings are.
    ///
    /// # Errors
    /// Where the layer cannot express an edit.
    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit>;

    /// The same where a technician has accepted letters that this layer would refuse because they
    /// may mean something else: they are written as they are.
    ///
    /// # Errors
    /// Where the layer cannot express an edit even so.
    fn lift_accepted(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        self.lift(outer, opened, inner)
    }

    /// How the program whose syntax this is puts a variable's value in where `span` stands in a text that is in
    /// it; none if it does not.
    fn expansion(&self, _outer: &[u8], _span: Range<usize>) -> Option<Expansion> {
        None
    }
}

/// The layers of a passage, outermost first; empty where it is written as it is.
pub type Layers = Arc<[Arc<dyn Layer>]>;

/// The layers of a passage that wears one.
pub(crate) fn alone(layer: impl Layer + 'static) -> Layers {
    Arc::new([Arc::new(layer)])
}

/// Opens a text unit by unit: `unit` gives the first letter of what is left and how wide it
/// is, at least one byte.
pub fn open_units(outer: &[u8], unit: impl Fn(&[u8]) -> (char, usize)) -> Opened {
    let mut content = String::with_capacity(outer.len());
    let mut map = MapBuilder::default();
    let mut at = 0;
    while at < outer.len() {
        let (letter, width) = unit(&outer[at..]);
        content.push(letter);
        map.unit(letter.len_utf8(), at..at + width);
        at += width;
    }
    Opened {
        content: content.into_bytes(),
        map: map.finish(outer.len()),
    }
}

/// Lifts edits one by one: each span through the map, each replacement through `encode`,
/// which is given what was there in the outer text.
///
/// # Errors
/// Where a span cuts a unit in two, or `encode` cannot express a replacement.
pub fn lift_each(
    outer: &[u8],
    opened: &Opened,
    inner: &Edits,
    mut encode: impl FnMut(&[u8], &[u8]) -> Result<Vec<u8>, Unfit>,
) -> Result<Edits, Unfit> {
    let mut lifted = Vec::with_capacity(inner.as_slice().len());
    for edit in inner.as_slice() {
        let span = opened
            .map
            .outer(edit.span.clone())
            .ok_or(Unfit::InsideUnit)?;
        let with = encode(&edit.with, &outer[span.clone()])?;
        lifted.push(Edit { span, with });
    }
    Edits::new(lifted).map_err(|_| Unfit::Overlap)
}
