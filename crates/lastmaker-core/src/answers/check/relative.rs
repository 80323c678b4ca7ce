//! References that are relative to their document and lead nowhere.

use crate::format::{Role, site_text};
use crate::job::Job;
use crate::layer::Span;
use crate::open::{Leaf, LineCounter, SitePassage};
use crate::place::Place;
use crate::relative::{Home, address};
use crate::report::{FileName, Reference, Standing, Suggestion, Target};

/// The relative references of a document whose targets are not there; `home` is its file's.
pub(super) fn lost(
    job: &Job<'_>,
    home: &Home,
    leaf: &Leaf<'_, '_>,
    name: &FileName,
) -> Vec<(Reference, Place)> {
    let part;
    let home = match leaf.is_part() {
        false => home,
        true => match home.of_part(leaf.way) {
            Some(of_part) => {
                part = of_part;
                &part
            }
            None => return Vec::new(),
        },
    };
    let document = leaf.document;
    let mut lines = LineCounter::default();
    let mut all = Vec::new();
    document.passages_with_ways(&mut |ordinal, passage| {
        let start = passage.span.start;
        let way = site_text(passage.site);
        let Some(kind) = home
            .kind(document, start, &way)
            .filter(|_| passage.role == Role::Value)
        else {
            return;
        };
        let raw = &document.text.content[passage.span.clone()];
        let Some(chain) = address(passage.layers, raw) else {
            return;
        };
        let content = chain.content(raw).to_owned();
        let Some(place) = home.place_of(&content, kind) else {
            return;
        };
        if job.resolver.target(&place) != Target::Dangling {
            return;
        }
        let site = SitePassage {
            ordinal,
            span: Span::new(passage.span.clone()),
            role: passage.role,
            hint: passage.hint,
            site: way,
            layers: passage.layers.clone(),
            chain,
            finds: Vec::new(),
        };
        let at = lines.at(&document.text.content, site.in_text(0));
        let reference = Reference {
            site: leaf.site(&site.site, at),
            position: leaf.position(at),
            target: Some(Target::Dangling),
            reason: Some("relative"),
            why: Some(format!("relative to its document it names {place}")),
            suggestions: from_old_home(job, home, &content, kind)
                .into_iter()
                .collect(),
            ..Reference::new(
                name.clone(),
                &content,
                place.to_string(),
                Standing::Elsewhere,
                leaf.format,
            )
        };
        all.push((reference, place));
    });
    all
}

/// What a reference named from where its document lay before the moves, if that is there now.
fn from_old_home(
    job: &Job<'_>,
    home: &Home,
    content: &str,
    kind: crate::relative::Kind,
) -> Option<Suggestion> {
    let folders = job.sheet.origins(home.folder());
    folders.into_iter().find_map(|folder| {
        let old = home.moved_to(folder).place_of(content, kind)?;
        let now = job.sheet.relocated(&old).unwrap_or_else(|| old.clone());
        (job.resolver.target(&now) == Target::Live).then(|| Suggestion {
            place: now.to_string(),
            why: "its document lay in another folder before the move, from where it named that, and it exists".to_owned(),
            certain: true,
        })
    })
}
