//! What fuzzing starts from, and what it found, against the law: outside the edits nothing
//! changes, and a second run changes nothing.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::disallowed_methods,
    reason = "these are tests"
)]

use std::fs;
use std::path::Path;

#[expect(
    dead_code,
    unreachable_pub,
    reason = "the fuzz targets call what this test does not"
)]
#[path = "../../../fuzz/src/lib.rs"]
mod oracle;

use oracle::{container_reads_what_it_writes, edits_by_the_law};

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

#[test]
fn the_corpus_obeys_the_law_as_every_format() {
    let corpus = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz/corpus");
    let (mut files, mut edits) = (0, 0);
    for target in fs::read_dir(corpus).unwrap() {
        for seed in fs::read_dir(target.unwrap().path()).unwrap() {
            let bytes = fs::read(seed.unwrap().path()).unwrap();
            files += 1;
            for name in NAMES {
                edits += edits_by_the_law(&bytes, name).unwrap_or(0);
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
    let found: [(&str, &[u8]); 2] = [
        ("a.txt", b"\xc3\xa9%3A%5CHerbarium"),
        ("a.yaml", b"a: D:\\Herbarium\nb: [\"D:\\\\Herb\\"),
    ];
    for (name, bytes) in found {
        assert!(edits_by_the_law(bytes, name).is_some(), "{name}");
    }
}

#[test]
fn containers_of_the_corpus_read_what_they_write() {
    let corpus = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz/corpus/containers");
    let mut files = 0;
    for seed in fs::read_dir(corpus).unwrap() {
        let path = seed.unwrap().path();
        let changed = container_reads_what_it_writes(&fs::read(&path).unwrap());
        assert!(changed, "{}", path.display());
        files += 1;
    }
    assert!(files >= 11);
}
