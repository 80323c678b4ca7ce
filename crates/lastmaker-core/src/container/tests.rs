//! Containers against parts written by hand, and against damage anywhere in real ones.

use std::path::Path;

use proptest::prelude::*;

use super::*;
use crate::layer::splice;

/// The strings and documents of a container, each with the way to it.
fn parts(bytes: &[u8], name: &str) -> Result<Vec<(String, Vec<u8>)>, Fault> {
    let container = recognise(bytes, name).ok_or(Fault::Damaged("no container"))?;
    let mut all = Vec::new();
    let budget = Budget::new(1 << 22);
    let read = container.read(
        Source {
            bytes,
            name,
            budget: &budget,
        },
        &mut |part| {
            let content = match part.holding {
                PartContent::Document { bytes, .. } | PartContent::Text { bytes, .. } => {
                    bytes.to_vec()
                }
                PartContent::Unreadable(why) => why.to_string().into_bytes(),
            };
            all.push((part.way.to_owned(), content));
            Ok(())
        },
    );
    read.map(|()| all)
}

/// The container with new contents for the parts that `change` gives some.
fn lifted(
    bytes: &[u8],
    name: &str,
    change: impl Fn(&str, &[u8]) -> Option<Vec<u8>>,
) -> Result<Vec<u8>, LiftFault> {
    let container = recognise(bytes, name).unwrap();
    let all = parts(bytes, name)?;
    let new: Vec<NewPart> = all
        .iter()
        .enumerate()
        .filter_map(|(part, (way, content))| {
            Some(NewPart {
                part,
                content: change(way, content)?,
            })
        })
        .collect();
    let edits = container.lift(
        Source {
            bytes,
            name,
            budget: &Budget::new(1 << 22),
        },
        &new,
    )?;
    Ok(splice(bytes, &edits))
}

/// Every file that a real writer made.
fn samples() -> Vec<(String, Vec<u8>)> {
    let data = Path::new(env!("CARGO_MANIFEST_DIR")).join("../lastmaker/tests/data");
    let mut all = Vec::new();
    for folder in ["containers/in", "shortcuts"] {
        for entry in std::fs::read_dir(data.join(folder)).unwrap() {
            let path = entry.unwrap().path();
            let name = path.file_name().unwrap().to_string_lossy().into_owned();
            all.push((name, std::fs::read(path).unwrap()));
        }
    }
    all.sort();
    all
}

#[test]
fn nothing_new_changes_nothing_and_the_same_content_reads_the_same() {
    let samples = samples();
    assert!(samples.len() >= 21);
    for (name, bytes) in samples {
        assert!(
            lifted(&bytes, &name, |_, _| None).unwrap() == bytes,
            "{name}"
        );
        let before = parts(&bytes, &name).unwrap();
        assert!(!before.is_empty(), "{name}");
        // A part is written as it was, and then with something more in it.
        let longer = |content: &[u8]| [content, b"x"].concat();
        let text = |content: &[u8]| !content.is_empty() && std::str::from_utf8(content).is_ok();
        for (way, content) in &before {
            if !text(content) {
                continue;
            }
            let change = |at: &str, was: &[u8]| (at == way && was == content).then(|| longer(was));
            let Ok(new) = lifted(&bytes, &name, change) else {
                continue;
            };
            let after = parts(&new, &name).unwrap_or_else(|why| panic!("{name} {way}: {why}"));
            assert_eq!(before.len(), after.len(), "{name} {way}");
            let changed = |(_, now): &(String, Vec<u8>)| *now == longer(content);
            assert!(after.iter().any(changed), "{name} {way}");
        }
    }
}

#[test]
fn containers_are_told_by_their_content() {
    let cases: [(&[u8], Option<&str>); 9] = [
        (b"PK\x03\x04", Some("zip")),
        (b"PK", None),
        (b"x^2 is text", None),
        (b"d4:name3:a/be", Some("bencode")),
        (b"d4:name9:a/be", None),
        (b"%PDF-1.4", Some("pdf")),
        (b"bplist00", Some("binary-property-list")),
        (b"BZh91AY&SY", Some("bzip2")),
        (b"BZh is a word", None),
    ];
    for (bytes, name) in cases {
        assert_eq!(recognise(bytes, "").map(Container::name), name, "{bytes:?}");
    }
}

/// A shortcut as newer shells write them, put together by hand: twins in UTF-16, a share link,
/// a suffix, and blocks after it.
fn shortcut(on_share: bool) -> Vec<u8> {
    let wide = |text: &str| -> Vec<u8> {
        text.encode_utf16()
            .chain([0])
            .flat_map(u16::to_le_bytes)
            .collect()
    };
    let number = |n: usize| (n as u32).to_le_bytes();
    let mut all = b"\x4c\0\0\0\x01\x14\x02\0\0\0\0\0\xc0\0\0\0\0\0\0\x46".to_vec();
    // Link information, relative path, text in UTF-16, an environment block.
    all.extend(number(0x02 | 0x08 | 0x80 | 0x200));
    all.resize(76, 0);
    let mut info = Vec::new();
    if on_share {
        let net = [
            &number(0x14 + 17)[..],
            &number(2),
            &number(0x14),
            &number(0),
            &number(0x2_0000),
            b"\\\\mossbank\\press\0",
        ]
        .concat();
        let suffix = 0x1C + net.len();
        info.extend(
            [
                number(suffix + 8),
                number(0x1C),
                number(2),
                number(0),
                number(0),
                number(0x1C),
                number(suffix),
            ]
            .concat(),
        );
        info.extend(net);
        info.extend(b"scans\\1\0");
    } else {
        let volume = [
            &number(0x11)[..],
            &number(3),
            &number(0x1234),
            &number(0x10),
            b"\0",
        ]
        .concat();
        let base = b"D:\\Herbarium\\M?lln\0";
        let (base_wide, suffix_wide) = (wide("D:\\Herbarium\\M\u{f6}lln"), wide(""));
        let at = 0x24 + volume.len();
        let (suffix, wide_at) = (at + base.len(), at + base.len() + 1);
        let total = wide_at + base_wide.len() + suffix_wide.len();
        info.extend(
            [
                number(total),
                number(0x24),
                number(1),
                number(0x24),
                number(at),
                number(0),
                number(suffix),
                number(wide_at),
                number(wide_at + base_wide.len()),
            ]
            .concat(),
        );
        info.extend([&volume[..], base, b"\0", &base_wide, &suffix_wide].concat());
    }
    all.extend(info);
    let relative = wide(r"..\Herbarium");
    all.extend(((relative.len() / 2 - 1) as u16).to_le_bytes());
    all.extend(&relative[..relative.len() - 2]);
    let mut environment = [&number(0x314)[..], &number(0xA000_0001), b"%SHELF%\\x"].concat();
    environment.resize(8 + 260, 0);
    environment.extend(wide(r"D:\Herbarium\x"));
    environment.resize(0x314, 0);
    all.extend(environment);
    let tracker = [&number(0x60)[..], &number(0xA000_0003), &[7; 0x58]].concat();
    all.extend(tracker);
    let value = wide(r"D:\Herbarium\property");
    let padded = [&value[..], &vec![0; value.len() % 4]].concat();
    let property = [
        &number(17 + padded.len())[..],
        &number(2),
        &[0],
        &number(31),
        &number(value.len() / 2),
        &padded,
    ]
    .concat();
    let storage = [
        &number(24 + property.len() + 4)[..],
        b"1SPS",
        &[9; 16],
        &property,
        &number(0),
    ]
    .concat();
    all.extend(
        [
            &number(8 + storage.len() + 4)[..],
            &number(0xA000_0009),
            &storage,
            &number(0),
        ]
        .concat(),
    );
    all.extend(number(0));
    all
}

#[test]
fn every_way_a_shortcut_tells_its_target_follows() {
    let contains =
        |bytes: &[u8], text: &[u8]| bytes.windows(text.len()).any(|window| window == text);
    let to = |old: &'static str, new: &'static str| {
        move |_: &str, was: &[u8]| {
            let text = std::str::from_utf8(was).unwrap();
            let rest = text.strip_prefix(old)?;
            Some(format!("{new}{rest}").into_bytes())
        }
    };
    let texts = |bytes: &[u8]| -> Vec<(String, String)> {
        let all = parts(bytes, "a.lnk").unwrap().into_iter();
        all.map(|(way, text)| (way, String::from_utf8(text).unwrap()))
            .collect()
    };
    let named = |way: &str, text: &str| (way.to_owned(), text.to_owned());
    let local = shortcut(false);
    assert_eq!(
        texts(&local),
        [
            named("target", "D:\\Herbarium\\M\u{f6}lln"),
            named("environment", r"D:\Herbarium\x"),
            named("property", r"D:\Herbarium\property"),
        ]
    );
    let moved = lifted(
        &local,
        "a.lnk",
        to(r"D:\Herbarium", r"H:\Collections\Herbarium"),
    )
    .unwrap();
    assert_eq!(
        texts(&moved),
        [
            named("target", "H:\\Collections\\Herbarium\\M\u{f6}lln"),
            named("environment", r"H:\Collections\Herbarium\x"),
            named("property", r"H:\Collections\Herbarium\property"),
        ]
    );
    assert!(
        contains(&moved, b"H:\\Collections\\Herbarium\\M\xf6lln\0"),
        "the twin in a code page"
    );
    for gone in [&b"\x34\x12\0\0"[..], &[7; 16], b".\0.\0\\\0"] {
        assert!(
            contains(&local, gone) && !contains(&moved, gone),
            "{gone:?} told of the old target"
        );
    }
    // On the same volume the serial number and the tracker still tell the truth.
    let near = lifted(&local, "a.lnk", to(r"D:\Herbarium", r"D:\Linden")).unwrap();
    assert!(contains(&near, b"\x34\x12\0\0") && contains(&near, &[7; 16]));
    // From a drive to a share, and back.
    let shared = lifted(&local, "a.lnk", to(r"D:\Herbarium", r"\\fernhall\press")).unwrap();
    assert_eq!(
        texts(&shared)[0],
        named("target", "\\\\fernhall\\press\\M\u{f6}lln")
    );
    let share = shortcut(true);
    assert_eq!(
        texts(&share)[0],
        named("target", r"\\mossbank\press\scans\1")
    );
    let moved = lifted(
        &share,
        "a.lnk",
        to(r"\\mossbank\press", r"\\fernhall\press"),
    )
    .unwrap();
    assert_eq!(
        texts(&moved)[0],
        named("target", r"\\fernhall\press\scans\1")
    );
    assert!(!contains(&moved, b"mossbank"));
    let back = lifted(&share, "a.lnk", to(r"\\mossbank\press", r"D:\press")).unwrap();
    assert_eq!(texts(&back)[0], named("target", r"D:\press\scans\1"));
}

#[test]
fn property_lists_grow_their_offsets_and_keep_keys_apart() {
    let (_, bytes) = samples()
        .into_iter()
        .find(|(name, _)| name == "viewer.plist")
        .unwrap();
    // So much longer that an offset needs two bytes, and a string a count of its own.
    let long = "x".repeat(300);
    let change = |_: &str, was: &[u8]| {
        was.starts_with(b"file:")
            .then(|| [was, long.as_bytes()].concat())
    };
    let new = lifted(&bytes, "a.plist", change).unwrap();
    let after = parts(&new, "a.plist").unwrap();
    assert!(
        after
            .iter()
            .any(|(_, content)| content.ends_with(long.as_bytes()))
    );
    // `root` and the key of the same name are one object, which may not become another key.
    let change = |_: &str, was: &[u8]| was.ends_with(b"\\Sheets").then(|| b"count".to_vec());
    let refused = lifted(&bytes, "a.plist", change);
    assert!(matches!(refused, Err(LiftFault::Parts(parts)) if parts[0].how == Refused::Collision));
}

#[test]
fn strings_of_portable_documents() {
    let pdf = br"%PDF-1.4
1 0 obj << /A << /S /Launch /F (D:\\Herbarium\\a \(b\)\056tif) >> /U <FEFF0044003A005C0078> /N (no place) >> endobj
2 0 obj << /Length 9 >> stream
(D:\\page)
endstream endobj";
    let got = parts(pdf, "a.pdf").unwrap();
    let texts: Vec<&str> = got
        .iter()
        .map(|(_, text)| std::str::from_utf8(text).unwrap())
        .collect();
    assert_eq!(texts, [r"D:\Herbarium\a (b).tif", r"D:\x"]);
}

#[test]
fn runs_of_letters_in_unknown_bytes() {
    let mut bytes = b"\x01\x02D:\\Herbarium\\a\0\0\xff\x03".to_vec();
    bytes.extend(
        "\u{1}D:\\H\u{f6}r\u{2}"
            .encode_utf16()
            .flat_map(u16::to_le_bytes),
    );
    let mut got = Vec::new();
    let budget = Budget::new(1 << 20);
    BINARY
        .read(
            Source {
                bytes: &bytes,
                name: "",
                budget: &budget,
            },
            &mut |part| {
                assert!(part.sealed.is_some());
                if let PartContent::Text {
                    bytes,
                    run: Some(run),
                    ..
                } = part.holding
                {
                    got.push((run.at, run.wide, String::from_utf8(bytes.to_vec()).unwrap()));
                }
                Ok(())
            },
        )
        .unwrap();
    assert_eq!(
        got,
        [
            (2, false, r"D:\Herbarium\a".to_owned()),
            (22, true, "D:\\H\u{f6}r".to_owned()),
        ]
    );
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 160, ..ProptestConfig::default() })]
    /// Whatever is wrong with a container, it is read or a sentence says why not, and what is
    /// written of it can be read again.
    #[test]
    fn damage_anywhere_is_no_panic(which in 0usize..1000, hits in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..4), cut in prop::option::of(any::<prop::sample::Index>())) {
        let samples = samples();
        let (name, mut bytes) = samples[which % samples.len()].clone();
        for (at, with) in hits {
            let at = at.index(bytes.len());
            bytes[at] = with;
        }
        if let Some(cut) = cut {
            bytes.truncate(cut.index(bytes.len()));
        }
        if recognise(&bytes, &name).is_some() {
            let swapped = |_: &str, was: &[u8]| {
                let text = std::str::from_utf8(was).ok()?;
                text.contains("Herbarium").then(|| text.replace("Herbarium", "Collections/Herb").into_bytes())
            };
            let _ = lifted(&bytes, &name, swapped);
        }
    }
}
