//! Documents, archives, property lists and shortcuts by their real writers: what is rewritten
//! holds what the same writers write for the new place, and every other byte stays.

use std::fs;
use std::io::{Cursor, Read};
use std::path::{Path, PathBuf};

use zip::ZipArchive;

use crate::desk::{Desk, archive, tree};

fn data(side: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR"))
        .join("tests/data/containers")
        .join(side)
}

/// Members that writers fill with the time of writing or with a picture of the content.
const OF_THEIR_TIME: [&str; 4] = [
    "docProps/core.xml",
    "meta.xml",
    "settings.xml",
    "Thumbnails/thumbnail.png",
];

fn members(bytes: &[u8]) -> Vec<(String, Vec<u8>)> {
    let mut archive = ZipArchive::new(Cursor::new(bytes)).unwrap();
    let mut all = Vec::new();
    for index in 0..archive.len() {
        let mut member = archive.by_index(index).unwrap();
        let mut content = Vec::new();
        member.read_to_end(&mut content).unwrap();
        all.push((member.name().to_owned(), content));
    }
    all
}

/// A document's text without its tags, so that where a string is cut does not matter.
fn without_tags(xml: &[u8]) -> String {
    let text = String::from_utf8(xml.to_vec()).unwrap();
    let mut parts = text.split(['<', '>']);
    let mut all = String::new();
    while let Some(text) = parts.next() {
        all.push_str(text);
        parts.next();
    }
    all
}

/// What an independent reader finds in a file.
fn read_by_another(name: &str, bytes: &[u8]) -> Vec<(String, Vec<u8>)> {
    let whole = |content: Vec<u8>| vec![(String::new(), content)];
    let all = |mut reader: Box<dyn Read + '_>| {
        let mut content = Vec::new();
        reader.read_to_end(&mut content).unwrap();
        whole(content)
    };
    match name.rsplit('.').next().unwrap() {
        "docx" | "xlsx" | "pptx" | "odt" | "ods" | "zip" => members(bytes)
            .into_iter()
            .filter(|(member, _)| !OF_THEIR_TIME.contains(&member.as_str()))
            .map(|(member, content)| {
                let cut = member.ends_with("document.xml") || member == "content.xml";
                let content = match (cut, member.ends_with(".zip")) {
                    (true, _) => without_tags(&content).into_bytes(),
                    (_, true) => format!("{:?}", members(&content)).into_bytes(),
                    _ => content,
                };
                (member, content)
            })
            .collect(),
        "plist" => {
            let value = plist::Value::from_reader(Cursor::new(bytes)).unwrap();
            let nested = value
                .as_dictionary()
                .and_then(|all| all.get("nested")?.as_data())
                .map(|data| plist::Value::from_reader(Cursor::new(data)).unwrap());
            let mut value = value;
            if let (Some(nested), Some(all)) = (nested, value.as_dictionary_mut()) {
                all.insert("nested".to_owned(), nested);
            }
            whole(format!("{value:?}").into_bytes())
        }
        "gz" => all(Box::new(flate2::read::GzDecoder::new(bytes))),
        "bz2" => all(Box::new(bzip2::read::BzDecoder::new(bytes))),
        "xz" => all(Box::new(liblzma::read::XzDecoder::new(bytes))),
        "zz" => all(Box::new(flate2::read::ZlibDecoder::new(bytes))),
        "dat" => {
            let inner = all(Box::new(flate2::read::ZlibDecoder::new(&bytes[4..])));
            let length = u32::from_be_bytes(bytes[..4].try_into().unwrap());
            assert_eq!(
                length as usize,
                inner[0].1.len(),
                "the length before the stream"
            );
            inner
        }
        _ => whole(bytes.to_vec()),
    }
}

fn rewritten() -> (Desk, Vec<(PathBuf, Vec<u8>)>) {
    let desk = Desk::new();
    for (name, content) in tree(&data("in")) {
        desk.put(&format!("files/{}", name.display()), content);
    }
    let before = tree(&desk.path("files"));
    desk.rewrite(&[]).ends_with(0);
    (desk, before)
}

#[test]
fn they_become_what_their_writers_write_for_the_new_place_and_go_back() {
    let (desk, before) = rewritten();
    let expected = tree(&data("out"));
    let got = tree(&desk.path("files"));
    assert!(got.len() >= 19 && got.len() == expected.len());
    for ((name, got), (_, expected)) in got.iter().zip(&expected) {
        let name = name.to_string_lossy().into_owned();
        // Those have tests of their own: catalogs.rs, and `shortcuts_are_consistent`.
        if name.ends_with(".sqlite") || name.ends_with(".lnk") {
            continue;
        }
        let (got, expected) = (
            read_by_another(&name, got),
            read_by_another(&name, expected),
        );
        assert_eq!(got.len(), expected.len(), "{name}");
        for ((member, got), (_, expected)) in got.iter().zip(&expected) {
            assert!(
                got == expected,
                "{name} {member}:\n{}\n{}",
                String::from_utf8_lossy(got),
                String::from_utf8_lossy(expected)
            );
        }
    }
    desk.restore(&[]).ends_with(0);
    assert!(tree(&desk.path("files")) == before);
}

#[test]
fn members_that_do_not_change_are_copied_raw() {
    let (desk, before) = rewritten();
    for (name, old) in before {
        let name = format!("files/{}", name.display());
        if !old.starts_with(b"PK") {
            continue;
        }
        let new = desk.read(&name);
        let mut was = ZipArchive::new(Cursor::new(&old)).unwrap();
        let mut is = ZipArchive::new(Cursor::new(&new)).unwrap();
        assert_eq!(was.len(), is.len());
        assert_eq!(was.comment(), is.comment());
        let (contents_before, contents_after) = (members(&old), members(&new));
        let mut copied = 0;
        for index in 0..was.len() {
            let mut raw = [Vec::new(), Vec::new()];
            let mut heads = Vec::new();
            for (archive, raw) in [&mut was, &mut is].into_iter().zip(&mut raw) {
                let mut member = archive.by_index_raw(index).unwrap();
                member.read_to_end(raw).unwrap();
                heads.push(format!(
                    "{} {:?} {:?} {:?} {:?}",
                    member.name(),
                    member.compression(),
                    member.last_modified(),
                    member.extra_data(),
                    member.unix_mode()
                ));
            }
            assert_eq!(heads[0], heads[1], "{name}");
            if contents_before[index].1 == contents_after[index].1 {
                assert!(raw[0] == raw[1], "{name} {}", contents_before[index].0);
                copied += 1;
            }
        }
        assert!(copied > 0 && copied < was.len(), "{name}");
        let stored_first = contents_before[0].0 == "mimetype";
        assert!(!stored_first || new[30..38] == *b"mimetype");
    }
}

/// The paths that a shortcut's parts tell, by the program itself.
fn parts_of(desk: &Desk, name: &str) -> Vec<(String, String)> {
    let explained = desk
        .run(["explain", name, "--format", "json"])
        .ends_with(0)
        .json();
    let references = explained["references"].as_array().unwrap().iter();
    let text = |value: &serde_json::Value| value.as_str().unwrap_or_default().to_owned();
    references
        .map(|one| (text(&one["site"]), text(&one["place"])))
        .collect()
}

#[test]
fn shortcuts_are_consistent() {
    let (desk, _) = rewritten();
    let parts = parts_of(&desk, "files/printer.lnk");
    let under = |rest: &str| format!(r"H:\Collections\Herbarium\{rest}");
    let expected = [
        ("item list", under(r"Labels\printer.exe")),
        ("working folder", under("Labels")),
        ("arguments", under(r"Labels\narrow.lbl")),
        ("icon", under(r"Labels\linden-leaf.ico")),
    ];
    let expected: Vec<(String, String)> = expected
        .map(|(site, place)| (site.to_owned(), place))
        .to_vec();
    assert_eq!(parts, expected);
    // Of the system's own: link information, item list and twins, tracker and all.
    for name in ["shell-local.lnk", "shell-share.lnk"] {
        let from = Path::new(env!("CARGO_MANIFEST_DIR"))
            .join("tests/data/shortcuts")
            .join(name);
        let old = fs::read(from).unwrap();
        desk.put(&format!("files/{name}"), &old);
    }
    desk.rewrite(&["--move", r"\\mossbank\press=\\fernhall\press"])
        .ends_with(0);
    for (name, place) in [
        (
            "shell-local.lnk",
            r"H:\Collections\Herbarium\Labels\narrow.lbl",
        ),
        ("shell-share.lnk", r"\\fernhall\press\scans\index.txt"),
    ] {
        let parts = parts_of(&desk, &format!("files/{name}"));
        let targets: Vec<&String> = parts
            .iter()
            .filter(|(site, _)| site == "target")
            .map(|(_, place)| place)
            .collect();
        assert_eq!(targets, [place], "{name}");
        assert!(
            parts.iter().all(|(site, _)| site != "item list"),
            "both ways lead to one place: {parts:?}"
        );
        let bytes = desk.read(&format!("files/{name}"));
        let wide = |text: &str| {
            text.encode_utf16()
                .flat_map(u16::to_le_bytes)
                .collect::<Vec<u8>>()
        };
        for old in ["mossbank", r"D:\Herbarium"] {
            let holds = |needle: &[u8]| bytes.windows(needle.len()).any(|w| w == needle);
            assert!(
                !holds(old.as_bytes()) && !holds(&wide(old)),
                "{name} still names {old}"
            );
        }
    }
}

#[test]
fn what_is_signed_or_encrypted_is_sealed() {
    let rels = br#"<r><a Target="file:///D:/Herbarium/x.png"/></r>"#;
    let manifest = br#"<m><manifest:encryption-data/></m>"#;
    let desk = Desk::new()
        .file(
            "files/signed.docx",
            archive(&[
                ("_xmlsignatures/sig1.xml", b"<s/>"),
                ("word/_rels/document.xml.rels", rels),
            ]),
        )
        .file(
            "files/signed.odt",
            archive(&[
                ("mimetype", b"x"),
                ("META-INF/documentsignatures.xml", b"<s/>"),
                ("content.xml", rels),
            ]),
        )
        .file(
            "files/locked.odt",
            archive(&[
                ("META-INF/manifest.xml", manifest),
                ("content.xml", b"\x01\x02"),
            ]),
        )
        .file(
            "files/old.doc",
            [
                b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1\0\0",
                &br"D:\Herbarium\Letters"[..],
                &[0, 0, 1],
            ]
            .concat(),
        )
        .file(
            "files/password.docx",
            [
                &b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1\0"[..],
                &"EncryptedPackage"
                    .encode_utf16()
                    .flat_map(u16::to_le_bytes)
                    .collect::<Vec<u8>>(),
            ]
            .concat(),
        )
        .file(
            "files/handout.pdf",
            fs::read(data("../portable/object-stream.pdf")).unwrap(),
        );
    let before = tree(&desk.path("files"));
    let ran = desk
        .with_move("preview", &["--format", "json"])
        .ends_with(1);
    let report = ran.json();
    assert_eq!(report["totals"]["sealed"], 4, "{report:#}");
    let left = report["left"].as_array().unwrap();
    let encrypted = |one: &serde_json::Value| one["why"].as_str().unwrap().contains("encrypted");
    assert!(left.len() == 2 && left.iter().all(encrypted), "{left:?}");
    desk.rewrite(&[]).ends_with(1);
    assert!(tree(&desk.path("files")) == before);
    let ran = desk.with_move("check", &[]).ends_with(1);
    assert!(
        ran.out.contains("old.doc") && ran.out.contains("byte 10"),
        "{}",
        ran.out
    );
}

#[test]
fn text_that_is_cut_into_runs_reads_as_one() {
    let word = |runs: &[&str]| {
        let runs: Vec<String> = runs
            .iter()
            .map(|run| format!("<w:r><w:rPr><w:b w:val=\"0\"/></w:rPr><w:t>{run}</w:t></w:r>"))
            .collect();
        archive(&[(
            "word/document.xml",
            format!(
                "<w:document xmlns:w=\"http://w\"><w:body><w:p>{}</w:p></w:body></w:document>",
                runs.concat()
            )
            .as_bytes(),
        )])
    };
    let cases: [(&[&str], &[&str]); 5] = [
        (
            &["see D:\\Her", "bar", "ium\\a.tif"],
            &["see H:\\Collections\\Herbarium", "", "\\a.tif"],
        ),
        (&["D", ":\\Herbarium"], &["H:\\Collections\\Herbarium", ""]),
        (&["D:\\Herb", "ariums\\x"], &["D:\\Herb", "ariums\\x"]),
        (
            &["a &amp; D:\\Herbarium\\", "x"],
            &["a &amp; H:\\Collections\\Herbarium\\", "x"],
        ),
        (
            &["D:\\Herbarium\\a, D:\\Her", "barium\\b"],
            &[
                "H:\\Collections\\Herbarium\\a, H:\\Collections\\Herbarium",
                "\\b",
            ],
        ),
    ];
    for (before, after) in cases {
        let desk = Desk::new().file("files/a.docx", word(before));
        assert!(desk.rewrite(&[]).code < 2);
        let (got, expected) = (members(&desk.read("files/a.docx")), members(&word(after)));
        assert_eq!(
            String::from_utf8_lossy(&got[0].1),
            String::from_utf8_lossy(&expected[0].1)
        );
    }
}

#[test]
fn what_is_cut_by_something_that_is_no_text_is_reported() {
    let run = |text: &str| format!("<w:r><w:t>{text}</w:t></w:r>");
    let deleted = "<w:del><w:r><w:delText>old</w:delText></w:r></w:del>";
    let note = "<w:r><w:footnoteReference w:id=\"2\"/></w:r>";
    let cases = [
        (run("see D:\\Her") + deleted + &run("barium\\a"), 0, 1),
        (
            run("see D:\\Herbarium\\a") + note + &run("b and D:\\Herbarium\\c"),
            2,
            0,
        ),
        (
            run("see D:\\Herbarium\\a") + deleted + &run(" and so on"),
            1,
            0,
        ),
        (
            run("D:\\Her") + "<w:r><w:tab/></w:r>" + &run("barium\\a"),
            0,
            0,
        ),
    ];
    for (paragraph, moved, sealed) in cases {
        let xml = format!("<w:document xmlns:w=\"http://w\"><w:p>{paragraph}</w:p></w:document>");
        let desk = Desk::new().file(
            "files/a.docx",
            archive(&[("word/document.xml", xml.as_bytes())]),
        );
        let report = desk.rewrite(&["--format", "json"]).json();
        let totals = &report["totals"];
        assert_eq!(
            (totals["to_move"].as_u64(), totals["sealed"].as_u64()),
            (Some(moved), Some(sealed)),
            "{xml}: {report:#}"
        );
        let after = members(&desk.read("files/a.docx"));
        assert_eq!(after[0].1 != xml.as_bytes(), moved > 0, "{xml}");
        let check = desk.with_move("check", &["--format", "json"]).json();
        assert_eq!(
            check["totals"]["leftover"].as_u64(),
            Some(sealed),
            "{check:#}"
        );
    }
}

#[test]
fn field_codes_connections_and_relationships_of_office_documents() {
    // Where it is, as it is, and as it will be; none if it stays.
    let cases: [(&str, &str, Option<&str>); 8] = [
        (
            "word/document.xml",
            r#"<w:p xmlns:w="w"><w:r><w:instrText> INCLUDEPICTURE "D:\\Herb</w:instrText></w:r><w:r><w:instrText>arium\\leaf.png" \d </w:instrText></w:r></w:p>"#,
            Some(
                r#"<w:p xmlns:w="w"><w:r><w:instrText> INCLUDEPICTURE "H:\\My Collections\\Herbarium</w:instrText></w:r><w:r><w:instrText>\\leaf.png" \d </w:instrText></w:r></w:p>"#,
            ),
        ),
        (
            "word/document.xml",
            r#"<w:fldSimple w:instr=" LINK Sheet &quot;D:\\Herbarium\\a b.xlsx&quot; &quot;S!R1C1&quot; \a \p "/>"#,
            Some(
                r#"<w:fldSimple w:instr=" LINK Sheet &quot;H:\\My Collections\\Herbarium\\a b.xlsx&quot; &quot;S!R1C1&quot; \a \p "/>"#,
            ),
        ),
        // Without quotes it would need some.
        (
            "word/document.xml",
            r#"<w:fldSimple w:instr=" INCLUDETEXT D:\\Herbarium\\a.txt "/>"#,
            None,
        ),
        (
            "word/_rels/settings.xml.rels",
            r#"<r Target="file:///D:\Herbarium\head%20of.dotm"/>"#,
            Some(r#"<r Target="file:///H:\My%20Collections\Herbarium\head%20of.dotm"/>"#),
        ),
        (
            "word/_rels/settings.xml.rels",
            r#"<r Target="file:///\\mossbank\press\list.csv"/>"#,
            Some(r#"<r Target="file:///\\fernhall\press\list.csv"/>"#),
        ),
        (
            "xl/connections.xml",
            r#"<dbPr connection="DSN=Files;DBQ=D:\Herbarium\counts.xlsx;DefaultDir=D:\Herbarium;DriverId=1046;"/>"#,
            Some(
                r#"<dbPr connection="DSN=Files;DBQ=H:\My Collections\Herbarium\counts.xlsx;DefaultDir=H:\My Collections\Herbarium;DriverId=1046;"/>"#,
            ),
        ),
        (
            "xl/connections.xml",
            r#"<dbPr command="SELECT * FROM `D:\Herbarium\counts.xlsx`.`Sheet1$`"/>"#,
            Some(
                r#"<dbPr command="SELECT * FROM `H:\My Collections\Herbarium\counts.xlsx`.`Sheet1$`"/>"#,
            ),
        ),
        (
            "xl/worksheets/sheet1.xml",
            r#"<worksheet><c><f>'D:\Herbarium\[b.xlsx]S'!A1+HYPERLINK("D:\Herbarium\x")</f></c></worksheet>"#,
            Some(
                r#"<worksheet><c><f>'H:\My Collections\Herbarium\[b.xlsx]S'!A1+HYPERLINK("H:\My Collections\Herbarium\x")</f></c></worksheet>"#,
            ),
        ),
    ];
    for (member, before, after) in cases {
        let desk = Desk::new().file("files/a.docx", archive(&[(member, before.as_bytes())]));
        let ran = desk.run([
            "rewrite",
            "files",
            "--move",
            r"D:\Herbarium=H:\My Collections\Herbarium",
            "--move",
            r"\\mossbank\press=\\fernhall\press",
            "--yes",
            "--anyway",
            "--record-dir",
            "records",
        ]);
        assert_eq!(
            ran.code,
            i32::from(after.is_none()),
            "{before}: {}",
            ran.out
        );
        let got = members(&desk.read("files/a.docx"));
        let got = String::from_utf8_lossy(&got[0].1).into_owned();
        assert_eq!(got, after.unwrap_or(before));
    }
}

#[test]
fn a_new_place_that_would_end_the_string_it_stands_in_is_a_doubt() {
    let formula = br"<f>'D:\Herbarium\[b.xlsx]S'!A1</f>";
    let connection = br#"<a connection="DSN=F;DBQ=D:\Herbarium\c.xlsx;"/>"#;
    for (member, content, new) in [
        ("xl/sheet.xml", &formula[..], r"H:\Linden's"),
        ("xl/connections.xml", &connection[..], r"H:\a;b"),
        ("xl/connections.xml", &connection[..], r"H:\Linden's"),
    ] {
        let desk = Desk::new().file("files/a.xlsx", archive(&[(member, content)]));
        let before = desk.read("files/a.xlsx");
        let moved = format!(r"D:\Herbarium={new}");
        let arguments = ["rewrite", "files", "--move", &moved, "--yes", "--anyway"];
        let ran = desk
            .run(arguments.into_iter().chain(["--record-dir", "records"]))
            .ends_with(1);
        assert!(ran.out.contains("1 doubtful"), "{}", ran.out);
        assert!(desk.read("files/a.xlsx") == before);
    }
}
