//! Entries that must differ and would become the same.

use std::collections::{HashMap, HashSet};

use crate::base::fingerprint::fingerprint;
use crate::format::{Passage, Role};
use crate::layer::{Edits, InLayer, OpenedChain, splice};
use crate::open::Document;
use crate::place::fold;

use super::lift::edits_of;
use super::occurrence::Occurrences;

/// The names that change, by their fingerprints.
#[derive(Default)]
pub(in crate::plan) struct Renamed {
    /// New names, by the ordinals of their passages.
    names: HashMap<usize, u64>,
    /// The scopes that they are in.
    scopes: HashSet<usize>,
}

/// The names of a scope that become one.
struct Name {
    /// What the first of them was.
    old: u64,
    /// Whether another one was something else.
    collides: bool,
}

impl Renamed {
    /// Adds the names among `sites` that change.
    pub(in crate::plan) fn add(&mut self, document: &Document<'_>, sites: &[Occurrences]) {
        for one in sites {
            let Role::Name {
                scope, ignore_case, ..
            } = one.site.role
            else {
                continue;
            };
            let Ok(edits) = Edits::<InLayer>::new(edits_of(one)) else {
                continue;
            };
            if !edits.is_empty() {
                let new = splice(document.content_of(&one.site).as_bytes(), &edits);
                let new = key(&String::from_utf8_lossy(&new), ignore_case);
                self.names.insert(one.site.ordinal, new);
                self.scopes.insert(scope);
            }
        }
    }

    /// The ordinals of the names that would become the same as another one of their scope.
    pub(in crate::plan) fn collided(&self, document: &Document<'_>) -> HashSet<usize> {
        if self.names.is_empty() {
            return HashSet::new();
        }
        let mut groups: HashMap<(usize, u64), Name> = HashMap::new();
        let mut any = false;
        document.passages(&mut |ordinal, passage| {
            let Some((scope, new, old)) = self.name(document, ordinal, &passage) else {
                return;
            };
            let first = Name {
                old,
                collides: false,
            };
            let known = groups.entry((scope, new)).or_insert(first);
            known.collides |= known.old != old;
            any |= known.collides;
        });
        let mut collided = HashSet::new();
        if any {
            document.passages(&mut |ordinal, passage| {
                if let Some((scope, new, _)) = self.name(document, ordinal, &passage)
                    && groups.get(&(scope, new)).is_some_and(|name| name.collides)
                {
                    collided.insert(ordinal);
                }
            });
        }
        collided
    }

    /// A name of a scope that is concerned: its scope, what it becomes, and what it is.
    fn name(
        &self,
        document: &Document<'_>,
        ordinal: usize,
        passage: &Passage<'_>,
    ) -> Option<(usize, u64, u64)> {
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
        let old = key(chain.content(raw), ignore_case);
        Some((scope, self.names.get(&ordinal).copied().unwrap_or(old), old))
    }
}

/// What two names have in common that must not be in one scope.
fn key(name: &str, ignore_case: bool) -> u64 {
    if ignore_case {
        fingerprint(fold(name).as_bytes())
    } else {
        fingerprint(name.as_bytes())
    }
}
