//! POSIX shell scripts, word by word.

use std::ops::Range;
use std::sync::Arc;

use super::{Claim, Format, Grammar, Passage, Reader, Role, Sample, Step, string_role};
use crate::about::About;
use crate::codec::{Escaped, SHELL_ANSI, SHELL_WORD, ShellWord, Style, shell_word_end};
use crate::layer::{Layers, alone};
use crate::place::Hint;
use crate::text::Encoding;

/// POSIX shell and its relatives.
pub(super) struct Shell;

const SHELL: About = About {
    name: "shell-script",
    what: "POSIX shell scripts",
    content: "a first line such as #!/bin/sh",
    names: &[
        ".sh",
        ".bash",
        ".zsh",
        ".ksh",
        ".profile",
        ".bashrc",
        ".bash_profile",
        ".zshrc",
        ".zprofile",
        ".xinitrc",
        ".xprofile",
    ],
    read: "words, strings in single, double and $'…' quotes, here-documents, comments",
    limits: "what a script puts together from pieces is not seen",
};

impl Format for Shell {
    fn about(&self) -> &About {
        &SHELL
    }

    fn claims(&self, text: &str, file_name: &str) -> Claim {
        let first = text.lines().next().unwrap_or("");
        let interpreted = first.starts_with("#!")
            && ["sh", "bash", "dash", "zsh", "ksh"].iter().any(|shell| {
                first
                    .split([' ', '/'])
                    .any(|word| word.trim_end() == *shell)
            });
        if interpreted || SHELL.is_named(file_name) {
            Claim::IfWellFormed
        } else {
            Claim::No
        }
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[
            Sample::new("a.sh", "", "view ", "\n"),
            Sample::new("a.sh", "", "K=\"", "\"\n"),
        ];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        Box::new(Wrappings {
            word: alone(ShellWord {
                backslashes: text.contains("\\ "),
            }),
            ansi: alone(Escaped {
                escapes: &SHELL_ANSI,
                document: Style::default(),
            }),
            plain: Arc::new([]),
        })
    }
}

/// A script's reader: the layers of each kind of string in it.
struct Wrappings {
    word: Layers,
    /// What a string in `$'…'` wears by itself.
    ansi: Layers,
    plain: Layers,
}

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        let mut walk = Walk {
            wear: self,
            text,
            heredocs: Vec::new(),
            grammar: Grammar::Kept,
            each,
        };
        walk.read();
        walk.grammar
    }
}

/// One walk through a script.
struct Walk<'a, 'e> {
    wear: &'a Wrappings,
    text: &'a str,
    /// The ends of the documents that begin in the next line.
    heredocs: Vec<String>,
    grammar: Grammar,
    each: &'e mut dyn FnMut(Passage<'_>),
}

impl Walk<'_, '_> {
    fn read(&mut self) {
        let bytes = self.text.as_bytes();
        let mut at = 0;
        while at < bytes.len() {
            match bytes[at] {
                b'\n' => {
                    at += 1;
                    for end in std::mem::take(&mut self.heredocs) {
                        at = self.document(at, &end);
                    }
                }
                b' ' | b'\t' | b'\r' | b';' | b'&' | b'|' | b'(' | b')' | b'>' => {
                    at += 1;
                }
                b'<' => at = self.redirection(at),
                b'#' if self.begins_word(at) => {
                    let end = memchr::memchr(b'\n', &bytes[at..]).map_or(bytes.len(), |n| at + n);
                    self.emit(
                        at..end,
                        &self.wear.plain.clone(),
                        Role::Prose,
                        Hint::Prose,
                        None,
                    );
                    at = end;
                }
                b'`' => at += 1,
                _ => at = self.word(at),
            }
        }
    }

    /// A word, with its quotes; of an assignment what is after the sign.
    fn word(&mut self, start: usize) -> usize {
        let (end, closed) = shell_word_end(self.text, start);
        self.grammar.note(closed, Grammar::Broken);
        let word = &self.text[start..end];
        let assigned = word.split_once('=').filter(|(name, _)| {
            name.chars()
                .all(|c| c.is_alphanumeric() || "_-+.".contains(c))
        });
        let key = assigned.map(|(name, _)| name);
        let start = start + key.map_or(0, |name| name.len() + 1);
        let raw = &self.text[start..end];
        let hint = match key {
            Some(name) if raw.starts_with(['"', '\'']) => {
                Hint::for_value(name.trim_start_matches('-'))
            }
            _ => Hint::Word,
        };
        let ansi = raw
            .strip_prefix("$'")
            .and_then(|rest| rest.strip_suffix('\''));
        if let Some(inside) = ansi
            && let (role @ Role::ByHand, sound) = string_role(inside, &SHELL_ANSI, Role::Value)
        {
            self.grammar.note(sound, Grammar::Escapes);
            let layers = self.wear.ansi.clone();
            self.emit(start + 2..end - 1, &layers, role, hint, key);
            return end;
        }
        let bare = !raw.contains(['"', '\'']);
        let role = match bare {
            true => string_role(raw, &SHELL_WORD, Role::Value).0,
            false => Role::Value,
        };
        let layers = self.wear.word.clone();
        self.emit(start..end, &layers, role, hint, key);
        end
    }

    fn begins_word(&self, at: usize) -> bool {
        self.text[..at]
            .chars()
            .next_back()
            .is_none_or(|c| c.is_whitespace() || ";&|(".contains(c))
    }

    /// `<`, and the word that ends a document after `<<`.
    fn redirection(&mut self, at: usize) -> usize {
        let rest = &self.text[at..];
        let Some(behind) = rest
            .strip_prefix("<<")
            .filter(|rest| !rest.starts_with('<'))
        else {
            return at + rest.bytes().take_while(|b| *b == b'<').count();
        };
        let word = behind
            .trim_start_matches('-')
            .trim_start_matches([' ', '\t']);
        let name: String = word
            .trim_start_matches(['\'', '"', '\\'])
            .chars()
            .take_while(|c| c.is_alphanumeric() || *c == '_')
            .collect();
        let lead = rest.len() - word.len();
        if name.is_empty() {
            return at + 2;
        }
        let quotes = word.len() - word.trim_start_matches(['\'', '"', '\\']).len();
        let closing = usize::from(word[quotes + name.len()..].starts_with(['\'', '"']));
        let width = lead + quotes + name.len() + closing;
        self.heredocs.push(name);
        at + width
    }

    /// The lines up to one that is `end`.
    fn document(&mut self, at: usize, end: &str) -> usize {
        let mut next = at;
        while next < self.text.len() {
            let rest = &self.text[next..];
            let length = rest.find('\n').unwrap_or(rest.len());
            if rest[..length].trim() == end {
                return next + length;
            }
            let layers = self.wear.plain.clone();
            self.emit(next..next + length, &layers, Role::Prose, Hint::Prose, None);
            next += length + 1;
        }
        self.grammar = Grammar::Broken;
        self.text.len()
    }

    fn emit(
        &mut self,
        span: Range<usize>,
        layers: &Layers,
        role: Role,
        hint: Hint,
        key: Option<&str>,
    ) {
        let Some(raw) = self.text.get(span.clone()) else {
            return;
        };
        if raw.is_empty() || !crate::place::may_hold_place(raw) {
            return;
        }
        let site: Vec<Step> = key
            .map(|key| Step::Key(key.to_owned()))
            .into_iter()
            .collect();
        (self.each)(Passage {
            span,
            layers,
            role,
            hint,
            site: &site,
        });
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::site_text;

    fn passages(format: &'static dyn Format, text: &str) -> (Vec<String>, bool) {
        let mut all = Vec::new();
        let fine = format.passages(text, Encoding::Utf8, &mut |passage| {
            all.push(format!(
                "{}|{}",
                site_text(passage.site),
                &text[passage.span.clone()]
            ));
        });
        (all, fine == Grammar::Kept)
    }

    #[test]
    fn words_and_strings() {
        let cases: [(&'static dyn Format, &str, &[&str]); 6] = [
            (
                &Shell,
                "cp /mnt/d/x '/srv/a b' # to /y\n",
                &["|/mnt/d/x", "|'/srv/a b'", "|# to /y"],
            ),
            (
                &Shell,
                "ROOT=\"/srv/a $(ls \"/x\") b\"; cd /y\\ z\n",
                &["ROOT|\"/srv/a $(ls \"/x\") b\"", "|/y\\ z"],
            ),
            (
                &Shell,
                "cat <<EOF >/o\nit's /x\nEOF\ncd /y\n",
                &["|/o", "|it's /x", "|/y"],
            ),
            (
                &Shell,
                "a --data=/x -o=$'/y\\n'\n",
                &["--data|/x", "-o|$'/y\\n'"],
            ),
            (&Shell, "A=D:\\\\x\n", &["A|D:\\\\x"]),
            (&Shell, "", &[]),
        ];
        for (format, text, expected) in cases {
            let (got, fine) = passages(format, text);
            let got: Vec<&str> = got.iter().map(String::as_str).collect();
            assert_eq!((got, fine), (expected.to_vec(), true), "{text}");
        }
        for broken in ["echo '/x", "echo \"/x", "cat <<EOF\n/x\n"] {
            assert!(!passages(&Shell, broken).1, "{broken}");
        }
    }
}
