//! A page to hand over.

use super::Form;
use crate::exit::Failure;
use crate::render::page::{About, page};
use crate::render::{Page, Renderable};

/// A page to hand over.
pub(super) struct Html;

impl Form for Html {
    fn name(&self) -> &'static str {
        "html"
    }

    fn about(&self) -> &'static str {
        "To hand over: one page that needs nothing else"
    }

    fn write(&self, answer: &dyn Renderable, to: &mut Page<'_>) -> Result<(), Failure> {
        let about = About {
            records: to.records.clone(),
            record: None,
        };
        let text = page(&answer.document()?, &about)?;
        Ok(to.out.write_all(text.as_bytes())?)
    }
}
