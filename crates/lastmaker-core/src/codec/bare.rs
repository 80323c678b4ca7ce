//! Strings without any escapes, in syntaxes that cannot hold every letter.

use crate::layer::{Edit, Edits, Layer, Malformed, MapBuilder, Opened, Unfit};

/// A stretch of text that stands as it is, and what to do where the new one cannot.
#[derive(Debug)]
pub struct Bare {
    /// What a person calls it.
    pub name: &'static str,
    /// Letters that the syntax would take for something else.
    pub forbidden: &'static str,
    /// The quote that the syntax puts around a string with such letters, doubled inside; none
    /// if it has no way to hold them.
    pub quote: Option<char>,
}

/// A field between commas that has no quotes yet.
pub static CSV_FIELD: Bare = Bare {
    name: "field",
    forbidden: ",\"\r\n",
    quote: Some('"'),
};
/// The same between semicolons.
pub static CSV_FIELD_SEMICOLON: Bare = Bare {
    forbidden: ";\"\r\n",
    ..CSV_FIELD
};
/// The same between tabs.
pub static TSV_FIELD: Bare = Bare {
    forbidden: "\t\"\r\n",
    ..CSV_FIELD
};
/// The same between bars.
pub static BAR_FIELD: Bare = Bare {
    forbidden: "|\"\r\n",
    ..CSV_FIELD
};
/// A word of a build file: blanks part words, and `#` and `$` mean something.
pub static BUILD_WORD: Bare = Bare {
    name: "word",
    forbidden: " \t#$",
    quote: None,
};
/// Text of a Windows batch file.
pub static BATCH: Bare = Bare {
    name: "batch text",
    forbidden: "%&|<>^!",
    quote: None,
};
/// The inside of raw strings: nothing is escaped, and the closing quote cannot stand inside.
pub static RAW_STRING: Bare = Bare {
    name: "raw string",
    forbidden: "\"'`\r\n",
    quote: None,
};
/// A settings value without quotes.
pub static SETTING: Bare = Bare {
    name: "value",
    forbidden: "\r\n",
    quote: None,
};
/// A settings value in double quotes that escape nothing.
pub static QUOTED_SETTING: Bare = Bare {
    name: "quoted value",
    forbidden: "\"\r\n",
    quote: None,
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

    fn lift(&self, outer: &[u8], _: &Opened, inner: &Edits) -> Result<Edits, Unfit> {
        let forbidden = |edit: &Edit| {
            String::from_utf8_lossy(&edit.with).contains(|c| self.0.forbidden.contains(c))
        };
        if !inner.as_slice().iter().any(forbidden) {
            return Ok(inner.clone());
        }
        let Some(quote) = self.0.quote else {
            return Err(Unfit::NotWritable {
                what: "the new place holds a letter that means something else here",
            });
        };
        let once = quote.to_string();
        let mut lifted: Vec<Edit> = inner.as_slice().to_vec();
        for edit in &mut lifted {
            let text = String::from_utf8_lossy(&edit.with).replace(quote, &once.repeat(2));
            edit.with = text.into_bytes();
        }
        // The quotes join the edits at either end, if there are any.
        match lifted.first_mut() {
            Some(first) if first.span.start == 0 => first.with.insert(0, quote as u8),
            _ => lifted.push(Edit {
                span: 0..0,
                with: once.clone().into_bytes(),
            }),
        }
        let end = outer.len();
        match lifted
            .iter_mut()
            .find(|edit| edit.span.end == end && end > 0)
        {
            Some(last) => last.with.extend_from_slice(once.as_bytes()),
            None => lifted.push(Edit {
                span: end..end,
                with: once.into_bytes(),
            }),
        }
        Edits::new(lifted).map_err(|_| Unfit::Overlap)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::splice;

    #[test]
    fn quotes_come_where_the_syntax_has_them() {
        let cases: [(&'static Bare, &str, usize, &str, Option<&str>); 6] = [
            (&CSV_FIELD, r"D:\H\x", 4, r"H:\a, b", Some(r#""H:\a, b\x""#)),
            (&CSV_FIELD, r"D:\H", 4, r"H:\a, b", Some(r#""H:\a, b""#)),
            (
                &CSV_FIELD_SEMICOLON,
                r"D:\H\x",
                4,
                r"H:\a, b",
                Some(r"H:\a, b\x"),
            ),
            (&BUILD_WORD, "/d/H/x", 4, "/s/a b", None),
            (&BATCH, r"D:\H\x", 4, r"H:\100%", None),
            (&SETTING, r"D:\H\x", 4, r"H:\a b", Some(r"H:\a b\x")),
        ];
        for (bare, outer, length, with, expected) in cases {
            let layer = BareText(bare);
            let opened = layer.open(outer.as_bytes()).unwrap();
            let edit = Edit {
                span: 0..length,
                with: with.as_bytes().to_vec(),
            };
            let lifted = layer.lift(outer.as_bytes(), &opened, &Edits::new(vec![edit]).unwrap());
            let got = lifted.ok().map(|edits| splice(outer.as_bytes(), &edits));
            assert_eq!(
                got.map(|b| String::from_utf8(b).unwrap()).as_deref(),
                expected,
                "{outer}"
            );
        }
    }
}
