//! Lines and columns of offsets.

use crate::layer::TextOffset;
use crate::report::Position;

/// Tells lines and columns of offsets that mostly grow, each letter counted once.
#[derive(Clone, Copy, Debug)]
pub struct LineCounter {
    /// The number of the text's first line.
    first: usize,
    at: usize,
    line: usize,
    column: usize,
}

impl LineCounter {
    /// For a text whose first line has this number.
    pub fn from_line(first: usize) -> Self {
        Self {
            first,
            at: 0,
            line: first,
            column: 1,
        }
    }

    /// The line and column of `offset` in `text`.
    pub fn at(&mut self, text: &str, offset: TextOffset) -> Position {
        let offset = offset.get();
        if offset < self.at {
            *self = Self::from_line(self.first);
        }
        let passed = &text[self.at..offset];
        match memchr::memrchr(b'\n', passed.as_bytes()) {
            Some(last) => {
                self.line += memchr::memchr_iter(b'\n', passed.as_bytes()).count();
                self.column = 1 + passed[last + 1..].chars().count();
            }
            None => self.column += passed.chars().count(),
        }
        self.at = offset;
        Position {
            line: self.line,
            column: self.column,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letters_are_counted_not_bytes() {
        let mut lines = LineCounter::from_line(1);
        let got = [0, 1, 2, 4, 6, 2].map(|offset| {
            let at = lines.at("a\n\u{e9}b\n\nc", TextOffset::new(offset));
            (at.line, at.column)
        });
        assert_eq!(got, [(1, 1), (1, 2), (2, 1), (2, 2), (3, 1), (2, 1)]);
    }
}
