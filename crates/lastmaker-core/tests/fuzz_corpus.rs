//! What fuzzing starts from, and what it found, against the law: outside the edits nothing
//! changes, and a second run changes nothing.

#![allow(
    clippy::unwrap_used,
    clippy::disallowed_methods,
    reason = "these are tests"
)]

use std::fs;
use std::path::Path;

use lastmaker_core::layer::splice;
use lastmaker_core::rewrite::{DocumentPlan, PlanOptions, plan};
use lastmaker_core::scan::{Document, Reading};
use lastmaker_core::sheet::Sheet;

const NAMES: [&str; 24] = [
    "a.txt",
    "a.md",
    "a.json",
    "a.xml",
    "a.html",
    "a.reg",
    "a.rtf",
    "a.ini",
    "a.conf",
    "a.properties",
    "a.desktop",
    "a.service",
    "a.env",
    "a.pc",
    "a.m3u",
    "a.cue",
    "a.toml",
    "a.yaml",
    "a.csv",
    "options",
    "a.sh",
    "a.ps1",
    "a.bat",
    "a.lua",
];

fn planned(bytes: &[u8], name: &str, sheet: &Sheet) -> Option<DocumentPlan> {
    let reading = Reading::default();
    let document = Document::open(bytes, name, reading)?;
    let options = PlanOptions {
        sheet,
        reading,
        repair: false,
    };
    Some(plan(&document, bytes, name, options))
}

/// Says how many references the document has that move.
fn obeys_the_law(bytes: &[u8], name: &str, sheet: &Sheet) -> usize {
    let Some(plan) = planned(bytes, name, sheet) else {
        return 0;
    };
    let Some(new) = plan.new else {
        assert!(plan.edits.is_empty(), "{name}: edits without a new copy");
        return 0;
    };
    assert_eq!(splice(bytes, &plan.edits), new, "{name}");
    let again = planned(&new, name, sheet).unwrap();
    assert!(again.edits.is_empty(), "{name}: {:?}", again.references);
    plan.edits.as_slice().len()
}

#[test]
fn the_corpus_obeys_the_law_as_every_format() {
    let mut sheet = Sheet::default();
    for one in [
        r"D:\Herbarium=H:\My Col\Herbarium",
        r"\\mossbank\press=\\fernhall\press",
    ] {
        sheet.add_move(one).unwrap();
    }
    let corpus = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz/corpus");
    let (mut files, mut edits) = (0, 0);
    for target in fs::read_dir(corpus).unwrap() {
        for seed in fs::read_dir(target.unwrap().path()).unwrap() {
            let bytes = fs::read(seed.unwrap().path()).unwrap();
            files += 1;
            for name in NAMES {
                edits += obeys_the_law(&bytes, name, &sheet);
            }
        }
    }
    assert!(
        files > 20 && edits > 100,
        "{files} seeds with {edits} edits say little"
    );
}

/// Inputs that once made a reader fail.
#[test]
fn what_fuzzing_found() {
    let sheet = Sheet::default();
    let found: [(&str, &[u8]); 2] = [
        ("a.txt", b"\xc3\xa9%3A%5CHerbarium"),
        ("a.yaml", b"a: D:\\Herbarium\nb: [\"D:\\\\Herb\\"),
    ];
    for (name, bytes) in found {
        assert!(planned(bytes, name, &sheet).is_some(), "{name}");
    }
}
