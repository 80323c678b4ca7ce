//! Strings without any escapes, in syntaxes that cannot hold every letter.

use crate::layer::{Edit, Edits, Layer, Malformed, MapBuilder, Opened, Unfit};

/// A kind of text that stands as it is.
#[derive(Debug)]
pub struct Bare {
    /// What a person calls it.
    pub name: &'static str,
    /// Letters that the syntax would take for something else.
    pub forbidden: &'static str,
}

/// A word of a build file: blanks part words, and `#` and `$` mean something.
pub static BUILD_WORD: Bare = Bare {
    name: "word",
    forbidden: " \t#$",
};
/// The inside of raw strings in double quotes: nothing is escaped, and the quote cannot stand
/// inside.
pub static RAW_DOUBLE: Bare = Bare {
    name: "raw string",
    forbidden: "\"\r\n",
};
/// The same in single quotes.
pub static RAW_SINGLE: Bare = Bare {
    forbidden: "'\r\n",
    ..RAW_DOUBLE
};
/// The same in other quotes.
pub static RAW_OTHER: Bare = Bare {
    forbidden: "`])\r\n",
    ..RAW_DOUBLE
};
/// A settings value without quotes.
pub static SETTING: Bare = Bare {
    name: "value",
    forbidden: "\r\n",
};
/// A settings value in double quotes that escape nothing.
pub static QUOTED_SETTING: Bare = Bare {
    name: "quoted value",
    forbidden: "\"\r\n",
};

/// A [`Bare`] as a layer.
#[derive(Debug)]
pub struct BareText(pub &'static Bare);

impl Layer for BareText {
    fn name(&self) -> &'static str {
        self.0.name
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let mut map = MapBuilder::default();
        for at in 0..outer.len() {
            map.unit(1, at..at + 1);
        }
        Ok(Opened {
            content: outer.to_vec(),
            map: map.finish(outer.len()),
        })
    }

    fn lift(&self, _: &[u8], _: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        let forbidden = |edit: &Edit| {
            String::from_utf8_lossy(&edit.with).contains(|c| self.0.forbidden.contains(c))
        };
        if inner.as_slice().iter().any(forbidden) {
            return Err(Unfit::NotWritable {
                what: "the new place holds a letter that means something else here",
            });
        }
        Ok(inner.clone())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letters_that_mean_something_else_are_refused() {
        let cases: [(&'static Bare, &str, bool); 5] = [
            (&BUILD_WORD, "/s/a b", false),
            (&BUILD_WORD, "/s/ab", true),
            (&SETTING, r"H:\a b #1", true),
            (&QUOTED_SETTING, r#"H:\""#, false),
            (&RAW_SINGLE, r"H:\o'x", false),
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
}
