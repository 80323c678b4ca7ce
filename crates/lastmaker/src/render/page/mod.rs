//! One page to hand over: what moved, what was changed, what is to be done by hand, how to take it back. It needs no
//! other file and no script, is read on paper as on a screen, and by ear.

mod document;
mod parts;
mod view;

use minijinja::{AutoEscape, Environment};
use serde_json::Value;

use crate::exit::Failure;

/// The page, with places for what the view says.
const TEMPLATE: &str = include_str!("page.html");

/// What is known of a document beside it.
#[derive(Default)]
pub(super) struct About {
    /// The option with which later commands find the same records, with a blank before it.
    pub(super) records: String,
    /// The record whose document it is, if it comes from one.
    pub(super) record: Option<Recorded>,
}

/// A record, as its page tells of it.
pub(super) struct Recorded {
    pub(super) id: String,
    pub(super) folder: String,
    /// When it was made, as people say it.
    pub(super) when: String,
}

/// The page of a document.
///
/// # Errors
/// Where there is no page for such documents.
pub(super) fn page(document: &Value, about: &About) -> Result<String, Failure> {
    let view = view::View::of(document, about).ok_or_else(|| {
        let command = document["command"].as_str().unwrap_or_default();
        Failure::with_help(
            format!("the answer of {command} is no page"),
            "html is for compare, preview, rewrite, check and history --report; --format json writes any answer",
        )
    })?;
    let mut templates = Environment::new();
    templates.set_auto_escape_callback(|_| AutoEscape::Html);
    let page = templates.render_named_str("page", TEMPLATE, &view);
    page.map_err(|fault| Failure::new(format!("the page cannot be written: {fault}")))
}
