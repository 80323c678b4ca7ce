//! Syntaxes that differ only in their quotes, escapes and comments: one reader, a table of
//! dialects.
//!
//! The reader knows strings and comments; what is between them is yielded as running text. It
//! does not know the grammar of each language, so a string that is not closed is the only thing
//! that breaks it.

mod dialects;
mod lexer;
mod statements;
mod walk;
mod wrappings;

use crate::about::About;
use crate::codec::Escapes;
use crate::format::{Claim, Format, Reader, Sample, Subject, interpreter};
use crate::text::Encoding;

pub(super) use dialects::*;
use wrappings::Wrappings;

/// How the inside of a string is written.
#[derive(Clone, Copy, Debug)]
pub(super) enum Inside {
    /// As it is.
    Raw,
    /// As it is, but a dollar sign begins what is put in.
    RawTemplate,
    /// As it is, but a backslash takes the quote that follows it along.
    RawJoined,
    /// With the quote doubled.
    Doubled(char),
    /// With escapes.
    Escaped(&'static Escapes),
    /// With escapes, and braces around what is put in.
    Formatted(&'static Escapes),
    /// With escapes, in ASCII alone.
    Bytes(&'static Escapes),
    /// As `RawJoined`, in ASCII alone.
    RawBytes,
}

/// What is around a string.
#[derive(Clone, Copy, Debug)]
pub(super) enum Delimiters {
    /// These; the string ends with its line.
    OneLine(&'static str, &'static str),
    /// These; the string may run over lines.
    Lines(&'static str, &'static str),
    /// These, where no other quote comes right after the first; the string ends with its line.
    Bare(&'static str, &'static str),
    /// Two brackets with any number of equals signs between them: `[==[` and `]==]`.
    LongBrackets,
}

/// One kind of string.
#[derive(Clone, Copy, Debug)]
pub(super) struct Quote {
    pub(super) delimiters: Delimiters,
    pub(super) inside: Inside,
}

/// What is between strings and comments.
#[derive(Clone, Copy, Debug)]
pub(super) enum Between {
    /// Bare words, which may be places.
    Text,
    /// A program, which has no places but in strings: what looks like one is doubtful.
    Code,
    /// A program in which a `/` begins a pattern where a value is expected.
    CodeWithPatterns,
    /// Words of commands, some of which are places, with escapes of their own.
    Words(&'static Escapes),
}

/// How strings are known to be keys, or under which key a value is.
#[derive(Clone, Copy, Debug)]
pub(super) enum Keys {
    /// One of these signs is between a key and its value.
    Assigned(&'static [u8]),
    /// The same, and `[name]` on a line by itself begins a section.
    InSections(&'static [u8]),
    /// Strings follow each other as keys and values, and braces nest them.
    Pairs,
}

impl Keys {
    /// The signs of an assignment.
    fn signs(self) -> &'static [u8] {
        match self {
            Self::Assigned(signs) | Self::InSections(signs) => signs,
            Self::Pairs => b"",
        }
    }

    fn are_pairs(self) -> bool {
        matches!(self, Self::Pairs)
    }
}

/// A syntax: each field is one way in which syntaxes differ.
pub(super) struct Syntax {
    pub(super) about: About,
    pub(super) samples: &'static [Sample],
    /// What a document begins with; a sign as good as its name.
    pub(super) starts: &'static [&'static str],
    /// Interpreters that the first line of a script may name.
    pub(super) interpreters: &'static [&'static str],
    /// What a document of this syntax, not of its sister, holds somewhere; empty if it has none.
    pub(super) marks: &'static [&'static str],
    pub(super) line_comments: &'static [&'static str],
    pub(super) block_comments: &'static [(&'static str, &'static str)],
    /// The first that fits counts, so longer ones come first.
    pub(super) quotes: &'static [Quote],
    pub(super) between: Between,
    pub(super) keys: Keys,
    /// Whether a string may be the name of a file beside the document.
    pub(super) names_files: bool,
    /// Whether it is a sequence of statements that stand by themselves, each ended by a semicolon.
    pub(super) in_statements: bool,
}

impl Format for Syntax {
    fn about(&self) -> &About {
        &self.about
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let (text, file_name) = (subject.text, subject.file_name);
        let named = self.about.is_named(file_name);
        // All of the text is looked through, so this is asked last.
        let marked = || {
            let is_there = |mark: &&str| subject.elsewhere.contains(mark) || text.contains(*mark);
            self.marks.is_empty() || self.marks.iter().any(is_there)
        };
        let start = text.trim_start();
        let started = self.starts.iter().any(|sign| start.starts_with(sign))
            || interpreter(text).is_some_and(|name| self.interpreters.contains(&name));
        if (named || started) && marked() {
            Claim::IfWellFormed
        } else if self.keys.are_pairs() && lexer::begins_with_pair(start) {
            Claim::Perhaps
        } else {
            Claim::No
        }
    }

    fn lines_belong_together(&self) -> bool {
        matches!(self.between, Between::Words(_))
    }

    fn is_local(&self) -> bool {
        self.in_statements
    }

    fn marks(&self) -> &'static [&'static str] {
        self.marks
    }

    fn samples(&self) -> &'static [Sample] {
        self.samples
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        let wrappings = Wrappings::of(self);
        Box::new(if self.in_statements {
            wrappings.made_by(text)
        } else {
            // Most documents have few kinds of strings.
            wrappings
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::{Grammar, Role, site_text};

    /// Strings with their sites, comments and code left out.
    fn strings(syntax: &'static Syntax, text: &str) -> (Vec<String>, bool) {
        let mut all = Vec::new();
        let fine = syntax.passages(text, Encoding::Utf8, &mut |passage| {
            if !matches!(passage.role, Role::Prose | Role::Stray) {
                let raw = &text[passage.span.clone()];
                all.push(format!("{}|{raw}", site_text(passage.site)));
            }
        });
        (all, fine == Grammar::Kept)
    }

    #[test]
    fn strings_and_their_keys() {
        let cases: [(&'static Syntax, &str, &[&str]); 14] = [
            (
                &TOML,
                "[a]\nb = \"x\" # 'no'\nc = 'y'\n",
                &["a.b|x", "a.c|y"],
            ),
            (
                &TOML,
                "b = '''/x'y'''\nl = [\"p\", 'q']",
                &["b|/x'y", "l|p", "l|q"],
            ),
            (
                &JAVASCRIPT_SOURCE,
                "x = { root: 'a', \"k\": `b` }; // 'c'",
                &["root|a", "k|k", "k|b"],
            ),
            (&JAVASCRIPT_SOURCE, "a = /['\"]/; b = \"x\"", &["b|x"]),
            (&JAVASCRIPT_SOURCE, r"a = '/it\'s'; ", &[r"a|/it\'s"]),
            (
                &LUA_SOURCE,
                "a = [==[/x]]y]==] -- 'n'\nb = 'z'",
                &["a|/x]]y", "b|z"],
            ),
            (&LUA_SOURCE, "--[[ 'x' ]] a = \"y\"", &["a|y"]),
            (
                &PYTHON_SOURCE,
                "R = r'D:\\x'\nS = \"\"\"/a\nb\"\"\"",
                &[r"R|D:\x", "S|/a\nb"],
            ),
            (&C_SOURCE, "#define P \"x\" /* \"n\" */", &["|x"]),
            (
                &SQL_SOURCE,
                "insert into t values ('it''s /a', 'b'); -- 'n'",
                &["|it''s /a", "|b"],
            ),
            (
                &POWERSHELL_SOURCE,
                "$a = \"/x`\"y\"; $b = 'it''s /a' # 'n'",
                &["a|/x`\"y", "b|it''s /a"],
            ),
            (
                &POWERSHELL_SOURCE,
                "$a = @\"\n/x \"q\" y\n\"@\n",
                &["a|/x \"q\" y"],
            ),
            (&LISP_SOURCE, "(setq a \"x\") ; \"n\"", &["|x"]),
            (
                &KEY_VALUES_SYNTAX,
                "\"a\"\n{\n  \"b\" \"c\"\n  \"d\" { \"e\" \"f\" }\n}",
                &["a|a", "a.b|b", "a.b|c", "a.d|d", "a.d.e|e", "a.d.e|f"],
            ),
        ];
        for (syntax, text, expected) in cases {
            let (got, fine) = strings(syntax, text);
            assert_eq!(
                (got.iter().map(String::as_str).collect::<Vec<_>>(), fine),
                (expected.to_vec(), true),
                "{text}"
            );
        }
    }

    #[test]
    fn strings_that_do_not_end_break_the_grammar() {
        for (syntax, text) in [
            (&TOML, "a = \"x\nb = 1"),
            (&PYTHON_SOURCE, "a = '''x"),
            (&JAVASCRIPT_SOURCE, "a = 'x\n"),
            (&TOML, r#"a = "D:\Herbarium""#),
        ] {
            assert!(!strings(syntax, text).1, "{text}");
        }
    }
}
