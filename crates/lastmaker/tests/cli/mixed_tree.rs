//! A tree of two thousand files in every format, with every spelling, and decoys in each: every
//! reference right, not one byte elsewhere.

use std::collections::BTreeSet;

use crate::desk::{Desk, tree};
use crate::documents::{KINDS, Kind, MORE_KINDS};
use crate::spellings::{DECOYS, SPELLINGS, Side, Spelling, back};

const FILES: usize = 2_000;

const TO_DRIVE: &str = r"[[move]]
from = 'D:\Herbarium'
to = 'H:\Collections\Herbarium'
also = ['S:\', 'D:\HERBAR~1', '\\mossbank\D$\Herbarium']
[[move]]
from = '\\mossbank\press'
to = '\\fernhall\press'
[variables]
DATA = 'D:\'
PRESS = 'D:\Herbarium'
";

const TO_POSIX: &str = r"[[move]]
from = 'D:\Herbarium'
to = '/srv/herbarium'
also = ['S:\', 'D:\HERBAR~1', '\\mossbank\D$\Herbarium']
[[move]]
from = '\\mossbank\press'
to = '/srv/press'
[variables]
DATA = 'D:\'
PRESS = 'D:\Herbarium'
";

const BACK: &str = r"[[move]]
from = '/srv/herbarium'
to = 'D:\Herbarium'
[[move]]
from = '/srv/press'
to = '\\mossbank\press'
";

/// The files with their places as `spell` has them: in each some spellings that its format can
/// hold, and decoys between them.
fn files(spell: &dyn Fn(Spelling) -> String) -> Vec<(String, Vec<u8>)> {
    let mut spelled = 0;
    let mut all = Vec::new();
    for index in 0..FILES {
        let kind = &KINDS[index % KINDS.len()];
        let mut values = Vec::new();
        let mut tried = 0;
        while values.len() < 6 && tried < 3 * SPELLINGS.len() {
            let spelling: Spelling = SPELLINGS[spelled % SPELLINGS.len()];
            spelled += 1;
            tried += 1;
            // What a file holds is settled by how it stands before anything moves.
            if kind.holds(&spelling(Side::Old)) {
                values.push(spell(spelling));
            }
            if values.len() % 2 == 1 {
                values.push(DECOYS[(index + tried) % DECOYS.len()].to_owned());
            }
        }
        let name = format!("{:02}/{index:04}.{}", index % 37, kind.ending);
        all.push((name, kind.document(&values)));
    }
    all
}

fn desk(sheet: &str) -> Desk {
    let desk = Desk::new();
    for (name, content) in files(&|spelling| spelling(Side::Old)) {
        desk.put(&format!("files/{name}"), content);
    }
    desk.put("moves.toml", sheet);
    desk
}

/// Compares the tree with what is expected, and shows the lines that differ.
#[track_caller]
fn expect(desk: &Desk, spell: &dyn Fn(Spelling) -> String) {
    let mut wrong = Vec::new();
    for (name, expected) in files(spell) {
        let got = desk.read(&format!("files/{name}"));
        if got != expected {
            let (got, expected) = (readable(&got), readable(&expected));
            let lines = got.lines().zip(expected.lines());
            let line = lines
                .filter(|(a, b)| a != b)
                .map(|(a, b)| format!("  got  {a}\n  want {b}"));
            wrong.push(format!("{name}\n{}", line.collect::<Vec<_>>().join("\n")));
        }
    }
    assert!(
        wrong.is_empty(),
        "{} files are not as they should be:\n{}",
        wrong.len(),
        wrong[..wrong.len().min(60)].join("\n")
    );
}

fn readable(bytes: &[u8]) -> String {
    match bytes.strip_prefix(&[0xFF, 0xFE]) {
        Some(wide) => wide
            .chunks_exact(2)
            .map(|unit| char::from_u32(u32::from(unit[0]) | u32::from(unit[1]) << 8).unwrap_or('?'))
            .collect(),
        None => String::from_utf8_lossy(bytes).into_owned(),
    }
}

fn rewrite(desk: &Desk) {
    let ran = desk.run([
        "rewrite",
        "files",
        "--yes",
        "--anyway",
        "--record-dir",
        "records",
        "-q",
    ]);
    assert!(ran.code < 2, "{}", ran.err);
}

fn preview(desk: &Desk) -> serde_json::Value {
    let preview = [
        "preview",
        "files",
        "--record-dir",
        "records",
        "--format",
        "json",
    ];
    desk.run(preview).json()
}

#[test]
fn every_reference_is_right_and_not_one_byte_elsewhere() {
    let desk = desk(TO_DRIVE);
    let before = tree(&desk.path("files"));
    rewrite(&desk);
    expect(&desk, &|spelling| spelling(Side::Drive));
    // A second run finds nothing.
    assert_eq!(preview(&desk)["totals"]["to_move"], 0);
    desk.restore(&[]).ends_with(0);
    assert!(tree(&desk.path("files")) == before, "it does not go back");
}

#[test]
fn to_the_other_family_and_back() {
    let desk = desk(TO_POSIX);
    rewrite(&desk);
    expect(&desk, &|spelling| spelling(Side::Posix));
    desk.put("moves.toml", BACK);
    rewrite(&desk);
    expect(&desk, &|spelling| back(&spelling(Side::Posix)));
}

#[test]
fn every_format_is_in_a_tree() {
    let desk = Desk::new();
    desk.put("moves.toml", TO_DRIVE);
    // What a file holds is settled by how it is written before anything moves.
    let document = |kind: &Kind, side| {
        let held = SPELLINGS.iter().filter(|one| kind.holds(&one(Side::Old)));
        kind.document(&held.map(|one| one(side)).collect::<Vec<_>>())
    };
    for kind in KINDS.iter().chain(&MORE_KINDS) {
        desk.put(
            &format!("files/a.{}", kind.ending),
            document(kind, Side::Old),
        );
    }
    let report = preview(&desk);
    let references = report["references"].as_array().unwrap().iter();
    let seen: BTreeSet<&str> = references
        .map(|one| one["format"].as_str().unwrap())
        .collect();
    let formats = desk
        .run(["formats", "--format", "json"])
        .ends_with(0)
        .json();
    for format in formats["formats"].as_array().unwrap() {
        let name = format["name"].as_str().unwrap();
        assert!(seen.contains(name), "no file of the tree is {name}");
    }
    rewrite(&desk);
    for kind in &MORE_KINDS {
        let name = format!("files/a.{}", kind.ending);
        let (got, expected) = (desk.read(&name), document(kind, Side::Drive));
        assert!(
            got == expected,
            "{name}:\n{}\n{}",
            readable(&got),
            readable(&expected)
        );
    }
}
