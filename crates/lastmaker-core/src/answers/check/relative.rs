//! References that are relative to their document and lead nowhere.

use crate::job::Job;
use crate::layer::Span;
use crate::open::OpenedDocument;
use crate::place::Place;
use crate::relative::{Home, RelativeReference};
use crate::report::{FileName, ReasonName, Reference, Standing, Suggestion, Target};

/// The relative references of a document whose targets are not there; `home` is its file's.
pub(super) fn lost(
    job: &Job<'_>,
    home: &Home,
    leaf: &OpenedDocument<'_, '_>,
    name: &FileName,
) -> Vec<(Reference, Place)> {
    let Some(home) = home.of_leaf(leaf) else {
        return Vec::new();
    };
    let document = leaf.document;
    let mut lines = document.lines();
    let mut all = Vec::new();
    document.passages_with_ways(&mut |_, passage| {
        let Some(found) = RelativeReference::read(&home, document, &passage) else {
            return;
        };
        if job.resolver.target(&found.place) != Target::Dangling {
            return;
        }
        let meant = found.meant(&home, job.sheet, job.resolver);
        let suggestion = meant.map(|(_, now, _)| Suggestion {
            place: now.to_string(),
            why: "before the move it named that, which exists".to_owned(),
            certain: true,
        });
        let RelativeReference {
            chain,
            content,
            way,
            place,
            ..
        } = found;
        let begins = Span::new(passage.span).start();
        let begins = begins.advanced(chain.outer_offset(0));
        let at = lines.at(&document.text.content, begins);
        let reference = Reference {
            site: leaf.site(&way, at),
            position: leaf.position(at),
            target: Some(Target::Dangling),
            reason: Some(ReasonName::Relative),
            why: Some(format!("relative to its document it names {place}")),
            suggestions: suggestion.into_iter().collect(),
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
