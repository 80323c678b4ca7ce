//! A plan: what would change, what wants a second look, and the totals last.

mod change;
mod doubts;
mod overview;
mod totals;

use std::io;

use lastmaker_core::report::{Document, PlanReport, Reference};

pub(crate) use change::{format_and_encoding, write_file};
pub(crate) use doubts::write_doubt;
pub(crate) use totals::write_remainder;

use super::references::cells;
use super::{Apart, Cells, Extent, ForPeople, Listed, Page, left};
use crate::ui::shown;
use doubts::{DOUBTS, SEALED};

/// Up to how many changes each is shown unless something else is asked for.
const MANY: usize = 100;

/// Up to how many doubts each is shown where changes are not.
const MANY_DOUBTS: usize = 20;

impl ForPeople for PlanReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        let few = self.totals.to_move <= MANY || page.verbose;
        match page.extent {
            Extent::Usual if few => {
                write_changes(page, self)?;
                doubts::write_each(page, self, DOUBTS)?;
                doubts::write_each(page, self, SEALED)?;
            }
            Extent::Usual => {
                totals::write_moves(page, self)?;
                overview::write_kinds(page, self)?;
                overview::write_files(page, self)?;
                write_doubts(page, self)?;
            }
            Extent::Summary => {
                overview::write_kinds(page, self)?;
                doubts::write_reasons(page, self, &[DOUBTS, SEALED])?;
            }
            Extent::Only(Listed::Changed) => write_changes(page, self)?,
            Extent::Only(Listed::Doubts) => doubts::write_each(page, self, DOUBTS)?,
            Extent::Only(Listed::Sealed) => doubts::write_each(page, self, SEALED)?,
            Extent::Only(Listed::Missing) => overview::write_missing_places(page, self)?,
        }
        let whole = !matches!(page.extent, Extent::Only(_));
        if whole {
            doubts::write_notices(page, self)?;
        }
        if whole || page.extent == Extent::Only(Listed::Sealed) {
            left(page.out, &self.left, "Left as they are")?;
        }
        totals::write_totals(page, self, whole)
    }

    fn cells(&self) -> Option<Cells<'_>> {
        Some(cells(self.references()))
    }

    fn apart(&self) -> Option<Apart<'_>> {
        let rest = serde_json::to_value(Document::of(&self.without_references()));
        Some(Apart {
            references: Box::new(self.references()),
            rest: rest.ok()?,
        })
    }
}

fn write_changes(page: &mut Page<'_>, plan: &PlanReport) -> io::Result<()> {
    for file in plan.files.iter().filter(|file| file.changes) {
        write_file(page, file)?;
    }
    Ok(())
}

/// What is left of many references: each if it is few, else how many for which reason.
fn write_doubts(page: &mut Page<'_>, plan: &PlanReport) -> io::Result<()> {
    for kinds in [DOUBTS, SEALED] {
        if doubts::number(plan, kinds) > MANY_DOUBTS {
            doubts::write_reasons(page, plan, &[kinds])?;
        } else {
            doubts::write_each(page, plan, kinds)?;
        }
    }
    Ok(())
}

/// Line and column, where there are lines, and the site.
pub(crate) fn position(reference: &Reference) -> String {
    match (reference.position, reference.site.as_str()) {
        (None, site) => shown(site),
        (Some(at), "") => format!("{}:{}", at.line, at.column),
        (Some(at), site) => format!("{}:{}  {}", at.line, at.column, shown(site)),
    }
}
