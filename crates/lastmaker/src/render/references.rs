//! References as the rows of a table.

use lastmaker_core::report::{ReasonName, Reference, Target};

use super::Cells;

/// What is told of a reference in its row.
const HEADING: &[&str] = &[
    "file",
    "line",
    "column",
    "site",
    "written",
    "place",
    "target",
    "standing",
    "new place",
    "new target",
    "reason",
    "why",
    "likely",
    "bridge",
    "format",
];

/// A table of references.
pub(super) fn cells<'a>(references: impl Iterator<Item = Reference> + 'a) -> Cells<'a> {
    Cells {
        heading: HEADING,
        rows: Box::new(references.map(row)),
    }
}

fn row(one: Reference) -> Vec<String> {
    let word = |target: Option<Target>| target.map_or("", Target::word).to_owned();
    let number = |number: Option<usize>| number.map(|it| it.to_string()).unwrap_or_default();
    let likely = one.suggestions.into_iter().next();
    vec![
        one.file.shown,
        number(one.position.map(|at| at.line)),
        number(one.position.map(|at| at.column)),
        one.site,
        one.written,
        one.place,
        word(one.target),
        one.standing.word().to_owned(),
        one.new_place.unwrap_or_default(),
        word(one.new_target),
        one.reason
            .map(ReasonName::word)
            .unwrap_or_default()
            .to_owned(),
        one.why.unwrap_or_default(),
        likely.map(|one| one.place).unwrap_or_default(),
        one.bridge.unwrap_or_default(),
        one.format.to_owned(),
    ]
}
