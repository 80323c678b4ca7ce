//! What was put back.

use std::io;

use lastmaker_core::report::RestoreReport;

use super::{ForPeople, Page, are, count, left};
use crate::ui::shown;

impl ForPeople for RestoreReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        let originals = count(self.restored.len(), "original");
        writeln!(page.out, "Put back {originals} of record {}.", self.record)?;
        if self.already_original > 0 {
            let already = are(
                self.already_original,
                "file",
                "the original",
                "the originals",
            );
            writeln!(page.out, "{already} already.")?;
        }
        for file in &self.edits_taken_back {
            writeln!(
                page.out,
                "{}: took back {} of {}, the rest of it stays as it was saved",
                shown(&file.file),
                file.taken_back,
                count(file.of, "change")
            )?;
        }
        left(page.out, &self.left, "Left as they are")?;
        match &self.kept_in {
            Some(id) => writeln!(
                page.out,
                "\nWhat was replaced is kept; take this back with:   lastmaker restore {id}{}",
                page.records
            ),
            None => Ok(()),
        }
    }
}
