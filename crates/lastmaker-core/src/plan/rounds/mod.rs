//! The planner: what becomes of a document, decided portion by portion, so that memory goes by what is kept of a
//! reference and not by what is known of it while it is planned.
//!
//! What the places of a document do to each other comes to light at the end of a round through it: names that
//! become the same, lines of which half is left, changes that the proof refuses. Then there is another round
//! that knows of it.

mod attempt;
pub(super) mod teller;

use std::collections::{HashMap, HashSet, VecDeque};

use crate::base::compact::CompactList;
use crate::base::limits::Limits;
use crate::format::Grammar;
use crate::judge::{Reason, Unproven};
use crate::layer::{ByteEdits, Edit, TextEdits, Unfit};
use crate::open::{Document, SitePassage};
use crate::record::SiteChange;
use crate::scan::{Finder, MOST_FINDS};
use crate::sheet::Decision;

use super::decide::collision::Renamed;
use super::decide::occurrence::Occurrences;
use super::decide::options::PlanOptions;
use super::decide::relative_update::merge;
use super::decide::together::HalfLines;
use super::write::expectation::Expectation;
use super::write::proof::{Flaw, LONGEST_OUTLINED, Outline};
use super::write::sift::sift;
use attempt::{Attempt, MadeCopy, Pace, occurrences_of};
use teller::{REACH, Silent, Teller};

/// How often a document is gone through before all of its changes are taken back.
const ROUNDS: usize = 24;
/// How often of several changes that a proof refuses only the first is taken back: the others may follow from it.
const CAREFUL_ROUNDS: usize = 16;

/// What becomes of a document.
#[derive(Debug, Default)]
pub(crate) struct Decided {
    /// The edits of its bytes, if they are wanted; empty if nothing changes.
    pub(in crate::plan) edits: ByteEdits,
    /// The new bytes; none if nothing changes.
    pub(in crate::plan) new: Option<Vec<u8>>,
    /// Why it is left as a whole, although references would move.
    pub(crate) left: Option<Unproven>,
    /// What changes, piece by piece, if that is wanted.
    pub(in crate::plan) changes: CompactList<SiteChange>,
}

/// Decides over every reference of a document, makes the new copy and proves it; `teller` is told of each.
pub(crate) fn decide(
    document: &Document<'_>,
    options: PlanOptions<'_>,
    teller: &mut dyn Teller,
) -> Decided {
    let mut withdrawals = Withdrawals::default();
    let mut attempts = 0;
    let left = |why| Decided {
        left: Some(why),
        ..Decided::default()
    };
    for number in 0..=ROUNDS {
        if number == ROUNDS {
            withdrawals.whole.get_or_insert(Unproven::Reference);
        }
        teller.begin();
        let mut round = match Round::through(document, options, &mut *teller, &mut withdrawals) {
            Ok(round) => round,
            Err(why) => {
                teller.begin();
                return left(why);
            }
        };
        if round.brings_to_light(&mut withdrawals) {
            continue;
        }
        let (attempt, expectation) = round.expected();
        match attempt.make(&expectation, &|_| true) {
            Ok(None) => {
                return Decided {
                    left: withdrawals.whole,
                    ..Decided::default()
                };
            }
            Ok(Some(MadeCopy {
                edits,
                new,
                changes,
            })) => {
                return Decided {
                    edits,
                    new: Some(new),
                    left: None,
                    changes,
                };
            }
            Err(Flaw::References(all)) if withdrawals.learn_of(&all, number < CAREFUL_ROUNDS) => {}
            Err(flaw) => withdrawals.look_into(flaw.into(), &attempt, &expectation, &mut attempts),
        }
    }
    teller.begin();
    left(Unproven::Reference)
}

/// A reference, by the ordinal of its passage and where it begins in the text.
type At = (usize, usize);

/// What is known of the changes from earlier rounds.
#[derive(Clone, Default)]
struct Withdrawals {
    /// Why all are taken back.
    whole: Option<Unproven>,
    /// Why those of a passage are, by its ordinal.
    passages: HashMap<usize, Unproven>,
    /// Why single ones are.
    references: HashMap<At, Unproven>,
    /// Those that are left out for a trial.
    held_back: HashSet<At>,
    /// Passages whose new names would be others' too.
    collided: HashSet<usize>,
    lines: HalfLines,
}

impl Withdrawals {
    /// Takes back what cannot be.
    fn withdraw(&self, sites: &mut [Occurrences]) {
        for Occurrences { site, all } in sites {
            for one in all {
                let at = (site.ordinal, site.in_text(one.found.start).get());
                let Some(intent) = one.changing_mut() else {
                    continue;
                };
                if self.collided.contains(&site.ordinal) {
                    intent.withdraw(Reason::Collision);
                    continue;
                }
                let passage = || self.passages.get(&site.ordinal);
                let reference = || self.references.get(&at);
                let why = self.whole.as_ref().or_else(passage).or_else(reference);
                if let Some(why) = why {
                    intent.withdraw(Reason::Unproven(why.clone()));
                }
            }
        }
    }

    /// Takes back what is left out for a trial.
    fn hold_back(&self, sites: &mut [Occurrences]) {
        if self.held_back.is_empty() {
            return;
        }
        for Occurrences { site, all } in sites {
            for one in all {
                let at = (site.ordinal, site.in_text(one.found.start).get());
                if let Some(intent) = one.changing_mut()
                    && self.held_back.contains(&at)
                {
                    intent.withdraw(Reason::HalfLine);
                }
            }
        }
    }

    /// Takes note of references that a proof refused, of the first alone where `careful`; whether any was not
    /// known.
    fn learn_of(&mut self, all: &[At], careful: bool) -> bool {
        let known = self.references.len();
        let most = if careful { 1 } else { all.len() };
        let refused = all.iter().take(most);
        self.references
            .extend(refused.map(|at| (*at, Unproven::Reference)));
        self.references.len() > known
    }

    /// Looks into a copy that did not hold, for what is to be taken back: which passages, and of those which
    /// references.
    fn look_into(
        &mut self,
        why: Unproven,
        attempt: &Attempt<'_>,
        expectation: &Expectation,
        attempts: &mut usize,
    ) {
        let all: Vec<usize> = (0..expectation.len()).collect();
        let bad = match &all[..] {
            [one] => Some(vec![(*one, why.clone())]),
            _ => sift(&all, attempts, |tried| {
                let is_kept = |number: usize| tried.binary_search(&number).is_ok();
                attempt.make_in_time(expectation, &is_kept)
            }),
        };
        let known = self.passages.len() + self.references.len();
        let bad = bad.unwrap_or_default();
        for (number, why) in &bad {
            let others = bad.iter().map(|(other, _)| *other);
            let others = others.filter(|other| other != number);
            match self.sift_passage(*number, others, attempt, expectation, attempts) {
                Some(single) => self.references.extend(single),
                None => {
                    let ordinal = expectation.passage(*number).ordinal as usize;
                    self.passages.insert(ordinal, why.clone());
                }
            }
        }
        if self.passages.len() + self.references.len() == known {
            self.whole.get_or_insert(why);
        }
    }

    /// Those references of a bad passage with which no copy holds that leaves the `others` out; none if that
    /// cannot be told.
    fn sift_passage(
        &self,
        number: usize,
        others: impl Iterator<Item = usize>,
        attempt: &Attempt<'_>,
        expectation: &Expectation,
        attempts: &mut usize,
    ) -> Option<Vec<(At, Unproven)>> {
        let ordinal = expectation.passage(number).ordinal as usize;
        let all: Vec<At> = expectation
            .changing(number)
            .map(|at| (ordinal, at))
            .collect();
        if all.len() < 2 {
            return None;
        }
        let mut trial = self.clone();
        let others = others.map(|other| expectation.passage(other).ordinal as usize);
        trial
            .passages
            .extend(others.map(|ordinal| (ordinal, Unproven::Reference)));
        let bad = sift(&all, attempts, |tried| {
            let left_out = all.iter().filter(|at| !tried.contains(at));
            trial.held_back = left_out.copied().collect();
            let (document, options) = (attempt.document, attempt.options);
            let mut nobody = Silent;
            let round = Round::through(document, options, &mut nobody, &mut trial)?;
            let (attempt, expectation) = round.expected();
            attempt.make_in_time(&expectation, &|_| true)
        })?;
        (!bad.is_empty()).then_some(bad)
    }
}

impl From<Flaw> for Unproven {
    fn from(flaw: Flaw) -> Self {
        match flaw {
            Flaw::Document(why) => why,
            Flaw::References(_) => Self::Reference,
        }
    }
}

/// Where the first place of a portion begins in the text.
fn begins(portion: &[Occurrences]) -> usize {
    let first = |one: &Occurrences| Some(one.site.in_text(one.all.first()?.found.start).get());
    portion.iter().filter_map(first).min().unwrap_or(0)
}

/// Where the last place of a portion ends in the text, at the latest.
fn ends(portion: &[Occurrences]) -> usize {
    let last = |one: &Occurrences| {
        let last = &one.all.last()?.found;
        // In running text no place goes on beyond the next.
        let end = last
            .next
            .map_or(last.hard_end, |next| next.min(last.hard_end));
        Some(one.site.in_text(end).get())
    };
    portion.iter().filter_map(last).max().unwrap_or(0)
}

/// Whether there are more places in a passage than can be looked at together.
fn is_too_much(site: &SitePassage, limits: Limits) -> bool {
    let most = if site.layers.is_empty() {
        limits.in_a_string
    } else {
        limits.as_a_whole
    };
    site.finds.len() > most || site.finds.len() >= MOST_FINDS
}

/// One way through the document.
struct Round<'a, 't> {
    document: &'a Document<'a>,
    options: PlanOptions<'a>,
    finder: Finder<'a>,
    grammar: Grammar,
    outline: Vec<Outline>,
    expectation: Expectation,
    unfit: Option<Unfit>,
    renamed: Renamed,
    /// Edits of the portions that are told next.
    edits: Vec<Edit>,
    /// Portions that wait to be told until the edits around them are known.
    waiting: VecDeque<Vec<Occurrences>>,
    teller: &'t mut dyn Teller,
}

impl<'a, 't> Round<'a, 't> {
    /// Goes through the document.
    fn through(
        document: &'a Document<'a>,
        options: PlanOptions<'a>,
        teller: &'t mut dyn Teller,
        withdrawals: &mut Withdrawals,
    ) -> Result<Self, Unproven> {
        if document.text.content.len() > LONGEST_OUTLINED {
            return Err(Unproven::TooMany);
        }
        let mut round = Self {
            document,
            options,
            finder: Finder {
                variables: &options.sheet.variables,
            },
            grammar: Grammar::Kept,
            outline: Vec::new(),
            expectation: Expectation::default(),
            unfit: None,
            renamed: Renamed::default(),
            edits: Vec::new(),
            waiting: VecDeque::new(),
            teller,
        };
        withdrawals.lines.begin_anew();
        let mut pace = Pace::new(options.limits);
        let mut open = Portion::default();
        let (mut count, mut full) = (0, false);
        let grammar = document.passages(&mut |ordinal, passage| {
            round.outline.push(Outline::of(&passage));
            if pace.is_late() || full {
                return;
            }
            let first = open.sites.len();
            document.sites_of(ordinal, &passage, round.finder, &mut open.sites);
            let mut touched = round.touched(&open.sites[first..]);
            if touched == 0 {
                if !open.sites[first..]
                    .iter()
                    .any(|site| round.teller.wants(site))
                {
                    open.sites.truncate(first);
                }
                let mender = options.mender();
                let one = mender.and_then(|mender| mender.mend(document, ordinal, &passage));
                touched = usize::from(one.is_some());
                open.mended.extend(one);
            }
            count += touched;
            let added = &open.sites[first..];
            full = count > options.limits.references
                || added.iter().any(|site| is_too_much(site, options.limits));
            let untouched = added.iter().map(|site| site.finds.len()).sum();
            open.held += touched.max(untouched);
            if open.held >= options.limits.at_once {
                round.take(std::mem::take(&mut open), withdrawals);
            }
        });
        if !full && !pace.is_late() {
            round.take(open, withdrawals);
        }
        round.grammar = grammar;
        round.outline.shrink_to_fit();
        match (pace.is_late(), full) {
            (true, _) => Err(Unproven::TooSlow),
            (_, true) => Err(Unproven::TooMany),
            _ => Ok(round),
        }
    }

    /// How many places of these passages a move touches.
    fn touched(&self, sites: &[SitePassage]) -> usize {
        let sheet = self.options.sheet;
        let of_site = |site: &SitePassage| {
            let content = self.document.content_of(site);
            let touched = |found| !matches!(sheet.decide(found, content), Decision::Elsewhere);
            site.finds.iter().filter(|found| touched(found)).count()
        };
        sites.iter().map(of_site).sum()
    }

    /// Plans some passages. Of one that wears nothing some places at a time are enough; others are
    /// planned as a whole.
    fn take(&mut self, mut open: Portion, withdrawals: &mut Withdrawals) {
        let most = self.options.limits.at_once.max(1);
        match &mut open.sites[..] {
            [] if open.mended.is_empty() => {}
            [one] if open.mended.is_empty() && one.layers.is_empty() && one.finds.len() > most => {
                let mut finds = std::mem::take(&mut one.finds).into_iter().peekable();
                while finds.peek().is_some() {
                    let some = SitePassage {
                        finds: finds.by_ref().take(most).collect(),
                        ..one.clone()
                    };
                    let some = Portion {
                        sites: vec![some],
                        ..Portion::default()
                    };
                    self.plan(some, withdrawals, true);
                }
            }
            _ => self.plan(open, withdrawals, false),
        }
    }

    /// Plans a portion, and tells those before it whose surroundings are known now. `cut` says that it is
    /// some places of a passage.
    fn plan(&mut self, portion: Portion, withdrawals: &mut Withdrawals, cut: bool) {
        let document = self.document;
        let mut sites = occurrences_of(document, portion.sites, self.options);
        self.renamed.add(document, &sites);
        withdrawals.withdraw(&mut sites);
        withdrawals.lines.note(document, &sites);
        withdrawals
            .lines
            .withdraw(document, &mut sites, self.options);
        withdrawals.lines.keep(document, &sites, cut);
        if !portion.mended.is_empty() {
            merge(portion.mended, &mut sites);
            withdrawals.withdraw(&mut sites);
        }
        withdrawals.hold_back(&mut sites);
        if let Err(why) = self.expectation.add(document, &sites) {
            self.unfit.get_or_insert(why);
        }
        self.edits.extend(self.expectation.added());
        self.waiting.push_back(sites);
        let before = |portion: &Vec<Occurrences>, start| ends(portion) + REACH < start;
        let start = self.waiting.back().map_or(0, |last| begins(last));
        while self.waiting.len() > 1 && self.waiting.front().is_some_and(|one| before(one, start)) {
            self.tell();
        }
    }

    /// Tells the portion that waits longest.
    fn tell(&mut self) {
        let Some(portion) = self.waiting.pop_front() else {
            return;
        };
        let begins = begins(&portion);
        self.edits.retain(|edit| edit.span.end + REACH >= begins);
        let edits = TextEdits::new(std::mem::take(&mut self.edits)).unwrap_or_default();
        self.teller.tell(portion, &edits);
        self.edits = edits.into_vec();
    }

    /// Ends the round; whether it brought to light what the next one must know.
    fn brings_to_light(&mut self, withdrawals: &mut Withdrawals) -> bool {
        while !self.waiting.is_empty() {
            self.tell();
        }
        if let Err(why) = self.expectation.finish(self.document) {
            self.unfit.get_or_insert(why);
        }
        let known = withdrawals.collided.len();
        withdrawals
            .collided
            .extend(self.renamed.collided(self.document));
        if withdrawals.collided.len() > known || withdrawals.lines.are_left_half() {
            return true;
        }
        if let Some(why) = self.unfit.take() {
            withdrawals.whole.get_or_insert(Unproven::Unfit(why));
            return true;
        }
        false
    }

    /// What the new copy must be, and what it is made and proved with.
    fn expected(mut self) -> (Attempt<'a>, Expectation) {
        // One that cannot be written down is found out by the proof.
        let _ = self.expectation.finish(self.document);
        let attempt = Attempt {
            document: self.document,
            options: self.options,
            finder: self.finder,
            grammar: self.grammar,
            outline: self.outline,
        };
        (attempt, self.expectation)
    }
}

/// Passages that are planned together.
#[derive(Default)]
struct Portion {
    sites: Vec<SitePassage>,
    /// Broken relative references that are written anew.
    mended: Vec<Occurrences>,
    /// How many places there are.
    held: usize,
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::open::Reading;
    use crate::plan::reference::PreviewTeller;
    use crate::report::Standing;
    use crate::sheet::Sheet;

    #[test]
    fn what_the_proof_refused_is_taken_back_and_the_rest_is_made() {
        let mut sheet = Sheet::default();
        sheet.add_move(r"D:\Herbarium=H:\Herbarium").unwrap();
        let text = r#"{"a": "D:\\Herbarium\\1", "b": "D:\\Herbarium\\2"}"#;
        let document = Document::open(text.as_bytes(), "a.json", Reading::default()).unwrap();
        let mut withdrawals = Withdrawals::default();
        let first = text.find("D:").unwrap();
        withdrawals
            .references
            .insert((1, first), Unproven::Reference);
        let mut telling = PreviewTeller::new(&document, None);
        let options = PlanOptions::of(&sheet);
        let mut round = Round::through(&document, options, &mut telling, &mut withdrawals).unwrap();
        assert!(!round.brings_to_light(&mut withdrawals));
        let (attempt, expectation) = round.expected();
        let made = attempt.make(&expectation, &|_| true).unwrap().unwrap();
        let references = telling.into_references();
        let standings: Vec<Standing> = references.iter().map(|one| one.standing).collect();
        assert_eq!(standings, [Standing::Doubtful, Standing::ToMove]);
        let new = String::from_utf8(made.new).unwrap();
        assert_eq!(
            new,
            text.replacen(r"D:\\Herbarium\\2", r"H:\\Herbarium\\2", 1)
        );
    }
}
