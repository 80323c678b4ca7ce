//! Text that a program reads before another does: of a crontab, where a percent sign that no
//! backslash precedes is a line's end (crontab(5)), and of makefiles and compose files, where `$`
//! begins a variable unless it is doubled.

use crate::layer::{Edits, Layer, Malformed, Opened, Unfit, lift_each, open_units};

/// What a person calls the layer of a crontab's command.
pub const CRONTAB: &str = "crontab";

/// A command of a crontab, before a shell reads it.
#[derive(Debug)]
pub struct CronText;

/// Text in which `$$` is a dollar sign.
#[derive(Debug)]
pub struct DollarText;

/// Opens a text in which `written` stands for its last letter.
fn open_pairs(outer: &[u8], written: &[u8; 2]) -> Opened {
    open_units(outer, |rest| {
        if rest.starts_with(written) {
            return (written[1] as char, 2);
        }
        let letter = super::doubled::first_letter(rest);
        let width = letter.map_or(1, char::len_utf8);
        (letter.unwrap_or(crate::place::OPAQUE), width)
    })
}

/// Lifts edits of such a text.
fn lift_pairs(outer: &[u8], opened: &Opened, inner: &Edits, written: &str) -> Result<Edits, Unfit> {
    lift_each(outer, opened, inner, |with, stood| {
        let text = std::str::from_utf8(with).map_err(|_| Unfit::InsideUnit)?;
        let letter = &written[written.len() - 1..];
        // What stood there bare begins a variable, and goes on doing so.
        if text.as_bytes() == stood {
            Ok(with.to_vec())
        } else {
            Ok(text.replace(letter, written).into_bytes())
        }
    })
}

impl Layer for CronText {
    fn name(&self) -> &'static str {
        CRONTAB
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        Ok(open_pairs(outer, br"\%"))
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        lift_pairs(outer, opened, inner, r"\%")
    }
}

impl Layer for DollarText {
    fn name(&self) -> &'static str {
        "doubled dollar sign"
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        Ok(open_pairs(outer, b"$$"))
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        lift_pairs(outer, opened, inner, "$$")
    }
}
