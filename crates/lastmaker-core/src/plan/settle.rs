//! Makes the changes of a document and proves the new copy. What does not hold is withdrawn, and
//! the rest is proved again: one bad site never holds back a whole file.

use std::collections::HashSet;

use crate::judge::{Reason, Unproven};

use super::attempt::Attempt;
use super::document::Draft;
use super::intent::Intent;
use super::proof::Flaw;
use super::sift::{MOST_ATTEMPTS, sift};
use super::together::withdraw_half_lines;

/// Which reference: its site, and which one of the site.
type Which = (usize, usize);

impl Draft {
    /// Makes the changes and proves the new copy, without those that do not hold.
    pub(super) fn settle(&mut self, attempt: &Attempt<'_>) {
        let mut attempts = 0;
        while attempts < MOST_ATTEMPTS {
            attempts += 1;
            match self.attempt(attempt) {
                Ok(()) => {
                    self.left = None;
                    return;
                }
                Err(Flaw::References(flawed)) => {
                    self.left = Some(Unproven::Reference);
                    if let Some(first) = flawed.first() {
                        self.withdraw_at(*first);
                    }
                    self.withdraw_half_lines(attempt);
                }
                Err(Flaw::Document(why)) => {
                    self.left = Some(why);
                    let all: Vec<Which> = self.changing().collect();
                    if all.len() > 1 && self.sift(attempt, &all, &mut attempts) {
                        self.withdraw_half_lines(attempt);
                        continue;
                    }
                    break;
                }
            }
        }
        let Some(why) = self.left.clone() else {
            return;
        };
        let all: Vec<Which> = self.changing().collect();
        for which in all {
            self.withdraw(which, why.clone());
        }
    }

    /// Withdraws those of `all` with which no new copy holds, half by half; whether that was
    /// possible within the attempts that are left.
    fn sift(&mut self, attempt: &Attempt<'_>, all: &[Which], attempts: &mut usize) -> bool {
        let meant = self.intents.clone();
        let bad = sift(all, attempts, |tried| {
            self.intents = only(&meant, tried);
            self.attempt(attempt)
        });
        self.intents = meant;
        for (which, why) in bad.iter().flatten() {
            self.withdraw(*which, why.clone());
        }
        bad.is_some()
    }

    fn withdraw_half_lines(&mut self, attempt: &Attempt<'_>) {
        let Attempt {
            document, options, ..
        } = attempt;
        withdraw_half_lines(document, &self.sites, &mut self.intents, *options);
    }

    /// The references that are to change.
    fn changing(&self) -> impl Iterator<Item = Which> + '_ {
        let of_site = |(site, all): (usize, &Vec<Option<Intent>>)| {
            let changes = |intent: &Option<Intent>| intent.as_ref().is_some_and(Intent::changes);
            let which: Vec<usize> = (0..all.len()).filter(|at| changes(&all[*at])).collect();
            which.into_iter().map(move |which| (site, which))
        };
        self.intents.iter().enumerate().flat_map(of_site)
    }

    /// Takes back the changes in the passage `ordinal` that begin at `at` of the text.
    fn withdraw_at(&mut self, (ordinal, at): (usize, usize)) {
        let first = self.sites.partition_point(|site| site.ordinal < ordinal);
        let sites = self.sites[first..].iter().zip(&mut self.intents[first..]);
        for (site, of_site) in sites.take_while(|(site, _)| site.ordinal == ordinal) {
            for (found, intent) in site.finds.iter().zip(of_site) {
                let Some(intent) = intent.as_mut().filter(|intent| intent.changes()) else {
                    continue;
                };
                if site.in_text(found.start).get() == at {
                    intent.withdraw(Reason::Unproven(Unproven::Reference));
                }
            }
        }
    }

    fn withdraw(&mut self, (site, which): Which, why: Unproven) {
        if let Some(intent) = self.intents[site][which].as_mut() {
            intent.withdraw(Reason::Unproven(why));
        }
    }
}

/// The intents of which only those in `kept` change anything.
fn only(meant: &[Vec<Option<Intent>>], kept: &[Which]) -> Vec<Vec<Option<Intent>>> {
    let kept: HashSet<Which> = kept.iter().copied().collect();
    let mut all = meant.to_vec();
    for (site, of_site) in all.iter_mut().enumerate() {
        for (which, intent) in of_site.iter_mut().enumerate() {
            let Some(intent) = intent.as_mut().filter(|intent| intent.changes()) else {
                continue;
            };
            if !kept.contains(&(site, which)) {
                intent.withdraw(Reason::HalfLine);
            }
        }
    }
    all
}
