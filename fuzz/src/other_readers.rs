//! Documents as the well-kept reader of their format reads them: an oracle that shares no mistake with ours.

use std::collections::BTreeMap;

use serde::Deserialize;

/// What a document holds, whatever the order: its strings, and everything else (names of elements, numbers,
/// brackets) in words; each with how often it is there.
#[derive(Debug, Default, PartialEq, Eq)]
pub struct Content {
    strings: BTreeMap<String, usize>,
    others: BTreeMap<String, usize>,
}

impl Content {
    fn string(&mut self, text: impl Into<String>) {
        *self.strings.entry(text.into()).or_default() += 1;
    }

    fn other(&mut self, word: impl Into<String>) {
        *self.others.entry(word.into()).or_default() += 1;
    }

    fn json(&mut self, value: &serde_json::Value) {
        match value {
            serde_json::Value::String(text) => self.string(text),
            serde_json::Value::Array(items) => {
                self.other("[");
                items.iter().for_each(|item| self.json(item));
            }
            serde_json::Value::Object(fields) => {
                self.other("{");
                for (key, value) in fields {
                    self.string(key);
                    self.json(value);
                }
            }
            other => self.other(other.to_string()),
        }
    }

    fn toml(&mut self, value: &toml::Value) {
        match value {
            toml::Value::String(text) => self.string(text),
            toml::Value::Array(items) => {
                self.other("[");
                items.iter().for_each(|item| self.toml(item));
            }
            toml::Value::Table(fields) => {
                self.other("{");
                for (key, value) in fields {
                    self.string(key);
                    self.toml(value);
                }
            }
            other => self.other(other.to_string()),
        }
    }

    fn yaml(&mut self, value: &serde_yaml_ng::Value) {
        match value {
            serde_yaml_ng::Value::String(text) => self.string(text),
            serde_yaml_ng::Value::Sequence(items) => {
                self.other("[");
                items.iter().for_each(|item| self.yaml(item));
            }
            serde_yaml_ng::Value::Mapping(fields) => {
                self.other("{");
                for (key, value) in fields {
                    self.yaml(key);
                    self.yaml(value);
                }
            }
            serde_yaml_ng::Value::Tagged(tagged) => {
                self.other(tagged.tag.to_string());
                self.yaml(&tagged.value);
            }
            other => self.other(format!("{other:?}")),
        }
    }

    fn xml(&mut self, text: &str) -> Option<()> {
        use quick_xml::escape::unescape;
        use quick_xml::events::Event;
        let mut reader = quick_xml::Reader::from_str(text);
        // A text is in one piece only between references.
        let mut gathered = String::new();
        loop {
            match reader.read_event().ok()? {
                Event::Start(tag) | Event::Empty(tag) => {
                    self.string(std::mem::take(&mut gathered));
                    self.other(tag.name().as_ref());
                    for attribute in tag.attributes() {
                        let attribute = attribute.ok()?;
                        self.other(attribute.key.as_ref());
                        self.string(unescape(&attribute.value).ok()?);
                    }
                }
                Event::End(_) => self.string(std::mem::take(&mut gathered)),
                Event::Text(text) => gathered.push_str(&text),
                Event::CData(text) => gathered.push_str(&text),
                Event::GeneralRef(name) => {
                    gathered.push_str(&unescape(&format!("&{};", &*name)).ok()?);
                }
                Event::Comment(_) | Event::PI(_) | Event::Decl(_) => {}
                // What it declares may be anything.
                Event::DocType(_) => return None,
                Event::Eof => return Some(()),
            }
        }
    }
}

/// What a document of this format holds; none if there is no such reader, or it cannot read the document.
pub fn read(format: &str, text: &str) -> Option<Content> {
    let mut content = Content::default();
    match format {
        "json" => content.json(&serde_json::from_str(text).ok()?),
        "toml" => content.toml(&toml::Value::Table(toml::from_str(text).ok()?)),
        "yaml" => {
            for document in serde_yaml_ng::Deserializer::from_str(text) {
                content.other("---");
                content.yaml(&serde_yaml_ng::Value::deserialize(document).ok()?);
            }
        }
        "xml" => content.xml(text)?,
        _ => return None,
    }
    Some(content)
}

/// Holds a new copy to what the other reader says: if it read the old one it reads the new one, finds as many
/// strings and the same of everything else, and no more strings that are new than passages changed.
pub fn agree(format: &str, old: &str, new: &str, changed: usize) {
    let Some(before) = read(format, old) else {
        return;
    };
    let Some(after) = read(format, new) else {
        panic!("the reader of {format} no longer reads it\n{old:?}\n{new:?}");
    };
    assert_eq!(before.others, after.others, "{format}\n{old:?}\n{new:?}");
    let number = |content: &Content| content.strings.values().sum::<usize>();
    assert_eq!(
        number(&before),
        number(&after),
        "{format}\n{old:?}\n{new:?}"
    );
    let more = |(text, times): (&String, &usize)| {
        times.saturating_sub(before.strings.get(text).copied().unwrap_or(0))
    };
    let other: usize = after.strings.iter().map(more).sum();
    // What an alias stands for is there as often as it is named.
    if format == "yaml" && old.contains('*') {
        return;
    }
    assert!(
        other <= changed,
        "{other} strings are new, {changed} passages changed, {format}\n{old:?}\n{new:?}"
    );
}
