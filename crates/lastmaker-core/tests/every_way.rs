//! Documents of every format, mutated, read in every way there is: whole, in portions, in windows, and by the
//! commands that tell of references.

#![allow(
    clippy::unwrap_used,
    clippy::disallowed_methods,
    reason = "these are tests"
)]

use std::fs;

use lastmaker_core::format::{FORMATS, Sample};
use lastmaker_core::sheet::Sheet;
use proptest::prelude::*;

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
