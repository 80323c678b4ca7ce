//! POSIX shell scripts, word by word, and Windows batch files, line by line.

use std::ops::Range;
use std::sync::Arc;

use super::{About, Claim, Format, Grammar, Passage, Role, Step, string_role};
use crate::codec::{BatchText, Escaped, SHELL_ANSI, SHELL_WORD, ShellWord, Style, shell_word_end};
use crate::layer::Layers;
use crate::place::Hint;
use crate::text::Encoding;

/// POSIX shell and its relatives.
pub(super) struct Shell;

/// Windows batch files.
pub(super) struct Batch;

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

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn passages(
        &self,
        text: &str,
        _encoding: Encoding,
        each: &mut dyn FnMut(Passage<'_>),
    ) -> Grammar {
        let mut reader = ShellReader {
            text,
            word: Arc::new([Arc::new(ShellWord {
                backslashes: text.contains("\\ "),
            })]),
            ansi: Arc::new([Arc::new(Escaped {
                escapes: &SHELL_ANSI,
                document: Style::default(),
            })]),
            plain: Arc::new([]),
            heredocs: Vec::new(),
            grammar: Grammar::Kept,
            each,
        };
        reader.read();
        reader.grammar
    }
}

struct ShellReader<'a, 'e> {
    text: &'a str,
    word: Layers,
    /// What a string in `$'…'` wears by itself.
    ansi: Layers,
    plain: Layers,
    /// The ends of the documents that begin in the next line.
    heredocs: Vec<String>,
    grammar: Grammar,
    each: &'e mut dyn FnMut(Passage<'_>),
}

impl ShellReader<'_, '_> {
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
                    self.emit(at..end, &self.plain.clone(), Role::Prose, Hint::Prose, None);
                    at = end;
                }
                b'`' => at += 1,
                _ => at = self.word(at),
            }
        }
    }

    /// A word, with its quotes; of an assignment what stands behind the sign.
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
            let layers = self.ansi.clone();
            self.emit(start + 2..end - 1, &layers, role, hint, key);
            return end;
        }
        let bare = !raw.contains(['"', '\'']);
        let role = match bare {
            true => string_role(raw, &SHELL_WORD, Role::Value).0,
            false => Role::Value,
        };
        let layers = self.word.clone();
        self.emit(start..end, &layers, role, hint, key);
        end
    }

    fn begins_word(&self, at: usize) -> bool {
        self.text[..at]
            .chars()
            .next_back()
            .is_none_or(|c| c.is_whitespace() || ";&|(".contains(c))
    }

    /// `<`, and the word that ends a document behind `<<`.
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
            let layers = self.plain.clone();
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

const BATCH_FILE: About = About {
    name: "batch-file",
    what: "Windows batch files",
    content: "a first line @echo off",
    names: &[".bat", ".cmd"],
    read: "command lines, set and labels, with %% and ^ as they stand",
    limits: "what a script puts together from pieces is not seen; `start` with a new blank in its first place is doubtful",
};

impl Format for Batch {
    fn about(&self) -> &About {
        &BATCH_FILE
    }

    fn claims(&self, text: &str, file_name: &str) -> Claim {
        let first = text.trim_start().lines().next().unwrap_or("");
        let echo = first.to_ascii_lowercase().starts_with("@echo off");
        if echo || BATCH_FILE.is_named(file_name) {
            Claim::Certain
        } else {
            Claim::No
        }
    }

    fn own_encoding(&self) -> Option<Encoding> {
        None
    }

    fn passages(
        &self,
        text: &str,
        _encoding: Encoding,
        each: &mut dyn FnMut(Passage<'_>),
    ) -> Grammar {
        let bangs = text.to_ascii_lowercase().contains("enabledelayedexpansion");
        let worn = |quoted| -> Layers { Arc::new([Arc::new(BatchText { quoted, bangs })]) };
        let (bare, quoted) = (worn(false), worn(true));
        let mut at = 0;
        for line in text.split_inclusive('\n') {
            let start = at;
            at += line.len();
            let body = line.trim_end();
            let lead = body.len() - body.trim_start_matches([' ', '\t', '@']).len();
            let command = &body[lead..];
            if !crate::place::may_hold_place(command) {
                continue;
            }
            let lower = command.to_ascii_lowercase();
            let mut emit = |span: Range<usize>, role, hint, key: Option<&str>| {
                let in_quotes = key.is_some() && command[..span.start].contains('"');
                let site: Vec<Step> = key
                    .map(|key| Step::Key(key.to_owned()))
                    .into_iter()
                    .collect();
                each(Passage {
                    span: start + lead + span.start..start + lead + span.end,
                    layers: if in_quotes { &quoted } else { &bare },
                    role,
                    hint,
                    site: &site,
                });
            };
            if lower.starts_with("rem ") || command.starts_with("::") {
                emit(0..command.len(), Role::Prose, Hint::Prose, None);
            } else if let Some((name, value)) = assignment(command, &lower) {
                emit(value, Role::Value, Hint::Name, Some(&command[name]));
            } else {
                let hint = Hint::Command {
                    titled: lower.starts_with("start "),
                };
                emit(0..command.len(), Role::Value, hint, None);
            }
        }
        Grammar::Kept
    }
}

/// Name and value of `set NAME=value` and `set "NAME=value"`.
fn assignment(command: &str, lower: &str) -> Option<(Range<usize>, Range<usize>)> {
    let rest = lower.strip_prefix("set ")?;
    let mut start = 4 + rest.len() - rest.trim_start().len();
    let mut end = command.len();
    if command[start..].starts_with('"') && command.ends_with('"') && end > start + 1 {
        start += 1;
        end -= 1;
    }
    let equals = start + command[start..end].find('=')?;
    let plain = !command[start..equals].contains(['/', '"']);
    plain.then_some((start..equals, equals + 1..end))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::site_text;

    fn passages(format: &dyn Format, text: &str) -> (Vec<String>, bool) {
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
        let cases: [(&dyn Format, &str, &[&str]); 10] = [
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
            (
                &Batch,
                "@echo off\r\nset ROOT=D:\\x y\r\n",
                &["ROOT|D:\\x y"],
            ),
            (&Batch, "set \"ROOT=D:\\x\"\r\n", &["ROOT|D:\\x"]),
            (
                &Batch,
                "rem D:\\x\r\ncopy D:\\a \"E:\\b c\"\r\n",
                &["|rem D:\\x", "|copy D:\\a \"E:\\b c\""],
            ),
            (&Batch, "set /p X=D:\\x\r\n", &["|set /p X=D:\\x"]),
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
