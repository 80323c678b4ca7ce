//! What becomes of the bytes of a file: of a document, or of the parts of a container, and of
//! the container around them.

use crate::container::{
    Budget, Container, DEEPEST, Fault, Holding, LiftFault, NewPart, Part, Refused, Source,
};
use crate::layer::{Edits, splice};
use crate::report::Standing;
use crate::scan::{
    Document, Kind, Reading, Sieve, join_ways, kind_of, stands_at, summed_up, too_deep,
};

use super::plan::{PlanOptions, PlannedReference, plan};

/// What becomes of some bytes.
pub(super) struct ContentPlan {
    /// What read them.
    pub(super) format: &'static str,
    /// The name of their encoding; empty for a container.
    pub(super) encoding: &'static str,
    /// Every reference that a move touches, in order.
    pub(super) references: Vec<PlannedReference>,
    /// What changes; empty if nothing does.
    pub(super) edits: Edits,
    /// The new bytes; none if nothing changes.
    pub(super) new: Option<Vec<u8>>,
    /// What of it could not be read or changed, each a sentence.
    pub(super) left: Vec<String>,
    /// The container that they are.
    pub(super) container: Option<&'static dyn Container>,
}

/// What is known on the way into containers.
#[derive(Clone, Copy)]
pub(super) struct Nest<'a> {
    /// Rules parts out by their bytes.
    pub(super) sieve: &'a Sieve,
    /// How much may be unpacked.
    pub(super) budget: &'a Budget,
    /// How many containers may still be opened.
    depth: usize,
    /// Why nothing may be changed, if a container around says so.
    sealed: Option<&'static str>,
}

impl<'a> Nest<'a> {
    /// The outermost.
    pub(super) fn new(sieve: &'a Sieve, budget: &'a Budget) -> Self {
        Self {
            sieve,
            budget,
            depth: DEEPEST,
            sealed: None,
        }
    }
}

/// Plans the rewrite of `bytes`, whatever they are.
pub(super) fn plan_content(
    bytes: &[u8],
    name: &str,
    options: PlanOptions<'_>,
    nest: Nest<'_>,
) -> ContentPlan {
    match kind_of(bytes, name, options.reading) {
        Kind::Document(document) => plan_document(document, bytes, name, (options, nest)),
        Kind::Container(container) => {
            let mut group = Group {
                container,
                bytes,
                name,
                options,
                parts: Vec::new(),
                digests: Vec::new(),
                left: Vec::new(),
            };
            if let Err(fault) = group.read(nest) {
                group.withdraw_all(Standing::Sealed, &fault.0);
                group.left.push(fault.0);
            }
            group.settle(nest.budget)
        }
    }
}

fn plan_document(
    mut document: Document<'_>,
    bytes: &[u8],
    name: &str,
    (options, nest): (PlanOptions<'_>, Nest<'_>),
) -> ContentPlan {
    document.sealed = document.sealed.or(nest.sealed);
    let planned = plan(&document, bytes, name, options);
    ContentPlan {
        format: document.format.name(),
        encoding: document.text.encoding.name(),
        // A document of which nothing is told is named by the sentence alone.
        left: planned
            .left
            .filter(|_| planned.references.is_empty())
            .into_iter()
            .collect(),
        references: planned.references,
        edits: planned.edits,
        new: planned.new,
        container: None,
    }
}

/// A container while its parts are planned.
struct Group<'a> {
    container: &'static dyn Container,
    bytes: &'a [u8],
    name: &'a str,
    options: PlanOptions<'a>,
    /// The parts that a move touches, by their ordinals.
    parts: Vec<(usize, ContentPlan)>,
    /// The hash of each part as it was.
    digests: Vec<blake3::Hash>,
    left: Vec<String>,
}

/// How often a container may refuse some of its parts before it is left.
const ROUNDS: usize = 12;

impl<'a> Group<'a> {
    fn source<'b>(&self, budget: &'b Budget) -> Source<'b>
    where
        'a: 'b,
    {
        Source {
            bytes: self.bytes,
            name: self.name,
            budget,
        }
    }

    fn read(&mut self, nest: Nest<'_>) -> Result<(), Fault> {
        let container = self.container;
        let Some(depth) = nest.depth.checked_sub(1) else {
            return Err(Fault(too_deep("a container")));
        };
        let nest = Nest { depth, ..nest };
        container.read(self.source(nest.budget), &mut |part| {
            let ordinal = self.digests.len();
            self.digests.push(digest(&part));
            let nest = Nest {
                sealed: nest.sealed.or(part.sealed),
                ..nest
            };
            let planned = self.plan_part(&part, nest);
            if let Some(mut planned) = planned {
                let inside = |why: &String| match part.way {
                    "" => why.clone(),
                    way => format!("in {way}: {why}"),
                };
                self.left.extend(planned.left.iter().map(inside));
                planned.left.clear();
                if !planned.references.is_empty() {
                    self.parts.push((ordinal, planned));
                }
            }
            Ok(())
        })
    }

    fn plan_part(&mut self, part: &Part<'_>, nest: Nest<'_>) -> Option<ContentPlan> {
        let PlanOptions { reading, .. } = self.options;
        match &part.holding {
            Holding::Unreadable(why) => {
                self.left.push(why.clone());
                None
            }
            Holding::Document { name, bytes, cut } => {
                let named = nest.sieve.lets_through(bytes)
                    || Sieve::must_read(bytes)
                    || (*cut && nest.sieve.lets_through(&without_tags(bytes)));
                if !named {
                    return None;
                }
                let options = PlanOptions {
                    reading: reading.of_part(),
                    ..self.options
                };
                let mut planned = plan_content(bytes, name, options, nest);
                for reference in &mut planned.references {
                    reference.site = join_ways(part.way, &reference.site);
                }
                Some(planned)
            }
            Holding::Text {
                bytes,
                hint,
                stands,
            } => {
                if !nest.sieve.lets_through(bytes) {
                    return None;
                }
                let reading = Reading::of_string(*hint);
                let options = PlanOptions {
                    reading,
                    ..self.options
                };
                let document = Document::open(bytes, "", reading)?;
                let text = document.text.content.clone().into_owned();
                let mut planned = plan_document(document, bytes, "", (options, nest));
                for reference in &mut planned.references {
                    let site = match stands {
                        Some(stands) => stands_at(*stands, &text, reference.column),
                        None => std::mem::take(&mut reference.site),
                    };
                    reference.site = join_ways(part.way, &site);
                    reference.format = self.container.name();
                    (reference.line, reference.column) = (0, 0);
                }
                Some(planned)
            }
        }
    }

    /// Lifts the new parts into the container, without those that it refuses, and proves the
    /// new copy.
    fn settle(mut self, budget: &Budget) -> ContentPlan {
        let mut made = None;
        for _ in 0..ROUNDS {
            let new = self.new_parts();
            if new.is_empty() {
                break;
            }
            let budget = budget.afresh();
            match self.container.lift(self.source(&budget), &new) {
                Ok(edits) => {
                    let bytes = splice(self.bytes, &edits);
                    match self.prove(&bytes, &new, &budget.afresh()) {
                        Ok(()) => made = Some((edits, bytes)),
                        Err(why) => self.withdraw_all(Standing::Sealed, &why),
                    }
                    break;
                }
                Err(LiftFault::Whole(why)) => self.withdraw_all(Standing::Sealed, &why),
                Err(LiftFault::Parts(refused)) => self.withdraw(refused),
            }
        }
        if made.is_none() {
            self.withdraw_all(
                Standing::Sealed,
                "what must stay the same in it and what must change cannot be told apart",
            );
        }
        let (edits, new) = made.map_or((Edits::default(), None), |(edits, new)| (edits, Some(new)));
        ContentPlan {
            format: self.container.name(),
            encoding: "",
            references: self
                .parts
                .into_iter()
                .flat_map(|(_, planned)| planned.references)
                .collect(),
            edits,
            new,
            left: summed_up(self.left),
            container: Some(self.container),
        }
    }

    fn new_parts(&self) -> Vec<NewPart> {
        let new = self.parts.iter().filter_map(|(part, planned)| {
            Some(NewPart {
                part: *part,
                content: planned.new.clone()?,
            })
        });
        new.collect()
    }

    fn withdraw(&mut self, refused: Vec<(usize, Refused, String)>) {
        for (part, how, why) in refused {
            let standing = match how {
                Refused::Collision => Standing::Collision,
                Refused::Sealed => Standing::Sealed,
                Refused::Doubtful => Standing::Doubtful,
            };
            let known = self.parts.binary_search_by_key(&part, |(part, _)| *part);
            if let Ok(at) = known {
                self.parts[at].1.withdraw(standing, &why);
            }
        }
    }

    fn withdraw_all(&mut self, standing: Standing, why: &str) {
        for (_, planned) in &mut self.parts {
            planned.withdraw(standing, why);
        }
    }

    /// Proves that `bytes` are the container with these parts new and no others.
    fn prove(&self, bytes: &[u8], new: &[NewPart], budget: &Budget) -> Result<(), String> {
        let known = kind_of(bytes, self.name, self.options.reading);
        let same = matches!(known, Kind::Container(again) if again.name() == self.container.name());
        if !same {
            return Err("the new copy would be read as something else".to_owned());
        }
        let mut expected = self.digests.clone();
        for part in new {
            expected[part.part] = blake3::hash(&part.content);
        }
        let mut got = Vec::with_capacity(expected.len());
        let source = Source {
            bytes,
            name: self.name,
            budget,
        };
        self.container
            .read(source, &mut |part| {
                got.push(digest(&part));
                Ok(())
            })
            .map_err(|fault| format!("the new copy could not be read again: {}", fault.0))?;
        if !self.container.keeps_order() {
            let key = |hash: &blake3::Hash| *hash.as_bytes();
            expected.sort_by_key(key);
            got.sort_by_key(key);
        }
        if expected != got {
            return Err("in the new copy a part would be another than it should".to_owned());
        }
        Ok(())
    }
}

impl ContentPlan {
    fn withdraw(&mut self, standing: Standing, why: &str) {
        for reference in &mut self.references {
            reference.withdraw(standing, why);
        }
        self.edits = Edits::default();
        self.new = None;
    }
}

/// Markup without its tags: what stands in one string of a document that cuts it into runs
/// stands together here.
fn without_tags(markup: &[u8]) -> Vec<u8> {
    let mut text = Vec::with_capacity(markup.len());
    let mut rest = markup;
    while let Some(open) = memchr::memchr(b'<', rest) {
        text.extend_from_slice(&rest[..open]);
        rest = &rest[open..];
        let Some(close) = memchr::memchr(b'>', rest) else {
            return text;
        };
        let deleted = rest.starts_with(b"<w:delText");
        rest = &rest[close + 1..];
        if deleted {
            rest = &rest[memchr::memchr(b'<', rest).unwrap_or(rest.len())..];
        }
    }
    text.extend_from_slice(rest);
    text
}

/// The hash of what a part holds.
fn digest(part: &Part<'_>) -> blake3::Hash {
    match &part.holding {
        Holding::Document { bytes, .. } | Holding::Text { bytes, .. } => blake3::hash(bytes),
        Holding::Unreadable(why) => blake3::hash(why.as_bytes()),
    }
}
