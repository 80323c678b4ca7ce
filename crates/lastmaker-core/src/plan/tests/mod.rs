//! The law as tables: one document, a sheet, and what comes of it.

use super::*;
use crate::layer::splice;
use crate::open::{Document, Reading};
use crate::place::Place;
use crate::report::{Notice, Position, Standing};
use crate::sheet::Sheet;
use crate::text::Encoding;

fn sheet(moves: &[&str]) -> Sheet {
    let mut sheet = Sheet::default();
    for one in moves {
        sheet.add_move(one).unwrap();
    }
    sheet
}

const HERBARIUM: &[&str] = &[
    r"D:\Herbarium=H:\Collections\Herbarium",
    r"\\mossbank\press=\\fernhall\press",
];

fn planned(bytes: &[u8], name: &str, sheet: &Sheet) -> DocumentPlan {
    let document = Document::open(bytes, name, Reading::default()).unwrap();
    let plan = plan(
        &document,
        name,
        PlanOptions {
            sheet,
            reading: Reading::default(),
            repair: false,
            existing: None,
            file: std::path::Path::new(""),
            limits: crate::limits::Limits::default(),
        },
    );
    goes_back(bytes, name, &plan);
    plan
}

/// Every document of these tables goes back piece by piece: what a plan changes can be taken back.
fn goes_back(old: &[u8], name: &str, plan: &DocumentPlan) {
    let Some(new) = &plan.new else {
        assert!(plan.sites.is_empty(), "{name}: {:?}", plan.sites);
        return;
    };
    let undone = undo(undoing(name, old, new, plan));
    let back = undone.content.as_deref().unwrap_or(new);
    if undone.taken_back.iter().all(|one| *one) {
        assert_eq!(
            String::from_utf8_lossy(back),
            String::from_utf8_lossy(old),
            "{name}, {:#?}",
            plan.sites
        );
        assert!(back == old, "{name}");
        return;
    }
    // Nobody can tell what the rewrite wrote from what stood there before.
    let lines = |bytes: &[u8]| -> Vec<String> {
        let document = Document::open(bytes, name, Reading::default()).unwrap();
        document
            .text
            .content
            .lines()
            .map(ToOwned::to_owned)
            .collect()
    };
    let (old, new, back) = (lines(old), lines(new), lines(back));
    for (at, line) in back.iter().enumerate() {
        assert!(
            old.get(at) == Some(line) || new.get(at) == Some(line),
            "{name}: {line}"
        );
    }
    let native = |site: &crate::record::SiteChange| old.iter().any(|line| line.contains(&site.now));
    let left = plan
        .sites
        .iter()
        .zip(&undone.taken_back)
        .filter(|(_, back)| !**back);
    assert!(
        left.clone().all(|(site, _)| native(site)),
        "{name}: {:#?}",
        left.collect::<Vec<_>>()
    );
}

/// Taking back all that a plan changes.
fn undoing<'a>(
    name: &'a str,
    original: &'a [u8],
    present: &'a [u8],
    plan: &'a DocumentPlan,
) -> Undoing<'a> {
    Undoing {
        name,
        original,
        present,
        sites: &plan.sites,
        by: None,
        max_document: 1 << 30,
    }
}

/// What a file becomes; the same file if nothing changes.
fn rewritten(bytes: &[u8], name: &str, sheet: &Sheet) -> Vec<u8> {
    planned(bytes, name, sheet)
        .new
        .unwrap_or_else(|| bytes.to_vec())
}

fn rewritten_text(text: &str, name: &str, moves: &[&str]) -> String {
    String::from_utf8(rewritten(text.as_bytes(), name, &sheet(moves))).unwrap()
}

/// Why a reference is left.
fn says(reference: &PlannedReference) -> String {
    reference.reason.as_ref().unwrap().to_string()
}

/// Line and column.
fn at(reference: &PlannedReference) -> (usize, usize) {
    let Position { line, column } = reference.position.unwrap();
    (line, column)
}

mod formats;
mod law;
mod properties;
mod safe_letters;
mod spellings;
mod whole_drives;
