//! What fuzzing starts from, and what it found, against the law: outside the edits nothing
//! changes, and a second run changes nothing.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::disallowed_methods,
    reason = "these are tests"
)]

use std::collections::BTreeSet;
use std::fs;
use std::path::Path;

use lastmaker_core::container::{CONTAINERS, recognise};
use lastmaker_core::format::FORMATS;

#[expect(
    dead_code,
    unreachable_pub,
    reason = "the fuzz targets call what this test does not"
)]
#[path = "../../../fuzz/src/lib.rs"]
mod oracle;

use oracle::{container_reads_what_it_writes, edits_by_the_law};

/// The file names of every format's samples.
fn names() -> Vec<&'static str> {
    let samples = FORMATS.iter().flat_map(|format| format.samples());
    let mut names: Vec<_> = samples.map(|sample| sample.file).collect();
    names.sort_unstable();
    names.dedup();
    names
}

#[test]
fn the_corpus_obeys_the_law_as_every_format() {
    let corpus = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz/corpus");
    let (mut files, mut edits) = (0, 0);
    for target in fs::read_dir(corpus).unwrap() {
        for seed in fs::read_dir(target.unwrap().path()).unwrap() {
            let bytes = fs::read(seed.unwrap().path()).unwrap();
            files += 1;
            for name in names() {
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

/// Containers that are read and listed only.
const NEVER_CHANGED: [&str; 2] = ["pdf", "encrypted-document"];

#[test]
fn containers_of_the_corpus_read_what_they_write() {
    let corpus = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz/corpus/containers");
    let mut seen = BTreeSet::new();
    for seed in fs::read_dir(corpus).unwrap() {
        let path = seed.unwrap().path();
        let bytes = fs::read(&path).unwrap();
        let name = path.file_name().unwrap().to_string_lossy().into_owned();
        let container = recognise(&bytes, &name).expect("a container");
        seen.insert(container.name());
        let changes = !NEVER_CHANGED.contains(&container.name());
        assert_eq!(container_reads_what_it_writes(&bytes), changes, "{name}");
    }
    for container in CONTAINERS {
        assert!(
            seen.contains(container.name()),
            "the corpus has no {}",
            container.name()
        );
    }
}
