//! A format that this library does not have, and a document of it planned all the same:
//! `cargo run --example new_format`.
//!
//! Documents of it are lines of `name → value`; behind a semicolon is a remark. A format says where the strings
//! are and what they wear. It knows of no moves: intents, edits and the proof come for nothing.

#![allow(clippy::print_stdout, reason = "an example tells what it did")]

use std::error::Error;

use lastmaker_core::about::About;
use lastmaker_core::format::{Claim, Format, Grammar, Passage, Reader, Role, Sample, Subject};
use lastmaker_core::layer::Layers;
use lastmaker_core::open::{Document, Reading};
use lastmaker_core::plan::{PlanOptions, plan};
use lastmaker_core::scan::Hint;
use lastmaker_core::sheet::Sheet;
use lastmaker_core::text::Encoding;

struct ArrowList;

const ABOUT: About = About {
    name: "arrow-list",
    what: "lists of names and values with an arrow between",
    content: "",
    names: &[".arrows"],
    read: "each value as it stands",
    limits: "",
};

impl Format for ArrowList {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn samples(&self) -> &'static [Sample] {
        &[]
    }

    fn claims(&self, _: &Subject<'_>) -> Claim {
        Claim::No
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn reader(&'static self, _: &str, _: Encoding) -> Box<dyn Reader> {
        Box::new(Lines)
    }
}

struct Lines;

impl Reader for Lines {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let nothing: Layers = [].into();
        let mut start = 0;
        for line in text.split_inclusive('\n') {
            let code = line.split(';').next().unwrap_or_default();
            if let Some((name, value)) = code.split_once('→') {
                let from = start + name.len() + '→'.len_utf8();
                let from = from + value.len() - value.trim_start().len();
                each(Passage {
                    span: from..from + value.trim().len(),
                    layers: &nothing,
                    role: Role::Value,
                    hint: Hint::Name,
                    site: &[],
                });
            }
            start += line.len();
        }
        Grammar::Kept
    }
}

fn main() -> Result<(), Box<dyn Error>> {
    let mut sheet = Sheet::default();
    sheet.add_move(r"D:\Herbarium=H:\My Collections\Herbarium")?;
    let text = "sheets → D:\\Herbarium\\Sheets  ; scanned ones\nother → D:\\Herbarium Old\n";
    let reading = Reading {
        format: Some(&ArrowList),
        ..Reading::default()
    };
    let document =
        Document::open(text.as_bytes(), "viewer.arrows", reading).ok_or("it is no text")?;
    let plan = plan(&document, PlanOptions::of(&sheet));
    let new = plan.new.ok_or("nothing changes")?;
    print!("{}", String::from_utf8(new)?);
    Ok(())
}
