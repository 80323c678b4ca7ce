//! References that are relative to their document, and are written anew.
//!
//! Where a move broke them, of the document or of what they name, such a reference is changed only if it leads
//! nowhere from where its document lies now, and what it named from where the document lay before is there: it then
//! names that again, relative where both are below one root. What it comes to is worked out again from the new text.
//!
//! Before a document is moved alone those that lead somewhere can name that in full.

use crate::format::Passage;
use crate::job::RelativeReferences;
use crate::judge::Verdict;
use crate::layer::{Edit, Span};
use crate::open::{Document, SitePassage};
use crate::place::{Form, Place, Spelling};
use crate::relative::{Home, Kind, RelativeReference};
use crate::report::{Standing, Target};
use crate::resolve::Resolver;
use crate::scan::{Found, Stands};
use crate::sheet::{Relocation, Sheet};

use super::intent::Intent;
use super::occurrence::{Occurrence, Occurrences};
use super::portable::Respelled;

/// What a document's broken references are mended by.
#[derive(Clone, Copy)]
pub(in crate::plan) struct RelativeUpdater<'a> {
    pub(in crate::plan) home: &'a Home,
    pub(in crate::plan) sheet: &'a Sheet,
    pub(in crate::plan) resolver: &'a Resolver,
    pub(in crate::plan) wish: RelativeReferences,
}

impl RelativeUpdater<'_> {
    /// What is to happen to a passage; none if it is no such reference, or what it means is not there.
    pub(in crate::plan) fn mend(
        &self,
        document: &Document<'_>,
        ordinal: usize,
        passage: &Passage<'_>,
    ) -> Option<Occurrences> {
        if document.sealed().is_some() || document.broke.is_some() {
            return None;
        }
        let reference = RelativeReference::read(self.home, document, passage)?;
        let (old, new, by) = self.meant(&reference)?;
        let in_full = self.wish == RelativeReferences::InFull || !self.home.reaches(&new);
        let RelativeReference {
            chain,
            content,
            kind,
            way,
            ..
        } = reference;
        let written = if in_full {
            self.home.written_in_full(&new, kind)?
        } else {
            self.home.written(&new, &content, kind)?
        };
        let end = path_end(&content, kind);
        let respelled = Respelled {
            reads: in_full.then(|| new.clone()),
            means_them: false,
            chain: chain.clone(),
            edit: Edit {
                span: 0..end,
                with: written.into_bytes(),
            },
        };
        let verdict = Verdict {
            standing: Standing::ToMove,
            reason: None,
            end,
            relocation: by.map(|by| Relocation {
                end,
                depth: old.components.len(),
                to: new.clone(),
                by,
                seen: None,
            }),
            spelling: SPELLING,
            place: old,
        };
        let found = found(&verdict.place, end);
        let site = SitePassage {
            ordinal,
            span: Span::new(passage.span.clone()),
            role: passage.role,
            hint: passage.hint,
            site: way,
            layers: chain.layers().clone(),
            chain,
            finds: Vec::new(),
        };
        let intent = Some(Intent::relative(verdict, new, respelled));
        let all = vec![Occurrence { found, intent }];
        Some(Occurrences { site, all })
    }

    /// What a reference named, what it is to name, and the move that makes the difference.
    fn meant(&self, reference: &RelativeReference) -> Option<(Place, Place, Option<usize>)> {
        let in_full = self.wish == RelativeReferences::InFull;
        match (self.resolver.target(&reference.place), in_full) {
            (Target::Live, true) => {
                let old = reference.place.clone();
                let new = self.sheet.relocated(&old);
                Some((old.clone(), new.unwrap_or(old), None))
            }
            (Target::Dangling, false) => {
                let (old, new, by) = reference.meant(self.home, self.sheet, self.resolver)?;
                Some((old, new, Some(by)))
            }
            _ => None,
        }
    }
}

/// Where the path of a reference ends: a URI may have a query and a fragment behind it.
fn path_end(content: &str, kind: Kind) -> usize {
    match kind {
        Kind::Path => content.len(),
        Kind::Uri => content.find(['?', '#']).unwrap_or(content.len()),
    }
}

/// A relative reference is spelled as what is behind a variable that stands for its document's folder.
const SPELLING: Spelling = Spelling {
    form: Form::Variable,
    separator: Some('/'),
    doubling: 1,
    lower_drive: false,
};

fn found(place: &Place, end: usize) -> Found {
    Found {
        start: 0,
        root_end: end,
        root: place.root.clone(),
        base: place.components.clone(),
        spelling: SPELLING,
        tokens: Vec::new(),
        hard_end: end,
        next: None,
        firm_end: Some(end),
        stands: Stands::Alone(None),
        doubt: None,
        flaw: None,
    }
}

/// Puts mended passages among the others, in order; one in which places were found has its own say.
pub(in crate::plan) fn merge(mended: Vec<Occurrences>, sites: &mut Vec<Occurrences>) {
    for one in mended {
        let ordinal = one.site.ordinal;
        let at = sites.partition_point(|other| other.site.ordinal < ordinal);
        if sites
            .get(at)
            .is_none_or(|other| other.site.ordinal != ordinal)
        {
            sites.insert(at, one);
        }
    }
}
