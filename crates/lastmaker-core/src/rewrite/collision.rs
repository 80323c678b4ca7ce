//! Entries that must differ and would become the same.

use std::collections::{HashMap, HashSet};

use crate::format::Role;
use crate::layer::{Edits, OpenedChain, splice};
use crate::place::fold;
use crate::report::Standing;
use crate::scan::{Document, SitePassage};

use super::intent::Intent;

/// Withdraws every change that would make two names of one scope the same.
pub(super) fn withdraw_collisions(
    document: &Document<'_>,
    sites: &[SitePassage],
    intents: &mut [Vec<Option<Intent>>],
) {
    let mut renamed: HashMap<usize, String> = HashMap::new();
    let mut scopes = HashSet::new();
    for (site, of_site) in sites.iter().zip(intents.iter()) {
        let Role::Name { scope, .. } = site.role else {
            continue;
        };
        let edits: Vec<_> = of_site
            .iter()
            .flatten()
            .flat_map(|intent| intent.edits.clone())
            .collect();
        let Ok(edits) = Edits::new(edits) else {
            continue;
        };
        if edits.is_empty() {
            continue;
        }
        let content = site.chain.content(document.raw(&site.span));
        let new = splice(content.as_bytes(), &edits);
        renamed.insert(site.ordinal, String::from_utf8_lossy(&new).into_owned());
        scopes.insert(scope);
    }
    if renamed.is_empty() {
        return;
    }
    // The names of the scopes concerned, before and after.
    let mut groups: HashMap<(usize, String), Vec<(usize, String)>> = HashMap::new();
    document.passages(&mut |ordinal, passage| {
        let Role::Name {
            scope, ignore_case, ..
        } = passage.role
        else {
            return;
        };
        if !scopes.contains(&scope) {
            return;
        }
        let raw = document.raw(&passage.span);
        let Ok(chain) = OpenedChain::open(passage.layers, raw.as_bytes()) else {
            return;
        };
        let key = |name: &str| {
            if ignore_case {
                fold(name)
            } else {
                name.to_owned()
            }
        };
        let old = key(chain.content(raw));
        let new = renamed
            .get(&ordinal)
            .map_or_else(|| old.clone(), |name| key(name));
        groups.entry((scope, new)).or_default().push((ordinal, old));
    });
    let mut collided = HashMap::new();
    for ((_, new), members) in groups {
        let differed = members.iter().any(|(_, old)| *old != members[0].1);
        if differed {
            for (ordinal, _) in members {
                collided.insert(ordinal, new.clone());
            }
        }
    }
    for (site, of_site) in sites.iter().zip(intents.iter_mut()) {
        if collided.contains_key(&site.ordinal) {
            for intent in of_site
                .iter_mut()
                .flatten()
                .filter(|intent| !intent.edits.is_empty())
            {
                intent.withdraw(
                    Standing::Collision,
                    "another entry here has the new name already",
                );
            }
        }
    }
}
