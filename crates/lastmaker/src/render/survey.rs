//! A survey: the tree of where the places point.

use std::io::{self, Write};

use lastmaker_core::report::{PlaceCount, SurveyNode, SurveyReport};
use unicode_width::UnicodeWidthStr;

use super::{Cells, ForPeople, Page, count, grouped, left};
use crate::ui::{DOUBT, FAINT, NAME, NEW, OLD, shown};

impl ForPeople for SurveyReport {
    fn write(&self, page: &mut Page<'_>) -> io::Result<()> {
        write(page.out, self)
    }

    fn cells(&self) -> Option<Cells<'_>> {
        let row = |one: &PlaceCount| {
            vec![
                one.place.clone(),
                one.references.to_string(),
                one.files.to_string(),
                one.target.word().to_owned(),
            ]
        };
        Some(Cells {
            heading: &["place", "references", "files", "target"],
            rows: Box::new(self.places.iter().map(row)),
        })
    }
}

fn write(out: &mut dyn Write, report: &SurveyReport) -> io::Result<()> {
    if !report.tree.is_empty() {
        write_tree(out, &report.tree)?;
        writeln!(out)?;
    }
    if !report.left.is_empty() {
        left(out, &report.left, "Not looked at")?;
        writeln!(out)?;
    }
    writeln!(
        out,
        "{NAME}{} to {} in {}{NAME:#}, of {} looked at.",
        count(report.references, "reference"),
        count(report.places.len(), "place"),
        count(report.naming_files, "file"),
        count(report.files as usize, "file")
    )
}

fn write_tree(out: &mut dyn Write, tree: &[SurveyNode]) -> io::Result<()> {
    let mut rows = Vec::new();
    for root in tree {
        collect(root, 0, None, &mut rows);
    }
    let widest = rows.iter().map(|(label, _)| label.width()).max();
    let width = widest.unwrap_or(0).clamp(20, 60);
    writeln!(
        out,
        "{FAINT}{:width$}  {:>10}  {:>8}  {:>8}  {:>8}{FAINT:#}",
        "place", "references", "live", "dangling", "not seen"
    )?;
    for (label, node) in rows {
        let pad = width.saturating_sub(label.width());
        let references = grouped(node.references);
        write!(out, "{label}{:pad$}  {references:>10}", "")?;
        number(out, node.live, NEW)?;
        number(out, node.dangling, OLD)?;
        number(out, node.unreachable, DOUBT)?;
        writeln!(out)?;
    }
    Ok(())
}

fn number(out: &mut dyn Write, number: usize, style: anstyle::Style) -> io::Result<()> {
    if number == 0 {
        write!(out, "  {FAINT}{:>8}{FAINT:#}", "-")
    } else {
        write!(out, "  {style}{:>8}{style:#}", grouped(number))
    }
}

/// Rows from the root down; below the first only what is new of a place's name.
fn collect<'a>(
    node: &'a SurveyNode,
    depth: usize,
    above: Option<&str>,
    rows: &mut Vec<(String, &'a SurveyNode)>,
) {
    let name = match above {
        Some(above) => node
            .place
            .strip_prefix(above)
            .unwrap_or(&node.place)
            .trim_start_matches(['\\', '/']),
        None => &node.place,
    };
    rows.push((format!("{}{}", "  ".repeat(depth), shown(name)), node));
    for below in &node.below {
        collect(below, depth + 1, Some(&node.place), rows);
    }
}
