//! What is looked at to tell of which format a document is.

use std::cell::OnceCell;

/// How many lines at its start may show what a text is.
const HEAD: usize = 40;

/// A document whose format is not known yet. What several formats ask of it is worked out once.
pub struct Subject<'t> {
    /// Its text.
    pub text: &'t str,
    /// Its file's name, in lower case.
    pub file_name: &'t str,
    /// Marks of formats that are somewhere behind the text, if that is only the start of one.
    pub(super) elsewhere: &'t [&'static str],
    head: OnceCell<Vec<&'t str>>,
}

impl<'t> Subject<'t> {
    /// A text, and the name of its file in lower case.
    pub fn new(text: &'t str, file_name: &'t str) -> Self {
        Self {
            text,
            file_name,
            elsewhere: &[],
            head: OnceCell::new(),
        }
    }

    /// The start of a text, with the marks that are somewhere in the rest of it.
    pub(super) fn of_start(
        text: &'t str,
        file_name: &'t str,
        elsewhere: &'t [&'static str],
    ) -> Self {
        Self {
            elsewhere,
            ..Self::new(text, file_name)
        }
    }

    /// The first lines that are not blank, without the blanks around them.
    pub fn head(&self) -> &[&'t str] {
        let read = || {
            let text = self.text;
            let ends = memchr::memchr_iter(b'\n', text.as_bytes()).chain([text.len()]);
            let mut start = 0;
            let lines = ends.map(|end| {
                let line = without_blanks(&text[start..end]);
                start = end + 1;
                line
            });
            let mut head = Vec::with_capacity(HEAD);
            head.extend(lines.filter(|line| !line.is_empty()).take(HEAD));
            head
        };
        self.head.get_or_init(read)
    }
}

/// A line without the blanks around it, of which most have none but a carriage return.
fn without_blanks(line: &str) -> &str {
    let line = line.strip_suffix('\r').unwrap_or(line);
    match line.as_bytes() {
        [first, .., last] if first.is_ascii_graphic() && last.is_ascii_graphic() => line,
        _ => line.trim(),
    }
}
