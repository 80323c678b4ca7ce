//! Documents of every format, mutated, read in every way there is: whole, in portions, in windows, and by the
//! commands that tell of references.

#![allow(
    clippy::unwrap_used,
    clippy::disallowed_methods,
    reason = "these are tests"
)]

use std::collections::BTreeSet;
use std::fs;

use lastmaker_core::format::{FORMATS, Sample};
use lastmaker_core::sheet::Sheet;
use proptest::prelude::*;

#[allow(
    unreachable_pub,
    reason = "the fuzz target calls it from another crate"
)]
#[path = "../../../fuzz/src/every_way.rs"]
mod every_way;

/// Strings for the samples of every format.
const PIECES: [&str; 24] = [
    r"D:\Herbarium\x",
    r"D:\\Herbarium\\a b.tif",
    "d:/herbarium/x",
    "/srv/herb/a",
    "/srv/herb",
    "cp /srv/herb/a /srv/herb* x",
    r"see D:\Herbarium, then",
    r"D:\Herbarium Old\z",
    r"D:\Herbarium & Co\x",
    r"\\mossbank\press\a",
    "file:///D:/Herbarium/a%20b",
    "?p=D%3A%5CHerbarium%5Cx&",
    "s:18:\"D:/Herbarium/a.txt\";",
    "a:1:{s:4:\"root\";s:18:\"D:/Herbarium/a.txt\";}",
    "--in D:\\Herbarium\\x -v",
    "H:\\Collections\\Herbarium\\x",
    "12\n/srv/herb/abc",
    "Content-Length: 12\n\n/srv/herb/ab",
    "-----BEGIN PGP SIGNED MESSAGE-----",
    "caf\u{e9} plain",
    "",
    "\n",
    "x \\\n",
    "'\"",
];

/// What a mutation puts in.
const NOISE: [&str; 16] = [
    "\"", "'", "\\", "\n", "{", "}", "(", ")", "[", ",", ";", "#", "<", "&", "%", "\u{e9}",
];

fn samples() -> Vec<Sample> {
    let all = FORMATS.iter().flat_map(|format| format.samples());
    all.copied().collect()
}

fn sheets() -> impl Strategy<Value = Sheet> {
    const MOVES: [[&str; 3]; 3] = [
        [
            r"D:\Herbarium=H:\Collections\Herbarium",
            "/srv/herb=/mnt/big/herb",
            r"\\mossbank\press=\\fernhall\press",
        ],
        [
            r"D:\Herbarium=H:\My Col (1) & x",
            "/srv/herb=/mnt/my herb's",
            r"\\mossbank\press=\\fernhall\press \u{e9}",
        ],
        [r"D:\=E:\", "/srv=/mnt/srv", r"\\mossbank\press=E:\press"],
    ];
    prop::sample::select(&MOVES[..]).prop_map(|moves| {
        let mut sheet = Sheet::default();
        for one in moves {
            sheet.add_move(one).unwrap();
        }
        sheet
    })
}

/// A document of a format with some strings in it, and a few letters that come, go or stand twice.
fn documents() -> impl Strategy<Value = (Vec<u8>, &'static str)> {
    let piece = prop::sample::select(&PIECES[..]);
    let mutation = (
        any::<prop::sample::Index>(),
        0usize..3,
        prop::sample::select(&NOISE[..]),
    );
    let parts = (
        prop::collection::vec(piece, 0..6),
        prop::collection::vec(mutation, 0..3),
        0usize..6,
    );
    (0..samples().len(), parts).prop_map(|(kind, (pieces, mutations, encoding))| {
        let sample = samples()[kind];
        let pieces: Vec<String> = pieces.into_iter().map(str::to_owned).collect();
        let mut text: Vec<char> = sample.document(&pieces).chars().collect();
        for (at, how, noise) in mutations {
            let at = at.index(text.len() + 1);
            match how {
                0 if at < text.len() => drop(text.remove(at)),
                1 if at < text.len() => text.insert(at, text[at]),
                _ => drop(text.splice(at..at, noise.chars())),
            }
        }
        let text: String = text.into_iter().collect();
        let bytes = match encoding {
            0 => {
                let units = "\u{feff}".encode_utf16().chain(text.encode_utf16());
                units.flat_map(u16::to_le_bytes).collect()
            }
            1 => text
                .chars()
                .map(|c| u8::try_from(c).unwrap_or(b'?'))
                .collect(),
            _ => text.into_bytes(),
        };
        (bytes, sample.file)
    })
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn whole_in_portions_and_in_windows((bytes, name) in documents(), sheet in sheets()) {
        every_way::planned_alike(&bytes, name, &sheet);
    }

    #[test]
    fn previewed_explained_and_checked((bytes, name) in documents(), sheet in sheets()) {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(&path, &bytes).unwrap();
        every_way::told_alike(&path, &sheet);
    }
}

/// Names that people give their folders, each with a letter that some syntax takes for something.
const NAMES: [&str; 24] = [
    "plain",
    "My Data",
    "a & b",
    "&Co",
    "it's",
    "sheets' end",
    "{draft}",
    "a^b",
    "#1",
    "a #1",
    "tool -b x",
    "a  b",
    "a, b",
    "(old)",
    "a (b",
    "a)",
    "=x",
    "+x",
    "@home",
    "a;b",
    "a~b",
    "50%",
    "a$",
    "[x]",
];

/// A name in a value is read to the end of the value, with a move as without one.
#[test]
fn a_name_is_read_alike_with_a_move_and_without() {
    let mut sheet = Sheet::default();
    for one in [r"D:\Old=E:\New", "/srv/old=/mnt/new"] {
        sheet.add_move(one).unwrap();
    }
    let folder = tempfile::tempdir().unwrap();
    let files = folder.path().join("files");
    let mut places = Vec::new();
    for (number, sample) in samples().into_iter().enumerate() {
        let document = sample.document(&["@".to_owned()]);
        // In running text nobody can tell where a name ends.
        if document.lines().any(|line| line == "@" || line == "# @") {
            continue;
        }
        // A remark may begin so, or a string that nothing ends.
        let is_open = |name: &&str| match sample.file {
            "crontab" | "a.sh" | "a.ps1" => name.contains('\''),
            _ => name.contains(" #"),
        };
        let names = NAMES.into_iter().filter(|name| !is_open(name));
        for (at, name) in names.enumerate() {
            // Each document names a place of its own.
            for root in ["D:/Old", "/srv/old"] {
                let place = format!("{root}/{number}-{at}/{name}/x");
                let path = files.join(places.len().to_string()).join(sample.file);
                fs::create_dir_all(path.parent().unwrap()).unwrap();
                fs::write(&path, sample.document(std::slice::from_ref(&place))).unwrap();
                places.push(place);
            }
        }
    }
    let (with, without) = every_way::named(&files, &sheet);
    // Where a move reads no more than a part, the syntax has its say.
    let whole = |one: &&String| places.contains(&one.replace('\\', "/"));
    let read: BTreeSet<&String> = with.iter().filter(whole).collect();
    let seen: BTreeSet<&String> = without.iter().collect();
    let differ: Vec<_> = read.difference(&seen).collect();
    assert!(read.len() > 1000, "{}", read.len());
    assert!(
        differ.is_empty(),
        "{} of {}: {differ:#?}",
        differ.len(),
        read.len()
    );
}
