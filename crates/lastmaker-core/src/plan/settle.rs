//! Makes the changes of a document and proves the new copy. What does not hold is withdrawn, and
//! the rest is proved again: one bad site never holds back a whole file.

use std::collections::HashSet;

use crate::judge::{Reason, Unproven};

use super::document::{Attempt, Draft};
use super::intent::Intent;
use super::proof::Flaw;
use super::together::withdraw_half_lines;

/// How often new copies of one document are made and proved; after that it is evidently not
/// understood.
const MOST_ATTEMPTS: usize = 64;

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
                Err(Flaw::Reference { site, which }) => {
                    self.left = Some(Unproven::Reference);
                    self.withdraw((site, which), Unproven::Reference);
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
        let mut good: Vec<Which> = Vec::new();
        let mut bad: Vec<(Which, Unproven)> = Vec::new();
        let (left, right) = all.split_at(all.len() / 2);
        let mut open = vec![right, left];
        while let Some(part) = open.pop() {
            if *attempts >= MOST_ATTEMPTS {
                self.intents = meant;
                return false;
            }
            *attempts += 1;
            let tried: Vec<Which> = good.iter().chain(part).copied().collect();
            self.intents = only(&meant, &tried);
            let why = match self.attempt(attempt) {
                Ok(()) => {
                    good = tried;
                    continue;
                }
                Err(Flaw::Document(flaw)) => flaw,
                Err(Flaw::Reference { .. }) => Unproven::Reference,
            };
            match part {
                [one] => bad.push((*one, why)),
                _ => {
                    let (left, right) = part.split_at(part.len() / 2);
                    open.extend([right, left]);
                }
            }
        }
        self.intents = meant;
        for (which, why) in bad {
            self.withdraw(which, why);
        }
        true
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
