//! What holds for any document.

use super::*;
use crate::format::{FORMATS, Sample};
use crate::judge::{FoundIn, Looking};
use crate::resolve::Resolver;
use crate::scan::{Finder, readings};
use crate::tree::Sieve;
use proptest::prelude::*;

fn piece() -> impl Strategy<Value = String> {
    prop_oneof![
        Just(r"D:\Herbarium\x".to_owned()),
        Just("d:/herbarium".to_owned()),
        Just(r"D:\\Herbarium\\x.tif".to_owned()),
        Just(r#""D:\Herbarium""#.to_owned()),
        Just(r"\\mossbank\press\a b".to_owned()),
        Just(r"\\?\D:\Herbarium\y".to_owned()),
        Just(r"D:\Herbarium Old\z".to_owned()),
        Just(r"D:\Herbarium2".to_owned()),
        Just(" file:///D:/Herbarium/a%20b ".to_owned()),
        Just(" file://mossbank/press/x#y ".to_owned()),
        Just("?p=D%3A%5CHerbarium%5Cx&".to_owned()),
        Just(r"\u00e9\n".to_owned()),
        "[ -~\u{e4}\u{f6}\u{6a19}\r\n]{0,8}",
        "[\\PC\\n]{0,5}",
    ]
}

/// A place with what may stand directly before it inside of one string: escapes of several syntaxes.
fn sifted_piece() -> impl Strategy<Value = String> {
    const BEFORE: [&str; 14] = [
        "",
        "a",
        "C:\\\\x\\n",
        "\\u0022",
        "x\\t",
        "\\x22",
        "%20",
        "&quot;",
        "&#34;",
        "-I",
        "/in:",
        "=",
        "'",
        "p=",
    ];
    const PLACES: [&str; 10] = [
        r"D:\Herbarium\x",
        r"D:\\Scans\\a",
        "d:/y",
        "D%3A%5CHerbarium",
        "file:///D:/x",
        "D:\\\u{6a19}\u{672c}\\x",
        r"S:\Herbarium",
        "/mnt/d/x",
        "/d/\u{6a19}\u{672c}",
        r"\\mossbank\press\x",
    ];
    let before = prop::sample::select(&BEFORE[..]);
    let place = prop::sample::select(&PLACES[..]);
    let behind = prop::sample::select(&["", "\n", " b", "\""][..]);
    prop_oneof![
        (before, place, behind)
            .prop_map(|(before, place, behind)| format!("{before}{place}{behind}")),
        spelled_piece(),
        piece(),
    ]
}

/// A place of which each sign is spelled in some way, with something around it.
fn spelled_piece() -> impl Strategy<Value = String> {
    const BEFORE: [&str; 12] = [
        "", "x=", "\"", "'", "a ", "12:", "s:9:\"", "-I", "\\n", "<a>", "url(", "x:",
    ];
    const ROOTS: [&str; 12] = [
        "D:",
        "d|",
        "D%3A",
        "D%253A",
        "D&#58;",
        "D\\u003a",
        "D\\:",
        "D\\072",
        r"\\host\D$",
        "/mnt/d",
        "/srv",
        "",
    ];
    const SEPARATORS: [&str; 20] = [
        "\\",
        "\\\\",
        "\\\\\\\\",
        "/",
        "%5C",
        "%2F",
        "%255C",
        "\\u005c",
        "&#92;",
        "&#x5C;",
        "&bsol;",
        "\\134",
        "\\x5c",
        "\\.\\",
        "/./",
        "\\x\\..\\",
        "\"\\",
        "\\\"",
        "\\<b>",
        "\\\n  ",
    ];
    const NAMES: [&str; 10] = [
        "Data",
        "data",
        "My Files",
        "My%20Files",
        "My\\ Files",
        "My&#32;Files",
        "x86 (1)",
        "Herbarium",
        "herbarium",
        "o.O",
    ];
    const BEHIND: [&str; 12] = [
        "", "Old", "2", "_1", "-old", "\\x", "/x", "\"", "'", " b", ".bak", "4:x",
    ];
    let names = prop::collection::vec(
        (
            prop::sample::select(&SEPARATORS[..]),
            prop::sample::select(&NAMES[..]),
        ),
        1..4,
    );
    let around = (
        prop::sample::select(&BEFORE[..]),
        prop::sample::select(&BEHIND[..]),
    );
    (around, prop::sample::select(&ROOTS[..]), names).prop_map(|((before, behind), root, names)| {
        let names: String = names
            .iter()
            .flat_map(|(separator, name)| [*separator, *name])
            .collect();
        format!("{before}{root}{names}{behind}")
    })
}

/// Sheets with folders, whole drives, other names that are drives, and names without ASCII.
fn sifted_sheet() -> impl Strategy<Value = Sheet> {
    const MOVES: [&str; 10] = [
        r"D:\Herbarium=H:\Collections\Herbarium",
        r"D:\Data=R:\x",
        r"D:\My Files\Data=R:\x",
        r"D:\x86 (1)\Data=R:\x",
        "/srv/herbarium=/x",
        "/Data=/x",
        "/mnt/d/Data=/x",
        r"D:\=R:\",
        "D:\\\u{6a19}\u{672c}=R:\\x",
        r"\\mossbank\press=\\fernhall\press",
    ];
    (prop::sample::select(&MOVES[..]), any::<bool>()).prop_map(|(one, also)| {
        let mut sheet = sheet(&[one]);
        let drive = Place::parse(r"S:\").unwrap();
        sheet.moves[0].also.extend(also.then_some(drive));
        sheet
    })
}

/// The samples of every format.
fn samples() -> Vec<Sample> {
    let all = FORMATS.iter().flat_map(|format| format.samples());
    all.copied().collect()
}

/// Kinds of documents that are put together here.
const OWN_KINDS: usize = 4;

/// The number of a kind of document: one of ours, or a sample of a format.
fn kind() -> std::ops::Range<usize> {
    0..OWN_KINDS + samples().len()
}

fn document(kind: usize, pieces: &[String]) -> (String, &'static str) {
    match kind {
        0 => (pieces.concat(), "a.txt"),
        1 => (serde_json::to_string(pieces).unwrap(), "a.json"),
        2 => (
            format!(
                "{{\"a\": [{}], // {}\n}}",
                pieces
                    .iter()
                    .map(|p| format!("\"{p}\""))
                    .collect::<Vec<_>>()
                    .join(","),
                pieces.concat().replace('\n', " ")
            ),
            "a.json",
        ),
        OWN_KINDS.. => {
            let sample = samples()[kind - OWN_KINDS];
            (sample.document(pieces), sample.file)
        }
        _ => {
            let mut text =
                "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\a]\r\n".to_owned();
            for (index, piece) in pieces.iter().enumerate() {
                let hex: Vec<String> = piece
                    .encode_utf16()
                    .flat_map(u16::to_le_bytes)
                    .map(|b| format!("{b:02x}"))
                    .collect();
                text.push_str(&format!("\"{index}\"=hex(2):{}\r\n", hex.join(",")));
                let escaped = piece
                    .replace('\\', "\\\\")
                    .replace('"', "\\\"")
                    .replace(['\r', '\n'], "");
                text.push_str(&format!("\"s{index}\"=\"{escaped}\"\r\n"));
            }
            (text, "a.reg")
        }
    }
}

fn encoded(text: &str, which: usize) -> Vec<u8> {
    match which {
        0 => text.as_bytes().to_vec(),
        1 => format!("\u{feff}{text}").into_bytes(),
        2 => Encoding::Utf16Le
            .encode(&format!("\u{feff}{text}"))
            .unwrap(),
        3 => Encoding::Utf16Be
            .encode(&format!("\u{feff}{text}"))
            .unwrap(),
        _ => {
            let mut bytes = Vec::new();
            for letter in text.chars() {
                bytes.extend(
                    Encoding::WINDOWS_1252
                        .encode(&letter.to_string())
                        .unwrap_or_else(|_| b"?".to_vec()),
                );
            }
            bytes
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1_000))]

    /// Outside the edits nothing changes, and a second rewrite changes nothing.
    #[test]
    fn edits_are_all_that_changes_and_a_second_run_changes_nothing(
        pieces in prop::collection::vec(piece(), 0..8), kind in kind(), which in 0usize..5,
        moves in prop_oneof![Just(HERBARIUM), Just(&["D:\\Herbarium=H:\\My $ O'Brien & S\u{f6}hne #1, x;y", r"\\mossbank\press=\\fernhall\press"] as &[&str]), Just(&[r"D:\Herbarium=/srv/herbarium"] as &[&str]), Just(&[r"D:\=E:\Data Old"] as &[&str])],
    ) {
        let (text, name) = document(kind, &pieces);
        let bytes = encoded(&text, which);
        let sheet = sheet(moves);
        let Some(document) = Document::open(&bytes, name, Reading::default()) else { return Ok(()) };
        let plan = plan(&document, PlanOptions::of(&sheet));
        let Some(new) = plan.new else { return Ok(()) };
        prop_assert_eq!(&splice(&bytes, &plan.edits), &new);
        prop_assert!(plan.references.iter().any(|r| r.standing == Standing::ToMove));
        let again = planned(&new, name, &sheet);
        prop_assert!(again.new.is_none(), "{:?}", again.references);
    }

    /// There and back again gives the first bytes for references spelled as the sheet spells
    /// them.
    #[test]
    fn there_and_back_again(
        names in prop::collection::vec("[A-Za-z0-9\u{e4}.]{1,6}[a-z]", 0..4), kind in kind(), which in 0usize..4,
        noise in "[a-z ,=]{0,10}",
    ) {
        let mut tail = String::new();
        for name in &names {
            tail.push('\\');
            tail.push_str(name);
        }
        let pieces = [format!(r#""D:\Herbarium{tail}""#), noise, format!(r"'\\mossbank\press{tail}'")];
        let (text, name) = document(kind, &pieces);
        let bytes = encoded(&text, which);
        let there = rewritten(&bytes, name, &sheet(HERBARIUM));
        let back: Vec<String> = HERBARIUM.iter().map(|m| { let (a, b) = m.split_once('=').unwrap(); format!("{b}={a}") }).collect();
        let back: Vec<&str> = back.iter().map(String::as_str).collect();
        prop_assert_eq!(rewritten(&there, name, &sheet(&back)), bytes);
    }

    /// There and back again gives the first places for references in any other spelling.
    #[test]
    fn other_spellings_come_back_to_the_same_places(
        pieces in prop::collection::vec(piece(), 1..6), kind in kind(), which in 0usize..4,
    ) {
        let (text, name) = document(kind, &pieces);
        let bytes = encoded(&text, which);
        prop_assume!(Document::open(&bytes, name, Reading::default()).is_some());
        let back: Vec<String> = HERBARIUM
            .iter()
            .filter_map(|one| one.split_once('='))
            .map(|(from, to)| format!("{to}={from}"))
            .collect();
        let back: Vec<&str> = back.iter().map(String::as_str).collect();
        let there = planned(&bytes, name, &sheet(HERBARIUM));
        let moved = |plan: &DocumentPlan| -> Vec<String> {
            let moving = plan.references.iter().filter(|r| r.standing == Standing::ToMove);
            moving.map(|r| Place::parse(&r.place).unwrap().key()).collect()
        };
        if let Some(new) = &there.new {
            let again = planned(new, name, &sheet(&back));
            let last = again.new.unwrap_or_else(|| new.clone());
            // Nothing in these documents named a new place before.
            prop_assert_eq!(moved(&planned(&last, name, &sheet(HERBARIUM))), moved(&there));
        }
    }

    /// The sieve never rules out what full reading finds, whatever moves.
    #[test]
    fn the_sieve_lets_through_what_reading_finds(
        pieces in prop::collection::vec(sifted_piece(), 0..4), kind in kind(), which in 0usize..5,
        sheet in sifted_sheet(),
    ) {
        let (text, name) = document(kind, &pieces);
        let bytes = encoded(&text, which);
        let Some(document) = Document::open(&bytes, name, Reading::default()) else { return Ok(()) };
        let plan = plan(&document, PlanOptions::of(&sheet));
        if !plan.references.is_empty() {
            let through = Sieve::must_read(&bytes) || Sieve::new(&sheet, false).lets_through(&bytes);
            prop_assert!(through, "{:?}: {}", sheet.moves, text);
        }
        // Nor what names a new place, where both sides are looked for.
        let mut back = sheet.clone();
        for one in &mut back.moves {
            std::mem::swap(&mut one.from, &mut one.to);
        }
        let mut new = false;
        document.each_site(Finder::default(), |site| {
            let content = document.content_of(site);
            for found in &site.finds {
                let mut all = readings(found, content).into_iter();
                new |= all.any(|end| back.is_new_place(&found.place_until(content, end)));
            }
        });
        if new {
            let both = Sieve::of_both_sides(&back, false);
            prop_assert!(Sieve::must_read(&bytes) || both.lets_through(&bytes), "{:?}: {}", back.moves, text);
        }
        // Nor what names any place.
        let nothing = Sheet::default();
        let resolver = Resolver::new(&nothing);
        let looking = Looking { sheet: &nothing, resolver: &resolver };
        let mut named = Vec::new();
        document.each_site(Finder::default(), |site| {
            let content = document.content_of(site);
            let cases = site.finds.iter().map(|found| FoundIn { site, found, content });
            let sure = cases.filter(|case| case.found.doubt.is_none());
            named.extend(sure.filter_map(|case| looking.named(case)));
        });
        if let Some(first) = named.first() {
            let any = Sieve::of_any_place(&nothing, &[], false);
            prop_assert!(Sieve::must_read(&bytes) || any.lets_through(&bytes), "{}: {text:?}", first.place);
        }
    }

    /// No content makes the reader panic.
    #[test]
    fn any_content_is_read(bytes in prop::collection::vec(any::<u8>(), 0..200), kind in kind(), head in 0usize..5) {
        let (start, name) = document(kind, &[r"D:\Herbarium\x".to_owned()]);
        let mut all = [b"".as_slice(), b"REGEDIT4\r\n", b"{\"a\": \"D:\\\\Herbarium", b"\xff\xfeD\0:\0\\\0", start.as_bytes()][head].to_vec();
        all.extend(bytes);
        if Document::open(&all, name, Reading::default()).is_some() {
            let plan = planned(&all, name, &sheet(HERBARIUM));
            prop_assert!(plan.new.is_none() || !plan.edits.is_empty());
        }
    }

    /// Whatever a program makes of a rewritten file: taking the rewrite back makes no line that
    /// neither the program nor the original had, and changes no line that the rewrite did not write.
    #[test]
    fn taking_back_makes_nothing_new(
        tails in prop::collection::vec(("[a-c]", "[a-c]{1,3}"), 1..8),
        saves in prop::collection::vec((0usize..5, any::<prop::sample::Index>(), "[a-c]{1,2}"), 0..8),
        kind in 0usize..3,
    ) {
        let line = |root: &str, key: &str, tail: &str| match kind {
            0 => format!("{key}={root}\\{tail}"),
            1 => format!("see \"{root}\\{tail}\" {key}"),
            _ => format!("\"{key}\": \"{}\\\\{tail}\",", root.replace('\\', r"\\")),
        };
        let (start, end, name) = [("", "", "a.ini"), ("", "", "a.txt"), ("{", "\"end\": 1}", "a.json")][kind];
        let text = |lines: &[String]| {
            let all = [&[start.to_owned()], lines, &[end.to_owned()]].concat();
            all.into_iter().filter(|line| !line.is_empty()).collect::<Vec<_>>().join("\n")
        };
        let all = |root: &str| tails.iter().map(|(key, tail)| line(root, key, tail)).collect::<Vec<_>>();
        let (old, new) = (all(r"D:\Herbarium"), all(r"H:\Collections\Herbarium"));
        let original = text(&old);
        let plan = planned(original.as_bytes(), name, &sheet(HERBARIUM));
        let mut saved = new.clone();
        for (how, at, more) in saves {
            if saved.is_empty() {
                break;
            }
            let at = at.index(saved.len());
            match how {
                // A longer place, another line, one less, one twice, or one elsewhere.
                0 => saved[at] = saved[at].replacen('\\', &format!("\\{more}"), 1),
                1 => saved.insert(at, line(r"H:\Collections\Herbarium", &more, &more)),
                2 => drop(saved.remove(at)),
                3 => saved.insert(at, saved[at].clone()),
                _ => saved.rotate_left(1),
            }
        }
        let present = text(&saved);
        let sites: Vec<SiteChange> = plan.sites.iter().collect();
        let undone = undo(undoing(name, original.as_bytes(), present.as_bytes(), &sites));
        let result = match undone.content {
            Some(content) => String::from_utf8(content).unwrap(),
            None => present.clone(),
        };
        for (now, then) in result.lines().zip(present.lines()) {
            let was = new.iter().zip(&old).any(|(new, old)| new == then && old == now);
            prop_assert!(now == then || was, "{then:?} became {now:?}, of\n{present}");
        }
        prop_assert_eq!(result.lines().count(), present.lines().count());
        let back = result.lines().zip(present.lines()).filter(|(now, then)| now != then).count();
        let told = undone.taken_back.iter().filter(|one| **one).count();
        prop_assert!(told == back, "{} told, {} done", told, back);
    }
}
