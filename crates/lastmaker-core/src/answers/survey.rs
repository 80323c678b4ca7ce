//! Which places the files name, and which of them exist.

use std::collections::HashMap;

use super::condense::{Counted, condense};
use crate::job::{Job, left_in};
use crate::judge::{FoundIn, Resolved};
use crate::open::{EachDocument, OpenedDocument};
use crate::report::{PlaceCount, SurveyReport};
use crate::scan::Finder;
use crate::tree::Sieve;

/// Lists every place that the files of the job's scope name.
pub fn survey(job: &Job<'_>) -> SurveyReport {
    let variables = job.variables_now();
    let finder = Finder {
        variables: &variables,
    };
    let sieve = Sieve::of_any_place(job.sheet, &variables, job.thorough);
    let walked = job.walk(&sieve, |entry| {
        let mut places = Vec::new();
        let each = |leaf: &OpenedDocument<'_, '_>| {
            places_in(job, finder, leaf, |_, resolved| places.push(resolved));
        };
        let (_, left) = job.look_inside(entry, |_| EachDocument {
            sieve: Some(&sieve),
            binary: job.thorough,
            each,
        })?;
        let left = left_in(entry.path, left);
        Ok((!places.is_empty() || !left.is_empty()).then_some((places, left)))
    });
    let mut tally = Tally::default();
    let mut left = walked.left();
    for (file, left_inside) in walked.items {
        left.extend(left_inside);
        tally.add(file);
    }
    let distinct = tally.in_order();
    SurveyReport {
        tree: condense(distinct.iter().map(|(counted, _)| *counted)),
        places: distinct.iter().map(told).collect(),
        files: walked.files,
        naming_files: tally.naming_files,
        references: tally.references,
        left,
    }
}

/// Tells of each place that a document names.
pub(super) fn places_in(
    job: &Job<'_>,
    finder: Finder<'_>,
    leaf: &OpenedDocument<'_, '_>,
    mut tell: impl FnMut(FoundIn<'_>, Resolved),
) {
    let looking = job.looking();
    leaf.document.each_site(finder, |site| {
        let content = leaf.document.content_of(site);
        for found in &site.finds {
            if site.begins_elsewhere(found) {
                continue;
            }
            let case = FoundIn {
                site,
                found,
                content,
            };
            if found.doubt.is_none()
                && let Some(resolved) = looking.named(case)
            {
                tell(case, resolved);
            }
        }
    });
}

/// The distinct places, by their keys.
#[derive(Default)]
struct Tally {
    distinct: HashMap<String, Distinct>,
    naming_files: usize,
    references: usize,
}

/// A place, and in how many files it is named.
struct Distinct {
    counted: Counted,
    files: usize,
    /// The last of these files, by its number among those that name any place.
    last: usize,
}

impl Tally {
    /// Adds the places that one file names.
    fn add(&mut self, places: Vec<Resolved>) {
        self.naming_files += usize::from(!places.is_empty());
        self.references += places.len();
        for Resolved { place, target, .. } in places {
            let key = place.key();
            let new = || Distinct {
                counted: Counted {
                    place,
                    references: 0,
                    target,
                },
                files: 0,
                last: 0,
            };
            let distinct = self.distinct.entry(key).or_insert_with(new);
            distinct.counted.references += 1;
            distinct.files += usize::from(distinct.last < self.naming_files);
            distinct.last = self.naming_files;
        }
    }

    /// The places in the order of their keys, each with the number of its files.
    fn in_order(&self) -> Vec<(&Counted, usize)> {
        let mut all: Vec<_> = self.distinct.iter().collect();
        all.sort_unstable_by_key(|(key, _)| *key);
        let places = all.into_iter().map(|(_, distinct)| distinct);
        places.map(|it| (&it.counted, it.files)).collect()
    }
}

fn told((counted, files): &(&Counted, usize)) -> PlaceCount {
    PlaceCount {
        place: counted.place.to_string(),
        references: counted.references,
        files: *files,
        target: counted.target,
    }
}
