//! One JSON document for programs.

use std::io;

use super::Form;
use crate::render::{Page, Told};

/// One JSON document for programs.
pub(super) struct Json;

impl Form for Json {
    fn name(&self) -> &'static str {
        "json"
    }

    fn about(&self) -> &'static str {
        "For programs: one JSON document"
    }

    fn write(&self, answer: &dyn Told, page: &mut Page<'_>) -> io::Result<()> {
        answer.json(page.out)?;
        writeln!(page.out)
    }
}
