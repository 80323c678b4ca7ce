//! What wraps a string: a codec, an encoding, later a container.
//!
//! A layer *opens* (gives the content and a map from its units to the outer ones) and
//! *lifts* (turns edits of the content into edits of what is around it). A passage wears a
//! chain of layers, so a UTF-16 text in a registry's hex digits in a UTF-8 file is nothing
//! special.

mod edit;
mod map;

pub use edit::{Edit, Edits, splice};
pub use map::{MapBuilder, UnitMap};

use std::collections::HashMap;
use std::fmt::Debug;
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
    /// The syntax has no way to hold the new place as it stands.
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
}

/// The layers of a passage, outermost first; empty where it stands as it is.
pub type Layers = Arc<[Arc<dyn Layer>]>;

/// A passage with all its wrappings taken off.
#[derive(Clone, Debug)]
pub struct OpenedChain {
    layers: Layers,
    steps: Vec<Arc<Opened>>,
}

impl OpenedChain {
    /// Opens every layer in turn.
    ///
    /// # Errors
    /// Where one of them is not in its syntax, or the innermost yields no text.
    pub fn open(layers: &Layers, outer: &[u8]) -> Result<Self, Malformed> {
        let none = Self {
            layers: Arc::new([]),
            steps: Vec::new(),
        };
        none.further(layers.clone(), layers, outer)
    }

    /// Opens the layers in `further` behind those that are open already; `layers` are all of
    /// them. What is open is shared, not opened again.
    ///
    /// # Errors
    /// As for [`OpenedChain::open`].
    pub fn further(
        &self,
        layers: Layers,
        further: &[Arc<dyn Layer>],
        outer: &[u8],
    ) -> Result<Self, Malformed> {
        let mut steps = self.steps.clone();
        for layer in further {
            let outer = steps.last().map_or(outer, |step| &step.content);
            steps.push(Arc::new(layer.open(outer)?));
        }
        let chain = Self { layers, steps };
        match std::str::from_utf8(chain.steps.last().map_or(outer, |step| &step.content)) {
            Ok(_) => Ok(chain),
            Err(error) => Err(Malformed {
                what: "bytes that are no text",
                at: error.valid_up_to(),
            }),
        }
    }

    /// The innermost content, or `outer` where there are no layers.
    pub fn content<'a>(&'a self, outer: &'a str) -> &'a str {
        match self.steps.last() {
            Some(step) => std::str::from_utf8(&step.content).unwrap_or(""),
            None => outer,
        }
    }

    /// The offset in the outermost text of the unit at `inner` of the innermost content.
    pub fn outer_offset(&self, inner: usize) -> usize {
        self.steps
            .iter()
            .rev()
            .fold(inner, |at, step| step.map.outer_start(at))
    }

    /// Lifts edits of the innermost content to edits of `outer`.
    ///
    /// # Errors
    /// Where one of the layers cannot express an edit.
    pub fn lift(&self, outer: &[u8], inner: Edits) -> Result<Edits, Unfit> {
        lift_together(outer, vec![(self, inner)])
    }

    /// What edits of the innermost content come to in each of the texts around it, from the
    /// innermost outwards; the first are the edits themselves.
    ///
    /// # Errors
    /// Where one of the layers cannot express an edit.
    pub fn lift_by_steps(&self, outer: &[u8], inner: Edits) -> Result<Vec<Edits>, Unfit> {
        let mut levels = vec![inner];
        for depth in (0..self.steps.len()).rev() {
            let lifted = self.lift_out_of(depth, outer, &levels[levels.len() - 1])?;
            levels.push(lifted);
        }
        Ok(levels)
    }

    /// Lifts edits of the content behind the layer at `depth` to edits of what is around it.
    fn lift_out_of(&self, depth: usize, outer: &[u8], inner: &Edits) -> Result<Edits, Unfit> {
        let around = match depth {
            0 => outer,
            _ => &self.steps[depth - 1].content,
        };
        self.layers[depth].lift(around, &self.steps[depth], inner)
    }

    /// How many layers are open.
    pub fn depth(&self) -> usize {
        self.steps.len()
    }

    /// The content behind each layer in turn, with the layer's name, outermost first.
    pub fn steps(&self) -> impl Iterator<Item = (&'static str, &Opened)> + '_ {
        self.layers
            .iter()
            .zip(&self.steps)
            .map(|(layer, opened)| (layer.name(), &**opened))
    }

    /// Whether the outer text tells a person nothing of the content.
    pub fn is_illegible(&self) -> bool {
        self.layers.iter().any(|layer| layer.is_illegible())
    }
}

/// Lifts edits of several stretches of `outer` to edits of it. Those that stand behind the same
/// opened layer are lifted through it together, so that a length counts all of them.
///
/// # Errors
/// Where one of the layers cannot express an edit, or two overlap.
pub fn lift_together(outer: &[u8], stretches: Vec<(&OpenedChain, Edits)>) -> Result<Edits, Unfit> {
    let deepest = stretches.iter().map(|(chain, _)| chain.depth()).max();
    let mut open: Vec<(&OpenedChain, Vec<Edit>)> = stretches
        .into_iter()
        .map(|(chain, edits)| (chain, edits.into_vec()))
        .collect();
    for depth in (0..deepest.unwrap_or(0)).rev() {
        let mut merged: Vec<(&OpenedChain, Vec<Edit>)> = Vec::with_capacity(open.len());
        let mut known: HashMap<*const Opened, usize> = HashMap::new();
        for (chain, edits) in open {
            let Some(step) = chain.steps.get(depth) else {
                merged.push((chain, edits));
                continue;
            };
            let next = merged.len();
            let at = *known.entry(Arc::as_ptr(step)).or_insert(next);
            match merged.get_mut(at) {
                Some((_, all)) => all.extend(edits),
                None => merged.push((chain, edits)),
            }
        }
        for (chain, edits) in &mut merged {
            if chain.steps.get(depth).is_some() {
                let all = Edits::new(std::mem::take(edits)).map_err(|_| Unfit::Overlap)?;
                *edits = chain.lift_out_of(depth, outer, &all)?.into_vec();
            }
        }
        open = merged;
    }
    let all = open.into_iter().flat_map(|(_, edits)| edits).collect();
    Edits::new(all).map_err(|_| Unfit::Overlap)
}

/// Opens a text unit by unit: `unit` gives the first letter of what is left and how wide it
/// stands, at least one byte.
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
/// which is given what stood there in the outer text.
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
