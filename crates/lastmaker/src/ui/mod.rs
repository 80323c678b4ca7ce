//! Results on standard output, everything else on standard error.

mod results;

use std::io::{self, IsTerminal, Write};
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::Duration;

use anstream::ColorChoice;
use anstyle::{AnsiColor, Style};
use indicatif::{ProgressBar, ProgressStyle};

use crate::exit::Failure;

/// Names of files and places.
pub(crate) const NAME: Style = Style::new().bold();
/// What goes.
pub(crate) const OLD: Style = AnsiColor::Red.on_default();
/// What comes.
pub(crate) const NEW: Style = AnsiColor::Green.on_default();
/// What wants attention.
pub(crate) const DOUBT: Style = AnsiColor::Yellow.on_default();
/// What is there for completeness.
pub(crate) const FAINT: Style = Style::new().dimmed();

/// When colours are used.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, clap::ValueEnum)]
pub(crate) enum Color {
    /// On a terminal.
    #[default]
    Auto,
    /// Always.
    Always,
    /// Never.
    Never,
}

impl Color {
    fn choice(self) -> ColorChoice {
        match self {
            Self::Auto => ColorChoice::Auto,
            Self::Always => ColorChoice::Always,
            Self::Never => ColorChoice::Never,
        }
    }
}

/// Where a command's words go.
#[derive(Debug)]
pub(crate) struct Ui {
    pub(crate) color: Color,
    pub(crate) quiet: bool,
    pub(crate) verbose: bool,
    /// Whether long results go through a pager.
    pub(crate) pager: bool,
}

impl Ui {
    /// A sentence for the person at the keyboard.
    pub(crate) fn say(&self, sentence: impl AsRef<str>) {
        if !self.quiet {
            anstream::eprintln!("{}", sentence.as_ref());
        }
    }

    /// Shows what `write` writes, for the person at the keyboard.
    pub(crate) fn show(&self, write: impl FnOnce(&mut dyn Write) -> io::Result<()>) {
        let mut text = Vec::new();
        if write(&mut text).is_ok() && !text.is_empty() {
            self.say(String::from_utf8_lossy(&text).trim_end());
        }
    }

    /// A sentence for somebody who asked for more.
    pub(crate) fn mention(&self, sentence: impl AsRef<str>) {
        if self.verbose {
            self.say(sentence);
        }
    }

    /// Whether there is somebody to ask.
    pub(crate) fn can_ask(&self) -> bool {
        io::stdin().is_terminal()
    }

    /// Asks a question until it is answered with one of `answers`, by its first letter or in full; none without a
    /// terminal, or at its end.
    pub(crate) fn choose(&self, question: &str, answers: &[&'static str]) -> Option<&'static str> {
        if !self.can_ask() {
            return None;
        }
        loop {
            let mut error = anstream::stderr();
            let _ = write!(error, "{question} ");
            let _ = error.flush();
            let mut typed = String::new();
            match io::stdin().read_line(&mut typed) {
                Ok(length) if length > 0 => {}
                _ => return None,
            }
            let typed = typed.trim().to_lowercase();
            let is_meant =
                |answer: &&&str| !typed.is_empty() && (typed == **answer || typed == answer[..1]);
            if let Some(answer) = answers.iter().find(is_meant) {
                return Some(answer);
            }
            let _ = writeln!(
                error,
                "{FAINT}Answer with one of: {}.{FAINT:#}",
                answers.join(", ")
            );
        }
    }

    /// Asks a question that yes or no answers; none without a terminal.
    fn ask(&self, question: &str) -> Option<bool> {
        let answer = || self.choose(&format!("{question} [y/n]"), &["yes", "no"]);
        self.can_ask().then(|| answer() == Some("yes"))
    }

    /// Goes on only if whoever is asked says yes; `nothing` says what has not been done then, and
    /// `help` what to do where there is nobody to ask.
    pub(crate) fn must_agree(
        &self,
        question: &str,
        nothing: &str,
        help: &str,
    ) -> Result<(), Failure> {
        match self.ask(question) {
            Some(true) => Ok(()),
            Some(false) => Err(Failure::Declined(capitalised(nothing))),
            None => Err(Failure::with_help(
                format!("there is nobody to ask, so {nothing}"),
                help,
            )),
        }
    }

    /// Runs `work`, with a progress line on standard error if that is a terminal. `counter`
    /// says how far it is, `total` how far it goes if that is known.
    pub(crate) fn watch<T>(
        &self,
        what: &'static str,
        counter: &AtomicU64,
        total: Option<u64>,
        work: impl FnOnce() -> T,
    ) -> T {
        if self.quiet || !io::stderr().is_terminal() {
            return work();
        }
        let bar = match total {
            Some(total) => ProgressBar::new(total),
            None => ProgressBar::no_length(),
        };
        let template = if total.is_some() {
            "{msg} {bar:30} {pos} of {len}"
        } else {
            "{msg} {pos}"
        };
        if let Ok(style) = ProgressStyle::with_template(template) {
            bar.set_style(style);
        }
        bar.set_message(what);
        let done = AtomicBool::new(false);
        let result = std::thread::scope(|scope| {
            let watch = || {
                while !done.load(Ordering::Relaxed) {
                    bar.set_position(counter.load(Ordering::Relaxed));
                    std::thread::park_timeout(Duration::from_millis(100));
                }
            };
            // Without a thread to be had the work goes on unwatched.
            let _ = std::thread::Builder::new().spawn_scoped(scope, watch);
            let result = work();
            done.store(true, Ordering::Relaxed);
            result
        });
        bar.finish_and_clear();
        result
    }
}

/// A sentence of these words.
fn capitalised(words: &str) -> String {
    let mut letters = words.chars();
    let first = letters
        .next()
        .map(|letter| letter.to_uppercase().to_string());
    format!("{}{}.", first.unwrap_or_default(), letters.as_str())
}

/// Says why a command could not run, and what to do next.
pub(crate) fn complain(message: &str, more: &[String], help: Option<&str>) {
    anstream::eprintln!("{OLD}error:{OLD:#} {}", shown(message));
    for line in more.iter().map(String::as_str).chain(help) {
        anstream::eprintln!("       {}", shown(line));
    }
}

/// Prints help, or what is wrong with the arguments, which may hold anything.
pub(crate) fn print_usage(error: &clap::Error) {
    let plain = error.render().to_string();
    let safe: Vec<String> = plain.split('\n').map(shown).collect();
    let safe = safe.join("\n");
    if safe == plain || !error.use_stderr() {
        let _ = error.print();
    } else {
        anstream::eprint!("{safe}");
    }
}

/// Text from a file or a name, safe to show: control characters and characters that change
/// the direction of writing are escaped.
pub(crate) fn shown(text: &str) -> String {
    let mut safe = String::with_capacity(text.len());
    for letter in text.chars() {
        if letter == lastmaker_core::place::OPAQUE {
            safe.push('\u{fffd}');
        } else if letter != '\t' && steers(letter) {
            safe.extend(letter.escape_unicode());
        } else {
            safe.push(letter);
        }
    }
    safe
}

/// Whether a character steers a terminal, or turns or hides what is beside it.
pub(crate) fn steers(letter: char) -> bool {
    letter.is_control()
        || matches!(letter,
            '\u{061c}' | '\u{180e}' | '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}'
            | '\u{2060}'..='\u{206f}' | '\u{feff}' | '\u{fff9}'..='\u{fffb}'
            | '\u{e0000}'..='\u{e007f}')
}

/// A path as an argument that can be pasted.
pub(crate) fn quoted(path: &str) -> String {
    if path.contains(char::is_whitespace) {
        format!("\"{path}\"")
    } else {
        path.to_owned()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_shown_cannot_steer_a_terminal() {
        let cases = [
            ("plain \u{e9}\u{6a19}", "plain \u{e9}\u{6a19}"),
            ("a\u{1b}[31mb", "a\\u{1b}[31mb"),
            ("a\u{202e}gnp.exe", "a\\u{202e}gnp.exe"),
            ("a\nb\tc", "a\\u{a}b\tc"),
            ("a\u{10FFFF}", "a\u{fffd}"),
        ];
        for (text, expected) in cases {
            assert_eq!(shown(text), expected);
        }
    }
}
