//! One reference from its bytes to its place and back.

use std::ops::Range;

use crate::codec::STRETCH;
use crate::layer::{Edits, Span, splice};
use crate::open::{Document, SitePassage};
use crate::plan::Intent;
use crate::report::ExplainedLayer;
use crate::text::ByteMap;

/// A reference as it is in the file, and as it will be.
pub(super) struct Written {
    /// Offset of its bytes in its document, counted from 0.
    pub(super) offset: usize,
    /// Its bytes, as hex digits.
    pub(super) bytes: String,
    /// What each layer makes of it, from the encoding inwards.
    pub(super) layers: Vec<ExplainedLayer>,
    /// Its bytes after a rewrite, as hex digits.
    pub(super) new_bytes: Option<String>,
}

/// The reference at `span` of the content, layer by layer; none if it cannot be told. `map` is the byte
/// map of the document.
pub(super) fn written(
    (document, map): (&Document<'_>, Option<&ByteMap>),
    site: &SitePassage,
    span: Range<usize>,
    intent: Option<&Intent>,
) -> Option<Written> {
    let raw = document.raw(&site.span);
    let levels = levels(site, raw, intent)?;
    let changes = levels.last().is_some_and(|edits| !edits.is_empty());
    let spans = spans(site, span.start..span.end.max(span.start), &levels);
    let encoding = (document.text.encoding.name(), raw);
    let steps = site
        .chain
        .steps()
        .map(|(layer, opened)| (layer, std::str::from_utf8(&opened.content).unwrap_or("")));
    let layers = std::iter::once(encoding)
        .chain(steps)
        .zip(spans.iter().zip(&levels).rev())
        .filter(|((layer, _), _)| *layer != STRETCH)
        .map(|((layer, text), (span, edits))| ExplainedLayer {
            layer,
            text: stretch(text, span, &Edits::default()),
            becomes: (!edits.is_empty()).then(|| stretch(text, span, edits)),
        })
        .collect();
    let outermost = spans.last()?;
    let start = site.span.start().get();
    let in_text = Span::new(outermost.start + start..outermost.end + start);
    let in_file = document.text.byte_span(map, &in_text)?;
    let becomes = stretch(raw, outermost, levels.last()?);
    let new_bytes = document.text.encoding.encode(&becomes).ok();
    Some(Written {
        offset: in_file.start().get(),
        bytes: hex(document.text.bytes(&in_file)),
        layers,
        new_bytes: new_bytes.filter(|_| changes).map(|bytes| hex(&bytes)),
    })
}

/// The edits of each text, from the innermost outwards; one that is spelled anew further out has none inside.
fn levels(site: &SitePassage, raw: &str, intent: Option<&Intent>) -> Option<Vec<Edits>> {
    let respelled = intent.and_then(|intent| intent.respelled.as_ref());
    let (chain, edits) = match (intent, respelled) {
        (_, Some(respelled)) => (&respelled.chain, vec![respelled.edit.clone()]),
        (Some(intent), None) => (&site.chain, intent.edits.clone()),
        (None, None) => (&site.chain, Vec::new()),
    };
    let accepted = intent.is_some_and(Intent::is_accepted);
    let lifted = chain.lift_by_steps(raw.as_bytes(), Edits::new(edits).ok()?, accepted);
    let mut levels = vec![Edits::default(); site.chain.depth() - chain.depth()];
    levels.extend(lifted.ok()?);
    Some(levels)
}

/// Where the reference and its edits are in each text, from the innermost outwards.
fn spans(site: &SitePassage, innermost: Range<usize>, levels: &[Edits]) -> Vec<Range<usize>> {
    let wide = |span: Range<usize>, edits: &Edits| {
        let edits = edits.as_slice();
        let first = edits.first().map_or(span.start, |edit| edit.span.start);
        let last = edits.last().map_or(span.end, |edit| edit.span.end);
        span.start.min(first)..span.end.max(last)
    };
    let maps: Vec<_> = site.chain.steps().map(|(_, opened)| &opened.map).collect();
    let mut spans = vec![wide(innermost, &levels[0])];
    for (map, edits) in maps.into_iter().rev().zip(&levels[1..]) {
        let inner = spans[spans.len() - 1].clone();
        let outer = map
            .outer(inner.clone())
            .unwrap_or_else(|| map.outer_start(inner.start)..map.outer_start(inner.end));
        spans.push(wide(outer, edits));
    }
    spans
}

/// A stretch of a text with edits made in it.
fn stretch(text: &str, span: &Range<usize>, edits: &Edits) -> String {
    let whole = splice(text.as_bytes(), edits);
    // A closing quote that comes is put in at the very end.
    let end = edits.moved_start(span.end);
    String::from_utf8_lossy(whole.get(span.start..end).unwrap_or_default()).into_owned()
}

fn hex(bytes: &[u8]) -> String {
    let digits: Vec<String> = bytes.iter().map(|byte| format!("{byte:02x}")).collect();
    digits.join(" ")
}
