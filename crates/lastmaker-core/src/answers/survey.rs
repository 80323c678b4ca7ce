//! Which places the files name, and which of them exist.

use std::collections::{BTreeMap, HashSet};

use super::condense::{Counted, condense};
use crate::job::{Job, left_in};
use crate::judge::{Case, Resolved};
use crate::open::{EachLeaf, Leaf};
use crate::place::Finder;
use crate::report::{PlaceCount, SurveyReport};
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
        let mut visitor = EachLeaf {
            sieve: Some(&sieve),
            binary: job.thorough,
            each: |leaf: &Leaf<'_, '_>| places_in(job, finder, leaf, &mut places),
        };
        let left = job.look_inside(entry, &mut visitor)?;
        let left = left_in(entry.path, left);
        Ok((!places.is_empty() || !left.is_empty()).then_some((places, left)))
    });
    let mut tally = Tally::default();
    let mut left = walked.left();
    for (file, left_inside) in walked.items {
        left.extend(left_inside);
        tally.add(file);
    }
    SurveyReport {
        tree: condense(tally.distinct.values().map(|(counted, _)| counted)),
        places: tally.distinct.values().map(told).collect(),
        files: walked.files,
        naming_files: tally.naming_files,
        references: tally.references,
        left,
    }
}

/// Adds the places that a document names.
pub(super) fn places_in(
    job: &Job<'_>,
    finder: Finder<'_>,
    leaf: &Leaf<'_, '_>,
    places: &mut Vec<Resolved>,
) {
    let looking = job.looking();
    leaf.document.each_site(finder, |site| {
        let content = leaf.document.content_of(site);
        for found in &site.finds {
            if site.begins_elsewhere(found) {
                continue;
            }
            let case = Case {
                site,
                found,
                content,
            };
            if found.doubt.is_none() {
                places.extend(looking.named(case));
            }
        }
    });
}

/// The distinct places, by their keys, each with the number of files that name it.
#[derive(Default)]
struct Tally {
    distinct: BTreeMap<String, (Counted, usize)>,
    naming_files: usize,
    references: usize,
}

impl Tally {
    /// Adds the places that one file names.
    fn add(&mut self, places: Vec<Resolved>) {
        self.naming_files += usize::from(!places.is_empty());
        self.references += places.len();
        let mut in_this_file = HashSet::new();
        for Resolved { place, target, .. } in places {
            let key = place.key();
            let first = in_this_file.insert(key.clone());
            let (counted, files) = self.distinct.entry(key).or_insert_with(|| {
                let counted = Counted {
                    place,
                    references: 0,
                    target,
                };
                (counted, 0)
            });
            counted.references += 1;
            *files += usize::from(first);
        }
    }
}

fn told((counted, files): &(Counted, usize)) -> PlaceCount {
    PlaceCount {
        place: counted.place.to_string(),
        references: counted.references,
        files: *files,
        target: counted.target,
    }
}
