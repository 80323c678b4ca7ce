//! Strings without any escapes, in syntaxes that cannot hold every letter.

use crate::layer::{Edits, Layer, Malformed, Opened, Unfit, splice};

/// A kind of text that is written as it is.
#[derive(Debug)]
pub struct Bare {
    /// What a person calls it.
    pub name: &'static str,
    /// Which letters may come in.
    pub takes: Takes,
    /// Whether a backslash takes the quote after it along, so that none may be at the end.
    pub joins_quote: bool,
    /// Whether a backslash before punctuation stands for nothing.
    pub escapes_punctuation: bool,
}

/// Whether a backslash in `text` comes before punctuation.
fn escapes_punctuation(text: &str) -> bool {
    let bytes = text.as_bytes();
    bytes
        .windows(2)
        .any(|two| two[0] == b'\\' && two[1].is_ascii_punctuation())
}

/// Which letters may come into a text that has no escapes. Those that the replaced stretch has
/// itself always may.
#[derive(Debug)]
pub enum Takes {
    /// All but these.
    AllBut(&'static str),
    /// Those of ASCII.
    Ascii,
    /// Letters, digits, `_.-/`, and these.
    Plain(&'static str),
}

impl Takes {
    fn takes(&self, letter: char) -> bool {
        match self {
            Self::AllBut(others) => !others.contains(letter),
            Self::Ascii => letter.is_ascii(),
            Self::Plain(more) => {
                letter.is_alphanumeric() || "_.-/".contains(letter) || more.contains(letter)
            }
        }
    }
}

/// Defines kinds of text, and the table of all of them.
macro_rules! kinds {
    ($($(#[$doc:meta])* $name:ident = $kind:expr;)*) => {
        $($(#[$doc])* pub static $name: Bare = $kind;)*

        /// Every kind.
        pub static BARE_KINDS: &[&Bare] = &[$(&$name),*];
    };
}

kinds! {
    /// A word of a build file: blanks part words, and `#`, `$` and other signs mean something.
    BUILD_WORD = Bare {
        name: "word",
        takes: Takes::Plain("+@,"),
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// A value of an environment file without quotes: some readers end it at a blank, others would
    /// take quotes for a part of it.
    ENVIRONMENT = Bare {
        name: "value",
        takes: Takes::Plain("+@,=%^:"),
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// The same in quotes: what readers take for a variable, an escape or a quote differs.
    ENVIRONMENT_QUOTED = Bare {
        name: "quoted value",
        takes: Takes::AllBut("$`'\"!\\\r\n"),
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// The same in single quotes.
    ENVIRONMENT_SINGLE = Bare {
        takes: Takes::AllBut("$`'\"!\r\n"),
        ..ENVIRONMENT_QUOTED
    };
    /// The inside of a string in which braces mean something.
    FORMATTED = Bare {
        name: "formatted string",
        takes: Takes::AllBut("{}"),
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// A word in which a backslash is a separator or an escape, as the system has it.
    EDITOR_FILE = Bare {
        name: "editor word",
        takes: Takes::AllBut("\\\r\n"),
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// A word of such a command that names a share.
    EDITOR_SHARE = Bare {
        name: "editor word",
        takes: Takes::AllBut(" \t\"|%#$`*?[{<'!~\r\n"),
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// The target of a link in double brackets.
    LINKED_FILE = Bare {
        name: "link",
        takes: Takes::AllBut("[]\\:\r\n"),
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// A string of bytes, in which a letter beyond ASCII can only be written as what it is encoded as.
    BYTES = Bare {
        name: "string of bytes",
        takes: Takes::Ascii,
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// The inside of a raw string in which `$` begins what is put in.
    RAW_TEMPLATE = Bare {
        name: "raw string",
        takes: Takes::AllBut("$`\"\r\n"),
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// The inside of raw strings in double quotes: nothing is escaped, and the quote cannot be
    /// inside.
    RAW_DOUBLE = Bare {
        name: "raw string",
        takes: Takes::AllBut("\"\r\n"),
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// The same in single quotes.
    RAW_SINGLE = Bare {
        takes: Takes::AllBut("'\r\n"),
        ..RAW_DOUBLE
    };
    /// The same in other quotes.
    RAW_OTHER = Bare {
        takes: Takes::AllBut("`])\r\n"),
        ..RAW_DOUBLE
    };
    /// The inside of Python's raw strings.
    RAW_PYTHON = Bare {
        name: "raw string",
        takes: Takes::AllBut("\"'\r\n"),
        joins_quote: true,
        escapes_punctuation: false,
    };
    /// A settings value without quotes: which letters begin a comment, name a variable or part a
    /// list in it, its program alone knows.
    SETTING = Bare {
        name: "value",
        takes: Takes::Plain(" ()'&+@~^=[]:\\"),
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// A key of settings lines.
    SETTING_KEY = Bare {
        name: "key",
        takes: Takes::Plain(" ()'&+@~^\\"),
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// A settings value in double quotes that escape nothing.
    QUOTED_SETTING = Bare {
        name: "quoted value",
        takes: Takes::Plain(" ()'&+@~^=[],;#:\\"),
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// A variable's value to the end of its line, which quotes around it would change.
    ASSIGNED = Bare {
        name: "value",
        takes: Takes::AllBut("\"'\\\r\n"),
        joins_quote: false,
        escapes_punctuation: false,
    };
    /// Running text of a document with marks of its own.
    MARKED_TEXT = Bare {
        name: "text",
        takes: Takes::Plain(" '(),;!%#@+=~^&?:\\"),
        joins_quote: false,
        escapes_punctuation: true,
    };
    /// A line that is a place and nothing else.
    PLACE_LINE = Bare {
        name: "line",
        takes: Takes::AllBut("\r\n"),
        joins_quote: false,
        escapes_punctuation: false,
    };
}

/// Whether a text has letters that are percent-encoded.
fn is_encoded(text: &[u8]) -> bool {
    let digits = |at: usize| {
        let two = text.get(at + 1..at + 3).unwrap_or(b"");
        two.len() == 2 && two.iter().all(u8::is_ascii_hexdigit)
    };
    memchr::memchr_iter(b'%', text).any(digits)
}

/// What comes after the drive of a place.
pub(super) fn without_drive(place: &[u8]) -> &[u8] {
    match place {
        [letter, b':', rest @ ..] if letter.is_ascii_alphabetic() => rest,
        _ => place,
    }
}

/// A [`Bare`] as a layer.
#[derive(Debug)]
pub struct BareText(pub &'static Bare);

impl Layer for BareText {
    fn name(&self) -> &'static str {
        self.0.name
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        Ok(Opened::same(outer))
    }

    fn lift(&self, outer: &[u8], opened: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        for edit in inner.as_slice() {
            let stood = String::from_utf8_lossy(&outer[edit.span.clone()]);
            let written = String::from_utf8_lossy(without_drive(&edit.with));
            // Where a text is of Windows, its separators are what they were.
            let separates = outer.contains(&b'\\');
            // Where a URI in it has letters encoded already, others may be.
            let encodes = is_encoded(outer);
            let may_come = |letter: &char| {
                let known = stood.contains(*letter)
                    || (*letter == '\\' && separates)
                    || (*letter == '%' && encodes);
                known || self.0.takes.takes(*letter)
            };
            // Some programs take runs of blanks for one.
            let run = matches!(self.0.takes, Takes::Plain(_)) && written.contains("  ");
            let run = (run && !stood.contains("  ")).then_some(' ');
            if let Some(letter) = run.or_else(|| written.chars().find(|letter| !may_come(letter))) {
                return Err(Unfit::Means {
                    letter,
                    within: self.0.name,
                });
            }
        }
        if self.0.escapes_punctuation {
            let stood = |text: &[u8]| escapes_punctuation(&String::from_utf8_lossy(text));
            if stood(&splice(outer, inner)) && !stood(outer) {
                return Err(Unfit::Means {
                    letter: '\\',
                    within: self.0.name,
                });
            }
        }
        self.lift_accepted(outer, opened, inner)
    }

    fn lift_accepted(&self, outer: &[u8], _: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        if self.0.joins_quote {
            let written = splice(outer, inner);
            let backslashes = written.iter().rev().take_while(|b| **b == b'\\').count();
            if backslashes % 2 == 1 {
                return Err(Unfit::NotWritable {
                    what: "a raw string cannot end in a backslash",
                });
            }
        }
        Ok(inner.clone())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::Edit;

    #[test]
    fn letters_that_mean_something_else_are_refused() {
        let cases: [(&'static Bare, &str, bool); 6] = [
            (&BUILD_WORD, "/s/a b", false),
            (&BUILD_WORD, "/s/ab", true),
            (&SETTING, r"H:\a b #1", false),
            (&QUOTED_SETTING, r#"H:\""#, false),
            (&RAW_SINGLE, r"H:\o'x", false),
            (&RAW_PYTHON, r"H:\x", true),
        ];
        for (bare, with, fits) in cases {
            let layer = BareText(bare);
            let opened = layer.open(b"/d/H/x").unwrap();
            let edit = Edit {
                span: 0..4,
                with: with.as_bytes().to_vec(),
            };
            let edits = Edits::new(vec![edit]).unwrap();
            let lifted = layer.lift(b"/d/H/x", &opened, &edits);
            assert_eq!(lifted.ok(), fits.then_some(edits), "{with}");
        }
    }

    #[test]
    fn a_raw_string_of_python_cannot_end_in_a_backslash() {
        let layer = BareText(&RAW_PYTHON);
        for (outer, span, fits) in [("/d/H/", 4..5, false), ("/d/H/x", 4..5, true)] {
            let opened = layer.open(outer.as_bytes()).unwrap();
            let with = b"\\".to_vec();
            let edits = Edits::new(vec![Edit { span, with }]).unwrap();
            assert_eq!(
                layer.lift(outer.as_bytes(), &opened, &edits).is_ok(),
                fits,
                "{outer}"
            );
        }
    }
}
