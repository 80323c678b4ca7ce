//! How each reference of a document is read, layer by layer, and how its change is written.

use std::ops::Range;

use serde::Serialize;

use crate::codec::STRETCH;
use crate::format::Role;
use crate::layer::{Edits, splice};
use crate::place::{Found, Place, readings};
use crate::report::{Notice, Standing, is_zero};
use crate::resolve::{Suggestion, Target};
use crate::scan::{Document, Leaf, SitePassage};

use super::intent::Intent;
use super::plan::{Draft, LineCounter, PlanOptions};

/// One reference, from its bytes to its place and back.
#[derive(Clone, Debug, Serialize)]
pub struct ExplainedReference {
    /// The line it begins in, counted from 1; 0 where the site says all.
    #[serde(skip_serializing_if = "is_zero")]
    pub line: usize,
    /// The column it begins in, in letters, counted from 1; 0 where the site says all.
    #[serde(skip_serializing_if = "is_zero")]
    pub column: usize,
    /// The way to the string inside the file.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub site: String,
    /// What the string is in its document.
    pub part: &'static str,
    /// Where its bytes stand in its document, counted from 0.
    pub offset: usize,
    /// Its bytes, as hex digits.
    pub bytes: String,
    /// What each layer makes of it, from the encoding inwards.
    pub layers: Vec<ExplainedLayer>,
    /// How the place is spelled, in words.
    pub spelling: String,
    /// The place it names.
    pub place: String,
    /// Whether that place exists.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub target: Option<Target>,
    /// How it stands towards the sheet.
    pub standing: Standing,
    /// Why, where that wants a word.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub why: Option<String>,
    /// The move that touches it.
    #[serde(skip_serializing_if = "Option::is_none", rename = "move")]
    pub by: Option<ExplainedMove>,
    /// The place it names after a rewrite.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub new_place: Option<String>,
    /// Whether that place exists.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub new_target: Option<Target>,
    /// Its bytes after a rewrite, as hex digits.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub new_bytes: Option<String>,
    /// What follows from changing it, where that wants a word.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub notice: Option<Notice>,
    /// What may be meant, the likeliest first.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub suggestions: Vec<Suggestion>,
}

/// One layer, and the reference as it reads behind it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct ExplainedLayer {
    /// The encoding, or what a person calls the escaping.
    pub layer: &'static str,
    /// The reference behind it.
    pub text: String,
    /// The same after a rewrite.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub becomes: Option<String>,
}

/// A move of the sheet.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct ExplainedMove {
    /// The old place.
    pub from: String,
    /// The new place.
    pub to: String,
}

/// Explains the references of one document of a file: all of them, or those of one line. `judge` says
/// whether a place that no move touches counts, and whether a place exists.
pub(crate) fn explain_references(
    leaf: &Leaf<'_, '_>,
    (options, line): (PlanOptions<'_>, Option<usize>),
    judge: &dyn Judge,
) -> (Vec<ExplainedReference>, Option<String>) {
    let document = leaf.document;
    let draft = Draft::new(document, document.text.raw(), leaf.name, options, |_, _| {
        true
    });
    let mut lines = LineCounter::default();
    let mut all = Vec::new();
    for (site, of_site) in draft.sites.iter().zip(&draft.intents) {
        let raw = document.raw(&site.span);
        let content = site.chain.content(raw);
        for (found, intent) in site.finds.iter().zip(of_site) {
            let outer = site.span.start + site.chain.outer_offset(found.start);
            let at = lines.at(&document.text.content, outer);
            if line.is_some_and(|line| line != at.0) {
                continue;
            }
            let (end, place) = match intent {
                Some(intent) => (intent.end, intent.place.clone()),
                None => {
                    let end = readings(found, content)[0];
                    (end, found.place_until(content, end))
                }
            };
            let elsewhere = site.begins_elsewhere(found) || !judge.counts(found, &place);
            if intent.is_none() && elsewhere {
                continue;
            }
            let Some(written) = written(document, site, (found, intent.as_ref()), end) else {
                continue;
            };
            let new_place = intent.as_ref().and_then(|intent| intent.new_place.as_ref());
            let by = intent
                .as_ref()
                .and_then(|intent| options.sheet.moves.get(intent.by?));
            let (line, column) = leaf.position(at);
            let reference = ExplainedReference {
                line,
                column,
                site: leaf.site(&site.site, at.1),
                part: part(site.role),
                offset: match leaf.stands {
                    Some(stands) => stands.at + written.offset * if stands.wide { 2 } else { 1 },
                    None => written.offset,
                },
                bytes: written.bytes,
                layers: written.layers,
                spelling: intent
                    .as_ref()
                    .map_or(found.spelling, |intent| intent.spelling)
                    .in_words(
                        intent
                            .as_ref()
                            .map_or(&found.root, |intent| &intent.place.root),
                    ),
                target: Some(judge.target(&place)),
                standing: match intent {
                    Some(intent) => intent.standing,
                    None if options.sheet.is_new_place(&place) => Standing::Moved,
                    None => Standing::Elsewhere,
                },
                place: place.to_string(),
                why: intent.as_ref().and_then(|intent| intent.why.clone()),
                by: by.map(|one| ExplainedMove {
                    from: one.from.to_string(),
                    to: one.to.to_string(),
                }),
                new_place: new_place.map(ToString::to_string),
                new_target: new_place.map(|place| judge.target(place)),
                new_bytes: written.new_bytes,
                notice: intent.as_ref().and_then(|intent| intent.notice),
                suggestions: intent
                    .as_ref()
                    .map_or_else(Vec::new, |intent| intent.suggestions.clone()),
            };
            all.push((outer, reference));
        }
    }
    // Stretches in another syntax come behind the passage that they stand in.
    all.sort_by_key(|(outer, _)| *outer);
    let all = all.into_iter().map(|(_, reference)| reference).collect();
    (all, draft.left)
}

/// What is known outside of the document.
pub(crate) trait Judge {
    /// Whether a find is a place rather than something that looks like one.
    fn counts(&self, found: &Found, place: &Place) -> bool;
    /// Whether a place exists.
    fn target(&self, place: &Place) -> Target;
}

/// A reference as it stands in the file, and as it will.
struct Written {
    offset: usize,
    bytes: String,
    layers: Vec<ExplainedLayer>,
    new_bytes: Option<String>,
}

fn written(
    document: &Document<'_>,
    site: &SitePassage,
    (found, intent): (&Found, Option<&Intent>),
    end: usize,
) -> Option<Written> {
    let raw = document.raw(&site.span);
    let edits = match intent {
        Some(intent) => Edits::new(intent.edits.clone()).ok()?,
        None => Edits::default(),
    };
    let changes = !edits.is_empty();
    let levels = site.chain.lift_by_steps(raw.as_bytes(), edits).ok()?;
    let spans = spans(site, found.start..end.max(found.start), &levels);
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
            becomes: changes.then(|| stretch(text, span, edits)),
        })
        .collect();
    let outermost = spans.last()?;
    let in_text = outermost.start + site.span.start..outermost.end + site.span.start;
    let in_file = document.text.byte_span(in_text)?;
    let becomes = stretch(raw, outermost, levels.last()?);
    let new_bytes = document.text.encoding.encode(&becomes).ok();
    Some(Written {
        offset: in_file.start,
        bytes: hex(document.text.bytes(in_file)),
        layers,
        new_bytes: new_bytes.filter(|_| changes).map(|bytes| hex(&bytes)),
    })
}

/// Where the reference and its edits stand in each text, from the innermost outwards.
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

fn part(role: Role) -> &'static str {
    match role {
        Role::Value => "a value",
        Role::Name { .. } => "a name",
        Role::Prose => "running text",
        Role::Stray => "text outside of any string",
        Role::ByHand => "a string typed by hand",
        Role::Mixed => "data that is not all text",
        Role::Torn { .. } => "text that is not in one piece",
    }
}

fn hex(bytes: &[u8]) -> String {
    let digits: Vec<String> = bytes.iter().map(|byte| format!("{byte:02x}")).collect();
    digits.join(" ")
}
