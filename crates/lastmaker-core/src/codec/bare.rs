//! Strings without any escapes, in syntaxes that cannot hold every letter.

use crate::layer::{Edit, Edits, Layer, Malformed, MapBuilder, Opened, Unfit, splice};

/// A kind of text that is written as it is.
#[derive(Debug)]
pub struct Bare {
    /// What a person calls it.
    pub name: &'static str,
    /// Letters that the syntax would take for something else.
    pub forbidden: &'static str,
    /// Whether a backslash takes the quote after it along, so that none may be at the end.
    pub joins_quote: bool,
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
    /// A word of a build file: blanks part words, and `#` and `$` mean something.
    BUILD_WORD = Bare {
        name: "word",
        forbidden: " \t#$",
        joins_quote: false,
    };
    /// A value of an environment file without quotes: some readers end it at a blank, others would
    /// take quotes for a part of it.
    ENVIRONMENT = Bare {
        name: "value",
        forbidden: " \t#'\"$`\r\n",
        joins_quote: false,
    };
    /// A line of a makefile's recipe: a shell reads it once `$` is expanded.
    RECIPE = Bare {
        name: "recipe",
        forbidden: "$`!\\\n",
        joins_quote: false,
    };
    /// The inside of raw strings in double quotes: nothing is escaped, and the quote cannot be
    /// inside.
    RAW_DOUBLE = Bare {
        name: "raw string",
        forbidden: "\"\r\n",
        joins_quote: false,
    };
    /// The same in single quotes.
    RAW_SINGLE = Bare {
        forbidden: "'\r\n",
        ..RAW_DOUBLE
    };
    /// The same in other quotes.
    RAW_OTHER = Bare {
        forbidden: "`])\r\n",
        ..RAW_DOUBLE
    };
    /// The inside of Python's raw strings.
    RAW_PYTHON = Bare {
        name: "raw string",
        forbidden: "\"'\r\n",
        joins_quote: true,
    };
    /// A settings value without quotes.
    SETTING = Bare {
        name: "value",
        forbidden: "\r\n",
        joins_quote: false,
    };
    /// A settings value in double quotes that escape nothing.
    QUOTED_SETTING = Bare {
        name: "quoted value",
        forbidden: "\"\r\n",
        joins_quote: false,
    };
}

/// A [`Bare`] as a layer.
#[derive(Debug)]
pub struct BareText(pub &'static Bare);

impl Layer for BareText {
    fn name(&self) -> &'static str {
        self.0.name
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let mut map = MapBuilder::default();
        map.bytes(0..outer.len());
        Ok(Opened {
            content: outer.to_vec(),
            map: map.finish(outer.len()),
        })
    }

    fn lift(&self, outer: &[u8], _: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        let forbidden = |edit: &Edit| {
            String::from_utf8_lossy(&edit.with).contains(|c| self.0.forbidden.contains(c))
        };
        if inner.as_slice().iter().any(forbidden) {
            return Err(Unfit::NotWritable {
                what: "the new place holds a letter that means something else here",
            });
        }
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

    #[test]
    fn letters_that_mean_something_else_are_refused() {
        let cases: [(&'static Bare, &str, bool); 6] = [
            (&BUILD_WORD, "/s/a b", false),
            (&BUILD_WORD, "/s/ab", true),
            (&SETTING, r"H:\a b #1", true),
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
