//! A sheet as it is understood, in TOML that reads as the same sheet.

use std::io::{self, Write};

use lastmaker_core::place::Place;
use lastmaker_core::report::{Answer, SheetReport};
use lastmaker_core::sheet::{Move, Sheet};
use serde::Serialize;

use super::{ForPeople, Page};

/// A sheet: people get it as a sheet, programs what it says.
#[derive(Serialize)]
pub(crate) struct ToldSheet<'s> {
    #[serde(skip)]
    sheet: &'s Sheet,
    #[serde(flatten)]
    report: SheetReport,
}

impl<'s> ToldSheet<'s> {
    pub(crate) fn of(sheet: &'s Sheet) -> Self {
        Self {
            sheet,
            report: lastmaker_core::answers::sheet(sheet),
        }
    }
}

impl Answer for ToldSheet<'_> {
    fn command(&self) -> &'static str {
        self.report.command()
    }

    fn has_findings(&self) -> bool {
        self.report.has_findings()
    }
}

impl ForPeople for ToldSheet<'_> {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        write(page.out, self.sheet)
    }
}

fn write(out: &mut dyn Write, sheet: &Sheet) -> io::Result<()> {
    let mut first = true;
    if !sheet.native {
        writeln!(out, "native = false\n")?;
    }
    for one in &sheet.moves {
        if !first {
            writeln!(out)?;
        }
        first = false;
        write_move(out, one)?;
    }
    if !sheet.seen_at.is_empty() {
        writeln!(out, "\n[seen-at]")?;
        for (place, folder) in &sheet.seen_at {
            writeln!(
                out,
                "{} = {}",
                quoted(&place.to_string()),
                quoted(&folder.to_string_lossy())
            )?;
        }
    }
    if !sheet.variables.is_empty() {
        writeln!(out, "\n[variables]")?;
        for (name, place) in &sheet.variables {
            writeln!(out, "{} = {}", quoted(name), quoted(&place.to_string()))?;
        }
    }
    if !sheet.accept.is_empty() {
        writeln!(out, "\n[accept]")?;
        let reasons = sheet.accept.reasons().iter();
        let reasons: Vec<String> = reasons.map(|one| quoted(one.word())).collect();
        let sites: Vec<String> = sheet.accept.sites().iter().map(|one| quoted(one)).collect();
        for (key, items) in [("reasons", reasons), ("sites", sites)] {
            if !items.is_empty() {
                writeln!(out, "{key} = [{}]", items.join(", "))?;
            }
        }
    }
    for portable in &sheet.portable {
        let files: Vec<String> = portable.files.iter().map(|glob| quoted(glob)).collect();
        writeln!(out, "\n[[portable]]\nfiles = [{}]", files.join(", "))?;
        if let Some(form) = portable.variables {
            writeln!(out, "variables = {}", quoted(&form.written("NAME")))?;
        }
    }
    if !sheet.paths.is_empty() || !sheet.skip.is_empty() {
        writeln!(out, "\n[scan]")?;
        let paths: Vec<String> = sheet
            .paths
            .iter()
            .map(|path| quoted(&path.to_string_lossy()))
            .collect();
        let skip: Vec<String> = sheet.skip.iter().map(|glob| quoted(glob)).collect();
        for (key, items) in [("paths", paths), ("skip", skip)] {
            if !items.is_empty() {
                writeln!(out, "{key} = [{}]", items.join(", "))?;
            }
        }
    }
    Ok(())
}

fn write_move(out: &mut dyn Write, one: &Move) -> io::Result<()> {
    writeln!(out, "[[move]]")?;
    writeln!(out, "from = {}", quoted(&one.from.to_string()))?;
    writeln!(out, "to = {}", quoted(&one.to.to_string()))?;
    let list = |places: &[Place]| {
        let items: Vec<String> = places
            .iter()
            .map(|place| quoted(&place.to_string()))
            .collect();
        items.join(", ")
    };
    if !one.except.is_empty() {
        writeln!(out, "except = [{}]", list(&one.except))?;
    }
    if !one.also.is_empty() {
        writeln!(out, "also = [{}]", list(&one.also))?;
    }
    if one.ignore_case {
        writeln!(out, "case = \"ignore\"")?;
    }
    Ok(())
}

/// Single quotes need no escapes; a text that holds one is written in double quotes.
fn quoted(text: &str) -> String {
    if text.contains('\'') {
        format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\""))
    } else {
        format!("'{text}'")
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use lastmaker_core::sheet::PortableFiles;

    #[test]
    fn what_is_printed_reads_as_the_same_sheet() {
        let mut sheet = Sheet::default();
        sheet.add_move(r"D:\Ines's \Herb=H:\Collections").unwrap();
        sheet
            .add_move(r"\\mossbank\press=\\fernhall\press")
            .unwrap();
        sheet.moves[0].also.push(Place::parse(r"S:\").unwrap());
        sheet.moves[0]
            .except
            .push(Place::parse(r"S:\Loans").unwrap());
        sheet.native = false;
        sheet.skip.push("*.tmp".to_owned());
        sheet.portable.push(PortableFiles {
            files: vec!["lists/*.ini".to_owned()],
            variables: None,
        });
        sheet.accept.add_reason("half-line").unwrap();
        sheet
            .accept
            .add_site("a.ini:3", std::path::Path::new(""))
            .unwrap();
        let mut first = Vec::new();
        write(&mut first, &sheet).unwrap();
        let again =
            lastmaker_core::sheet::read(&first, std::path::Path::new("moves.toml")).unwrap();
        let mut second = Vec::new();
        write(&mut second, &again).unwrap();
        assert_eq!(
            String::from_utf8(first).unwrap(),
            String::from_utf8(second).unwrap()
        );
        assert_eq!(again.moves[0].also[0].to_string(), r"S:\");
    }
}
