//! Letters of a new place that the program which reads it there might take for something else.
//!
//! What a string's own layers escape is safe; this is about what is around the place inside of
//! the string, or in code, where no layer knows the syntax.

use crate::judge::FoundIn;
use crate::place::{Place, Root};
use crate::scan::{Hint, Stands};

/// Letters with which a comment could end, or a tag begin.
const NOT_IN_PROSE: &str = "*<>\\";

/// Letters that every quoting keeps as they are.
const IN_QUOTES: &str = " (),+=~";

/// The same, in the double quotes of a command line, whichever shell reads it.
const IN_COMMAND: &str = " ()&;,=#'+@^~[]{}";

/// The letters of an argument that mean nothing to any command interpreter.
const IN_ARGUMENT: &str = "+@";

/// Letters that may part what is in a word from something else.
const PARTING: &str = ",:";

/// Letters that keep their meaning of none inside of the expansion of a variable.
const IN_EXPANSION: &str = " &;,=+@!%";

/// A letter that no syntax takes for anything but itself.
fn is_plain(letter: char) -> bool {
    letter.is_alphanumeric() || "_.-/".contains(letter)
}

/// The letters that the names of `to` bring in and that are not in `old`, the spelling that they
/// replace.
fn brought<'a>(to: &'a Place, old: &'a str) -> impl Iterator<Item = char> + 'a {
    let root = match &to.root {
        Root::Share { server, share } => [server.as_str(), share.as_str()],
        Root::Drive(_) | Root::Posix => ["", ""],
    };
    let names = to.components.iter().map(String::as_str);
    root.into_iter()
        .chain(names)
        .flat_map(str::chars)
        .filter(move |letter| !is_plain(*letter) && !old.contains(*letter))
}

/// Whether a word is nothing that is read again: it holds no command, and a blank only behind an
/// option's or a variable's name and the place that begins its value.
fn is_one_thing(word: &str, before: &str) -> bool {
    // An option behind the place is another argument.
    if word[before.len()..].contains(" -") {
        return false;
    }
    let name = before.strip_suffix('=').is_some_and(|name| {
        let letters = |c: char| c.is_alphanumeric() || "-_.".contains(c);
        name.chars().all(letters)
    });
    let blank = !name && word.contains(char::is_whitespace);
    !blank && !word.contains("$(") && !word.contains('`') && !before.contains(['|', '<', '>', ';'])
}

/// Whether an argument without quotes needs them for what `to` brings in.
pub(in crate::plan) fn needs_quotes(to: &Place, old: &str) -> bool {
    brought(to, old).any(|letter| !IN_ARGUMENT.contains(letter))
}

/// What a text has behind its last line end.
fn last_line(text: &str) -> &str {
    text.rsplit('\n').next().unwrap_or(text)
}

/// Whether the line begins with `#!`: the system takes its first word for a program.
fn names_interpreter(before: &str) -> bool {
    last_line(before).starts_with("#!")
}

/// Whether the rest of the string shows that this letter begins what is put in there.
fn is_formatted(letter: char, before: &str, tail: &str) -> bool {
    let around = |signs: &[char]| before.contains(signs) || tail.contains(signs);
    match letter {
        '{' | '}' => around(&['{', '}']),
        '%' => around(&['%']),
        _ => false,
    }
}

/// The first letter that `to` brings in place of `old` and that would mean something else where
/// the place stands.
pub(in crate::plan) fn unsafe_letter(case: FoundIn<'_>, to: &Place, old: &str) -> Option<char> {
    let FoundIn { found, content, .. } = case;
    let hint = case.site.hint;
    let before = &content[..found.start];
    let is_safe = |letter: char| match (found.stands, hint) {
        (Stands::Alone(sign), _) => sign != Some(letter),
        (Stands::Quoted(quote), Hint::Prose) => letter != quote,
        // In a batch file the layers write what means something there.
        (Stands::Quoted(_) | Stands::Argument, Hint::Command { .. }) => letter != '"',
        (Stands::Argument, _) => IN_COMMAND.contains(letter),
        (Stands::Quoted('"'), Hint::Value(_)) => IN_COMMAND.contains(letter),
        (Stands::Quoted('}'), Hint::Word) => IN_EXPANSION.contains(letter),
        (Stands::Quoted(_), _) => IN_QUOTES.contains(letter),
        (Stands::Bare, Hint::Prose) if names_interpreter(before) => !letter.is_whitespace(),
        (Stands::Bare, Hint::Prose) => !NOT_IN_PROSE.contains(letter),
        // One argument is one thing, unless the program parts it.
        (Stands::Bare, Hint::Word) if is_one_thing(content, before) => {
            !PARTING.contains(letter) && (letter != '=' || before.contains('='))
        }
        (Stands::Bare, Hint::KeyPath | Hint::UriPath) => true,
        (Stands::Bare, _) => false,
    };
    // What is taken off a value is no path by itself.
    if found.stands == Stands::Quoted('}') && to.components.is_empty() {
        return Some('/');
    }
    let tail = &content[found.start + old.len()..];
    // Of running text a line stands by itself.
    let (before, tail) = if hint.is_value() {
        (before, tail)
    } else {
        (last_line(before), tail.split('\n').next().unwrap_or(tail))
    };
    brought(to, old).find(|letter| !is_safe(*letter) || is_formatted(*letter, before, tail))
}
