//! Containers that are meant to do harm, or that harm has come to: a clear line each, bounded
//! time and memory, and the rest goes on.

use std::io::Write;

use flate2::Compression;
use flate2::write::GzEncoder;

use crate::desk::{Desk, archive, tree};

const SETTINGS: &[u8] = br"[a]
root=D:\Herbarium\Sheets
";

/// A gzip file of many zeros, packed a thousand to one.
fn zeros(mebibytes: usize) -> Vec<u8> {
    let mut packer = GzEncoder::new(Vec::new(), Compression::best());
    let block = vec![0; 1 << 20];
    for _ in 0..mebibytes {
        packer.write_all(&block).unwrap();
    }
    packer.finish().unwrap()
}

fn patched(mut bytes: Vec<u8>, needle: &[u8], offset: usize, with: &[u8]) -> Vec<u8> {
    let at = bytes
        .windows(needle.len())
        .rposition(|window| window == needle)
        .unwrap()
        + offset;
    bytes[at..at + with.len()].copy_from_slice(with);
    bytes
}

#[test]
fn each_gets_a_line_and_the_rest_goes_on() {
    let plain = archive(&[("a.ini", SETTINGS), ("b.txt", b"b")]);
    let bomb = archive(&[("a.ini", SETTINGS), ("zeros", &vec![0; 3 << 20])]);
    let mut deep = archive(&[("a.ini", SETTINGS)]);
    for _ in 0..6 {
        deep = archive(&[("inner.zip", &deep)]);
    }
    // The directory's second entry points at the first member.
    let overlapping = {
        let second = plain
            .windows(4)
            .enumerate()
            .filter(|(_, w)| *w == b"PK\x01\x02")
            .nth(1)
            .unwrap()
            .0;
        let mut bytes = plain.clone();
        bytes[second + 42..second + 46].copy_from_slice(&[0; 4]);
        bytes
    };
    let wrong = patched(plain.clone(), b"PK\x01\x02", 16, &[1, 2, 3, 4]);
    let method = patched(
        patched(plain.clone(), b"PK\x01\x02", 10, &[99, 0]),
        b"PK\x03\x04",
        8,
        &[99, 0],
    );
    let sqlite = [
        b"SQLite format 3\0\x10\0\x01\x01\0\x40\x20\x20".to_vec(),
        vec![7; 4096],
        SETTINGS.to_vec(),
    ]
    .concat();
    let link = [
        &b"\x4c\0\0\0\x01\x14\x02\0\0\0\0\0\xc0\0\0\0\0\0\0\x46\xff\0\0\0"[..],
        &[0x41; 90],
        br"D:\Herbarium",
    ]
    .concat();
    let list = [&b"bplist00"[..], br"D:\Herbarium", &[0xff; 40]].concat();
    let cases: [(&str, Vec<u8>, &str); 14] = [
        ("bomb.zip", bomb, "unpacked it is larger than"),
        ("bomb.gz", zeros(40), "unpacked it is larger than"),
        ("deep.zip", deep, "containers deep"),
        (
            "overlapping.zip",
            overlapping,
            "its directory does not fit its members",
        ),
        ("cut.zip", plain[..plain.len() - 30].to_vec(), "cut short"),
        (
            "climbing.zip",
            archive(&[("../../a.ini", SETTINGS)]),
            "climbs out of the archive",
        ),
        (
            "checksum.zip",
            wrong,
            "its checksum is not that of its content",
        ),
        ("method.zip", method, "which is not read"),
        ("damaged.sqlite", sqlite, "the database cannot be read"),
        ("torn.lnk", link, "the shortcut is cut short"),
        ("torn.plist", list, "the property list is cut short"),
        ("torn.gz", zeros(1)[..500].to_vec(), "does not unpack"),
        (
            "locked.pdf",
            b"%PDF-1.7\ntrailer << /Encrypt 5 0 R >>".to_vec(),
            "it is encrypted",
        ),
        (
            "linked.pdf",
            br"%PDF-1.4
1 0 obj << /A << /S /Launch /F (D:\\Herbarium\\Maps\\base.map) >> >> endobj"
                .to_vec(),
            "counted",
        ),
    ];
    let mut desk = Desk::new()
        .file("files/good.ini", SETTINGS)
        .file("files/good.zip", &plain);
    for (name, content, _) in &cases {
        desk = desk.file(&format!("files/{name}"), content);
    }
    let before = tree(&desk.path("files"));
    let ran = desk
        .rewrite(&["--max-document", "2", "--format", "json"])
        .ends_with(1);
    let report = ran.json();
    for (name, content, why) in &cases {
        let of_file = |one: &&serde_json::Value| one["file"].as_str().unwrap().ends_with(name);
        let left = report["left"].as_array().unwrap().iter();
        let references = report["references"].as_array().unwrap().iter();
        let told: Vec<String> = left
            .chain(references)
            .filter(of_file)
            .map(|one| one["why"].as_str().unwrap_or("").to_owned())
            .collect();
        assert!(
            told.iter().any(|line| line.contains(why)),
            "{name}: {told:?}"
        );
        let safe = *name == "checksum.zip" || *name == "method.zip";
        assert!(
            safe || desk.read(&format!("files/{name}")) == *content,
            "{name} was changed"
        );
    }
    // The good ones, and the two of whose members only another one is at fault.
    assert_eq!(report["done"]["rewritten_files"], 4);
    desk.restore(&[]).ends_with(0);
    assert!(tree(&desk.path("files")) == before);
}

#[test]
fn entities_that_grow_without_end_are_not_expanded() {
    let mut text =
        String::from("<?xml version=\"1.0\"?><!DOCTYPE a [<!ENTITY e0 \"D:/Herbarium/x\">");
    for level in 1..30 {
        text.push_str(&format!(
            "<!ENTITY e{level} \"&e{0};&e{0};&e{0};\">",
            level - 1
        ));
    }
    text.push_str("]><a b=\"D:\\Herbarium\\y\">&e29;</a>");
    let desk = Desk::new().file("files/a.odt", archive(&[("content.xml", text.as_bytes())]));
    let ran = desk.rewrite(&["--format", "json"]).ends_with(0);
    assert_eq!(ran.json()["done"]["rewritten_references"], 2);
}

#[test]
fn a_schema_that_grows_without_end_costs_nothing() {
    let desk = Desk::new().file("files/good.ini", SETTINGS);
    let database = rusqlite::Connection::open(desk.path("files/a.sqlite")).unwrap();
    database
        .execute_batch(
            r"CREATE TABLE g(a TEXT); INSERT INTO g VALUES ('D:\Herbarium\g');
              CREATE INDEX i ON g(hex(zeroblob(length(a) * 1)));
              PRAGMA writable_schema = on;
              UPDATE sqlite_schema SET sql = replace(sql, '* 1', '* 40000000') WHERE name = 'i';",
        )
        .unwrap();
    database.close().unwrap();
    let before = desk.read("files/a.sqlite");
    let ran = desk.rewrite(&["--format", "json"]).ends_with(1);
    assert_eq!(ran.json()["totals"]["sealed"], 1);
    assert_eq!(ran.json()["done"]["rewritten_files"], 1);
    assert!(desk.read("files/a.sqlite") == before);
}
