//! References that stand or fall together: the words of a command, the columns of a row. A line of
//! which only half names the new place is worse than one that is left.

use std::collections::HashSet;

use crate::base::fingerprint::fingerprint;
use crate::format::open_bracket;
use crate::judge::Reason;
use crate::open::{Document, SitePassage};
use crate::report::Standing;
use crate::scan::{Found, Hint, Key, Stands};

use super::accept::{is_accepted, position};
use super::intent::Intent;
use super::occurrence::{Occurrence, Occurrences};
use super::options::PlanOptions;

/// What stands or falls together.
#[derive(Clone, PartialEq, Eq, Hash)]
enum Group {
    /// A line of the document, by where it begins.
    Line(usize),
    /// A line of one passage.
    LineOf(usize, usize),
    /// The items of a list, by the fingerprint of the way to it and where it begins.
    List(u64, usize),
}

/// The lines and lists in which a reference is left for a doubt.
#[derive(Clone, Default)]
pub(in crate::plan) struct HalfLines {
    left: HashSet<Group>,
    /// Those in which something changes all the same, as far as they were gone through.
    changing: HashSet<Group>,
}

impl HalfLines {
    /// Takes note of what is left for a doubt.
    pub(in crate::plan) fn note(&mut self, document: &Document<'_>, sites: &[Occurrences]) {
        for Occurrences { site, all } in sites {
            for (found, intent) in touched(all) {
                let standing = intent.verdict.standing;
                if !matches!(standing, Standing::Doubtful | Standing::Malformed) {
                    continue;
                }
                let group = group_of(document, site, found);
                if !is_list(&group) || is_argument(site, found) {
                    self.left.extend(group);
                }
            }
        }
    }

    /// Takes back the changes of what was noted.
    pub(in crate::plan) fn withdraw(
        &self,
        document: &Document<'_>,
        sites: &mut [Occurrences],
        options: PlanOptions<'_>,
    ) {
        if self.left.is_empty() {
            return;
        }
        let mut lines = document.lines();
        for Occurrences { site, all } in sites {
            for Occurrence { found, intent } in all {
                let Some(intent) = intent.as_mut().filter(|intent| intent.changes()) else {
                    continue;
                };
                let group = group_of(document, site, found);
                if !group.is_some_and(|group| self.left.contains(&group)) {
                    continue;
                }
                let position = position(document, &mut lines, site, found);
                if !intent.accepted && !is_accepted(options, &Reason::HalfLine, position) {
                    intent.withdraw(Reason::HalfLine);
                }
            }
        }
    }

    /// Takes note of what changes although it may turn out that the line does not, in passages to come
    /// or, where this one is `cut`, in the rest of it.
    pub(in crate::plan) fn keep(
        &mut self,
        document: &Document<'_>,
        sites: &[Occurrences],
        cut: bool,
    ) {
        for Occurrences { site, all } in sites {
            let changing = touched(all).filter(|(_, intent)| intent.changes());
            for (found, _) in changing.filter(|(_, intent)| !intent.accepted) {
                let group = group_of(document, site, found);
                let beyond = group.filter(|group| cut || !matches!(group, Group::LineOf(..)));
                self.changing.extend(beyond);
            }
        }
    }

    /// Whether something changes in what was noted later.
    pub(in crate::plan) fn are_left_half(&self) -> bool {
        self.changing.iter().any(|group| self.left.contains(group))
    }

    /// Forgets what changes, to go through the document again.
    pub(in crate::plan) fn begin_anew(&mut self) {
        self.changing.clear();
    }
}

fn touched(all: &[Occurrence]) -> impl Iterator<Item = (&Found, &Intent)> {
    all.iter()
        .filter_map(|one| Some((&one.found, one.intent.as_ref()?)))
}

fn is_list(group: &Option<Group>) -> bool {
    matches!(group, Some(Group::List(..)))
}

/// Whether an item shows that its list is one of arguments, of which half would be half a command: it
/// is an option, or the list's key says so. Other lists hold things by themselves.
fn is_argument(site: &SitePassage, found: &Found) -> bool {
    found.stands == Stands::Bare || Key::of(&site.site).command
}

/// What a place stands or falls with; none if it is by itself.
fn group_of(document: &Document<'_>, site: &SitePassage, found: &Found) -> Option<Group> {
    if site.hint == Hint::Prose {
        return None;
    }
    if document.format.lines_belong_together() {
        let text = &document.text.content;
        return Some(Group::Line(line_start(
            text,
            site.in_text(found.start).get(),
        )));
    }
    if site.hint == Hint::Word {
        return Some(match site.site.rsplit_once('[') {
            Some((list, _)) => Group::List(fingerprint(list.as_bytes()), 0),
            None => {
                let text = &document.text.content;
                let open = open_bracket(text, site.span.start().get());
                Group::List(fingerprint(site.site.as_bytes()), open.unwrap_or(0))
            }
        });
    }
    if found.stands == Stands::Alone(None) {
        return None;
    }
    let content = document.content_of(site);
    Some(Group::LineOf(
        site.ordinal,
        line_start(content, found.start),
    ))
}

/// Where the line begins that `at` is in; a backslash or a caret at its end joins it with the next.
fn line_start(text: &str, at: usize) -> usize {
    let mut start = at;
    loop {
        start = memchr::memrchr(b'\n', &text.as_bytes()[..start]).map_or(0, |end| end + 1);
        let before = text[..start].trim_end_matches(['\n', '\r']);
        let joined = before.ends_with(['\\', '^', '`']) && before.len() + 2 >= start;
        if start == 0 || !joined {
            return start;
        }
        start = before.len();
    }
}
