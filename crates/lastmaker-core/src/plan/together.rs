//! References that stand or fall together: the words of a command, the columns of a row. A line of
//! which only half names the new place is worse than one that is left.

use std::collections::HashSet;

use crate::format::open_bracket;
use crate::judge::Reason;
use crate::open::{Document, LineCounter, SitePassage};
use crate::place::{Found, Hint, Key, Stands};
use crate::report::Standing;

use super::accept::{is_accepted, position};
use super::intent::Intent;
use super::options::PlanOptions;

/// What stands or falls together.
#[derive(Clone, PartialEq, Eq, Hash)]
enum Group {
    /// A line of the document, by where it begins.
    Line(usize),
    /// A line of one passage.
    LineOf(usize, usize),
    /// The items of a list, by the way to it and where it begins.
    List(String, usize),
}

/// Takes back the changes of each line in which another reference is left for a doubt, unless that is
/// accepted.
pub(super) fn withdraw_half_lines(
    document: &Document<'_>,
    sites: &[SitePassage],
    intents: &mut [Vec<Option<Intent>>],
    options: PlanOptions<'_>,
) {
    let mut left: HashSet<Group> = HashSet::new();
    let mut changing = false;
    for (site, of_site) in sites.iter().zip(&*intents) {
        for (found, intent) in pairs(site, of_site) {
            changing |= intent.changes();
            let standing = intent.verdict.standing;
            let group = group_of(document, site, found);
            let doubtful = matches!(standing, Standing::Doubtful | Standing::Malformed);
            if doubtful && (!is_list(&group) || is_argument(site, found)) {
                left.extend(group);
            }
        }
    }
    if left.is_empty() || !changing {
        return;
    }
    let mut lines = LineCounter::default();
    for (site, of_site) in sites.iter().zip(intents) {
        for (found, intent) in site.finds.iter().zip(of_site) {
            let Some(intent) = intent.as_mut().filter(|intent| intent.changes()) else {
                continue;
            };
            if !group_of(document, site, found).is_some_and(|group| left.contains(&group)) {
                continue;
            }
            let position = position(document, &mut lines, site, found);
            if !intent.accepted && !is_accepted(options, &Reason::HalfLine, position) {
                intent.withdraw(Reason::HalfLine);
            }
        }
    }
}

fn pairs<'a>(
    site: &'a SitePassage,
    of_site: &'a [Option<Intent>],
) -> impl Iterator<Item = (&'a Found, &'a Intent)> {
    let finds = site.finds.iter().zip(of_site);
    finds.filter_map(|(found, intent)| Some((found, intent.as_ref()?)))
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
            Some((list, _)) => Group::List(list.to_owned(), 0),
            None => {
                let text = &document.text.content;
                let open = open_bracket(text, site.span.start().get());
                Group::List(site.site.clone(), open.unwrap_or(0))
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
