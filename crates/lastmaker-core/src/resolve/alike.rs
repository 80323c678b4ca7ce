//! Names that may stand for each other: one that somebody renamed, copied or mistyped, but never a
//! sibling, which is another thing of the same kind.

use std::collections::HashMap;

use crate::place::fold;

/// How a name that is there is like one that is missing; what is likelier comes first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Alike {
    /// It is the same but for letter case or composition.
    Same,
    /// One of them has what a program or a person puts behind a second copy.
    Suffix,
    /// Only what follows the last dot is another.
    Extension,
    /// It is spelled almost alike.
    Misspelt,
}

/// How `there` is like `missing`; none if it is another thing.
pub(super) fn alike(missing: &str, there: &str) -> Option<Alike> {
    let (missing, there) = (fold(missing), fold(there));
    if missing == there {
        return Some(Alike::Same);
    }
    let (stem, end) = split(&missing);
    let (other, other_end) = split(&there);
    let copy = |long: &str, short: &str| {
        let suffix = long.strip_prefix(short).filter(|_| !short.is_empty());
        suffix.is_some_and(is_copy_suffix)
    };
    if end == other_end && (copy(other, stem) || (copy(stem, other) && !ends_in_number(stem))) {
        return Some(Alike::Suffix);
    }
    let set_aside = there
        .strip_prefix(&missing)
        .or(missing.strip_prefix(&there));
    if set_aside.is_some_and(|rest| [".BAK", ".OLD", ".ORIG", "~"].contains(&rest)) {
        return Some(Alike::Suffix);
    }
    if stem == other && !end.is_empty() && !other_end.is_empty() {
        return Some(Alike::Extension);
    }
    (end == other_end && is_misspelt(stem, other)).then_some(Alike::Misspelt)
}

/// A folded name and what follows its last dot, if that is short enough for a format's sign.
fn split(name: &str) -> (&str, &str) {
    match name.rsplit_once('.') {
        Some((stem, end))
            if !stem.is_empty()
                && (1..=5).contains(&end.len())
                && end.bytes().all(|b| b.is_ascii_alphanumeric()) =>
        {
            (stem, end)
        }
        _ => (name, ""),
    }
}

fn ends_in_number(name: &str) -> bool {
    name.ends_with(|c: char| c.is_ascii_digit())
}

/// Whether it is what stands behind the name of a second copy: `-1`, ` (2)`, `_OLD`, ` - COPY`.
fn is_copy_suffix(suffix: &str) -> bool {
    const WORDS: [&str; 8] = [
        "OLD", "NEW", "COPY", "BAK", "BACKUP", "KOPIE", "ORIG", "ORIGINAL",
    ];
    let number =
        |text: &str| (1..=2).contains(&text.len()) && text.bytes().all(|b| b.is_ascii_digit());
    let bracketed = |text: &str| {
        let inner = text
            .strip_prefix('(')
            .and_then(|rest| rest.strip_suffix(')'));
        inner.is_some_and(number)
    };
    let rest = suffix.trim_start_matches([' ', '-', '_', '.']);
    if bracketed(rest) {
        return true;
    }
    if rest.len() == suffix.len() {
        return false;
    }
    // ` - COPY (2)`, ` COPY 2`
    let mut parts = rest.splitn(2, ' ');
    let word = parts.next().unwrap_or("");
    let more = parts
        .next()
        .is_none_or(|more| bracketed(more) || number(more));
    more && (WORDS.contains(&word) || (number(word) && !rest.contains(' ')))
}

/// Whether two names differ as a slip of the hand makes them differ. Their numbers are the same, and
/// no whole word is another.
fn is_misspelt(a: &str, b: &str) -> bool {
    let (a, b) = (parts(a), parts(b));
    if a.concat() == b.concat() {
        // Only blanks, dots and dashes are others.
        return !a.is_empty();
    }
    let mut pairs = a.iter().zip(&b).filter(|(a, b)| a != b);
    let (Some((one, other)), None) = (pairs.next(), pairs.next()) else {
        return false;
    };
    a.len() == b.len() && is_slip(one, other)
}

/// The words and the numbers of a name.
fn parts(name: &str) -> Vec<String> {
    let mut parts: Vec<String> = Vec::new();
    let mut last = None;
    for letter in name.chars() {
        let kind = match letter {
            letter if letter.is_numeric() => Some(true),
            letter if letter.is_alphabetic() => Some(false),
            _ => None,
        };
        match (kind, parts.last_mut()) {
            (Some(_), Some(part)) if kind == last => part.push(letter),
            (Some(_), _) => parts.push(letter.to_string()),
            (None, _) => {}
        }
        last = kind;
    }
    parts
}

/// Whether two words differ by one slip: a letter more or less, or two that changed places; in a
/// longer word also another letter.
fn is_slip(a: &str, b: &str) -> bool {
    const SHORTEST: usize = 4;
    const LONG: usize = 7;
    let (la, lb) = (a.chars().count(), b.chars().count());
    let number = |word: &str| word.starts_with(char::is_numeric);
    if number(a) || number(b) || la.min(lb) < SHORTEST {
        return false;
    }
    let swapped = || {
        let sorted = |word: &str| {
            let mut letters: Vec<char> = word.chars().collect();
            letters.sort_unstable();
            letters
        };
        sorted(a) == sorted(b)
    };
    strsim::damerau_levenshtein(a, b) == 1 && (la != lb || la >= LONG || swapped())
}

/// The names of a folder, so that those which are like another are found without comparing all.
#[derive(Debug, Default)]
pub(super) struct Likenesses {
    names: Vec<String>,
    /// By what like names have in common.
    by_key: HashMap<String, Vec<u32>>,
}

impl Likenesses {
    pub(super) fn of(names: Vec<String>) -> Self {
        let mut by_key: HashMap<String, Vec<u32>> = HashMap::new();
        for (at, name) in names.iter().enumerate() {
            for key in keys(name) {
                by_key.entry(key).or_default().push(at as u32);
            }
        }
        Self { names, by_key }
    }

    /// The names that are like `missing`, the likeliest first.
    pub(super) fn like(&self, missing: &str) -> Vec<(Alike, &str)> {
        let near = keys(missing).into_iter();
        let mut near: Vec<u32> = near
            .filter_map(|key| self.by_key.get(&key))
            .flatten()
            .copied()
            .collect();
        near.sort_unstable();
        near.dedup();
        let names = near.into_iter().map(|at| self.names[at as usize].as_str());
        let mut like: Vec<(Alike, &str)> = names
            .filter_map(|name| Some((alike(missing, name)?, name)))
            .collect();
        like.sort();
        like
    }
}

/// What a name has in common with those that are like it: its letters without the sign of its format
/// and what stands behind a second copy, and its letters less one.
fn keys(name: &str) -> Vec<String> {
    const LONGEST: usize = 64;
    let folded = fold(name);
    let aside = [".BAK", ".OLD", ".ORIG", "~"];
    let folded = aside
        .iter()
        .find_map(|end| folded.strip_suffix(end))
        .unwrap_or(&folded);
    let (stem, _) = split(folded);
    let bare: Vec<char> = stem.chars().filter(|c| c.is_alphanumeric()).collect();
    let mut all = vec![bare.iter().collect::<String>()];
    let signs = [' ', '-', '_', '.', '('];
    let mut ends = stem.match_indices(signs).map(|(at, _)| at);
    if let Some(at) = ends.find(|at| *at > 0 && is_copy_suffix(&stem[*at..])) {
        all.push(stem[..at].chars().filter(|c| c.is_alphanumeric()).collect());
    }
    if bare.len() <= LONGEST {
        let less = |gone: usize| {
            let kept = bare.iter().enumerate().filter(|(at, _)| *at != gone);
            kept.map(|(_, letter)| letter).collect::<String>()
        };
        all.extend((0..bare.len()).map(less));
    }
    all.sort();
    all.dedup();
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_renamed_and_what_is_a_sibling() {
        use Alike::{Extension, Misspelt, Same, Suffix};
        let cases = [
            ("Map.TIF", "map.tif", Some(Same)),
            ("Gr\u{f6}n.tif", "Gro\u{308}n.tif", Some(Same)),
            ("plan.doc", "plan-1.doc", Some(Suffix)),
            ("plan.doc", "plan (2).doc", Some(Suffix)),
            ("plan.doc", "plan - Copy.doc", Some(Suffix)),
            ("plan.doc", "plan - Copy (2).doc", Some(Suffix)),
            ("plan - Copy.doc", "plan.doc", Some(Suffix)),
            ("Sheets", "Sheets_old", Some(Suffix)),
            ("IMG_0002.jpg", "IMG_0002 (1).jpg", Some(Suffix)),
            ("plan.doc", "plan.doc.bak", Some(Suffix)),
            ("0412.tif", "0412.tiff", Some(Extension)),
            ("0412.tif", "0412.jpg", Some(Extension)),
            ("Sheet", "Sheets", Some(Misspelt)),
            ("low_sketch.map", "Low sketch.map", Some(Misspelt)),
            ("meadwos.map", "meadows.map", Some(Misspelt)),
            ("collection 2021", "colection 2021", Some(Misspelt)),
            ("IMG_0002.jpg", "IMG_0003.jpg", None),
            ("budget 2022.xls", "budget 2021.xls", None),
            ("plan-1.doc", "plan-2.doc", None),
            ("plan-2.doc", "plan.doc", None),
            ("plan.doc", "plan 2021.doc", None),
            ("scan 10", "scan 100", None),
            ("north meadow", "south meadow", None),
            ("Moor.tif", "Moon.tif", None),
            ("plan A.doc", "plan B.doc", None),
            ("red lamp.png", "blue lamp.png", None),
            ("sketch.map", "sketch large.map", None),
            ("front.tif", "back.tif", None),
            ("a.tif", "b.tif", None),
        ];
        for (missing, there, expected) in cases {
            assert_eq!(alike(missing, there), expected, "{missing} {there}");
            let all = Likenesses::of(vec!["other".to_owned(), there.to_owned()]);
            let found: Vec<Alike> = all.like(missing).into_iter().map(|(it, _)| it).collect();
            assert_eq!(found, Vec::from_iter(expected), "{missing} {there}");
        }
    }
}
