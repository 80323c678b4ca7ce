//! What a rewrite did, and what it left.

use std::io;

use lastmaker_core::report::{Document, Done, RewriteReport};

use super::plan::write_remainder;
use super::{Apart, Cells, ForPeople, Page, are, count, left};
use crate::ui::shown;

impl ForPeople for RewriteReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        match &self.done {
            None => writeln!(page.out, "Nothing was to be rewritten.")?,
            Some(done) => writeln!(
                page.out,
                "Rewrote {} in {}.",
                count(done.rewritten_references, "reference"),
                count(done.rewritten_files, "file")
            )?,
        }
        write_remainder(page.out, &self.plan)?;
        left(page.out, &self.failed, "Not rewritten")?;
        match &self.done {
            Some(done) => write_done(page, done),
            None => Ok(()),
        }
    }

    fn cells(&self) -> Option<Cells<'_>> {
        self.plan.cells()
    }

    fn apart(&self) -> Option<Apart<'_>> {
        let rest = self.without_references();
        Some(Apart {
            references: Box::new(self.plan.references()),
            rest: serde_json::to_value(Document::of(&rest)).ok()?,
        })
    }
}

/// Where things are now.
fn write_done(page: &mut Page<'_>, done: &Done) -> io::Result<()> {
    if !done.change_files.is_empty() {
        writeln!(page.out, "\nTo import, the changes alone and their undo:")?;
    }
    for file in &done.change_files {
        writeln!(page.out, "  {}", shown(file))?;
    }
    if done.left_by_choice > 0 {
        let left = are(
            done.left_by_choice,
            "file",
            "left as you chose",
            "left as you chose",
        );
        writeln!(page.out, "{left}; the same command goes on with the rest.")?;
    }
    if done.stopped_before > 0 {
        let before = count(done.stopped_before, "file");
        writeln!(
            page.out,
            "\nStopped before {before}, which are as they were; the same command goes on with them."
        )?;
    }
    if done.rewritten_files == 0 {
        return Ok(());
    }
    writeln!(page.out)?;
    writeln!(page.out, "The originals are in {}", shown(&done.folder))?;
    writeln!(
        page.out,
        "Take it back with:   lastmaker restore {}{}",
        done.record, page.records
    )
}
