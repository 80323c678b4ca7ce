//! Other names of places that files mention themselves: letters that stand in for a folder or a
//! share, links, a server's full name beside its short one.

use std::sync::LazyLock;

use aho_corasick::AhoCorasick;

use crate::place::{Place, Root, fold};
use crate::report::TracedMove;

/// A name that a file says stands for a place.
#[derive(Clone, Debug)]
pub struct Mention {
    /// The other name.
    pub name: Place,
    /// What it stands for.
    pub place: Place,
}

impl PartialEq for Mention {
    fn eq(&self, other: &Self) -> bool {
        self.name.same(&other.name) && self.place.same(&other.place)
    }
}

/// The names that the lines of a script give to places: `subst`, `net use`, `mklink`, `ln -s`.
pub(crate) fn mentions(text: &str) -> Vec<Mention> {
    // Most texts say nothing of the kind.
    if !VERBS.is_match(text) {
        return Vec::new();
    }
    let lines = text
        .lines()
        .filter(|line| line.len() < 4096 && VERBS.is_match(*line));
    lines.filter_map(|line| mention(&words(line))).collect()
}

/// What a line has in it that gives a name to a place.
static VERBS: LazyLock<AhoCorasick> = LazyLock::new(|| {
    let verbs = ["subst", "net use", "net.exe", "mklink", "ln -s"];
    let mut builder = AhoCorasick::builder();
    let built = builder.ascii_case_insensitive(true).build(verbs);
    built.expect("five short words make an automaton")
});

fn mention(words: &[String]) -> Option<Mention> {
    let is = |word: &String, name: &str| {
        let word = word.trim_start_matches('@').to_ascii_lowercase();
        word == name || word.strip_suffix(".exe").is_some_and(|word| word == name)
    };
    let at = |name: &str| words.iter().position(|word| is(word, name));
    let places = |rest: &[String]| -> Vec<Place> {
        let letter = |word: &String| match word.strip_suffix(':') {
            Some(drive) if drive.len() == 1 => Place::parse(&format!("{word}\\")).ok(),
            _ => Place::parse(word).ok(),
        };
        rest.iter()
            .filter(|word| !is_option(word))
            .filter_map(letter)
            .collect()
    };
    let pair = |rest: &[String], name_first: bool| {
        let [first, second] = <[Place; 2]>::try_from(places(rest)).ok()?;
        let (name, place) = if name_first {
            (first, second)
        } else {
            (second, first)
        };
        (!name.same(&place)).then_some(Mention { name, place })
    };
    if let Some(at) = at("subst").or_else(|| at("mklink")) {
        return pair(&words[at + 1..], true);
    }
    if let Some(at) = at("net").filter(|at| words.get(at + 1).is_some_and(|it| is(it, "use"))) {
        return pair(&words[at + 2..], true);
    }
    let at = at("ln")?;
    pair(&words[at + 1..], false)
}

/// `/persistent:yes`, `-sfn`, but not a place of a POSIX system.
fn is_option(word: &str) -> bool {
    word.starts_with('-') || (word.starts_with('/') && !word[1..].contains('/') && word.len() < 16)
}

/// The words of a line, quotes taken off.
fn words(line: &str) -> Vec<String> {
    let mut words = Vec::new();
    let mut word = String::new();
    let mut quote = None;
    for letter in line.chars() {
        match (quote, letter) {
            (Some(open), letter) if open == letter => quote = None,
            (None, '"' | '\'') => quote = Some(letter),
            (None, letter) if letter.is_whitespace() => {
                if !word.is_empty() {
                    words.push(std::mem::take(&mut word));
                }
            }
            _ => word.push(letter),
        }
    }
    words.push(word);
    words.retain(|word| !word.is_empty());
    words
}

/// Says of moves that lead to the same new place from two names of one old place that it is one
/// move, and adds the names that are mentioned for an old place.
pub(super) fn fold_names(mentions: &[Mention], moves: &mut Vec<(Place, Place, TracedMove)>) {
    let mut at = 0;
    while at < moves.len() {
        let (name, to, _) = &moves[at];
        let mains = moves.iter().enumerate().filter(|(main, _)| *main != at);
        let main = mains.filter_map(|(number, (from, other, _))| {
            let base = without_tail(name, to, other)?;
            (!from.same(&base) && stands_for(mentions, &base, from)).then_some((number, base))
        });
        let main = main.min_by_key(|(_, base)| base.components.len());
        match main {
            Some((main, name)) => {
                let (_, _, gone) = moves.remove(at);
                let main = if main > at { main - 1 } else { main };
                let (_, _, kept) = &mut moves[main];
                kept.explains += gone.explains;
                kept.places += gone.places;
                kept.contradicts += gone.contradicts;
                let name = name.to_string();
                if !kept.also.contains(&name) {
                    kept.also.push(name);
                }
                // The other name has its own exceptions, all below the new one.
                kept.except.extend(gone.except);
            }
            None => at += 1,
        }
    }
    for (from, _, told) in moves.iter_mut() {
        for mention in mentions {
            let name = under_other_name(mention, from).map(|name| name.to_string());
            if let Some(name) = name.filter(|name| !told.also.contains(name)) {
                told.also.push(name);
            }
        }
    }
    // What is said to be another name of one old place is no old place of another move.
    let froms: Vec<Place> = moves.iter().map(|(from, ..)| from.clone()).collect();
    for (_, _, told) in moves {
        told.also.retain(|name| {
            let name = Place::parse(name).ok();
            name.is_some_and(|name| froms.iter().all(|from| !from.same(&name)))
        });
        told.also.sort();
    }
}

/// An old place without the names that its new place has below `other`; none if they are not the same.
fn without_tail(name: &Place, to: &Place, other: &Place) -> Option<Place> {
    let tail = to.components.get(other.components.len()..)?;
    let depth = name.components.len().checked_sub(tail.len())?;
    let same = name.components[depth..].iter().zip(tail);
    let is_tail = to.is_under(other) && same.into_iter().all(|(a, b)| fold(a) == fold(b));
    let mut base = name.clone();
    base.components.truncate(depth);
    is_tail.then_some(base)
}

/// How an old place is called by a name that stands for it or for a folder above it.
fn under_other_name(mention: &Mention, from: &Place) -> Option<Place> {
    let depth = mention.place.components.len();
    from.is_under(&mention.place)
        .then(|| from.rebased(depth, &mention.name))
}

/// Whether `name` is another name of `place`: the files say so, or it is the same share of a server
/// whose other name is longer, or the same names cut short.
fn stands_for(mentions: &[Mention], name: &Place, place: &Place) -> bool {
    let mentioned = mentions
        .iter()
        .any(|mention| under_other_name(mention, place).is_some_and(|other| other.same(name)));
    mentioned || is_longer_server(name, place) || is_cut_short(name, place)
}

fn is_longer_server(name: &Place, place: &Place) -> bool {
    let (
        Root::Share { server, share },
        Root::Share {
            server: other,
            share: same,
        },
    ) = (&name.root, &place.root)
    else {
        return false;
    };
    let (server, other) = (fold(server), fold(other));
    let longer = server
        .strip_prefix(&other)
        .is_some_and(|rest| rest.starts_with('.'));
    let like = Place {
        root: place.root.clone(),
        components: name.components.clone(),
    };
    longer && fold(share) == fold(same) && like.same(place)
}

/// Whether some names are written as `HERBAR~1`.
fn is_cut_short(name: &Place, place: &Place) -> bool {
    let pairs = name.components.iter().zip(&place.components);
    let same_length = name.components.len() == place.components.len();
    let short = |short: &str, long: &str| {
        let short = fold(short);
        let stem = short.split('~').next().unwrap_or_default();
        let bare: String = fold(long).chars().filter(|c| !" .".contains(*c)).collect();
        short.contains('~') && !stem.is_empty() && bare.starts_with(stem)
    };
    same_length
        && name.root == place.root
        && !name.same(place)
        && pairs
            .clone()
            .all(|(a, b)| fold(a) == fold(b) || short(a, b))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_that_scripts_give() {
        let cases = [
            (r"subst S: D:\Herbarium", Some((r"S:\", r"D:\Herbarium"))),
            (
                r#"@subst.exe S: "D:\My Herbarium""#,
                Some((r"S:\", r"D:\My Herbarium")),
            ),
            (
                r"net use P: \\mossbank\press /persistent:yes",
                Some((r"P:\", r"\\mossbank\press")),
            ),
            (
                r"mklink /J C:\Data D:\Herbarium",
                Some((r"C:\Data", r"D:\Herbarium")),
            ),
            (
                "ln -sfn /srv/herbarium /home/ines/herbarium",
                Some(("/home/ines/herbarium", "/srv/herbarium")),
            ),
            ("subst S: /d", None),
            ("net use", None),
            (r"we subst often D:\x", None),
            (r"copy D:\a D:\b", None),
        ];
        for (line, expected) in cases {
            let found = mentions(line).pop();
            let found = found.map(|one| (one.name.to_string(), one.place.to_string()));
            let expected = expected.map(|(a, b)| (a.to_owned(), b.to_owned()));
            assert_eq!(found, expected, "{line}");
        }
    }

    #[test]
    fn names_of_one_place() {
        let place = |written: &str| Place::parse(written).unwrap();
        let cases = [
            (
                r"\\mossbank.linden.example\press",
                r"\\mossbank\press",
                true,
            ),
            (r"\\mossbanks\press", r"\\mossbank\press", false),
            (
                r"\\mossbank.linden.example\other",
                r"\\mossbank\press",
                false,
            ),
            (r"D:\HERBAR~1", r"D:\Herbarium", true),
            (r"D:\LINDEN~1", r"D:\Herbarium", false),
            (r"E:\HERBAR~1", r"D:\Herbarium", false),
        ];
        for (name, of, expected) in cases {
            assert_eq!(
                stands_for(&[], &place(name), &place(of)),
                expected,
                "{name}"
            );
        }
    }
}
