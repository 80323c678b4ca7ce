//! Documents by other writers, rewritten, and read again by other parsers: the values are the
//! mapped ones, and everything else is what it was.

#![allow(clippy::unwrap_used, reason = "these are tests")]

use lastmaker_core::open::{Document, Reading};
use lastmaker_core::plan::{PlanOptions, plan};
use lastmaker_core::sheet::Sheet;
use proptest::prelude::*;

/// Values before and after the move of `D:\Herbarium` to `H:\Linden & Co\Herbarium`; decoys are
/// the same.
const VALUES: [(&str, &str); 18] = [
    (r"D:\Herbarium", r"H:\Linden & Co\Herbarium"),
    (
        r"D:\Herbarium\Sheets 2019\0133.tif",
        r"H:\Linden & Co\Herbarium\Sheets 2019\0133.tif",
    ),
    ("d:/herbarium/maps/", "h:/Linden & Co/Herbarium/maps/"),
    (
        r"D:\\Herbarium\\Labels",
        r"H:\\Linden & Co\\Herbarium\\Labels",
    ),
    (
        r"\\?\D:\Herbarium\Maps",
        r"\\?\H:\Linden & Co\Herbarium\Maps",
    ),
    ("/mnt/d/Herbarium/x", "/mnt/h/Linden & Co/Herbarium/x"),
    (
        "file:///D:/Herbarium/a%20b",
        "file:///H:/Linden%20&%20Co/Herbarium/a%20b",
    ),
    (
        "--data=D:\\Herbarium\\x -v",
        "--data=\"H:\\Linden & Co\\Herbarium\\x\" -v",
    ),
    (
        r#"{"r": "D:\\Herbarium\\x"}"#,
        r#"{"r": "H:\\Linden & Co\\Herbarium\\x"}"#,
    ),
    (
        "D:\\Herbarium\\Gr\u{fc}n & Co's",
        "H:\\Linden & Co\\Herbarium\\Gr\u{fc}n & Co's",
    ),
    (r"D:\Herbarium;E:\x", r"H:\Linden & Co\Herbarium;E:\x"),
    (r"D:\Herbarium Old\x", r"D:\Herbarium Old\x"),
    (r"D:\Herbarium2", r"D:\Herbarium2"),
    ("http://d:/herbarium/x", "http://d:/herbarium/x"),
    ("Grade D: fair", "Grade D: fair"),
    (r"abcD:\Herbarium", r"abcD:\Herbarium"),
    ("12:30/45", "12:30/45"),
    (
        "plain \"quoted\" <text> & 'more'",
        "plain \"quoted\" <text> & 'more'",
    ),
];

fn rewritten(bytes: &[u8], name: &str) -> Vec<u8> {
    let mut sheet = Sheet::default();
    sheet
        .add_move(r"D:\Herbarium=H:\Linden & Co\Herbarium")
        .unwrap();
    let document = Document::open(bytes, name, Reading::default()).unwrap();
    let options = PlanOptions::of(&sheet);
    let plan = plan(&document, options);
    plan.new.unwrap_or_else(|| bytes.to_vec())
}

fn entries(picks: &[usize]) -> Vec<(String, &'static str, &'static str)> {
    picks
        .iter()
        .enumerate()
        .map(|(index, pick)| (format!("entry{index}"), VALUES[*pick].0, VALUES[*pick].1))
        .collect()
}

fn picks() -> impl Strategy<Value = Vec<usize>> {
    prop::collection::vec(0..VALUES.len(), 1..8)
}

type Table = std::collections::BTreeMap<String, String>;

fn before(entries: &[(String, &str, &str)]) -> Table {
    entries
        .iter()
        .map(|(key, old, _)| (key.clone(), (*old).to_owned()))
        .collect()
}

fn after(entries: &[(String, &str, &str)]) -> Table {
    entries
        .iter()
        .map(|(key, _, new)| (key.clone(), (*new).to_owned()))
        .collect()
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(200) })]

    #[test]
    fn json(picks in picks(), pretty: bool) {
        let entries = entries(&picks);
        let text = if pretty {
            serde_json::to_vec_pretty(&before(&entries)).unwrap()
        } else {
            serde_json::to_vec(&before(&entries)).unwrap()
        };
        let read: Table = serde_json::from_slice(&rewritten(&text, "a.json")).unwrap();
        prop_assert_eq!(read, after(&entries));
    }

    #[test]
    fn toml_documents(picks in picks(), pretty: bool) {
        let entries = entries(&picks);
        let text = if pretty {
            toml::to_string_pretty(&before(&entries)).unwrap()
        } else {
            toml::to_string(&before(&entries)).unwrap()
        };
        let new = String::from_utf8(rewritten(text.as_bytes(), "a.toml")).unwrap();
        let read: Table = toml::from_str(&new).unwrap();
        prop_assert_eq!(read, after(&entries));
    }

    #[test]
    fn yaml(picks in picks(), list: bool) {
        let entries = entries(&picks);
        if list {
            // An option with more behind it is no item of a list of places.
            let entries: Vec<_> = entries.iter().filter(|(_, old, _)| !old.starts_with("--")).collect();
            let old: Vec<&str> = entries.iter().map(|(_, old, _)| *old).collect();
            let new: Vec<String> = entries.iter().map(|(_, _, new)| (*new).to_owned()).collect();
            let text = serde_yaml_ng::to_string(&old).unwrap();
            let read: Vec<String> = serde_yaml_ng::from_slice(&rewritten(text.as_bytes(), "a.yaml")).unwrap();
            prop_assert_eq!(read, new);
        } else {
            let text = serde_yaml_ng::to_string(&before(&entries)).unwrap();
            let read: Table = serde_yaml_ng::from_slice(&rewritten(text.as_bytes(), "a.yaml")).unwrap();
            prop_assert_eq!(read, after(&entries), "{}", text);
        }
    }

    #[test]
    fn xml(picks in picks()) {
        use quick_xml::events::{BytesStart, BytesText, Event};
        let entries = entries(&picks);
        let mut writer = quick_xml::Writer::new(Vec::new());
        writer.write_event(Event::Start(BytesStart::new("settings"))).unwrap();
        for (key, old, _) in &entries {
            let mut start = BytesStart::new(key.as_str());
            start.push_attribute(("value", *old));
            writer.write_event(Event::Start(start)).unwrap();
            writer.write_event(Event::Text(BytesText::new(old))).unwrap();
            writer.write_event(Event::End(quick_xml::events::BytesEnd::new(key.as_str()))).unwrap();
        }
        writer.write_event(Event::End(quick_xml::events::BytesEnd::new("settings"))).unwrap();
        let new = rewritten(&writer.into_inner(), "a.xml");
        let mut reader = quick_xml::Reader::from_reader(&new[..]);
        let mut attributes = Vec::new();
        let mut texts: Vec<String> = Vec::new();
        let mut room = Vec::new();
        loop {
            match reader.read_event_into(&mut room).unwrap() {
                Event::Start(start) => {
                    for attribute in start.attributes() {
                        let value = attribute.unwrap().value;
                                                attributes.push(quick_xml::escape::unescape(&value).unwrap().into_owned());
                    }
                    texts.push(String::new());
                }
                Event::Text(text) => {
                    texts.last_mut().unwrap().push_str(&text);
                }
                Event::GeneralRef(name) => {
                    let name = format!("&{};", &*name);
                    texts.last_mut().unwrap().push_str(&quick_xml::escape::unescape(&name).unwrap());
                }
                Event::Eof => break,
                _ => {}
            }
            room.clear();
        }
        let expected: Vec<String> = entries.iter().map(|(_, _, new)| (*new).to_owned()).collect();
        prop_assert_eq!(&texts[1..], &expected[..]);
        prop_assert_eq!(attributes, expected);
    }

    #[test]
    fn tables(picks in picks(), which in 0usize..3) {
        let (delimiter, name) = [(b',', "a.csv"), (b';', "a.csv"), (b'\t', "a.tsv")][which];
        let entries = entries(&picks);
        let mut writer = csv::WriterBuilder::new().delimiter(delimiter).from_writer(Vec::new());
        writer.write_record(["key", "value", "note"]).unwrap();
        for (key, old, _) in &entries {
            writer.write_record([key, *old, "x"]).unwrap();
        }
        let text = writer.into_inner().unwrap();
        let new = rewritten(&text, name);
        let mut reader = csv::ReaderBuilder::new().delimiter(delimiter).from_reader(&new[..]);
        let read: Table = reader
            .records()
            .map(|record| {
                let record = record.unwrap();
                (record[0].to_owned(), record[1].to_owned())
            })
            .collect();
        prop_assert_eq!(read, after(&entries));
    }

    #[test]
    fn settings_files(picks in picks()) {
        // Lines of this kind escape nothing, so values with quotes are not for them.
        let entries: Vec<_> = entries(&picks)
            .into_iter()
            .filter(|(_, old, new)| !old.contains('"') && !new.contains('"'))
            .collect();
        let mut file = ini::Ini::new();
        for (key, old, _) in &entries {
            file.with_section(Some("places")).set(key, *old);
        }
        let mut text = Vec::new();
        file.write_to_policy(&mut text, ini::EscapePolicy::Nothing).unwrap();
        let new = String::from_utf8(rewritten(&text, "a.ini")).unwrap();
        let options = ini::ParseOption { enabled_escape: false, enabled_quote: false, ..Default::default() };
        let read = ini::Ini::load_from_str_opt(&new, options).unwrap();
        let got: Table = read
            .section(Some("places"))
            .map(|section| section.iter().map(|(k, v)| (k.to_owned(), v.to_owned())).collect())
            .unwrap_or_default();
        prop_assert_eq!(got, after(&entries));
    }
}
