//! What is read and rewritten.

use std::io::{self, Write};

use lastmaker_core::about::About;
use lastmaker_core::report::FormatsReport;

use super::{ForPeople, Page};
use crate::ui::{FAINT, NAME};

/// Columns that a paragraph may take.
const WIDTH: usize = 100;
const INDENT: usize = 4;

impl ForPeople for FormatsReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        write(page.out, self)
    }
}

/// Every format with how it is recognised, what of it is read, and what is left.
fn write(out: &mut dyn Write, report: &FormatsReport) -> io::Result<()> {
    writeln!(
        out,
        "Each file is read by the first of these that its content or its name shows.\n\
         --read-as GLOB=FORMAT says so where neither does.\n"
    )?;
    for one in &report.formats {
        about(out, one)?;
    }
    writeln!(
        out,
        "\n{NAME}Containers{NAME:#}, known by their content; what is in them is read in its own format, four deep:\n"
    )?;
    for one in &report.containers {
        about(out, one)?;
    }
    writeln!(out, "\n{NAME}Links of the file system{NAME:#}")?;
    paragraph(out, "reads", report.links)?;
    writeln!(out, "\n{NAME}In every format{NAME:#}")?;
    paragraph(out, "spellings", report.spellings)?;
    paragraph(out, "inside", report.inside)?;
    paragraph(out, "encodings", report.encodings)?;
    paragraph(out, "limits", report.limits)
}

/// What is told of one format or container.
fn about(out: &mut dyn Write, one: &About) -> io::Result<()> {
    writeln!(out, "{NAME}{}{NAME:#}  {}", one.name, one.what)?;
    let mut known: Vec<String> = Vec::new();
    if !one.content.is_empty() {
        known.push(one.content.to_owned());
    }
    let names: Vec<&str> = one
        .names
        .iter()
        .map(|n| n.trim_start_matches('='))
        .collect();
    if !names.is_empty() {
        known.push(names.join(" "));
    }
    paragraph(out, "known by", &known.join("; "))?;
    paragraph(out, "reads", one.read)?;
    paragraph(out, "limits", one.limits)
}

/// A label and a text that is broken between words.
fn paragraph(out: &mut dyn Write, label: &str, text: &str) -> io::Result<()> {
    if text.is_empty() {
        return Ok(());
    }
    let lead = INDENT + 11;
    write!(out, "{:INDENT$}{FAINT}{label:9}{FAINT:#}", "")?;
    let mut column = INDENT + 9;
    for word in text.split(' ') {
        let length = word.chars().count();
        if column + 1 + length > WIDTH {
            write!(out, "\n{:lead$}{word}", "")?;
            column = lead + length;
        } else {
            let gap = if column == INDENT + 9 { 2 } else { 1 };
            write!(out, "{:gap$}{word}", "")?;
            column += gap + length;
        }
    }
    writeln!(out)
}
