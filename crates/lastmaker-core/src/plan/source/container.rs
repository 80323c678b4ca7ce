//! What becomes of the bytes of a file: of a document, or of the parts of a container, and of
//! the container around them.

use crate::base::compact::CompactList;
use crate::container::{
    Budget, Container, Fault, LiftFault, NewPart, Part, PartContent, Refused, RefusedPart, Source,
};
use crate::judge::{self, Reason};
use crate::layer::{ByteEdits, splice};
use crate::open::{
    Group, Inside, Kind, LargeFault, LargeText, Left, OpenedDocument, Visitor, join_ways, kind_of,
    visit, visit_link, visit_windows,
};
use crate::record::SiteChange;
use crate::report::{Reference, Standing};
use crate::tree::Sieve;

use super::whole::{DocumentPlan, plan};
use crate::plan::decide::options::PlanOptions;

/// What becomes of some bytes.
pub(crate) struct ContentPlan {
    /// What read them.
    pub(crate) format: &'static str,
    /// The name of their encoding; empty for a container.
    pub(crate) encoding: &'static str,
    /// Every reference that a move touches, in order.
    pub(crate) references: CompactList<Reference>,
    /// What changes, if that is wanted; empty if nothing does.
    pub(crate) edits: ByteEdits,
    /// The new bytes; none if nothing changes.
    pub(crate) new: Option<Vec<u8>>,
    /// The container that they are.
    pub(crate) container: Option<&'static dyn Container>,
    /// What changes, piece by piece, as a record keeps it.
    pub(crate) sites: CompactList<SiteChange>,
}

/// Plans the rewrite of `inside`, whatever it is; none if no move touches it. Gives too what of
/// it could not be read or changed.
pub(in crate::plan) fn plan_content(
    inside: Inside<'_>,
    options: PlanOptions<'_>,
    sieve: &Sieve,
    budget: &Budget,
) -> (Option<ContentPlan>, Vec<String>) {
    visit(inside, budget, &mut Planner::new(sieve, options))
}

/// Plans the rewrite of a large text, window by window: `each` takes where a window begins and what becomes of it,
/// if a move touches it. Gives too what could not be read or changed.
///
/// # Errors
/// As reading does.
pub(in crate::plan) fn plan_windows(
    text: &LargeText<'_>,
    options: PlanOptions<'_>,
    sieve: &Sieve,
    each: &mut dyn FnMut(usize, ContentPlan),
) -> Result<Vec<String>, LargeFault> {
    visit_windows(text, &mut Planner::new(sieve, options), each)
}

/// Plans where a link of the file system leads; none if no move touches that.
pub(in crate::plan) fn plan_target(
    target: &std::path::Path,
    options: PlanOptions<'_>,
    sieve: &Sieve,
) -> Option<ContentPlan> {
    let mut plan = visit_link(target, &mut Planner::new(sieve, options))?;
    let way = |reference: &mut Reference| reference.site = "where it leads".to_owned();
    plan.references.change(way);
    Some(plan)
}

/// Plans documents as they come, and containers from the plans of their parts.
struct Planner<'a> {
    /// Rules parts out by their bytes.
    sieve: &'a Sieve,
    options: PlanOptions<'a>,
    /// How many references there are so far, and how many of them are in parts of containers.
    references: usize,
    in_parts: usize,
}

impl<'a> Planner<'a> {
    fn new(sieve: &'a Sieve, options: PlanOptions<'a>) -> Self {
        Self {
            sieve,
            options,
            references: 0,
            in_parts: 0,
        }
    }

    fn is_full(&self) -> bool {
        let limits = self.options.limits;
        self.references > limits.references || self.in_parts > limits.in_a_string
    }
}

impl Visitor for Planner<'_> {
    type Made = ContentPlan;
    type Mark = blake3::Hash;

    fn wants(&self, holding: &PartContent<'_>) -> bool {
        self.sieve.lets_part_through(holding)
    }

    fn document(&mut self, leaf: &OpenedDocument<'_, '_>, left: &mut Left) -> Option<ContentPlan> {
        if self.is_full() {
            return None;
        }
        let document = leaf.document;
        let spellings = self.options.spellings.map(|one| one.of_leaf(leaf));
        let options = PlanOptions {
            spellings: spellings.as_ref(),
            ..self.options
        };
        let planned = plan(document, options);
        let DocumentPlan {
            mut references,
            edits,
            new,
            mut sites,
            ..
        } = planned;
        if !leaf.way.is_empty() {
            sites.change(|site| site.site = join_ways(leaf.way, &site.site));
        }
        // A document of which nothing is told is named by the sentence alone.
        if let Some(why) = planned.left.filter(|_| references.is_empty()) {
            left.add(leaf.way, &why.to_string());
        }
        self.references += references.len();
        if leaf.is_part() {
            self.in_parts += references.len();
        }
        if self.is_full() {
            left.add("", &judge::Unproven::TooMany.to_string());
            return None;
        }
        if leaf.is_part() {
            references.change(|reference| {
                if let Some(at) = reference.position {
                    reference.site = leaf.site(&reference.site, at);
                    reference.position = leaf.position(at);
                }
                reference.format = leaf.format;
            });
        }
        (!references.is_empty()).then(|| ContentPlan {
            format: leaf.format,
            encoding: match document.reading.value {
                Some(_) => "",
                None => document.text.encoding.name(),
            },
            references,
            edits,
            new,
            container: None,
            sites,
        })
    }

    fn mark(&self, part: &Part<'_>) -> blake3::Hash {
        mark_of(part)
    }

    fn container(
        &mut self,
        mut group: Group<'_, ContentPlan, blake3::Hash>,
    ) -> Option<ContentPlan> {
        if self.is_full() {
            return None;
        }
        if let Some(fault) = group.fault.take() {
            group.withdraw_all(&sealed(fault.to_string()));
        }
        (!group.parts.is_empty()).then(|| settle_group(group))
    }
}

/// What is kept of a part of a container: the hash of what it holds.
pub(crate) fn mark_of(part: &Part<'_>) -> blake3::Hash {
    match &part.holding {
        PartContent::Document { bytes, .. } | PartContent::Text { bytes, .. } => {
            blake3::hash(bytes)
        }
        PartContent::Unreadable(why) => blake3::hash(why.to_string().as_bytes()),
    }
}

/// Lifts the new parts of a container into it, without those that it refuses, and proves the new
/// copy.
pub(crate) fn settle_group(group: Group<'_, ContentPlan, blake3::Hash>) -> ContentPlan {
    group.settle()
}

/// How often a container may refuse some of its parts before it is left.
const ROUNDS: usize = 12;

fn sealed(why: impl Into<String>) -> Reason {
    Reason::Container {
        standing: Standing::Sealed,
        why: why.into(),
    }
}

type PlannedGroup<'a> = Group<'a, ContentPlan, blake3::Hash>;

impl PlannedGroup<'_> {
    fn settle(mut self) -> ContentPlan {
        let made = self.lift();
        if made.is_none() {
            let unclear = "what must stay the same in it and what must change cannot be told apart";
            self.withdraw_all(&sealed(unclear));
        }
        let (edits, new) = match made {
            Some((edits, new)) => (edits, Some(new)),
            None => (ByteEdits::default(), None),
        };
        let mut whole = ContentPlan {
            format: self.container.name(),
            encoding: "",
            references: CompactList::default(),
            edits,
            new,
            container: Some(self.container),
            sites: CompactList::default(),
        };
        for (_, planned) in self.parts {
            whole.references.append(planned.references);
            whole.sites.append(planned.sites);
        }
        whole
    }

    fn lift(&mut self) -> Option<(ByteEdits, Vec<u8>)> {
        for _ in 0..ROUNDS {
            let new = self.new_parts();
            if new.is_empty() {
                break;
            }
            let budget = self.source.budget.afresh();
            let source = Source {
                budget: &budget,
                ..self.source
            };
            match self.container.lift(source, &new) {
                Ok(edits) => {
                    let bytes = splice(self.source.bytes, &edits);
                    match self.prove(&bytes, &new, &budget.afresh()) {
                        Ok(()) => return Some((edits, bytes)),
                        Err(why) => self.withdraw_all(&sealed(why.to_string())),
                    }
                    break;
                }
                Err(LiftFault::Whole(why)) => self.withdraw_all(&sealed(why.to_string())),
                Err(LiftFault::Parts(refused)) => self.withdraw(refused),
            }
        }
        None
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

    fn withdraw(&mut self, refused: Vec<RefusedPart>) {
        for RefusedPart { part, how, why } in refused {
            let standing = match how {
                Refused::Collision => Standing::Collision,
                Refused::Sealed => Standing::Sealed,
                Refused::Doubtful => Standing::Doubtful,
            };
            let known = self.parts.binary_search_by_key(&part, |(part, _)| *part);
            if let Ok(at) = known {
                self.parts[at]
                    .1
                    .withdraw(&Reason::Container { standing, why });
            }
        }
    }

    fn withdraw_all(&mut self, reason: &Reason) {
        for (_, planned) in &mut self.parts {
            planned.withdraw(reason);
        }
    }

    /// Proves that `bytes` are the container with these parts new and no others.
    fn prove(&self, bytes: &[u8], new: &[NewPart], budget: &Budget) -> Result<(), CopyFlaw> {
        let name = self.source.name;
        let known = kind_of(bytes, name, self.reading);
        let same = matches!(known, Kind::Container(again) if again.name() == self.container.name());
        if !same {
            return Err(CopyFlaw::OtherKind);
        }
        let mut expected = self.marks.clone();
        for part in new {
            expected[part.part] = blake3::hash(&part.content);
        }
        let mut got = Vec::with_capacity(expected.len());
        let source = Source {
            bytes,
            name,
            budget,
        };
        let read = self.container.read(source, &mut |part| {
            got.push(mark_of(&part));
            Ok(())
        });
        read.map_err(CopyFlaw::Unreadable)?;
        if !self.container.keeps_order() {
            let key = |hash: &blake3::Hash| *hash.as_bytes();
            expected.sort_by_key(key);
            got.sort_by_key(key);
        }
        if expected == got {
            Ok(())
        } else {
            Err(CopyFlaw::OtherPart)
        }
    }
}

/// What the proof of a new container found wrong.
#[derive(Debug, thiserror::Error)]
enum CopyFlaw {
    #[error("the new copy would be read as something else")]
    OtherKind,
    #[error("the new copy could not be read again: {0}")]
    Unreadable(Fault),
    #[error("in the new copy a part would be another than it should")]
    OtherPart,
}

impl ContentPlan {
    fn withdraw(&mut self, reason: &Reason) {
        let (standing, name, why) = (reason.standing(), reason.name(), reason.to_string());
        let withdraw = |reference: &mut Reference| reference.withdraw(standing, name, &why);
        self.references.change(withdraw);
        self.edits = ByteEdits::default();
        self.new = None;
        self.sites = CompactList::default();
    }
}
