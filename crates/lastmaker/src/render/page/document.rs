//! Reading an answer's document, as a record keeps it, by the names of its fields.

use serde_json::Value;

use crate::render::{count, grouped};
use crate::ui::shown;

/// The text of a field, safe to show; empty if it has none.
pub(super) fn text(of: &Value, field: &str) -> String {
    shown(of[field].as_str().unwrap_or_default())
}

pub(super) fn number(of: &Value, field: &str) -> usize {
    of[field].as_u64().unwrap_or_default() as usize
}

/// A number as people read it.
pub(super) fn digits(of: &Value, field: &str) -> String {
    grouped(number(of, field))
}

pub(super) fn items<'v>(of: &'v Value, field: &str) -> &'v [Value] {
    of[field].as_array().map_or(&[], Vec::as_slice)
}

/// Where a reference is.
pub(super) fn at(reference: &Value) -> String {
    let line = reference["line"].as_u64();
    let column = reference["column"].as_u64();
    let site = text(reference, "site");
    match (line, column) {
        (Some(line), Some(column)) if site.is_empty() => format!("{line}:{column}"),
        (Some(line), Some(column)) => format!("{line}:{column} {site}"),
        _ => site,
    }
}

/// A number with its noun, from a field.
pub(super) fn counted(of: &Value, field: &str, noun: &str) -> String {
    count(number(of, field), noun)
}
