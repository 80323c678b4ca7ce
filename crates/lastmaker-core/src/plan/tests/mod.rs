//! The law as tables: one document, a sheet, and what comes of it.

#[allow(
    unreachable_pub,
    reason = "the fuzz targets call it from another crate"
)]
#[path = "../../../../../fuzz/src/other_readers.rs"]
mod other_readers;

use super::*;
use crate::base::limits::Limits;
use crate::layer::splice;
use crate::open::{Document, LargeFault, LargeText, Reading, WindowSize};
use crate::place::Place;
use crate::record::SiteChange;
use crate::report::{Notice, Position, ReasonName, Reference, Standing};
use crate::sheet::Sheet;
use crate::text::Encoding;
use crate::tree::Sieve;
use crate::undo::{Undoing, undo};

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
    let plan = plan(&document, PlanOptions::of(sheet));
    goes_back(bytes, name, &plan);
    goes_in_portions(&document, name, sheet, &plan);
    goes_in_windows(bytes, name, sheet, &plan);
    is_read_by_others(&document, name, &plan);
    plan
}

/// The well-kept reader of a format reads every new copy of these tables as it read the old one.
fn is_read_by_others(document: &Document<'_>, name: &str, plan: &DocumentPlan) {
    if let Some(new) = &plan.new {
        let format = document.format.name();
        let new = Document::open(new, name, Reading::default()).unwrap();
        let (old, new) = (&document.text.content, &new.text.content);
        other_readers::agree(format, old, new, plan.references.len());
    }
}

/// Every document of these tables comes out the same when it is planned a few places at a time.
fn goes_in_portions(document: &Document<'_>, name: &str, sheet: &Sheet, whole: &DocumentPlan) {
    let told = |plan: &DocumentPlan| format!("{:#?}", plan.references.iter().collect::<Vec<_>>());
    let pieces = |plan: &DocumentPlan| plan.sites.iter().collect::<Vec<SiteChange>>();
    for at_once in [0, 1, 2] {
        let mut limits = Limits::default();
        limits.at_once = at_once;
        let options = PlanOptions {
            limits,
            ..PlanOptions::of(sheet)
        };
        let plan = plan(document, options);
        let text = &document.text.content;
        let (got, expected) = (told(&plan), told(whole));
        let differ = got.lines().zip(expected.lines()).find(|(a, b)| a != b);
        assert!(got == expected, "{at_once} {name}: {text}\n{differ:?}");
        assert_eq!(plan.new, whole.new, "{name}: {text}");
        assert_eq!(plan.edits, whole.edits, "{name}: {text}");
        assert_eq!(pieces(&plan), pieces(whole), "{name}: {text}");
    }
}

/// A reference without what is shown around it, which a window may cut.
fn told_alone(mut reference: Reference) -> String {
    reference.surroundings = None;
    format!("{reference:#?}")
}

/// Every document of these tables that can be read in windows comes out the same then; any other is left and named.
fn goes_in_windows(bytes: &[u8], name: &str, sheet: &Sheet, whole: &DocumentPlan) {
    let text = String::from_utf8_lossy(bytes);
    for usual in [1, 64] {
        let size = WindowSize {
            usual,
            most: 16 * bytes.len() + 4096,
        };
        let large = match LargeText::open(&bytes, name, Reading::default(), size) {
            Ok(large) => large,
            Err(LargeFault::OnlyWhole { .. }) => return,
            Err(fault) => panic!("{name}: {fault}: {text}"),
        };
        let plan = plan_large(&large, PlanOptions::of(sheet), &Sieve::new(sheet, true));
        let plan = plan.unwrap_or_else(|fault| panic!("{name}: {fault}: {text}"));
        let (references, edits) = match plan {
            Some(plan) => (plan.references, plan.edits),
            None => Default::default(),
        };
        let got: Vec<_> = references.iter().map(told_alone).collect();
        let expected: Vec<_> = whole.references.iter().map(told_alone).collect();
        assert_eq!(got, expected, "{usual} {name}: {text}");
        let new = splice(bytes, &edits);
        let expected = whole.new.as_deref().unwrap_or(bytes);
        assert!(
            new == expected,
            "{usual} {name}: {text}\n{}",
            String::from_utf8_lossy(&new)
        );
    }
}

/// Every document of these tables goes back piece by piece: what a plan changes can be taken back.
fn goes_back(old: &[u8], name: &str, plan: &DocumentPlan) {
    let Some(new) = &plan.new else {
        assert!(plan.sites.is_empty(), "{name}: {:?}", plan.sites);
        return;
    };
    let sites: Vec<SiteChange> = plan.sites.iter().collect();
    let undone = undo(undoing(name, old, new, &sites));
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
    let native = |site: &SiteChange| old.iter().any(|line| line.contains(&site.now));
    let pairs = plan.sites.iter().zip(&undone.taken_back);
    let left = pairs.filter(|(_, back)| !**back);
    let left: Vec<_> = left.map(|(site, _)| site).collect();
    assert!(left.iter().all(native), "{name}: {left:#?}");
}

/// Taking back all that a plan changes.
fn undoing<'a>(
    name: &'a str,
    original: &'a [u8],
    present: &'a [u8],
    sites: &'a [SiteChange],
) -> Undoing<'a> {
    Undoing {
        name,
        original,
        present,
        sites,
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

/// The first reference of a plan.
fn first(plan: &DocumentPlan) -> Reference {
    plan.references.iter().next().unwrap()
}

/// Why a reference is left.
fn says(reference: &Reference) -> String {
    reference.why.clone().unwrap()
}

/// Line and column.
fn at(reference: &Reference) -> (usize, usize) {
    let Position { line, column } = reference.position.unwrap();
    (line, column)
}

mod foreign;
mod formats;
mod law;
mod properties;
mod safe_letters;
mod spellings;
mod whole_drives;
