//! Whole-tool cases: folders with a sheet, the files before, and the files after as their
//! real writers write them.

use std::fs;
use std::path::{Path, PathBuf};

use crate::desk::{Desk, tree};

fn copy(from: &Path, to: &Path) {
    for (name, content) in tree(from) {
        let path = to.join(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, content).unwrap();
    }
}

#[test]
fn every_case_comes_out_as_its_writer_writes_it_and_goes_back() {
    let cases = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/data/cases");
    let mut folders: Vec<PathBuf> = fs::read_dir(cases)
        .unwrap()
        .map(|entry| entry.unwrap().path())
        .collect();
    folders.sort();
    assert!(folders.len() >= 18, "cases are missing");
    for case in folders {
        let name = case.file_name().unwrap().to_string_lossy().into_owned();
        let (before, after) = (tree(&case.join("in")), tree(&case.join("out")));
        assert!(
            !before.is_empty() && before.len() == after.len(),
            "{name} is half a case"
        );
        let desk = Desk::new();
        copy(&case.join("in"), &desk.path("files"));
        fs::copy(case.join("moves.toml"), desk.path("moves.toml")).unwrap();
        let ran = desk.run([
            "rewrite",
            "files",
            "--yes",
            "--anyway",
            // What a comma means to a program is not known; its writer wrote one.
            "--accept-reason",
            "special-letter",
            "--record-dir",
            "records",
        ]);
        assert!(ran.code < 2, "{name}: {}", ran.err);
        for ((file, got), (_, expected)) in tree(&desk.path("files")).iter().zip(&after) {
            assert!(
                got == expected,
                "{name}: {} differs: {}",
                file.display(),
                String::from_utf8_lossy(got)
            );
        }
        desk.restore(&[]).ends_with(0);
        assert!(
            tree(&desk.path("files")) == before,
            "{name} does not go back"
        );
    }
}
