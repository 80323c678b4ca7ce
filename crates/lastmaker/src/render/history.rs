//! The records on this machine, and those that were removed.

use std::io::{self, Write};

use jiff::Timestamp;
use jiff::tz::TimeZone;
use lastmaker_core::report::{ForgetReport, HistoryReport, RecordKind, RecordLine};

use super::{ForPeople, Page, bytes, count, grouped};
use crate::ui::{DOUBT, FAINT, NAME, shown};

/// How many of a record's paths are shown.
const PATHS: usize = 10;

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
    write!(out, "{NAME}{}{NAME:#}", shown(&record.id))?;
    if let Some(created) = record.created.as_deref().and_then(local) {
        write!(out, "  {created}")?;
    }
    if let Some(kind) = record.kind {
        let what = match (kind, &record.undoes) {
            (RecordKind::Rewrite, _) => "rewrite".to_owned(),
            (RecordKind::Restore, Some(undoes)) => format!("restore of {undoes}"),
            (RecordKind::Restore, None) => "restore".to_owned(),
            (RecordKind::Bridge, Some(undoes)) => format!("bridges of {undoes} taken back"),
            (RecordKind::Bridge, None) => "bridges".to_owned(),
        };
        let noun = match kind {
            RecordKind::Bridge => "link",
            RecordKind::Rewrite | RecordKind::Restore => "file",
        };
        write!(out, "  {what}, {}", count(record.files, noun))?;
    }
    write!(out, ", {}", bytes(record.bytes))?;
    if !record.state.is_empty() {
        write!(out, "  {DOUBT}{}{DOUBT:#}", shown(&record.state))?;
    }
    match (record.taken_back, record.files) {
        (0, _) => {}
        (back, all) if back == all => write!(out, "  {FAINT}taken back{FAINT:#}")?,
        (back, all) => write!(
            out,
            "  {FAINT}{} of {} taken back{FAINT:#}",
            grouped(back),
            grouped(all)
        )?,
    }
    writeln!(out)?;
    if record.undoes.is_some() {
        // Its moves and folders are those of the record that it takes back.
        return Ok(());
    }
    for one in &record.moves {
        writeln!(out, "    {}", shown(one))?;
    }
    for path in record.paths.iter().take(PATHS) {
        writeln!(out, "    {FAINT}in {}{FAINT:#}", shown(path))?;
    }
    match record.paths.len().saturating_sub(PATHS) {
        0 => Ok(()),
        more => writeln!(out, "    {FAINT}and {}{FAINT:#}", count(more, "other path")),
    }
}

/// A moment as the clock of this machine shows it.
pub(super) fn local(utc: &str) -> Option<String> {
    let moment: Timestamp = utc.parse().ok()?;
    let here = moment.to_zoned_datetime(TimeZone::system());
    Some(here.strftime("%Y-%m-%d %H:%M").to_string())
}

impl ForPeople for ForgetReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        let records = count(self.forgotten.len(), "record");
        writeln!(
            page.out,
            "Forgot {records}; {} are free again.",
            bytes(self.bytes)
        )?;
        for record in &self.left {
            writeln!(
                page.out,
                "{DOUBT}Kept{DOUBT:#} {}: {}",
                shown(&record.id),
                shown(&record.why)
            )?;
        }
        Ok(())
    }
}
