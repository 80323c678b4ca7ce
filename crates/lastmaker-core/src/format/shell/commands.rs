//! What the words of a shell's commands are: names of programs, and what is assigned.

/// What a command does with its words.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Command {
    /// It reads them as commands again.
    Evaluates,
    /// It hands them to another machine, or makes a command of them.
    PassesOn,
    Other,
}

impl Command {
    /// What the command of this name does.
    pub(super) fn named(name: &str) -> Self {
        match name {
            name if EVALUATING.contains(&name) => Self::Evaluates,
            name if PASSING_ON.contains(&name) => Self::PassesOn,
            _ => Self::Other,
        }
    }
}

/// Commands that read their words as commands again.
const EVALUATING: [&str; 4] = ["alias", "eval", "trap", "watch"];

/// Commands that hand their words to another machine, or make a command of them.
const PASSING_ON: [&str; 4] = ["ssh", "rsh", "xargs", "parallel"];

/// A program that takes commands or code behind `-c` or `-e`.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Interpreter {
    Shell,
    Other,
}

impl Interpreter {
    /// The interpreter whose program has this name.
    pub(super) fn named(name: &str) -> Option<Self> {
        // Most words are none, and the first letter shows it.
        if !name.starts_with(|first| "sbdzkmarfpnl".contains(first)) {
            return None;
        }
        match name {
            "sh" | "bash" | "dash" | "zsh" | "ksh" | "mksh" | "ash" | "su" | "runuser"
            | "script" => Some(Self::Shell),
            "fish" | "python" | "python3" | "perl" | "ruby" | "node" | "lua" | "php" => {
                Some(Self::Other)
            }
            _ => None,
        }
    }
}

/// The name in a word that assigns something to it: `name=x`, `--name=x`.
pub(super) fn assigned(word: &str) -> Option<&str> {
    let plain = |byte: &u8| byte.is_ascii_alphanumeric() || b"_-+.".contains(byte);
    let length = word.bytes().take_while(plain).count();
    let rest = &word[length..];
    let name = rest.trim_start_matches(|c: char| c.is_alphanumeric() || "_-+.".contains(c));
    name.starts_with('=')
        .then(|| &word[..word.len() - name.len()])
}

/// A program's name without its folder; `named` says whether there may be one.
pub(super) fn base_name(word: &str, named: bool) -> &str {
    let folder = named.then(|| memchr::memrchr(b'/', word.as_bytes()));
    folder.flatten().map_or(word, |at| &word[at + 1..])
}

/// Words after which a command begins.
pub(super) const KEYWORDS: [&str; 14] = [
    "if", "then", "else", "elif", "do", "while", "until", "!", "{", "time", "exec", "sudo",
    "command", "nohup",
];
