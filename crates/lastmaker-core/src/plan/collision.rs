//! Entries that must differ and would become the same.

use std::collections::{HashMap, HashSet};

use crate::format::{Passage, Role};
use crate::judge::Reason;
use crate::layer::{Edits, InLayer, OpenedChain, splice};
use crate::open::{Document, SitePassage};
use crate::place::fold;

use super::intent::Intent;
use super::lift::edits_of;

/// Withdraws every change that would make two names of one scope the same.
pub(super) fn withdraw_collisions(
    document: &Document<'_>,
    sites: &[SitePassage],
    intents: &mut [Vec<Option<Intent>>],
) {
    let renamed = Renamed::of(document, sites, intents);
    if renamed.names.is_empty() {
        return;
    }
    let collided = renamed.collided(document);
    for (site, of_site) in sites.iter().zip(intents.iter_mut()) {
        if collided.contains(&site.ordinal) {
            for intent in of_site.iter_mut().flatten().filter(|i| i.changes()) {
                intent.withdraw(Reason::Collision);
            }
        }
    }
}

/// The names that change.
#[derive(Default)]
struct Renamed {
    /// New names, by the ordinals of their passages.
    names: HashMap<usize, String>,
    /// The scopes that they are in.
    scopes: HashSet<usize>,
}

/// A name in its scope, as it is compared with others.
struct Name {
    ordinal: usize,
    old: String,
}

impl Renamed {
    fn of(document: &Document<'_>, sites: &[SitePassage], intents: &[Vec<Option<Intent>>]) -> Self {
        let mut renamed = Self::default();
        for (site, of_site) in sites.iter().zip(intents) {
            let Role::Name { scope, .. } = site.role else {
                continue;
            };
            let Ok(edits) = Edits::<InLayer>::new(edits_of(of_site)) else {
                continue;
            };
            if !edits.is_empty() {
                let new = splice(document.content_of(site).as_bytes(), &edits);
                let new = String::from_utf8_lossy(&new).into_owned();
                renamed.names.insert(site.ordinal, new);
                renamed.scopes.insert(scope);
            }
        }
        renamed
    }

    /// The ordinals of the names that would become the same as another one of their scope.
    fn collided(&self, document: &Document<'_>) -> HashSet<usize> {
        let mut groups: HashMap<(usize, String), Vec<Name>> = HashMap::new();
        document.passages(&mut |ordinal, passage| {
            if let Some((key, name)) = self.name(document, ordinal, &passage) {
                groups.entry(key).or_default().push(name);
            }
        });
        let differed = |names: &Vec<Name>| names.iter().any(|name| name.old != names[0].old);
        let collided = groups.into_values().filter(differed).flatten();
        collided.map(|name| name.ordinal).collect()
    }

    /// A name of a scope that is concerned, by its scope and what it becomes.
    fn name(
        &self,
        document: &Document<'_>,
        ordinal: usize,
        passage: &Passage<'_>,
    ) -> Option<((usize, String), Name)> {
        let Role::Name {
            scope, ignore_case, ..
        } = passage.role
        else {
            return None;
        };
        if !self.scopes.contains(&scope) {
            return None;
        }
        let raw = &document.text.content[passage.span.clone()];
        let chain = OpenedChain::open(passage.layers, raw.as_bytes()).ok()?;
        let key = |name: &str| match ignore_case {
            true => fold(name),
            false => name.to_owned(),
        };
        let old = key(chain.content(raw));
        let new = self.names.get(&ordinal).map(|name| key(name));
        let new = new.unwrap_or_else(|| old.clone());
        Some(((scope, new), Name { ordinal, old }))
    }
}
