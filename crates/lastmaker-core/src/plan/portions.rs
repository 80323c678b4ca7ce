//! A document with very many references, planned portion by portion, so that memory goes by what is
//! kept of a reference and not by what is known of it while it is planned.
//!
//! What portions do to each other comes to light at the end of a round through the document: names that
//! become the same, lines of which half is left, changes that the proof refuses. Then there is another
//! round that knows of it.

use std::collections::{HashMap, HashSet, VecDeque};

use crate::format::Grammar;
use crate::judge::{Reason, Unproven};
use crate::layer::{Edit, TextEdits, Unfit};
use crate::limits::Limits;
use crate::open::{Document, SitePassage};
use crate::packed::Packed;
use crate::place::{Finder, MOST_FINDS};
use crate::report::Reference;
use crate::sheet::Decision;

use super::attempt::{Attempt, DocumentPlan, MadeCopy, Pace, intents_of};
use super::collision::Renamed;
use super::intent::Intent;
use super::mend::{Mended, merge};
use super::options::PlanOptions;
use super::promise::Promise;
use super::proof::{Flaw, LONGEST_OUTLINED, Outline};
use super::reference::{REACH, Telling};
use super::sift::{MOST_ATTEMPTS, sift};
use super::together::HalfLines;

/// How often a document is gone through before all of its changes are taken back.
const ROUNDS: usize = 12;

/// Plans the rewrite of a document with very many references.
pub(super) fn plan_in_portions(
    document: &Document<'_>,
    file_name: &str,
    options: PlanOptions<'_>,
) -> DocumentPlan {
    let mut fates = Fates::default();
    let mut attempts = 0;
    for number in 0.. {
        if number >= ROUNDS {
            fates.whole.get_or_insert(Unproven::Reference);
        }
        let round = match Round::through(document, file_name, options, &mut fates) {
            Ok(round) => round,
            Err(why) => return DocumentPlan::left(why),
        };
        match round.settle(&mut fates, &mut attempts) {
            Some(plan) => return plan,
            None if number > ROUNDS => break,
            None => {}
        }
    }
    DocumentPlan::left(Unproven::Reference)
}

impl DocumentPlan {
    /// A document of which nothing is told but why.
    fn left(why: Unproven) -> Self {
        Self {
            references: Packed::default(),
            edits: Default::default(),
            new: None,
            left: Some(why),
            sites: Packed::default(),
        }
    }
}

/// What is known of the changes from earlier rounds.
#[derive(Default)]
struct Fates {
    /// Why all are taken back.
    whole: Option<Unproven>,
    /// Why those of a passage are, by its ordinal.
    passages: HashMap<usize, Unproven>,
    /// Those that the proof refused, by the ordinal of their passage and where they begin.
    references: HashSet<(usize, usize)>,
    /// Passages whose new names would be others' too.
    collided: HashSet<usize>,
    lines: HalfLines,
}

impl Fates {
    /// Takes back what cannot be.
    fn withdraw(&self, sites: &[SitePassage], intents: &mut [Vec<Option<Intent>>]) {
        for (site, of_site) in sites.iter().zip(intents) {
            for (found, intent) in site.finds.iter().zip(of_site) {
                let Some(intent) = intent.as_mut().filter(|intent| intent.changes()) else {
                    continue;
                };
                let at = site.in_text(found.start).get();
                if self.collided.contains(&site.ordinal) {
                    intent.withdraw(Reason::Collision);
                } else if let Some(why) = &self.whole {
                    intent.withdraw(Reason::Unproven(why.clone()));
                } else if let Some(why) = self.passages.get(&site.ordinal) {
                    intent.withdraw(Reason::Unproven(why.clone()));
                } else if self.references.contains(&(site.ordinal, at)) {
                    intent.withdraw(Reason::Unproven(Unproven::Reference));
                }
            }
        }
    }
}

/// Some passages and what is meant to happen to the places in them.
type Portion = (Vec<SitePassage>, Vec<Vec<Option<Intent>>>);

/// Where the first place of a portion begins in the text.
fn begins((sites, _): &Portion) -> usize {
    let first = |site: &SitePassage| Some(site.in_text(site.finds.first()?.start).get());
    sites.iter().filter_map(first).min().unwrap_or(0)
}

/// Where the last place of a portion ends in the text, at the latest.
fn ends((sites, _): &Portion) -> usize {
    let last = |site: &SitePassage| {
        let last = site.finds.last()?;
        // In running text no place goes on beyond the next.
        let end = last
            .next
            .map_or(last.hard_end, |next| next.min(last.hard_end));
        Some(site.in_text(end).get())
    };
    sites.iter().filter_map(last).max().unwrap_or(0)
}

/// Whether there are more places in a passage than can be looked at together.
fn is_too_much(site: &SitePassage, limits: Limits) -> bool {
    let most = match site.layers.is_empty() {
        true => limits.in_a_string,
        false => limits.as_a_whole,
    };
    site.finds.len() > most || site.finds.len() >= MOST_FINDS
}

/// One way through the document.
struct Round<'a> {
    document: &'a Document<'a>,
    file_name: &'a str,
    options: PlanOptions<'a>,
    finder: Finder<'a>,
    grammar: Grammar,
    outline: Vec<Outline>,
    promise: Promise,
    unfit: Option<Unfit>,
    renamed: Renamed,
    /// Edits of the portions that are told next.
    edits: Vec<Edit>,
    /// Portions that wait to be told until the edits around them are known.
    waiting: VecDeque<Portion>,
    telling: Telling<'a>,
    references: Packed<Reference>,
}

impl<'a> Round<'a> {
    /// Goes through the document.
    fn through(
        document: &'a Document<'a>,
        file_name: &'a str,
        options: PlanOptions<'a>,
        fates: &mut Fates,
    ) -> Result<Self, Unproven> {
        if document.text.content.len() > LONGEST_OUTLINED {
            return Err(Unproven::TooMany);
        }
        let finder = Finder {
            variables: &options.sheet.variables,
        };
        let mut round = Self {
            document,
            file_name,
            options,
            finder,
            grammar: Grammar::Kept,
            outline: Vec::new(),
            promise: Promise::default(),
            unfit: None,
            renamed: Renamed::default(),
            edits: Vec::new(),
            waiting: VecDeque::new(),
            telling: Telling::new(document, options.resolver),
            references: Packed::default(),
        };
        fates.lines.begin_anew();
        let mut pace = Pace::new(options.limits);
        let mender = options.mender();
        let (mut sites, mut mended) = (Vec::new(), Vec::new());
        let (mut held, mut count, mut full) = (0, 0, false);
        let sheet = options.sheet;
        let grammar = document.passages(&mut |ordinal, passage| {
            round.outline.push(Outline::of(&passage));
            if pace.is_late() || full {
                return;
            }
            let first = sites.len();
            document.sites_of(ordinal, &passage, finder, &mut sites);
            let wanted = |site: &SitePassage| {
                let content = document.content_of(site);
                let touched = |found| !matches!(sheet.decide(found, content), Decision::Elsewhere);
                site.finds.iter().filter(|found| touched(found)).count()
            };
            let mut touched: usize = sites[first..].iter().map(wanted).sum();
            if touched == 0 {
                sites.truncate(first);
                let one = mender
                    .as_ref()
                    .and_then(|mender| mender.mend(document, ordinal, &passage));
                touched = usize::from(one.is_some());
                mended.extend(one);
            }
            count += touched;
            full = count > options.limits.references
                || sites[first..]
                    .iter()
                    .any(|site| is_too_much(site, options.limits));
            held += touched;
            if held >= options.limits.at_once {
                held = 0;
                let portion = (std::mem::take(&mut sites), std::mem::take(&mut mended));
                round.take(portion, fates);
            }
        });
        round.take((sites, mended), fates);
        round.grammar = grammar;
        round.outline.shrink_to_fit();
        match (pace.is_late(), full) {
            (true, _) => Err(Unproven::TooSlow),
            (_, true) => Err(Unproven::TooMany),
            _ => Ok(round),
        }
    }

    /// Plans some passages. Of one that wears nothing some places at a time are enough; others are
    /// planned as a whole.
    fn take(&mut self, (mut sites, mended): (Vec<SitePassage>, Vec<Mended>), fates: &mut Fates) {
        let most = self.options.limits.at_once.max(1);
        match &mut sites[..] {
            [] if mended.is_empty() => {}
            [one] if mended.is_empty() && one.layers.is_empty() && one.finds.len() > most => {
                let mut finds = std::mem::take(&mut one.finds).into_iter().peekable();
                while finds.peek().is_some() {
                    let some = SitePassage {
                        finds: finds.by_ref().take(most).collect(),
                        ..one.clone()
                    };
                    self.plan((vec![some], Vec::new()), fates, true);
                }
            }
            _ => self.plan((sites, mended), fates, false),
        }
    }

    /// Plans a portion, and tells those before it whose surroundings are known now. `cut` says that it is
    /// some places of a passage.
    fn plan(
        &mut self,
        (mut sites, mended): (Vec<SitePassage>, Vec<Mended>),
        fates: &mut Fates,
        cut: bool,
    ) {
        let document = self.document;
        let mut intents = intents_of(document, &sites, self.options);
        self.renamed.add(document, &sites, &intents);
        fates.withdraw(&sites, &mut intents);
        fates.lines.note(document, &sites, &intents);
        fates
            .lines
            .withdraw(document, &sites, &mut intents, self.options);
        fates.lines.keep(document, &sites, &intents, cut);
        if !mended.is_empty() {
            merge(mended, &mut sites, &mut intents);
            fates.withdraw(&sites, &mut intents);
        }
        if let Err(why) = self.promise.add(document, &sites, &intents) {
            self.unfit.get_or_insert(why);
        }
        self.edits.extend(self.promise.added());
        self.waiting.push_back((sites, intents));
        let begins = self.waiting.back().map_or(0, begins);
        while self.waiting.len() > 1 && self.waiting.front().map_or(0, ends) + REACH < begins {
            self.tell();
        }
    }

    /// Tells the portion that waits longest.
    fn tell(&mut self) {
        let Some((sites, intents)) = self.waiting.pop_front() else {
            return;
        };
        let portion = (sites, intents);
        let begins = begins(&portion);
        let (sites, intents) = portion;
        self.edits.retain(|edit| edit.span.end + REACH >= begins);
        let edits = TextEdits::new(std::mem::take(&mut self.edits)).unwrap_or_default();
        self.telling
            .tell(&sites, intents, &edits, &mut self.references);
        self.edits = edits.into_vec();
    }

    /// The plan that comes of the round; none if something came to light.
    fn settle(mut self, fates: &mut Fates, attempts: &mut usize) -> Option<DocumentPlan> {
        while !self.waiting.is_empty() {
            self.tell();
        }
        if let Err(why) = self.promise.finish(self.document) {
            self.unfit.get_or_insert(why);
        }
        let collided = self.renamed.collided(self.document);
        let known = fates.collided.len();
        fates.collided.extend(collided);
        if fates.collided.len() > known || fates.lines.are_left_half() {
            return None;
        }
        if let Some(why) = self.unfit {
            fates.whole.get_or_insert(Unproven::Unfit(why));
            return None;
        }
        let attempt = Attempt {
            document: self.document,
            options: self.options,
            file_name: self.file_name,
            finder: self.finder,
            grammar: self.grammar,
            outline: self.outline,
        };
        let made = match attempt.make(&self.promise, &|_| true) {
            Ok(made) => made,
            Err(flaw) => {
                fates.learn(flaw, &attempt, &self.promise, attempts);
                return None;
            }
        };
        let (edits, new, sites) = match made {
            Some(MadeCopy {
                edits,
                new,
                changes,
                ..
            }) => (edits, Some(new), changes),
            None => Default::default(),
        };
        Some(DocumentPlan {
            references: self.references,
            edits,
            new,
            left: None,
            sites,
        })
    }
}

impl Fates {
    /// Learns from a copy that did not hold what is to be taken back.
    fn learn(
        &mut self,
        flaw: Flaw,
        attempt: &Attempt<'_>,
        promise: &Promise,
        attempts: &mut usize,
    ) {
        let why = match flaw {
            Flaw::References(all) => {
                let known = self.references.len();
                self.references.extend(all);
                if self.references.len() > known {
                    return;
                }
                Unproven::Reference
            }
            Flaw::Document(why) => why,
        };
        let all: Vec<usize> = (0..promise.len()).collect();
        let bad = match all.len() > 1 && *attempts < MOST_ATTEMPTS {
            true => sift(&all, attempts, |tried| {
                if attempt.options.limits.is_late() {
                    return Err(Unproven::TooSlow.into());
                }
                let is_kept = |number: usize| tried.binary_search(&number).is_ok();
                attempt.make(promise, &is_kept).map(drop)
            }),
            false => None,
        };
        let known = self.passages.len();
        for (number, why) in bad.into_iter().flatten() {
            self.passages
                .insert(promise.passage(number).ordinal as usize, why);
        }
        if self.passages.len() == known {
            self.whole.get_or_insert(why);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::open::Reading;
    use crate::report::Standing;
    use crate::sheet::Sheet;

    #[test]
    fn what_the_proof_refused_is_taken_back_and_the_rest_is_made() {
        let mut sheet = Sheet::default();
        sheet.add_move(r"D:\Herbarium=H:\Herbarium").unwrap();
        let text = r#"{"a": "D:\\Herbarium\\1", "b": "D:\\Herbarium\\2"}"#;
        let document = Document::open(text.as_bytes(), "a.json", Reading::default()).unwrap();
        let mut fates = Fates::default();
        let first = text.find("D:").unwrap();
        fates.references.insert((1, first));
        let options = PlanOptions::of(&sheet);
        let round = Round::through(&document, "a.json", options, &mut fates).unwrap();
        let plan = round.settle(&mut fates, &mut 0).unwrap();
        let standings: Vec<Standing> = plan.references.iter().map(|one| one.standing).collect();
        assert_eq!(standings, [Standing::Doubtful, Standing::ToMove]);
        let new = String::from_utf8(plan.new.unwrap()).unwrap();
        assert_eq!(
            new,
            text.replacen(r"D:\\Herbarium\\2", r"H:\\Herbarium\\2", 1)
        );
    }
}
