//! A survey: the tree of where the places point.

use std::io::{self, Write};

use lastmaker_core::survey::{SurveyNode, SurveyReport};
use unicode_width::UnicodeWidthStr;

use super::{count, grouped, left};
use crate::ui::{DOUBT, FAINT, NAME, NEW, OLD, shown};

pub(crate) fn write(out: &mut dyn Write, report: &SurveyReport) -> io::Result<()> {
    writeln!(
        out,
        "{NAME}{} to {} in {}{NAME:#}, of {} looked at.",
        count(report.references, "reference"),
        count(report.places.len(), "place"),
        count(report.naming_files, "file"),
        count(report.files as usize, "file")
    )?;
    if !report.tree.is_empty() {
        let mut rows = Vec::new();
        for root in &report.tree {
            collect(root, 0, None, &mut rows);
        }
        let width = rows
            .iter()
            .map(|(label, _)| label.width())
            .max()
            .unwrap_or(0)
            .clamp(20, 60);
        writeln!(
            out,
            "\n{FAINT}{:width$}  {:>10}  {:>8}  {:>8}  {:>8}{FAINT:#}",
            "place", "references", "live", "dangling", "not seen"
        )?;
        for (label, node) in rows {
            let pad = width.saturating_sub(label.width());
            write!(
                out,
                "{label}{:pad$}  {:>10}  ",
                "",
                grouped(node.references)
            )?;
            number(out, node.live, NEW)?;
            number(out, node.dangling, OLD)?;
            number(out, node.unreachable, DOUBT)?;
            writeln!(out)?;
        }
    }
    left(out, &report.left, "Not looked at")
}

fn number(out: &mut dyn Write, number: usize, style: anstyle::Style) -> io::Result<()> {
    if number == 0 {
        write!(out, "{FAINT}{:>8}{FAINT:#}  ", "-")
    } else {
        write!(out, "{style}{:>8}{style:#}  ", grouped(number))
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
