//! Settings lines: sections, keys and values, one a line. One reader, a table of dialects.

mod commands;
mod dialects;
mod lone_ends;
mod signs;
mod value;
mod walk;
mod wrappings;

use crate::about::About;
use crate::codec::{Bare, Escapes, Style, WordSyntax};
use crate::format::{Claim, Format, Reader, Sample, Subject};
use crate::text::Encoding;

pub(super) use dialects::*;
use wrappings::Wrappings;

/// A dialect of settings lines: each field is one way in which dialects differ.
pub(in crate::format) struct Lines {
    about: About,
    samples: &'static [Sample],
    /// What in a text shows that it is of this dialect, beside its name.
    look: Look,
    comments: &'static [&'static str],
    separators: &'static [u8],
    /// What a line holds.
    shape: Shape,
    /// Whether `[name]` on a line by itself begins a section.
    sections: bool,
    /// Whether a backslash at the end of a line joins it with the next.
    continues: bool,
    /// Whether equals signs that follow the separator belong to it: `:=`.
    joined_separators: bool,
    /// Whether a line that begins with a tab is a command line of a shell.
    recipes: bool,
    /// The escapes of keys, in which blanks part key and value too; none if keys are plain.
    key_escapes: Option<&'static Escapes>,
    /// How a value without quotes is written.
    bare: BareValue,
    /// What quotes around a value mean.
    quotes: Quotes,
    /// Which values are command lines.
    commands: Commands,
    own: Option<Encoding>,
}

/// What in a text shows a dialect.
#[derive(Clone, Copy)]
enum Look {
    /// One of these lines near its start; nothing if there are none.
    Signs(&'static [&'static str]),
    /// A section's head with keys under it, without a name for it.
    Sections,
    /// What another dialect looks like, with escapes throughout.
    EscapesIn(&'static Lines),
}

/// What a line holds.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Shape {
    /// A key and its value.
    Entry,
    /// A place.
    Place,
    /// Words, and strings in double quotes that escape nothing.
    Words,
}

/// How a value without quotes is written.
#[derive(Clone, Copy)]
enum BareValue {
    /// As it is.
    Plain(&'static Bare),
    /// With escapes, in this style where the document shows none.
    Escaped(&'static Escapes, Style),
    /// As a word of a syntax with quotes of its own.
    Word(&'static WordSyntax),
    /// With escapes, as a list of items that commas part.
    List(&'static Escapes, Style),
}

impl BareValue {
    fn escapes(self) -> Option<&'static Escapes> {
        match self {
            Self::Plain(_) | Self::Word(_) => None,
            Self::Escaped(escapes, _) | Self::List(escapes, _) => Some(escapes),
        }
    }
}

/// What quotes around a value mean.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Quotes {
    /// Nothing: they are letters like others.
    Letters,
    /// They are around the whole value, and escape nothing.
    Whole,
    /// What they mean to a shell.
    Shell,
}

/// Which values are command lines.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Commands {
    /// Those whose keys say so.
    ByKey,
    /// That of `Exec`.
    Exec,
    /// Those of keys that begin with `Exec`, and some lists that blanks part.
    Units,
}

impl Format for Lines {
    fn about(&self) -> &About {
        &self.about
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let (text, file_name) = (subject.text, subject.file_name);
        match self.look {
            Look::EscapesIn(other) => {
                let alike = other.claims(subject) != Claim::No;
                if alike && signs::looks_escaped(text) {
                    Claim::IfWellFormed
                } else {
                    Claim::No
                }
            }
            _ if self.about.is_named(file_name) => Claim::IfWellFormed,
            Look::Signs(signs) if signs.iter().any(|sign| subject.head().contains(sign)) => {
                Claim::IfWellFormed
            }
            Look::Sections if signs::looks_sectioned(text) => Claim::Perhaps,
            Look::Signs(_) | Look::Sections => Claim::No,
        }
    }

    fn samples(&self) -> &'static [Sample] {
        self.samples
    }

    fn lines_belong_together(&self) -> bool {
        self.recipes || self.commands != Commands::ByKey
    }

    fn own_encoding(&self) -> Option<Encoding> {
        self.own
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        Box::new(Wrappings::of(self, text))
    }
}

#[cfg(test)]
mod tests {
    use super::signs::looks_escaped;
    use super::*;
    use crate::format::{Role, site_text};

    fn values(dialect: &'static Lines, text: &str) -> Vec<String> {
        let mut all = Vec::new();
        dialect.passages(text, Encoding::Utf8, &mut |passage| {
            if matches!(passage.role, Role::Value | Role::Undoubled) {
                let raw = &text[passage.span.clone()];
                all.push(format!("{}|{raw}", site_text(passage.site)));
            }
        });
        all
    }

    #[test]
    fn values_and_their_keys() {
        let cases: [(&'static Lines, &str, &[&str]); 14] = [
            (&INI, "[a]\r\nb = D:\\x\r\n; c = d\r\n", &[r"a.b|D:\x"]),
            (&INI, "b=\"D:\\x y\"\nc: E:\\z\n", &[r"b|D:\x y", r"c|E:\z"]),
            (&INI, "key:D:\\x=1\nD:\\x=1\n", &["key|D:\\x=1"]),
            (
                &ESCAPED_INI,
                "p=D:\\\\a, \"E:\\\\b, c\"\n",
                &[r"p|D:\\a", r#"p|"E:\\b, c""#],
            ),
            (
                &JAVA_PROPERTIES,
                "a\\=b = D\\:\\\\x\nc D:/y\n",
                &[r"a\=b|D\:\\x", "c|D:/y"],
            ),
            (
                &JAVA_PROPERTIES,
                "a = D\\:\\\\\\\n   x\n",
                &["a|D\\:\\\\\\\n   x"],
            ),
            (
                &DESKTOP_ENTRY,
                "[Desktop Entry]\nExec=/srv/v %f\n",
                &["Desktop Entry.Exec|/srv/v", "Desktop Entry.Exec|%f"],
            ),
            (
                &SERVICE_UNIT,
                "[Service]\nExecStart=/srv/v -d \\\n  /srv/x\n",
                &[
                    "Service.ExecStart|/srv/v",
                    "Service.ExecStart|-d",
                    "Service.ExecStart|/srv/x",
                ],
            ),
            (
                &DOTENV,
                "export A=\"D:\\\\x\" # n\nB='y'\nC=z\n",
                &[r"A|D:\\x", "B|y", "C|z"],
            ),
            (
                &BUILD,
                "prefix=/srv/x\nR := D:/y\n",
                &["prefix|/srv/x", "R|D:/y"],
            ),
            (&PLAYLIST, "#EXTM3U\r\nD:\\a b.wav\r\n", &[r"|D:\a b.wav"]),
            (&CUE, "FILE \"D:\\a b.wav\" WAVE\n", &[r"FILE|D:\a b.wav"]),
            (&INI, "a=", &[]),
            (&INI, "\u{e4}=/\u{f6}", &["\u{e4}|/\u{f6}"]),
        ];
        for (dialect, text, expected) in cases {
            assert_eq!(values(dialect, text), expected, "{text}");
        }
    }

    #[test]
    fn escaped_settings_are_told_from_plain_ones() {
        let cases = [
            ("[a]\nb=D:\\\\x\n", true),
            ("[a]\nb=D:\\x\n", false),
            ("[a]\nb=@ByteArray(x)\n", true),
            ("[a]\nb=D:/x\n", false),
            ("[a]\nb=Gr\\xfcn\n", true),
        ];
        for (text, escaped) in cases {
            assert_eq!(looks_escaped(text), escaped, "{text}");
        }
    }
}
