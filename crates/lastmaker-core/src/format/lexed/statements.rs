//! Where the statements of a dump end, so that a large one can be read in windows.

use super::wrappings::Wrappings;
use crate::format::Records;

/// Behind the last line of `text` that ends a statement; in the rows of one statement, behind the last line that
/// ends a row.
pub(super) fn whole_statements(wear: &Wrappings, text: &str) -> Option<Records> {
    let bytes = text.as_bytes();
    let (mut statement, mut row) = (None, None);
    let mut depth = 0usize;
    let mut at = 0;
    while at < bytes.len() {
        let sign = wear.beginnings.next(text, at).unwrap_or(bytes.len());
        for (offset, byte) in bytes[at..sign].iter().enumerate() {
            match byte {
                b'(' => depth += 1,
                b')' => depth = depth.saturating_sub(1),
                b'\n' => {
                    let end = at + offset + 1;
                    let line = text[..end].trim_end();
                    // A line `\.` ends the rows that a program reads as they are.
                    if line.ends_with(';') || line.ends_with("\n\\.") {
                        depth = 0;
                        statement = Some(end);
                    }
                    if depth == 0 {
                        row = Some(end);
                    }
                }
                _ => {}
            }
        }
        let comment = || wear.syntax.comment_end(text, sign);
        let string = || {
            let lexeme = wear.syntax.string_at(&wear.beginnings, text, sign)?;
            // One that is not over may go on in what comes.
            Some(lexeme.over.unwrap_or(bytes.len()))
        };
        at = if sign < bytes.len() {
            comment().or_else(string).unwrap_or(sign + 1)
        } else {
            sign
        };
    }
    let end = statement.or(row)?;
    Some(Records { end, count: 0 })
}
