//! The records on this machine.

use std::io::{self, Write};

use lastmaker_core::report::{HistoryReport, RecordKind, RecordLine};

use super::{ForPeople, Page, count};
use crate::ui::{DOUBT, FAINT, NAME, shown};

impl ForPeople for HistoryReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        let folder = shown(&self.folder);
        if self.records.is_empty() {
            return writeln!(page.out, "There are no records in {folder}");
        }
        for record in &self.records {
            write_record(page.out, record)?;
        }
        writeln!(page.out, "\nThey are in {folder}")
    }
}

fn write_record(out: &mut dyn Write, record: &RecordLine) -> io::Result<()> {
    write!(out, "{NAME}{}{NAME:#}  ", record.id)?;
    if let Some(kind) = record.kind {
        let what = match (kind, &record.undoes) {
            (RecordKind::Rewrite, _) => "rewrite".to_owned(),
            (RecordKind::Restore, Some(undoes)) => format!("restore of {undoes}"),
            (RecordKind::Restore, None) => "restore".to_owned(),
        };
        write!(out, "{what}, {}", count(record.files, "file"))?;
    }
    if !record.state.is_empty() {
        write!(out, "  {DOUBT}{}{DOUBT:#}", shown(&record.state))?;
    }
    if !record.taken_back_by.is_empty() {
        let by = record.taken_back_by.join(", ");
        write!(out, "  {FAINT}taken back by {by}{FAINT:#}")?;
    }
    writeln!(out)?;
    for one in &record.moves {
        writeln!(out, "    {FAINT}{}{FAINT:#}", shown(one))?;
    }
    Ok(())
}
