//! What was put back, or would be.

use std::io;

use lastmaker_core::report::{RestoreReport, TakenBack};

use super::{ForPeople, Page, are, count, grouped, left};
use crate::ui::{FAINT, NAME, shown};

/// How many stretches of a file are shown.
const MOST_SHOWN: usize = 10;

impl ForPeople for RestoreReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        let originals = count(self.restored.len(), "original");
        let record = &self.record;
        if self.preview {
            for one in &self.moves {
                writeln!(page.out, "{}", shown(one))?;
            }
            writeln!(page.out, "Would put back {originals} of record {record}.")?;
            for file in &self.restored {
                writeln!(page.out, "  {}", shown(file))?;
            }
        } else {
            writeln!(page.out, "Put back {originals} of record {record}.")?;
        }
        if self.already_original > 0 {
            let already = are(self.already_original, "file", "taken back", "taken back");
            writeln!(page.out, "{already} already.")?;
        }
        match self.not_asked_for {
            0 => {}
            1 => writeln!(page.out, "1 other file of the record stays as it is.")?,
            more => {
                let others = count(more, "other file");
                writeln!(page.out, "{others} of the record stay as they are.")?;
            }
        }
        for file in &self.edits_taken_back {
            write_file(page, file, self.preview)?;
        }
        left(page.out, &self.left, "Left as they are")?;
        if self.stopped_before > 0 {
            let before = count(self.stopped_before, "file");
            writeln!(
                page.out,
                "\nStopped before {before}. Go on with:   lastmaker restore {record}{}",
                page.records
            )?;
        }
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

/// What was taken back of one file, and what stays.
fn write_file(page: &mut Page<'_>, file: &TakenBack, preview: bool) -> io::Result<()> {
    let verb = if preview {
        "would take back"
    } else {
        "took back"
    };
    writeln!(
        page.out,
        "{NAME}{}{NAME:#}: {verb} {} of {}, the rest of it stays as it was saved",
        shown(&file.file),
        grouped(file.taken_back),
        count(file.of, "change")
    )?;
    let stays = |site: &&lastmaker_core::report::TakenBackSite| !site.taken_back;
    for site in file.sites.iter().filter(stays).take(MOST_SHOWN) {
        let way = match site.site.as_str() {
            "" => String::new(),
            way => format!("{}: ", shown(way)),
        };
        let written = shown(site.written.trim());
        writeln!(
            page.out,
            "    {FAINT}stays:{FAINT:#} {way}{written} stands there no more"
        )?;
    }
    let more = file.of - file.taken_back;
    if more > MOST_SHOWN {
        writeln!(page.out, "    and {} more", more - MOST_SHOWN)?;
    }
    Ok(())
}
