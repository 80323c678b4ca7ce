//! The forms in which answers are written, one file each; one table registers all.

mod csv;
mod html;
mod json;
mod json_lines;
mod text;

use clap::builder::{PossibleValue, PossibleValuesParser, TypedValueParser};

use super::{Page, Renderable};
use crate::exit::Failure;

pub(super) use json::write_json;
pub(super) use json_lines::write_json_lines;

/// A form in which any answer can be written.
pub(crate) trait Form: Sync {
    /// What `--format` takes.
    fn name(&self) -> &'static str;

    /// Whom it is for, in a few words.
    fn about(&self) -> &'static str;

    /// Writes an answer.
    fn write(&self, answer: &dyn Renderable, page: &mut Page<'_>) -> Result<(), Failure>;
}

/// Every form; the first is the usual one.
static FORMS: &[&dyn Form] = &[
    &text::Text,
    &json::Json,
    &json_lines::JsonLines,
    &csv::Csv,
    &html::Html,
];

/// The form that was asked for.
#[derive(Clone, Copy)]
pub(crate) struct Asked(pub(crate) &'static dyn Form);

impl std::fmt::Debug for Asked {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(self.0.name())
    }
}

impl Asked {
    /// Whether it is for programs.
    pub(crate) fn is_for_programs(self) -> bool {
        self.0.name().starts_with("json")
    }

    /// Whether it is words for people.
    pub(crate) fn is_for_people(self) -> bool {
        self.0.name() == usual()
    }
}

/// The name of the form that is used where none is asked for.
pub(crate) fn usual() -> &'static str {
    FORMS[0].name()
}

/// Reads the name of a form.
pub(crate) fn parser() -> impl TypedValueParser<Value = Asked> {
    let names = FORMS
        .iter()
        .map(|form| PossibleValue::new(form.name()).help(form.about()));
    PossibleValuesParser::new(names).map(|name| {
        let asked = FORMS.iter().copied().find(|form| form.name() == name);
        Asked(asked.unwrap_or(FORMS[0]))
    })
}
