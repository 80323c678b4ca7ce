//! POSIX shell scripts, word by word.

mod commands;

use std::cell::OnceCell;
use std::collections::HashSet;
use std::ops::Range;
use std::sync::Arc;

use self::commands::{Command, Interpreter, KEYWORDS, assigned, base_name};
use super::unquoted_uses::{Use, used_bare};
use super::way::Way;
use super::{
    Claim, Format, Grammar, Passage, Reader, Role, Sample, Subject, interpreter, is_drive_alone,
    is_lone_letter, string_role,
};
use crate::about::About;
use crate::base::chunk::{Chunk, length_until};
use crate::codec::{
    Escaped, SHELL_ANSI, SHELL_DOCUMENT, SHELL_WORD, ShellWord, Style, shell_word_end,
};
use crate::format::cursor::Cursor;
use crate::layer::{Layer, Layers};
use crate::scan::{Hint, OF_PLACES, Upcoming};
use crate::text::Encoding;

/// POSIX shell and its relatives.
pub(super) struct Shell;

const SHELL: About = About {
    name: "shell-script",
    what: "POSIX shell scripts",
    content: "a first line such as #!/bin/sh or #compdef; COMPREPLY=",
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
        ".bash_aliases",
        ".bash_login",
        ".bash_logout",
        ".bash_functions",
        ".zshenv",
        ".zlogin",
        ".zlogout",
        ".kshrc",
        ".mkshrc",
        ".shrc",
        "=profile",
    ],
    read: "words, strings in single, double and $'…' quotes, here-documents, comments",
    limits: "what a script puts together from pieces is not seen",
};

impl Format for Shell {
    fn about(&self) -> &About {
        &SHELL
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let (text, file_name) = (subject.text, subject.file_name);
        let shells = ["sh", "bash", "dash", "zsh", "ksh", "mksh", "ash"];
        let interpreted = interpreter(text).is_some_and(|name| shells.contains(&name));
        // What completes commands has no such line.
        let completes = || {
            let signs = ["#compdef", "#autoload"];
            signs.iter().any(|sign| text.starts_with(sign))
                || memchr::memmem::find_iter(text.as_bytes(), b"COMPREPLY=").any(|at| {
                    let line = text[..at].rsplit('\n').next();
                    line.is_some_and(|line| line.trim().is_empty())
                })
        };
        if interpreted || SHELL.is_named(file_name) || completes() {
            Claim::IfWellFormed
        } else {
            Claim::No
        }
    }

    fn lines_belong_together(&self) -> bool {
        true
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
        Box::new(ShellReader::of(text, &[]))
    }
}

/// A reader of commands: the layers of each kind of string in them.
pub(in crate::format) struct ShellReader {
    word: Layers,
    /// What a string in `$'…'` wears by itself.
    ansi: Layers,
    /// A here-document whose end is not quoted.
    document: Layers,
    plain: Layers,
    /// The variables that are used without quotes.
    used_bare: OnceCell<HashSet<String>>,
}

impl ShellReader {
    /// The layers of the commands of `text`, which a program reads through `outer` first.
    pub(in crate::format) fn of(text: &str, outer: &[Arc<dyn Layer>]) -> Self {
        let within = |layer: Arc<dyn Layer>| outer.iter().cloned().chain([layer]).collect();
        let escaped = |escapes| {
            within(Arc::new(Escaped {
                escapes,
                document: Style::default(),
            }))
        };
        Self {
            word: within(Arc::new(ShellWord {
                backslashes: text.contains("\\ "),
            })),
            ansi: escaped(&SHELL_ANSI),
            document: escaped(&SHELL_DOCUMENT),
            plain: outer.into(),
            used_bare: OnceCell::new(),
        }
    }

    /// Reads the commands in `span` of `text`.
    pub(in crate::format) fn read(
        &self,
        text: &str,
        span: Range<usize>,
        each: &mut dyn FnMut(Passage<'_>),
    ) -> Grammar {
        let mut walk = Walk {
            wear: self,
            whole: text,
            cursor: Cursor::new(&text[..span.end], each),
            heredocs: Vec::new(),
            command: None,
            before: Word::Other,
            interprets: None,
            brackets: Vec::new(),
            backtick: false,
            goes_on: None,
            upcoming: Upcoming::new(&text[..span.end], span.start, &[OF_PLACES]),
            way: Way::default(),
        };
        walk.read(span.start);
        walk.cursor.grammar
    }
}

impl Reader for ShellReader {
    fn passages(&self, text: &str, each: &mut dyn FnMut(Passage<'_>)) -> Grammar {
        self.read(text, 0..text.len(), each)
    }
}

/// The end of a here-document.
struct DocumentEnd {
    word: String,
    /// Whether nothing in the document is expanded.
    quoted: bool,
}

/// What the word before another was.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Word {
    /// `-c` and its like: the next is a command.
    TakesCommand,
    /// The same, for code in another language.
    TakesCode,
    Other,
}

/// One walk through commands.
struct Walk<'a, 'e> {
    wear: &'a ShellReader,
    /// The document in which the commands are.
    whole: &'a str,
    cursor: Cursor<'a, 'e>,
    /// The ends of the documents that begin in the next line.
    heredocs: Vec<DocumentEnd>,
    /// What the command does with its words, once it is known.
    command: Option<Command>,
    before: Word,
    /// The interpreter whose name is among its words.
    interprets: Option<Interpreter>,
    /// The brackets that are open, and whether what they hold becomes a part of a word.
    brackets: Vec<bool>,
    /// Whether a backtick is open.
    backtick: bool,
    /// Where a word begins that goes on from what commands in it print: `$(x)/y`.
    goes_on: Option<usize>,
    /// The letters of places.
    upcoming: Upcoming<'a>,
    way: Way,
}

/// The letters that open or close something that may go on beyond its line, and those of places.
const TELLING: [u8; 10] = *b"\"'`$()<\\/:";

impl<'a> Walk<'a, '_> {
    fn read(&mut self, start: usize) {
        let bytes = self.cursor.text.as_bytes();
        let mut at = start;
        while at < bytes.len() {
            match bytes[at] {
                b'\n' => {
                    at += 1;
                    self.begin_command();
                    for end in std::mem::take(&mut self.heredocs) {
                        at = self.document(at, &end);
                    }
                    at = self.telling_line(at);
                }
                b'(' => {
                    let prints = at > 0 && matches!(bytes[at - 1], b'$' | b'<' | b'>');
                    self.brackets.push(prints);
                    at += 1;
                    self.begin_command();
                }
                b')' => {
                    at += 1;
                    self.goes_on = self.brackets.pop().filter(|prints| *prints).map(|_| at);
                    self.begin_command();
                }
                b';' | b'&' | b'|' => {
                    at += 1;
                    self.begin_command();
                }
                b' ' | b'\t' | b'\r' | b'>' => at += 1,
                b'<' => at = self.redirection(at),
                b'#' if self.begins_word(at) => {
                    let end = memchr::memchr(b'\n', &bytes[at..]).map_or(bytes.len(), |n| at + n);
                    let plain = self.wear.plain.clone();
                    self.emit(at..end, &plain, Role::Prose, Hint::Prose, None);
                    at = end;
                }
                b'`' => {
                    at += 1;
                    self.goes_on = self.backtick.then_some(at);
                    self.backtick = !self.backtick;
                    self.begin_command();
                }
                _ => at = self.word(at),
            }
        }
    }

    /// The start of the first line at or after `at` with a letter in it that opens or closes something, or that a
    /// place has in it: nothing of the others outlives their ends.
    fn telling_line(&self, at: usize) -> usize {
        let marked = |letters: Chunk| {
            let mut all = letters.equal(TELLING[0]);
            for letter in &TELLING[1..] {
                all = all.or(letters.equal(*letter));
            }
            all
        };
        let rest = &self.cursor.text.as_bytes()[at..];
        let idle = length_until(rest, marked, |letter| TELLING.contains(&letter));
        memchr::memrchr(b'\n', &rest[..idle]).map_or(at, |newline| at + newline + 1)
    }

    fn begin_command(&mut self) {
        self.command = None;
        self.before = Word::Other;
        self.interprets = None;
    }

    /// Notes the word that was read, in which there may be a place if it is `named`, and says as what it is read
    /// again, if it is.
    fn evaluated(&mut self, word: &str, named: bool, assigned: bool) -> Option<Hint> {
        let name = base_name(word, named);
        let Some(command) = self.command else {
            if !assigned && !KEYWORDS.contains(&word) {
                self.command = Some(Command::named(name));
                self.interprets = Interpreter::named(name);
            }
            return None;
        };
        let evaluated = match self.before {
            Word::TakesCommand => Some(Hint::Script),
            Word::TakesCode => Some(Hint::Code),
            Word::Other => match command {
                Command::Evaluates => Some(Hint::Script),
                Command::PassesOn => Some(Hint::Code),
                Command::Other => None,
            },
        };
        self.interprets = self.interprets.or_else(|| Interpreter::named(name));
        let options = word.strip_prefix('-').filter(|rest| !rest.starts_with('-'));
        let code = options.is_some_and(|rest| rest.ends_with(['c', 'e']));
        self.before = match self.interprets {
            Some(Interpreter::Shell) if code || word == "--command" => Word::TakesCommand,
            Some(Interpreter::Other) if code => Word::TakesCode,
            _ => Word::Other,
        };
        evaluated
    }

    /// A word, with its quotes; of an assignment what is after the sign.
    fn word(&mut self, start: usize) -> usize {
        let (end, closed) = shell_word_end(self.cursor.text, start);
        self.cursor.note(closed, Grammar::Broken);
        let start = if self.goes_on == Some(start) {
            // Its first part is the end of a path that a command begins.
            match self.cursor.text[start..end].find(':') {
                Some(colon) => start + colon + 1,
                None => return end,
            }
        } else {
            start
        };
        let text = self.cursor.text;
        let word = &text[start..end];
        let key = assigned(word);
        let named = self.upcoming.sign(start) < end;
        let assigned = key.is_some_and(|name| !name.starts_with('-'));
        let evaluated = self.evaluated(word, named, assigned);
        let start = start + key.map_or(0, |name| name.len() + 1);
        let raw = &text[start..end];
        if !named && !is_lone_letter(raw) {
            return end;
        }
        let hint = match key {
            _ if evaluated.is_some() => evaluated.unwrap_or_default(),
            // A blank in its value would part it where it is used.
            Some(name) if self.is_used_bare(name) => Hint::Code,
            Some(name) if raw.starts_with(['"', '\'']) => {
                Hint::for_value(name.trim_start_matches('-'))
            }
            _ if is_drive_alone(raw) => Hint::Literal,
            _ => Hint::Word,
        };
        let ansi = raw
            .strip_prefix("$'")
            .and_then(|rest| rest.strip_suffix('\''));
        if let Some(inside) = ansi
            && let (role @ Role::Undoubled, sound) = string_role(inside, &SHELL_ANSI, Role::Value)
        {
            self.cursor.note(sound, Grammar::Escapes);
            let layers = self.wear.ansi.clone();
            self.emit(start + 2..end - 1, &layers, role, hint, key);
            return end;
        }
        let bare = !raw.contains(['"', '\'']);
        let role = if bare {
            string_role(raw, &SHELL_WORD, Role::Value).0
        } else {
            Role::Value
        };
        let layers = self.wear.word.clone();
        self.emit(start..end, &layers, role, hint, key);
        end
    }

    /// Whether a variable is used without quotes somewhere in the document.
    fn is_used_bare(&self, name: &str) -> bool {
        let used = || used_bare(self.whole, Use::Shell);
        self.wear.used_bare.get_or_init(used).contains(name)
    }

    fn begins_word(&self, at: usize) -> bool {
        self.cursor.text[..at]
            .chars()
            .next_back()
            .is_none_or(|c| c.is_whitespace() || ";&|(".contains(c))
    }

    /// `<`, and the word that ends a document after `<<`.
    fn redirection(&mut self, at: usize) -> usize {
        let rest = &self.cursor.text[at..];
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
        self.heredocs.push(DocumentEnd {
            word: name,
            quoted: quotes > 0,
        });
        at + width
    }

    /// The lines up to one that is `end`.
    fn document(&mut self, at: usize, end: &DocumentEnd) -> usize {
        let layers = if end.quoted {
            self.wear.plain.clone()
        } else {
            self.wear.document.clone()
        };
        let mut next = at;
        while next < self.cursor.text.len() {
            let rest = &self.cursor.text[next..];
            let length = rest.find('\n').unwrap_or(rest.len());
            if rest[..length].trim() == end.word {
                return next + length;
            }
            self.emit(next..next + length, &layers, Role::Prose, Hint::Code, None);
            next += length + 1;
        }
        self.cursor.grammar = Grammar::Broken;
        self.cursor.text.len()
    }

    fn emit(
        &mut self,
        span: Range<usize>,
        layers: &Layers,
        role: Role,
        hint: Hint,
        key: Option<&str>,
    ) {
        let Some(raw) = self.cursor.text.get(span.clone()) else {
            return;
        };
        if !crate::scan::may_hold_place(raw) {
            return;
        }
        self.cursor
            .emit(span, layers, role, hint, self.way.through(key));
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
