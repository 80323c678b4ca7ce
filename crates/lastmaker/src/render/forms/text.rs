//! Words for people.

use super::Form;
use crate::exit::Failure;
use crate::render::{Page, Renderable};

/// Words for people.
pub(super) struct Text;

impl Form for Text {
    fn name(&self) -> &'static str {
        "text"
    }

    fn about(&self) -> &'static str {
        "For people"
    }

    fn write(&self, answer: &dyn Renderable, page: &mut Page<'_>) -> Result<(), Failure> {
        Ok(answer.text(page)?)
    }
}
