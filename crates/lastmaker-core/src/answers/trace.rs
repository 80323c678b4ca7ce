//! Where dangling targets went.

use std::collections::BTreeMap;
use std::path::PathBuf;
use std::sync::atomic::AtomicU64;

use super::survey::places_in;
use crate::job::{Job, left_in};
use crate::open::{EachDocument, OpenedDocument};
use crate::place::Place;
use crate::report::{LeftFile, Target, TraceReport};
use crate::resolve::Index;
use crate::scan::Finder;
use crate::trace::{self, Clues, Mention, NamedPlace};
use crate::tree::Sieve;

/// Where things might be now, and where they may be still.
#[derive(Debug)]
pub struct TraceOptions<'a> {
    /// Folders in which things might be now: the places that they are, and where they are seen.
    pub into: &'a [(Place, PathBuf)],
    /// Old folders that still exist.
    pub old: &'a [(Place, PathBuf)],
    /// Counts the names that are looked through.
    pub indexed: &'a AtomicU64,
}

/// Finds the fewest moves that explain the most dangling references of the job's scope.
pub fn trace(job: &Job<'_>, options: &TraceOptions<'_>) -> TraceReport {
    let variables = job.variables_now();
    let finder = Finder {
        variables: &variables,
    };
    let looking = job.looking();
    let walked = job.walk(&Sieve::open(), |entry| {
        let mut places = Vec::new();
        let mut mentions = Vec::new();
        let each = |leaf: &OpenedDocument<'_, '_>| {
            places_in(job, finder, leaf, |case, resolved| {
                let others = looking.other_readings(case, &resolved);
                places.push((resolved, others));
            });
            mentions.extend(trace::mentions(&leaf.document.text.content));
        };
        let (_, left) = job.look_inside(entry, |_| EachDocument {
            sieve: None,
            binary: job.thorough,
            each,
        })?;
        let left = left_in(entry.path, left);
        let any = !places.is_empty() || !mentions.is_empty() || !left.is_empty();
        Ok((any && !entry.history).then_some((places, mentions, left)))
    });
    let files = walked.files;
    let mut left: Vec<LeftFile> = walked.left();
    let index = Index::of(options.into, job.jobs, options.indexed);
    let mut named: BTreeMap<String, NamedPlace> = BTreeMap::new();
    let mut mentions: Vec<Mention> = Vec::new();
    for (places, mentioned, left_inside) in walked.items {
        left.extend(left_inside);
        for one in mentioned {
            if !mentions.contains(&one) {
                mentions.push(one);
            }
        }
        for (resolved, others) in places {
            let place = match resolved.target {
                Target::Live => resolved.place,
                // Some systems write a drive as a folder.
                _ => index.likeliest(resolved.place, others).by_drive(),
            };
            let known = named.entry(place.key()).or_insert_with(|| NamedPlace {
                place,
                references: 0,
                live: resolved.target == Target::Live,
                explained: false,
            });
            known.references += 1;
        }
    }
    let mut named: Vec<NamedPlace> = named.into_values().collect();
    for one in &mut named {
        let new = job.sheet.relocated(&one.place);
        let is_so = |new: Place| job.resolver.target(&new) != Target::Dangling;
        one.explained = new.is_some_and(is_so);
    }
    let clues = Clues {
        named: &named,
        index: &index,
        old: options.old,
        seen_at: options.into,
        mentions: &mentions,
    };
    let mut report = trace::trace(&clues);
    report.totals.files = files;
    report.left = left;
    report
}
