//! The references of one file, and how each stands.

use super::CheckOptions;
use super::relative::lost;
use super::told::CheckedReference;
use crate::answers::broken_link::broken_link;
use crate::base::compact::CompactList;
use crate::base::limits::Limits;
use crate::bridge::crossed;
use crate::container::{Part, PartContent};
use crate::job::{Job, left_in};
use crate::judge::{self, FoundIn, Reason, Resolved, Verdict};
use crate::layer::{TextEdits, TextOffset};
use crate::open::{Group, Left, LineCounter, OpenedDocument, SitePassage, Visitor};
use crate::place::{Form, Place};
use crate::plan::{Intent, Occurrence, Occurrences, PlanOptions, Teller, decide, spelled_right};
use crate::record::Rewrites;
use crate::relative::Home;
use crate::report::{FileName, LeftFile, Position, Reference, Standing, Target};
use crate::scan::{Finder, Found};
use crate::tree::{Entry, FileFault};

/// What a check finds in one file.
pub(super) struct Checked {
    pub(super) name: FileName,
    pub(super) told: CompactList<CheckedReference>,
    pub(super) left: Vec<LeftFile>,
    /// Whether it is a log, a backup, or in a recycle bin.
    pub(super) history: bool,
}

pub(super) fn check_file(
    job: &Job<'_>,
    options: &CheckOptions<'_>,
    finder: Finder<'_>,
    entry: &Entry<'_>,
) -> Result<Checked, FileFault> {
    let home = if options.relative {
        job.resolver.place_of(&entry.canonical).and_then(Home::of)
    } else {
        None
    };
    let file = File {
        job,
        rewrites: options.rewrites,
        finder,
        entry,
        name: FileName::from(entry.path),
    };
    let checker = |limits| Checker {
        file: &file,
        home: home.as_ref(),
        limits,
        told: CompactList::default(),
    };
    let (checker, left) = job.look_inside(entry, checker)?;
    let mut told = checker.told;
    if let Some((reference, place)) = broken_link(entry) {
        told.push(&CheckedReference::apart(reference, place));
    }
    told.shrink();
    Ok(Checked {
        name: file.name,
        told,
        left: left_in(entry.path, left),
        history: entry.history,
    })
}

/// One file that is checked.
struct File<'a> {
    job: &'a Job<'a>,
    rewrites: &'a Rewrites,
    finder: Finder<'a>,
    entry: &'a Entry<'a>,
    name: FileName,
}

/// Checks every document of a file.
struct Checker<'a> {
    file: &'a File<'a>,
    /// What relative references are resolved against, if they are looked at.
    home: Option<&'a Home>,
    limits: Limits,
    told: CompactList<CheckedReference>,
}

impl Visitor for Checker<'_> {
    type Made = ();
    type Mark = ();

    fn wants(&self, _: &PartContent<'_>) -> bool {
        true
    }

    fn wants_binary(&self) -> bool {
        // What no move speaks of would be noise in a file of no known kind.
        let job = self.file.job;
        job.thorough || !job.sheet.moves.is_empty()
    }

    fn document(&mut self, leaf: &OpenedDocument<'_, '_>, left: &mut Left) -> Option<()> {
        let File { job, entry, .. } = *self.file;
        let options = PlanOptions {
            limits: self.limits,
            for_record: false,
            ..PlanOptions::of_job(job, job.sheet, entry.path)
        };
        let mut checking = Checking {
            file: self.file,
            leaf,
            lines: leaf.document.lines(),
            told: CompactList::default(),
            only_judged: !leaf.known && !job.thorough,
        };
        let decided = decide(leaf.document, options, &mut checking);
        if let Some(why) = decided.left.filter(|_| checking.told.is_empty()) {
            left.add(leaf.way, &why.to_string());
        }
        self.told.append(checking.told);
        let lost = self.home.map(|home| lost(job, home, leaf, &self.file.name));
        for (reference, place) in lost.into_iter().flatten() {
            self.told.push(&CheckedReference::apart(reference, place));
        }
        None
    }

    fn mark(&self, _: &Part<'_>) {}

    fn container(&mut self, _: Group<'_, (), ()>) -> Option<()> {
        None
    }
}

/// One document while it is checked.
struct Checking<'a> {
    file: &'a File<'a>,
    leaf: &'a OpenedDocument<'a, 'a>,
    lines: LineCounter,
    /// What is told so far.
    told: CompactList<CheckedReference>,
    /// Whether what no move speaks of is passed over.
    only_judged: bool,
}

impl Teller for Checking<'_> {
    fn begin(&mut self) {
        self.told = CompactList::default();
        self.lines = self.leaf.document.lines();
    }

    fn wants(&mut self, _: &SitePassage) -> bool {
        true
    }

    fn tell(&mut self, sites: Vec<Occurrences>, _: &TextEdits) {
        let document = self.leaf.document;
        let mut in_order: Vec<(TextOffset, CheckedReference)> = Vec::new();
        for Occurrences { site, all } in sites {
            let content = document.content_of(&site);
            let now = self.file.now(&site, content, &all);
            for Occurrence { found, intent } in &all {
                let known = now.binary_search_by_key(&found.start, |now| now.start);
                let found = known.map_or(found, |at| &now[at]);
                let case = FoundIn {
                    site: &site,
                    found,
                    content,
                };
                let start = site.in_text(found.start);
                let lines = &mut self.lines;
                let at = || lines.at(&document.text.content, start);
                let told = self.file.told(case, intent.as_ref(), self.leaf, at);
                in_order.extend(told.map(|told| (start, told)));
            }
        }
        // Stretches in another syntax come after the passage that they are in.
        in_order.sort_by_key(|(start, _)| *start);
        for (_, told) in &in_order {
            if !self.only_judged || told.reference.standing != Standing::Elsewhere {
                self.told.push(told);
            }
        }
    }
}

impl File<'_> {
    /// The places that are named through a variable, by the value that it has after the moves.
    fn now(&self, site: &SitePassage, content: &str, all: &[Occurrence]) -> Vec<Found> {
        let by_variable = |one: &Occurrence| one.found.spelling.form == Form::Variable;
        if !all.iter().any(by_variable) {
            return Vec::new();
        }
        let mut now = self.finder.find(content, site.hint);
        now.retain(|found| found.spelling.form == Form::Variable);
        now
    }

    /// One reference as it is told; `intent` is what is to happen to it, if a move touches it, and `at` says where
    /// it begins.
    fn told(
        &self,
        case: FoundIn<'_>,
        intent: Option<&Intent>,
        leaf: &OpenedDocument<'_, '_>,
        at: impl FnOnce() -> Position,
    ) -> Option<CheckedReference> {
        let sheet = self.job.sheet;
        if case.found.doubt.is_some() && sheet.moves.is_empty() {
            return None;
        }
        let named = self.job.looking().named(case);
        let resolved = named.or_else(|| self.meant(intent?))?;
        let by = self.by(&resolved.place, resolved.target);
        let verdict = self.verdict(case, intent, leaf, &resolved, by.as_ref())?;
        let others = self.job.looking().other_readings(case, &resolved);
        let Resolved { end, place, target } = resolved;
        let written = &case.content[case.found.start..end];
        let suggestions = match verdict.reason {
            Some(Reason::Undoubled) => {
                spelled_right(case, written, sheet.relocated(&place).as_ref())
            }
            _ => Vec::new(),
        };
        let at = at();
        let old = verdict.standing != Standing::Moved;
        let may_be_bridged = old && target == Target::Live && !sheet.moves.is_empty();
        let bridge = if may_be_bridged {
            crossed(self.job, &place)
        } else {
            None
        };
        let new = by.as_ref().filter(|_| old);
        Some(CheckedReference {
            reference: Reference {
                site: leaf.site(&case.site.site, at),
                position: leaf.position(at),
                target: Some(target),
                new_place: new.map(|(_, new, _)| new.to_string()),
                new_target: new.map(|(_, _, target)| *target),
                bridge: bridge.map(|place| place.to_string()),
                broke: leaf.document.broke,
                reason: verdict.reason.as_ref().map(Reason::name),
                why: verdict.reason.map(|reason| reason.to_string()),
                suggestions,
                ..Reference::new(
                    self.name.clone(),
                    written,
                    place.to_string(),
                    verdict.standing,
                    leaf.format,
                )
            },
            place,
            others,
            of_sheet: true,
            by,
        })
    }

    /// How a reference stands: before a rewrite as a preview says, after it as it names its place now.
    fn verdict(
        &self,
        case: FoundIn<'_>,
        intent: Option<&Intent>,
        leaf: &OpenedDocument<'_, '_>,
        resolved: &Resolved,
        by: Option<&(usize, Place, Target)>,
    ) -> Option<Verdict> {
        let sheet = self.job.sheet;
        let Resolved { end, place, .. } = resolved;
        let sealed = leaf.document.sealed();
        let after = judge::after_rewrite(case, *end, place.clone(), sheet, sealed);
        let mut verdict = after.or_else(|| intent.map(|intent| intent.verdict.clone()))?;
        if let Some(intent) = intent.filter(|_| verdict.standing != Standing::Moved) {
            let was = |by: usize| {
                self.rewrites
                    .reached(&self.entry.canonical, &sheet.moves[by])
            };
            let rewritten = by.is_some_and(|(by, ..)| was(*by));
            let before = &intent.verdict;
            if before.standing != Standing::ToMove || !rewritten {
                verdict.standing = before.standing;
                verdict.reason.clone_from(&before.reason);
            }
        }
        Some(verdict)
    }

    /// What a reference names as a plan reads it.
    fn meant(&self, intent: &Intent) -> Option<Resolved> {
        let place = intent.verdict.place.clone();
        Some(Resolved {
            end: intent.verdict.end,
            target: self.job.resolver.target(&place),
            place,
        })
    }

    /// The move that a place goes by or went by, and where that leads.
    fn by(&self, place: &Place, target: Target) -> Option<(usize, Place, Target)> {
        let sheet = self.job.sheet;
        if let Some((by, new)) = sheet.moved_by(place) {
            let target = self.job.resolver.target(&new);
            return Some((by, new, target));
        }
        Some((sheet.arrived_by(place)?, place.clone(), target))
    }
}
