//! The references of one file, and how each stands.

use super::CheckOptions;
use super::relative::lost;
use crate::answers::broken_link::broken_link;
use crate::bridge::crossed;
use crate::job::{Job, left_in};
use crate::judge::{self, Allowance, Case, Reason, Resolved};
use crate::open::{EachLeaf, Leaf, LineCounter};
use crate::place::{Finder, Place};
use crate::plan::{spelled_right, stands_before};
use crate::record::Rewrites;
use crate::relative::Home;
use crate::report::{FileName, LeftFile, Position, Reference, Standing, Target};
use crate::tree::{Entry, FileFault};

/// What a check finds in one file.
pub(super) struct Checked {
    pub(super) told: Vec<Told>,
    pub(super) left: Vec<LeftFile>,
    /// Whether it is a log, a backup, or in a recycle bin.
    pub(super) history: bool,
}

/// A reference, judged or not.
pub(super) struct Told {
    pub(super) reference: Reference,
    pub(super) place: Place,
    /// Whether the sheet says if it is judged.
    pub(super) of_sheet: bool,
    /// The move that it goes by or went by, its new place, and whether that exists.
    pub(super) by: Option<(usize, Place, Target)>,
}

impl Told {
    /// A reference of which no move can speak, so that it is judged whatever the sheet says.
    fn apart(reference: Reference, place: Place) -> Self {
        Self {
            reference,
            place,
            of_sheet: false,
            by: None,
        }
    }
}

pub(super) fn check_file(
    job: &Job<'_>,
    options: &CheckOptions<'_>,
    finder: Finder<'_>,
    entry: &Entry<'_>,
) -> Result<Checked, FileFault> {
    let home = match options.relative {
        true => job.resolver.place_of(&entry.canonical).and_then(Home::of),
        false => None,
    };
    let file = File {
        job,
        rewrites: options.rewrites,
        finder,
        entry,
        name: FileName::from(entry.path),
    };
    let mut told = Vec::new();
    let mut visitor = EachLeaf {
        sieve: None,
        // What no move speaks of would be noise in a file of no known kind.
        binary: job.thorough || !job.sheet.moves.is_empty(),
        each: |leaf: &Leaf<'_, '_>| {
            let unknown = !leaf.known && !job.thorough;
            let of_leaf = file.references_in(leaf).into_iter();
            told.extend(
                of_leaf.filter(|one| !unknown || one.reference.standing != Standing::Elsewhere),
            );
            let lost = home
                .iter()
                .flat_map(|home| lost(job, home, leaf, &file.name));
            told.extend(lost.map(|(reference, place)| Told::apart(reference, place)));
        },
    };
    let left = job.look_inside(entry, &mut visitor)?;
    told.extend(broken_link(entry).and_then(|reference| {
        let place = Place::parse(&reference.place).ok()?;
        Some(Told::apart(reference, place))
    }));
    Ok(Checked {
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

impl File<'_> {
    /// Every reference of a document.
    fn references_in(&self, leaf: &Leaf<'_, '_>) -> Vec<Told> {
        let document = leaf.document;
        let looking = self.job.looking();
        let mut lines = LineCounter::default();
        let mut all = Vec::new();
        document.each_site(self.finder, |site| {
            let content = document.content_of(site);
            for found in &site.finds {
                if found.doubt.is_some() && self.job.sheet.moves.is_empty() {
                    continue;
                }
                let case = Case {
                    site,
                    found,
                    content,
                };
                let Some(resolved) = looking.named(case) else {
                    continue;
                };
                let at = |lines: &mut LineCounter| {
                    lines.at(&document.text.content, site.in_text(found.start))
                };
                all.extend(self.told(case, resolved, leaf, || at(&mut lines)));
            }
        });
        all
    }

    /// One reference as it is told; `at` says where it begins.
    fn told(
        &self,
        case: Case<'_>,
        resolved: Resolved,
        leaf: &Leaf<'_, '_>,
        at: impl FnOnce() -> Position,
    ) -> Option<Told> {
        let sheet = self.job.sheet;
        let Resolved { end, place, target } = resolved;
        let sealed = leaf.document.sealed();
        let mut verdict = judge::after_rewrite(case, end, place.clone(), sheet, sealed)?;
        let by = self.by(&place, target);
        if verdict.standing == Standing::Leftover {
            // Before a rewrite it stands as a preview says.
            let allowance = Allowance::of(leaf.document);
            let was = |by: usize| {
                self.rewrites
                    .reached(&self.entry.canonical, &sheet.moves[by])
            };
            let rewritten = by.as_ref().is_some_and(|(by, ..)| was(*by));
            if let Some((standing, reason)) = stands_before(case, sheet, allowance)
                && (standing != Standing::ToMove || !rewritten)
            {
                verdict.standing = standing;
                verdict.reason = reason;
            }
        }
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
        let bridge = match may_be_bridged {
            true => crossed(self.job, &place),
            false => None,
        };
        let new = by.as_ref().filter(|_| old);
        Some(Told {
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
            of_sheet: true,
            by,
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
