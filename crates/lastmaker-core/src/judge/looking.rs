//! What can be told of a reference with a look at the disk. It ranks readings for questions; it
//! never changes an edit.

use super::Case;
use super::named::{is_plausible, plain_end};
use crate::format::Role;
use crate::place::{Found, Place, Root, readings};
use crate::report::Target;
use crate::resolve::Resolver;
use crate::sheet::Sheet;

/// What looking rests on: the sheet, and what exists.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Looking<'a> {
    /// What moved.
    pub(crate) sheet: &'a Sheet,
    /// Answers whether places exist.
    pub(crate) resolver: &'a Resolver,
}

/// One reading of a found place.
#[derive(Clone, Debug)]
pub(crate) struct Resolved {
    /// Offset in the content at which the place ends.
    pub(crate) end: usize,
    /// The place.
    pub(crate) place: Place,
    /// Whether it exists.
    pub(crate) target: Target,
}

impl Looking<'_> {
    /// The first of the readings of a found place that exists, else the likeliest.
    pub(crate) fn resolve(&self, found: &Found, content: &str) -> Resolved {
        let meant = self.meant(found, content);
        let found = meant.as_ref().unwrap_or(found);
        let mut likeliest = None;
        for end in readings(found, content) {
            let reading = self.reading(found, content, end);
            if reading.target == Target::Live {
                return reading;
            }
            let known = likeliest.get_or_insert(reading);
            if known.target == Target::Unreachable {
                break;
            }
        }
        likeliest.unwrap_or_else(|| self.reading(found, content, found.hard_end))
    }

    fn reading(&self, found: &Found, content: &str, end: usize) -> Resolved {
        let place = found.place_until(content, end);
        let target = self.resolver.target(&place);
        Resolved { end, place, target }
    }

    /// What a find names if the sheet speaks of that, and not of what it seems to name.
    fn meant(&self, found: &Found, content: &str) -> Option<Found> {
        let alias = found.alias(content)?.found;
        let spoken_of = |found: &Found| {
            self.speaks_of(&found.place_until(content, readings(found, content)[0]))
        };
        (!spoken_of(found) && spoken_of(&alias)).then_some(alias)
    }

    fn speaks_of(&self, place: &Place) -> bool {
        self.sheet.is_old_place(place) || self.sheet.is_new_place(place)
    }

    /// The place that a find names, rather than something that looks like one; what the sheet
    /// speaks of always counts.
    pub(crate) fn named(&self, case: Case<'_>) -> Option<Resolved> {
        let Case {
            site,
            found,
            content,
        } = case;
        let resolved = self.resolve(found, content);
        if self.speaks_of(&resolved.place) {
            return Some(resolved);
        }
        if found.doubt.is_some() || site.role == Role::Stray {
            return None;
        }
        let resolved = match resolved.target {
            Target::Live => resolved,
            _ => match plain_end(found, content, resolved.end)? {
                end if end < resolved.end => self.reading(found, content, end),
                _ => resolved,
            },
        };
        let first = resolved.place.components.first();
        let known = found.root != Root::Posix || first.is_some_and(|first| self.is_usual(first));
        (known && is_plausible(found, content, &resolved.place)).then_some(resolved)
    }

    fn is_usual(&self, first: &str) -> bool {
        const USUAL: [&str; 19] = [
            "bin", "boot", "dev", "etc", "home", "lib", "media", "mnt", "opt", "private", "root",
            "run", "sbin", "srv", "tmp", "usr", "var", "Users", "Volumes",
        ];
        let top = Place {
            root: Root::Posix,
            components: vec![first.to_owned()],
        };
        USUAL.contains(&first) || self.resolver.target(&top) == Target::Live
    }
}
