//! Windows batch files: each line is a command line.

use std::collections::HashSet;
use std::ops::Range;

use super::unquoted_uses::{Use, used_bare};
use super::{Claim, Format, Grammar, Passage, Reader, Role, Sample, Step, Subject};
use crate::about::About;
use crate::codec::BatchText;
use crate::layer::{Layers, alone};
use crate::scan::{Hint, OF_PLACES, lines_with};
use crate::text::{Encoding, code_page_set};

/// Windows batch files.
pub(super) struct Batch;

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

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let (text, file_name) = (subject.text, subject.file_name);
        let first = text.trim_start().lines().next().unwrap_or("");
        let echo = first.to_ascii_lowercase().starts_with("@echo off");
        if echo || BATCH_FILE.is_named(file_name) {
            Claim::Certain
        } else {
            Claim::No
        }
    }

    fn declared_encoding(&self, text: &str) -> Option<Encoding> {
        code_page_set(text)
    }

    fn leaves_encoding_open(&self) -> bool {
        true
    }

    fn lines_belong_together(&self) -> bool {
        true
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[Sample::new("a.bat", "", "copy ", " x\r\n")];
        SAMPLES
    }

    fn own_encoding(&self) -> Option<Encoding> {
        None
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        let bangs = delays_expansion(text);
        let worn = |quoted, read_again| {
            alone(BatchText {
                quoted,
                read_again,
                bangs,
            })
        };
        Box::new(Wrappings {
            used_bare: used_bare(text, Use::Batch),
            bare: worn(false, false),
            called: worn(false, true),
            quoted: worn(true, true),
        })
    }
}

/// A script's reader: the layers of its commands.
struct Wrappings {
    bare: Layers,
    /// What `call` reads once more, and the value of a variable.
    called: Layers,
    /// The variables that are used without quotes.
    used_bare: HashSet<String>,
    /// What is in the quotes of `set "NAME=value"`.
    quoted: Layers,
}

impl Reader for Wrappings {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        for line in lines_with(text, &[OF_PLACES], [b'\n'; 3]) {
            let body = text[line.clone()].trim_end();
            let lead = body.len() - body.trim_start_matches([' ', '\t', '@']).len();
            self.command(&body[lead..], line.start + lead, each);
        }
        Grammar::Kept
    }
}

/// Whether a script asks for variables between exclamation marks.
fn delays_expansion(text: &str) -> bool {
    const WORD: &[u8] = b"enabledelayedexpansion";
    // Its rarest letter, and where that is in it.
    const RARE: usize = 14;
    memchr::memchr2_iter(b'x', b'X', text.as_bytes()).any(|at| {
        let start = at.checked_sub(RARE);
        let word = start.and_then(|start| text.as_bytes().get(start..start + WORD.len()));
        word.is_some_and(|word| word.eq_ignore_ascii_case(WORD))
    })
}

/// Whether a command is read once more before it runs.
fn calls(command: &str) -> bool {
    let lower = command.trim_start_matches(['@', ' ']).to_ascii_lowercase();
    lower.starts_with("call ") || lower.contains(" call ")
}

/// What a command does with its words.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Words {
    /// It takes them as arguments, whose quotes it takes off.
    Arguments,
    /// It shows them as they are.
    Text,
    /// It takes quotes for a part of them, or parts them in a way of its own.
    AsWritten,
}

impl Words {
    fn of(command: &str) -> Self {
        let lower = command
            .trim_start_matches(['@', '(', ' ', '\t'])
            .to_ascii_lowercase();
        let ends = |c: char| c.is_whitespace() || ".,;=:(/".contains(c);
        match lower.split(ends).next().unwrap_or("") {
            "echo" | "title" | "prompt" => Self::Text,
            "for" | "set" | "shift" | "assoc" | "ftype" => Self::AsWritten,
            "if" if lower.contains("==") => Self::AsWritten,
            _ => Self::Arguments,
        }
    }

    fn hint(self, command: &str) -> Hint {
        match self {
            Self::Text => Hint::Prose,
            Self::AsWritten => Hint::Code,
            Self::Arguments => Hint::Command {
                titled: command.to_ascii_lowercase().starts_with("start "),
            },
        }
    }
}

impl Wrappings {
    /// Yields the commands of the line that begins at `start`.
    fn command(&self, command: &str, start: usize, each: &mut dyn FnMut(Passage<'_>)) {
        let lower = command.to_ascii_lowercase();
        let mut emit = |span: Range<usize>, role, hint, site: &[Step]| {
            let in_quotes = !site.is_empty() && command[..span.start].contains('"');
            let text = start + span.start..start + span.end;
            each(Passage {
                span: text,
                layers: match (in_quotes, site.is_empty() && !calls(&command[span])) {
                    (true, _) => &self.quoted,
                    (false, true) => &self.bare,
                    (false, false) => &self.called,
                },
                role,
                hint,
                site,
            });
        };
        let whole = 0..command.len();
        if lower.starts_with("rem ") || command.starts_with("::") {
            emit(whole, Role::Prose, Hint::Prose, &[]);
        } else if let Some((name, value)) = assignment(command, &lower) {
            let site = [Step::Key(command[name.clone()].to_owned())];
            let bare = self.used_bare.contains(&command[name].to_uppercase());
            let hint = if bare { Hint::Code } else { Hint::Name };
            emit(value, Role::Value, hint, &site);
        } else {
            for part in commands(command) {
                let text = &command[part.clone()];
                if crate::scan::may_hold_place(text) {
                    let hint = Words::of(text).hint(text);
                    emit(part, Role::Value, hint, &[]);
                }
            }
        }
    }
}

/// The commands of a line, which `&`, `|` and parentheses outside of quotes part; a parenthesis in
/// the middle of a word is a letter of it.
fn commands(line: &str) -> Vec<Range<usize>> {
    let bytes = line.as_bytes();
    let mut all = Vec::new();
    let (mut start, mut quoted, mut depth) = (0, false, 0usize);
    let mut at = 0;
    while at < bytes.len() {
        let opens = bytes[at] == b'('
            && line[..at].trim_end().len() < at.max(1)
            && !line[start..at]
                .trim_end()
                .to_ascii_lowercase()
                .ends_with(" in");
        match bytes[at] {
            b'"' => quoted = !quoted,
            b'^' if !quoted => at += 1,
            b'&' | b'|' if !quoted => {
                all.push(start..at);
                start = at + 1;
            }
            b'(' if !quoted && (opens || at == 0) => {
                all.push(start..at);
                start = at + 1;
                depth += 1;
            }
            b')' if !quoted && depth > 0 => {
                all.push(start..at);
                start = at + 1;
                depth -= 1;
            }
            _ => {}
        }
        at += 1;
    }
    // A list of `for` is one thing with what is before it; what is after `do` is a command.
    all.push(start..bytes.len());
    let mut parted = Vec::new();
    for part in all {
        let lower = line[part.clone()].to_ascii_lowercase();
        let begins = lower.trim_start_matches(['@', ' ']).starts_with("for ");
        let lead = lower
            .find(" do ")
            .filter(|_| begins)
            .map(|at| part.start + at + 4);
        match lead {
            Some(lead) => parted.extend([part.start..lead, lead..part.end]),
            None => parted.push(part),
        }
    }
    parted
        .into_iter()
        .map(|part| {
            let text = &line[part.clone()];
            let trimmed = text.trim_start();
            let begin = part.end - trimmed.len();
            begin..begin + trimmed.trim_end().len()
        })
        .filter(|part| !part.is_empty())
        .collect()
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

    #[test]
    fn commands_and_assignments() {
        let cases: [(&str, &[&str]); 4] = [
            ("@echo off\r\nset ROOT=D:\\x y\r\n", &["ROOT|D:\\x y"]),
            ("set \"ROOT=D:\\x\"\r\n", &["ROOT|D:\\x"]),
            (
                "rem D:\\x\r\ncopy D:\\a \"E:\\b c\"\r\n",
                &["|rem D:\\x", "|copy D:\\a \"E:\\b c\""],
            ),
            ("set /p X=D:\\x\r\n", &["|set /p X=D:\\x"]),
        ];
        for (text, expected) in cases {
            let mut all = Vec::new();
            Batch.passages(text, Encoding::Utf8, &mut |passage| {
                let site = site_text(passage.site);
                all.push(format!("{site}|{}", &text[passage.span.clone()]));
            });
            assert_eq!(all, expected, "{text}");
        }
    }
}
