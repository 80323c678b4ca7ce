//! What can be told of a reference with a look at the disk. It ranks readings for questions; it
//! never changes an edit.

use super::FoundIn;
use super::named::{is_plausible, option_end, plain_end, value_end};
use crate::format::{Namespace, Role};
use crate::place::{Place, Root};
use crate::report::Target;
use crate::resolve::Resolver;
use crate::scan::{Found, Hint, readings};
use crate::sheet::Sheet;

/// What looking rests on: the sheet, and what exists.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Looking<'a> {
    /// What moved.
    pub(crate) sheet: &'a Sheet,
    /// Answers whether places exist.
    pub(crate) resolver: &'a Resolver,
}

/// Whether a reading that ends at `to` goes on with a separator behind one that ends at `from`.
fn goes_on(found: &Found, content: &str, from: usize, to: usize) -> bool {
    let windows = found.root.is_windows();
    let separators = |c: char| c == '/' || (c == '\\' && windows);
    content
        .get(from..to)
        .is_some_and(|more| more.contains(separators))
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
    /// The first of the readings of a found place that exists, else the likeliest. Where the text
    /// goes on with a separator behind what exists, that is not what is meant.
    pub(crate) fn resolve(&self, found: &Found, content: &str) -> Resolved {
        let meant = self.meant(found, content);
        let found = meant.as_ref().unwrap_or(found);
        let ends = readings(found, content);
        let likeliest = self.reading(found, content, ends[0]);
        if likeliest.target == Target::Unreachable || ends.len() == 1 {
            return likeliest;
        }
        let mut live: Option<Resolved> = None;
        let others = ends[1..]
            .iter()
            .map(|end| self.reading(found, content, *end));
        for reading in std::iter::once(likeliest.clone()).chain(others) {
            let is_better = match &live {
                None => true,
                Some(known) => goes_on(found, content, known.end, reading.end),
            };
            if is_better && reading.target == Target::Live {
                live = Some(reading);
            }
        }
        match live {
            Some(live) if !self.is_cut_short(found, content, &live, &likeliest) => live,
            _ => likeliest,
        }
    }

    /// Whether what exists is only the beginning of the likeliest reading, which does not: a name of
    /// Windows goes on behind a backslash for certain; behind a slash one that looks like a file's
    /// does, or one whose folder exists.
    fn is_cut_short(
        &self,
        found: &Found,
        content: &str,
        live: &Resolved,
        likeliest: &Resolved,
    ) -> bool {
        if !goes_on(found, content, live.end, likeliest.end) {
            return false;
        }
        let mut folder = likeliest.place.clone();
        let file = folder.components.pop().unwrap_or_default();
        let certain = found.root.is_windows() && content[live.end..likeliest.end].contains('\\');
        certain || file.contains('.') || self.resolver.target(&folder) == Target::Live
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
    pub(crate) fn named(&self, case: FoundIn<'_>) -> Option<Resolved> {
        let FoundIn {
            site,
            found,
            content,
        } = case;
        let resolved = self.resolve(found, content);
        if matches!(site.role, Role::Foreign(namespace) if namespace != Namespace::Page) {
            // Whether it exists cannot be told from here.
            return self.sheet.is_old_place(&resolved.place).then_some(resolved);
        }
        if self.speaks_of(&resolved.place) {
            return Some(resolved);
        }
        if found.doubt.is_some() || site.role == Role::Stray {
            return None;
        }
        let resolved = match resolved.target {
            Target::Live => resolved,
            // A value that is all of it names one thing, as it does where a move is given; unless it is a program
            // that is there, and what it is told.
            _ if found.firm_end.is_some() || site.hint == Hint::Word => {
                let program = option_end(found, content, resolved.end);
                let program = program.map(|end| self.reading(found, content, end));
                match program.filter(|program| self.resolver.is_file(&program.place)) {
                    Some(program) => program,
                    None => match value_end(found, content, resolved.end)? {
                        end if end < resolved.end => self.reading(found, content, end),
                        _ => resolved,
                    },
                }
            }
            _ => match plain_end(found, content, resolved.end)? {
                end if end < resolved.end => self.reading(found, content, end),
                _ => resolved,
            },
        };
        let first = resolved.place.components.first();
        let known = found.root != Root::Posix || first.is_some_and(|first| self.is_usual(first));
        (known && is_plausible(found, content, &resolved.place)).then_some(resolved)
    }

    /// What else a reference may name that does not exist as it is read, the longest first: for questions that
    /// have an index of names to rank them by.
    pub(crate) fn other_readings(&self, case: FoundIn<'_>, known: &Resolved) -> Vec<Place> {
        let FoundIn { found, content, .. } = case;
        if known.target == Target::Live || found.tokens.is_empty() {
            return Vec::new();
        }
        let mut ends = readings(found, content);
        let most = ends.iter().copied().max().unwrap_or(known.end);
        let cuts = [plain_end, value_end, option_end].map(|cut| cut(found, content, most));
        ends.extend(cuts.into_iter().flatten());
        ends.sort_unstable_by(|a, b| b.cmp(a));
        ends.dedup();
        let ends = ends.into_iter().filter(|end| *end != known.end);
        let places = ends.map(|end| found.place_until(content, end));
        let other = |place: &Place| !place.components.is_empty() && !place.same(&known.place);
        places.filter(other).collect()
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
