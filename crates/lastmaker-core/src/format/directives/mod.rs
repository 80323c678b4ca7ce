//! Configuration of words: directives with arguments, some in quotes, one a line or up to a sign.
//! One reader, a table of dialects.

mod dialects;
mod walk;

use std::sync::Arc;

use crate::about::About;
use crate::codec::{ASSIGNED, BareText, ConfigWord, CronText, Escaped, JSON, Style, WordSyntax};
use crate::format::shell::ShellReader;
use crate::format::{Claim, Format, Namespace, Reader, Sample, Subject};
use crate::layer::{Layer, Layers, alone};
use crate::text::Encoding;

pub(super) use dialects::*;

/// A dialect of directives: each field is one way in which dialects differ.
pub(in crate::format) struct Directives {
    about: About,
    samples: &'static [Sample],
    /// Words with which a line near the start shows the dialect where its name does not.
    signs: &'static [&'static str],
    words: &'static WordSyntax,
    /// What begins a comment, where a word could begin.
    comment: char,
    /// Signs beside blanks that part words.
    parting: &'static str,
    /// Whether a backslash at the end of a line joins it with the next.
    continues: bool,
    /// Whether a word may be a name, an equals sign and a value.
    assigns: bool,
    /// Whether a line begins with a keyword, which an equals sign may follow.
    keywords: bool,
    /// Directives whose arguments are read in another way; their names in lower case.
    special: &'static [(&'static str, Arguments)],
    /// How a line is read whose directive is not special.
    usual: Arguments,
    /// Where its places are looked for, if never on this machine.
    namespace: Option<Namespace>,
    /// Directives of which some arguments are the paths of addresses; their names in lower case.
    addresses: &'static [(&'static str, Addresses)],
}

/// Which arguments of a directive are the paths of addresses.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Addresses {
    /// The first.
    First,
    /// All.
    All,
}

/// How the arguments of a directive are read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Arguments {
    /// As words.
    Words,
    /// As an array of JSON where it is one, else as commands of a shell.
    ArrayOrShell,
    /// As an array of JSON where it is one, else as text of which nothing is known.
    ArrayOrText,
    /// As text of which nothing is known.
    Unknown,
    /// Five columns of time (one where it begins with `@`), then commands of a shell in which `%`
    /// ends a line; or a name, `=` and a value.
    Scheduled,
    /// Lines of a shell up to one with this word.
    ScriptUntil(&'static str),
}

impl Format for Directives {
    fn about(&self) -> &About {
        &self.about
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let (text, file_name) = (subject.text, subject.file_name);
        let signed = || {
            const HEAD: usize = 200;
            let mut lines = text.lines().take(HEAD).map(str::trim_start);
            lines.any(|line| self.signs.iter().any(|sign| line.starts_with(sign)))
        };
        // Such files go by any name, but have no ending that says something else.
        let free = !file_name.contains('.') || file_name.ends_with(".conf");
        let known = !self.signs.is_empty() && free && signed();
        if self.about.is_named(file_name) || known {
            Claim::IfWellFormed
        } else {
            Claim::No
        }
    }

    fn samples(&self) -> &'static [Sample] {
        self.samples
    }

    fn lines_belong_together(&self) -> bool {
        true
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        let cron: Arc<dyn Layer> = Arc::new(CronText);
        let outer = match self.usual {
            Arguments::Scheduled => vec![cron],
            _ => Vec::new(),
        };
        Box::new(DirectiveReader {
            dialect: self,
            word: alone(ConfigWord(self.words)),
            json: alone(Escaped {
                escapes: &JSON,
                document: Style::default(),
            }),
            assigned: alone(BareText(&ASSIGNED)),
            shell: ShellReader::of(text, &outer),
            plain: Arc::new([]),
        })
    }
}

/// A document's reader: its dialect, and the layers of each kind of string in it.
struct DirectiveReader {
    dialect: &'static Directives,
    word: Layers,
    /// A string of an array.
    json: Layers,
    /// The value of a variable.
    assigned: Layers,
    shell: ShellReader,
    plain: Layers,
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::{Grammar, site_text};

    #[test]
    fn words_and_what_is_around_them() {
        let cases: [(&'static Directives, &str, &[&str]); 9] = [
            (
                &NGINX,
                "server { root \"/srv/a b\"; # to /x\n alias /srv/b; }\n",
                &["root|\"/srv/a b\"", "|# to /x", "alias|/srv/b"],
            ),
            (
                &HTTPD,
                "<Directory \"/srv/a b\">\nDocumentRoot /srv/b\n",
                &["Directory|\"/srv/a b\"", "DocumentRoot|/srv/b"],
            ),
            (
                &SSH_SETTINGS,
                "Host *\n  IdentityFile /srv/a\n  ProxyCommand /srv/v -x\n",
                &["IdentityFile|/srv/a", "ProxyCommand|/srv/v -x"],
            ),
            (
                &MOUNT_TABLE,
                "/srv/a /mnt/x none bind 0 0\n",
                &["|/srv/a", "|/mnt/x"],
            ),
            (
                &SUDOERS,
                "ines ALL=(root) NOPASSWD:/srv/v,/srv/w\n",
                &["ines|/srv/v", "ines|/srv/w"],
            ),
            (
                &DOCKERFILE,
                "FROM x\nCOPY [\"a\", \"/srv/b\"]\nENV A=/srv/a\nRUN cd /srv/c\n",
                &["COPY|/srv/b", "ENV|/srv/a", "|/srv/c"],
            ),
            (
                &CMAKE,
                "set(D \"/srv/a b\" /srv/c) # /x\n",
                &["set|\"/srv/a b\"", "set|/srv/c", "|# /x"],
            ),
            (
                &CRONTAB,
                "A=/srv/a b\n0 5 * * * cp '/srv/x y' /srv/z\n",
                &["A|/srv/a b", "|'/srv/x y'", "|/srv/z"],
            ),
            (
                &LOGROTATE,
                "/srv/a.log {\n weekly\n postrotate\n  kill `cat /srv/p`\n endscript\n}\n",
                &["|/srv/a.log", "|/srv/p"],
            ),
        ];
        for (dialect, text, expected) in cases {
            let mut all = Vec::new();
            let grammar = dialect.passages(text, Encoding::Utf8, &mut |passage| {
                let raw = &text[passage.span.clone()];
                all.push(format!("{}|{raw}", site_text(passage.site)));
            });
            assert_eq!(
                (all, grammar),
                (
                    expected.iter().map(|s| s.to_string()).collect(),
                    Grammar::Kept
                ),
                "{text}"
            );
        }
    }
}
