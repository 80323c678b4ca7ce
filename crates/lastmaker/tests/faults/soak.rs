//! Random trees, sheets and ways back, one after the other on the same files, compared byte for
//! byte.

use std::fs;
use std::process::Command;

use crate::tree::{Tree, look};
use crate::{Desk, difference, expect_code, plain};

/// Numbers that come out the same each time (xorshift, Marsaglia 2003).
struct Numbers(u64);

impl Numbers {
    fn below(&mut self, end: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 % end as u64) as usize
    }

    fn of<'t>(&mut self, all: &[&'t str]) -> &'t str {
        all[self.below(all.len())]
    }
}

const PLACES: [&str; 5] = [
    r"D:\Herbarium",
    r"E:\Loans",
    r"F:\Maps\Old",
    "/srv/herbarium",
    r"\\mossbank\press",
];
const MOVES: [&str; 5] = [
    r"D:\Herbarium=H:\Collections\Herbarium",
    r"E:\Loans=L:\Loans",
    r"F:\Maps\Old=M:\Karten",
    "/srv/herbarium=/data/herbarium",
    r"\\mossbank\press=\\fernhall\press",
];

/// Puts some more files into the tree.
fn grow(desk: &Desk, numbers: &mut Numbers, round: usize) {
    for number in 0..2 + numbers.below(6) {
        let place = numbers.of(&PLACES);
        let other = numbers.of(&PLACES);
        let tail = numbers.of(&["x", r"a\b", "Sheets", "1.tif"]);
        let (name, text) = match numbers.below(4) {
            0 => (
                "ini",
                format!("[a]\r\nroot={place}\\{tail}\r\nother={other}\r\n"),
            ),
            1 => {
                let value = serde_json::json!({ "places": [format!("{place}\\{tail}"), other], "n": round });
                ("json", value.to_string())
            }
            2 => ("txt", format!("see \"{place}\\{tail}\" and\n\"{other}\"\n")),
            _ => (
                "xml",
                format!("<a b=\"{place}\\{tail}\"><c>{other}</c></a>\n"),
            ),
        };
        let folder = desk
            .files()
            .join(numbers.of(&["", "one", "one/two", ".three"]));
        fs::create_dir_all(&folder).unwrap();
        fs::write(folder.join(format!("{round}-{number}.{name}")), text).unwrap();
    }
}

fn rewrite(desk: &Desk, moves: &[&str]) -> Command {
    let mut arguments = vec!["rewrite", "files", "--anyway", "--yes"];
    for one in moves {
        arguments.extend(["--move", one]);
    }
    desk.program(&arguments)
}

/// What is taken back of a rewrite, piece by piece, until all is.
fn way_back(desk: &Desk, numbers: &mut Numbers, moves: &[&str], old: &Tree) {
    let from = moves[0].split('=').next().unwrap().to_owned();
    let parts: [&[&str]; 4] = [
        &["--only", "*.ini"],
        &["--skip", "*.json"],
        &["--move-from", &from],
        &["files/one"],
    ];
    for _ in 0..numbers.below(3) {
        let part = parts[numbers.below(parts.len())];
        let mut command = desk.restore();
        if part[0] != "files/one" || desk.files().join("one").exists() {
            command.args(part);
            let (status, told) = plain(&mut command);
            assert!(
                status.code().is_some_and(|code| code <= 2),
                "{part:?} {told}"
            );
        }
    }
    let (_, told) = plain(&mut desk.restore());
    let differs = difference(&look(&desk.files()), old);
    assert!(differs.is_empty(), "{differs:#?}\n{told}");
}

fn rounds(count: usize, seed: u64) {
    let mut numbers = Numbers(seed);
    for round in 0..count {
        let desk = Desk::new();
        grow(&desk, &mut numbers, round);
        grow(&desk, &mut numbers, round + 1000);
        let first = numbers.below(MOVES.len());
        let moves: Vec<&str> = (0..1 + numbers.below(3))
            .map(|more| MOVES[(first + more) % MOVES.len()])
            .collect();
        let old = look(&desk.files());
        expect_code(&mut rewrite(&desk, &moves), &[0, 1]);
        let new = look(&desk.files());
        way_back(&desk, &mut numbers, &moves, &old);
        // Once more, and it comes out the same; nothing that moved is named any more.
        expect_code(&mut rewrite(&desk, &moves), &[0, 1]);
        let differs = difference(&look(&desk.files()), &new);
        assert!(differs.is_empty(), "round {round}: {differs:#?}");
        // Nothing names an old place any more but what is doubtful or kept.
        let mut check = desk.without_records(&["check", "files", "--no-sheet"]);
        for one in &moves {
            check.args(["--move", one]);
        }
        let (status, told) = plain(&mut check);
        assert!(status.code().is_some_and(|code| code <= 1), "{told}");
        // Where no file names a place that moved, there is nothing to take back.
        let changed = !difference(&new, &old).is_empty();
        expect_code(&mut desk.restore(), &[if changed { 0 } else { 2 }]);
        let differs = difference(&look(&desk.files()), &old);
        assert!(differs.is_empty(), "round {round}: {differs:#?}");
    }
}

#[test]
fn there_and_back_again() {
    rounds(8, 2026);
}

#[test]
#[ignore = "takes minutes; bench/faults runs it"]
fn there_and_back_again_many_times() {
    rounds(200, 1127);
}
