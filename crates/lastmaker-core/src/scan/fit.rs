//! Whether a found place lies under another one, and where the spelling of that prefix ends.

use super::{Found, Token};
use crate::place::{Form, OPAQUE, Place, same_name};
use crate::place::{Trimmed, trimmed};

/// Where the spelling of a prefix ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct PrefixFit {
    /// Byte offset into the content after the last byte of the prefix.
    pub end: usize,
    /// How many of the find's tokens the prefix takes up.
    pub tokens: usize,
}

/// How a found place relates to a prefix.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Fit {
    /// It lies elsewhere.
    None,
    /// It lies under the prefix.
    Clear(PrefixFit),
    /// It does if the name ends where a blank or a delimiter comes; the name could go on.
    Doubtful(PrefixFit),
}

/// Whether `found` lies under `from`.
///
/// Where dots are written, the prefix is the shortest stretch that names `from` and after which the
/// tail never climbs out of it.
pub fn fit(found: &Found, content: &str, from: &Place, respect_case: bool) -> Fit {
    let wanted = from.components.len();
    if found.root != from.root || found.base.len() > wanted {
        return Fit::None;
    }
    // A variable stays unless what moves lies strictly below its value.
    if found.spelling.form == Form::Variable && found.base.len() == wanted {
        return Fit::None;
    }
    let windows = found.root.is_windows();
    let folds = found.spelling.form.folds();
    let same = |a: &str, b: &str| same_name(a, b, respect_case);
    let mut names: Vec<&str> = found.base.iter().map(String::as_str).collect();
    let agrees = |names: &[&str], count: usize| {
        names.len() == count && names.iter().zip(&from.components).all(|(a, b)| same(a, b))
    };
    let mut best = agrees(&names, wanted).then_some(PrefixFit {
        end: found.root_end,
        tokens: 0,
    });
    for (index, token) in found.tokens.iter().enumerate() {
        let text = &content[token.clone()];
        // An argument ends inside this token: what follows is another one.
        let text = match found.firm_end {
            Some(firm) if firm > token.start && firm < token.end => &text[..firm - token.start],
            _ => text,
        };
        let beyond = found.firm_end.is_some_and(|firm| token.start >= firm);
        if beyond && best.is_some() {
            break;
        }
        if names.len() + 1 == wanted
            && agrees(&names, wanted - 1)
            && let Some(last) = from.components.last()
            && let Some(end) = open_end(found, content, index, text, (last, respect_case))
        {
            return end;
        }
        let mut end = token.start + text.len();
        match trimmed(text, folds, windows) {
            Trimmed::Nothing => {}
            Trimmed::Up => {
                names.pop();
            }
            Trimmed::Name(name) => {
                end = token.start + name.len();
                names.push(name);
            }
        }
        if names.len() < wanted {
            best = None;
        } else if best.is_none() && agrees(&names, wanted) {
            let place = PrefixFit {
                end,
                tokens: index + 1,
            };
            if beyond {
                return Fit::Doubtful(place);
            }
            best = Some(place);
        }
    }
    best.map_or(Fit::None, Fit::Clear)
}

/// The fit of a prefix whose last name is `last`, if that ends in the token `index` where the name
/// could go on: before a blank or a delimiter, or before a pattern. `text` is the token up to where
/// the place ends for certain.
fn open_end(
    found: &Found,
    content: &str,
    index: usize,
    text: &str,
    (last, respect_case): (&str, bool),
) -> Option<Fit> {
    let token = &found.tokens[index];
    let windows = found.root.is_windows();
    let folds = found.spelling.form.folds();
    let place = |end| PrefixFit {
        end,
        tokens: index + 1,
    };
    let beyond = found.firm_end.is_some_and(|firm| token.start >= firm);
    let complete = matches!(trimmed(text, folds, windows), Trimmed::Name(n) if same_name(n, last, respect_case));
    if !found.is_delimited()
        && (!complete || beyond)
        && let Some(end) = soft_end(&content[token.clone()], last, respect_case, windows)
    {
        let place = place(token.start + end);
        return Some(if next_follows(found, content, place.end) {
            Fit::Clear(place)
        } else {
            Fit::Doubtful(place)
        });
    }
    let end = pattern_end(content, token, last, respect_case)?;
    Some(Fit::Doubtful(place(end)))
}

/// Whether nothing but what parts them is between `end` and the next place of the field: no name
/// goes on over that.
fn next_follows(found: &Found, content: &str, end: usize) -> bool {
    found.next.is_some_and(|next| {
        let between = content.get(end..next).unwrap_or("");
        !between.is_empty() && between.chars().all(|letter| " \t,;:|".contains(letter))
    })
}

/// Where the name `last` ends in `token` before a pattern that may take in more names than it.
fn pattern_end(content: &str, token: &Token, last: &str, respect_case: bool) -> Option<usize> {
    let end = token.start + last.len();
    let name = content.get(token.start..end)?;
    let pattern = content[end..].starts_with(['*', '?', '[', '{'])
        || content[end..].starts_with(".*")
        || content[end..].starts_with(".+");
    (pattern && end <= token.end && same_name(name, last, respect_case)).then_some(end)
}

/// Where in `text` the name `last` ends before a letter with which it could go on.
fn soft_end(text: &str, last: &str, respect_case: bool, windows: bool) -> Option<usize> {
    // One letter is four bytes at the most, and composing makes at most three of one.
    let furthest = last.len() * 12 + 8;
    text.char_indices()
        .take_while(|(at, _)| *at <= furthest)
        .filter(|(at, letter)| *at > 0 && is_soft(text, *at, *letter))
        .map(|(at, _)| match trimmed(&text[..at], true, windows) {
            Trimmed::Name(name) => name.len(),
            _ => 0,
        })
        .chain(
            [text.trim_end().len()]
                .into_iter()
                .filter(|end| *end <= furthest),
        )
        .find(|&end| end > 0 && same_name(&text[..end], last, respect_case))
}

/// Whether a name might end before `letter`, which is at `at` in `text`.
fn is_soft(text: &str, at: usize, letter: char) -> bool {
    match letter {
        '_' => false,
        '.' => !text[at + 1..].starts_with(|c: char| c.is_alphanumeric() || c == '_'),
        OPAQUE => false,
        _ if letter.is_ascii() => !letter.is_ascii_alphanumeric(),
        _ => letter.is_whitespace() || is_punctuation(letter),
    }
}

/// Punctuation outside ASCII that ends words in running text.
fn is_punctuation(letter: char) -> bool {
    matches!(letter, '\u{2010}'..='\u{205E}' | '\u{3001}'..='\u{3002}' | '\u{3008}'..='\u{3011}'
        | '\u{ff01}'..='\u{ff0f}' | '\u{ff1a}'..='\u{ff1f}' | '\u{ab}' | '\u{bb}')
}

/// The offsets at which the place may end, the likeliest first; at most sixteen.
///
/// Where the surroundings say for certain there is one. In running text the likeliest is the
/// first punctuation before a blank, or the first blank before which a file's suffix comes or
/// after which no separator follows.
pub fn readings(found: &Found, content: &str) -> Vec<usize> {
    if let Some(firm) = found.firm_end {
        return vec![firm];
    }
    let end = found.next.map_or(found.hard_end, |next| {
        next.clamp(found.root_end, found.hard_end)
    });
    let text = &content[found.root_end..end];
    let mut cuts: Vec<usize> = text
        .char_indices()
        .filter(|(at, letter)| *at > 0 && ends_word(text, *at, *letter))
        .map(|(at, _)| at)
        .collect();
    cuts.dedup();
    cuts.truncate(15);
    cuts.push(text.trim_end().len());
    let likeliest = cuts
        .iter()
        .position(|&cut| {
            let rest = &text[cut..];
            let punctuation = !rest.starts_with(char::is_whitespace) && !rest.is_empty();
            punctuation || !rest.contains(['\\', '/']) || has_suffix(&text[..cut])
        })
        .unwrap_or(cuts.len() - 1);
    let first = cuts.remove(likeliest);
    // After the likeliest, the longer ones first.
    cuts.reverse();
    std::iter::once(first)
        .chain(cuts)
        .map(|cut| found.root_end + cut)
        .collect()
}

fn ends_word(text: &str, at: usize, letter: char) -> bool {
    let blank_follows = |from: usize| {
        text[from..]
            .trim_start_matches([',', ';', '.', '!', ')', ']', '}', '\'', '`'])
            .chars()
            .next()
            .is_none_or(char::is_whitespace)
    };
    match letter {
        ',' | ';' | '.' | '!' | ')' | ']' | '}' | '\'' | '`' => blank_follows(at + 1),
        _ => letter.is_whitespace() || (!letter.is_ascii() && is_punctuation(letter)),
    }
}

fn has_suffix(text: &str) -> bool {
    let name = text.rsplit(['\\', '/']).next().unwrap_or(text);
    name.rsplit_once('.').is_some_and(|(stem, suffix)| {
        !stem.is_empty()
            && (1..=5).contains(&suffix.len())
            && suffix.bytes().all(|b| b.is_ascii_alphanumeric())
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::scan::{Finder, Hint};

    /// What the prefix fit of the first find spells, `?` before it if doubtful.
    fn fitted(content: &str, hint: Hint, from: &str) -> Option<String> {
        let from = Place::parse(from).unwrap();
        let found = Finder::default().find(content, hint).into_iter().next()?;
        match fit(&found, content, &from, !from.root.is_windows()) {
            Fit::None => None,
            Fit::Clear(fit) => Some(content[found.start..fit.end].to_owned()),
            Fit::Doubtful(fit) => Some(format!("?{}", &content[found.start..fit.end])),
        }
    }

    #[test]
    fn a_prefix_ends_at_a_component() {
        let prose = Hint::Prose;
        let value = Hint::for_value("root");
        let cases = [
            (r"D:\Herbarium\2019", prose, Some(r"D:\Herbarium")),
            (r"D:\Herbarium2\x", prose, None),
            (r"D:\Herbarium.bak\x", prose, None),
            (r"D:\Herbarium_old", prose, None),
            (r"d:/HERBARIUM/x", prose, Some("d:/HERBARIUM")),
            (r"D:\\Herbarium\\x", prose, Some(r"D:\\Herbarium")),
            (r"D:\Herbarium", prose, Some(r"D:\Herbarium")),
            (r"D:\Herbarium Old\x", prose, Some(r"?D:\Herbarium")),
            (r"D:\Herbarium, then", prose, Some(r"?D:\Herbarium")),
            (r"D:\Herbarium-old", prose, Some(r"?D:\Herbarium")),
            (r"D:\Herbarium. Then", prose, Some(r"?D:\Herbarium")),
            (r"D:\Herbarium.", prose, Some(r"D:\Herbarium")),
            (r"D:\Herbarium E:\x", prose, Some(r"D:\Herbarium")),
            (r"'D:\Herbarium' ok", prose, Some(r"D:\Herbarium")),
            (r"'D:\Herbarium Old'", prose, None),
            (r"D:\Herbarium>log", prose, Some(r"D:\Herbarium")),
            (r"D:\Herbarium Old", value, None),
            (r"D:\Herbarium;E:\x", value, Some(r"D:\Herbarium")),
            (r"D:\x\..\Herbarium\y", value, Some(r"D:\x\..\Herbarium")),
            (r"D:\Herbarium\x\..\y", value, Some(r"D:\Herbarium")),
            (r"D:\Herbarium\.", value, Some(r"D:\Herbarium")),
            (r"D:\Herbarium\.\x", value, Some(r"D:\Herbarium")),
            (
                r"D:\Herbarium\..\Herbarium\y",
                value,
                Some(r"D:\Herbarium\..\Herbarium"),
            ),
            (r"D:\Herbarium\..\y", value, None),
            (r"\\?\D:\Herbarium\x", value, Some(r"\\?\D:\Herbarium")),
            (r"--data=D:\Herbarium -v", value, Some(r"D:\Herbarium")),
            (r"--data=D:\Herbarium", value, Some(r"D:\Herbarium")),
        ];
        for (content, hint, expected) in cases {
            assert_eq!(
                fitted(content, hint, r"D:\Herbarium").as_deref(),
                expected,
                "{content}"
            );
        }
    }

    #[test]
    fn names_with_blanks_match_whole() {
        let cases = [
            (r"in D:\My Data\x", Hint::Prose, Some(r"D:\My Data")),
            (r"in D:\My Data or", Hint::Prose, Some(r"?D:\My Data")),
            (
                r"--data=D:\My Data\x -v",
                Hint::for_value("x"),
                Some(r"?D:\My Data"),
            ),
            (
                r#"--data="D:\My Data\x" -v"#,
                Hint::for_value("x"),
                Some(r"D:\My Data"),
            ),
        ];
        for (content, hint, expected) in cases {
            assert_eq!(
                fitted(content, hint, r"D:\My Data").as_deref(),
                expected,
                "{content}"
            );
        }
    }

    #[test]
    fn roots_are_prefixes_too() {
        assert_eq!(fitted(r"D:\x", Hint::Prose, r"D:\").as_deref(), Some("D:"));
        assert_eq!(fitted("see /srv/x", Hint::Prose, "/").as_deref(), Some(""));
        assert_eq!(
            fitted("see /srv/x", Hint::Prose, "/srv").as_deref(),
            Some("/srv")
        );
        assert_eq!(fitted("see /srv/x", Hint::Prose, "/Srv"), None);
    }

    #[test]
    fn readings_put_the_likeliest_first() {
        let cases = [
            (
                r"see D:\My Sheets\x.tif are the scans",
                r"D:\My Sheets\x.tif",
            ),
            (r"see D:\Sheets for the scans", r"D:\Sheets"),
            (r"see D:\Sheets\loan-list.csv.", r"D:\Sheets\loan-list.csv"),
            (r"(see D:\Sheets)", r"D:\Sheets"),
            (r"see D:\a, E:\b", r"D:\a"),
            ("see /srv/a, and/or b", "/srv/a"),
        ];
        for (content, expected) in cases {
            let found = &Finder::default().find(content, Hint::Prose)[0];
            let first = readings(found, content)[0];
            assert_eq!(&content[found.start..first], expected, "{content}");
        }
    }
}
