//! The signs of a place: what every spelling of it holds, and what must be around that.

use super::Needle;
use super::around::{After, Around, Before};
use super::drives::{COLONS, Drive, KEYS, TOPS};
use crate::place::{Place, Root};
use crate::sheet::Sheet;

/// So long a run is rare enough to be looked for in place of a longer one, if it is looked for anyway.
const RARE: usize = 4;

/// The signs of a place, any of which lets a file through, and its drive if only that is known of it; none if
/// every file must be read. `known` are the signs of other places: the old and the new one mostly share a
/// name, and to look for one word costs less than to look for two.
pub(super) fn needles_of(
    place: &Place,
    sheet: &Sheet,
    known: &[Needle],
) -> Option<(Vec<Needle>, Option<Drive>)> {
    // A variable may stand for the first names, so those are no sign.
    let behind = sheet
        .variables
        .iter()
        .filter(|(_, value)| place.is_under(value));
    let hidden = behind.map(|(_, value)| value.components.len()).max();
    let first = hidden.unwrap_or(0);
    let names = place.components.iter().enumerate().skip(first);
    let of_names = names.flat_map(|(at, name)| {
        let around = move |run: &str| around_name(place, at, run, hidden);
        runs(name).into_iter().map(move |run| (around(&run), run))
    });
    let roots: Vec<&str> = match &place.root {
        Root::Share { server, share } if first == 0 => vec![server, share],
        _ => Vec::new(),
    };
    let of_roots = roots.into_iter().flat_map(|name| {
        let runs = runs(name).into_iter();
        runs.map(|run| (Around::anything(), run))
    });
    let is_known = |run: &str| known.iter().any(|sign| sign.text == run.as_bytes());
    let best = of_names
        .chain(of_roots)
        .max_by_key(|(_, run)| (run.len() >= RARE && is_known(run), run.len()))
        .filter(|(_, run)| run.len() >= 2);
    if let Some((around, run)) = best {
        let text = run.into_bytes();
        let sign = Needle {
            text,
            around,
            of_drive: false,
        };
        return Some((vec![sign], None));
    }
    match place.root {
        Root::Drive(letter) if first == 0 => {
            let drive = Drive {
                letter: letter.to_ascii_lowercase() as u8,
                whole: place.components.is_empty(),
            };
            Some((signs_of_drive(drive), Some(drive)))
        }
        _ => None,
    }
}

/// What must be around a run of letters of the name that a place has at `at`. `hidden` is how many names a
/// variable may stand for, if there is one.
fn around_name(place: &Place, at: usize, run: &str, hidden: Option<usize>) -> Around {
    let name = place.components[at].to_ascii_lowercase();
    // A drive that is named as a folder may be written otherwise.
    let on_drive = place.root == Root::Posix && place.by_drive().root.is_drive();
    if !name.is_ascii() || name.matches(run).count() != 1 || on_drive {
        return Around::anything();
    }
    let above = at
        .checked_sub(1)
        .map(|above| place.components[above].as_str());
    let before = match (above, &place.root) {
        _ if !name.starts_with(run) || hidden == Some(at) => Before::Anything,
        (Some(above), _) => last_run(above),
        (None, Root::Drive(letter)) => Before::Drive(letter.to_ascii_lowercase() as u8),
        (None, Root::Posix) => Before::Root,
        // The administrative share of a drive may be written as the drive.
        (None, Root::Share { share, .. }) if share.ends_with('$') => Before::Anything,
        (None, Root::Share { share, .. }) => last_run(share),
    };
    // Within the name a letter follows that is no letter of a run, raw or as an escape.
    let goes_on = name.split_once(run).map_or("", |(_, rest)| rest);
    let after = if goes_on.starts_with('_') {
        After::Anything
    } else {
        After::NameEnds
    };
    Around { before, after }
}

/// The last letters and digits of the name above.
fn last_run(name: &str) -> Before {
    let name = name.to_ascii_lowercase();
    let part = |c: char| c.is_ascii_alphanumeric() || c == '_';
    let end = name.trim_end_matches(|c| !part(c));
    let run = &end[end.trim_end_matches(part).len()..];
    if run.is_empty() || !name.is_ascii() {
        Before::Anything
    } else {
        Before::Name(run.as_bytes().to_vec())
    }
}

/// The signs of a drive of which no name is long enough to be one, for files that are not text.
fn signs_of_drive(drive: Drive) -> Vec<Needle> {
    let sign = |text: String, after| Needle {
        text: text.into_bytes(),
        around: Around {
            before: Before::Anything,
            after,
        },
        of_drive: true,
    };
    let letter = char::from(drive.letter);
    let mut signs: Vec<Needle> = COLONS
        .iter()
        .map(|colon| sign(format!("{letter}{colon}"), After::Anything))
        .collect();
    let folder = After::DriveFolder(drive.letter);
    signs.extend(TOPS.map(|top| sign(top.to_owned(), folder)));
    if drive.whole {
        // A lone letter beside one of these keys is reported.
        let lone = After::LoneLetter(drive.letter);
        signs.extend(KEYS.map(|key| sign(key.to_owned(), lone)));
    } else {
        signs.push(sign(format!("/{letter}"), After::Anything));
    }
    signs
}

/// The runs of ASCII letters and digits of a name, in lower case. After another letter a hex
/// digit may be escaped, so it is no part of a run.
fn runs(name: &str) -> Vec<String> {
    let mut runs = vec![String::new()];
    let mut behind_other = false;
    for letter in name.chars() {
        if letter.is_ascii_alphanumeric() && !(behind_other && letter.is_ascii_hexdigit()) {
            behind_other = false;
            if let Some(run) = runs.last_mut() {
                run.push(letter.to_ascii_lowercase());
            }
        } else {
            behind_other = !letter.is_ascii() || (behind_other && letter.is_ascii_hexdigit());
            runs.push(String::new());
        }
    }
    runs
}
