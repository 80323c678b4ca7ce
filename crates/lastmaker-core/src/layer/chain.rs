//! A passage with all its layers taken off, and putting them on again.

use std::collections::HashMap;
use std::ops::Range;
use std::sync::Arc;

use super::{Edit, Edits, Layer, Layers, Malformed, Opened, Unfit};

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
            layers: layers.clone(),
            steps: Vec::with_capacity(layers.len()),
        };
        none.opening(layers, outer)
    }

    /// Opens the layers in `further` inside those that are open already; `layers` are all of
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
        let steps = self.steps.clone();
        Self { layers, steps }.opening(further, outer)
    }

    /// Opens the layers in `further` too.
    fn opening(mut self, further: &[Arc<dyn Layer>], outer: &[u8]) -> Result<Self, Malformed> {
        for layer in further {
            let outer = self.steps.last().map_or(outer, |step| &step.content);
            self.steps.push(Arc::new(layer.open(outer)?));
        }
        match std::str::from_utf8(self.steps.last().map_or(outer, |step| &step.content)) {
            Ok(_) => Ok(self),
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

    /// All its layers, outermost first.
    pub(crate) fn layers(&self) -> &Layers {
        &self.layers
    }

    /// The chain of the outermost `depth` layers alone.
    pub(crate) fn outermost(&self, depth: usize) -> Self {
        Self {
            layers: self.layers[..depth].into(),
            steps: self.steps[..depth].to_vec(),
        }
    }

    /// The span, in the content of the outermost `depth` layers, of a span of the innermost; none if it
    /// begins or ends inside a unit.
    pub(crate) fn span_at(&self, depth: usize, inner: Range<usize>) -> Option<Range<usize>> {
        let mut steps = self.steps[depth..].iter().rev();
        steps.try_fold(inner, |span, step| step.map.outer(span))
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
        lift_together(outer, vec![(self, inner)], false)
    }

    /// What edits of the innermost content come to in each of the texts around it, from the
    /// innermost outwards; the first are the edits themselves. `accepted` is as in [`Layer::lift_accepted`].
    ///
    /// # Errors
    /// Where one of the layers cannot express an edit.
    pub fn lift_by_steps(
        &self,
        outer: &[u8],
        inner: Edits,
        accepted: bool,
    ) -> Result<Vec<Edits>, Unfit> {
        let mut levels = vec![inner];
        for depth in (0..self.steps.len()).rev() {
            let lifted = self.lift_out_of(depth, outer, &levels[levels.len() - 1], accepted)?;
            levels.push(lifted);
        }
        Ok(levels)
    }

    /// Lifts edits of the content inside the layer at `depth` to edits of what is around it.
    fn lift_out_of(
        &self,
        depth: usize,
        outer: &[u8],
        inner: &Edits,
        accepted: bool,
    ) -> Result<Edits, Unfit> {
        let around = match depth {
            0 => outer,
            _ => &self.steps[depth - 1].content,
        };
        let (layer, opened) = (&self.layers[depth], &self.steps[depth]);
        if accepted {
            layer.lift_accepted(around, opened, inner)
        } else {
            layer.lift(around, opened, inner)
        }
    }

    /// How many layers are open.
    pub fn depth(&self) -> usize {
        self.steps.len()
    }

    /// The content inside each layer in turn, with the layer's name, outermost first.
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

/// Lifts edits of several stretches of `outer` to edits of it. Those that are inside the same
/// opened layer are lifted through it together, so that a length counts all of them. `accepted` says
/// that letters which a layer would refuse are written all the same.
///
/// # Errors
/// Where one of the layers cannot express an edit, or two overlap.
pub fn lift_together(
    outer: &[u8],
    stretches: Vec<(&OpenedChain, Edits)>,
    accepted: bool,
) -> Result<Edits, Unfit> {
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
                *edits = chain.lift_out_of(depth, outer, &all, accepted)?.into_vec();
            }
        }
        open = merged;
    }
    let all = open.into_iter().flat_map(|(_, edits)| edits).collect();
    Edits::new(all).map_err(|_| Unfit::Overlap)
}
