//! What moved: the sheet, checked, and which move a found place falls under.

mod acceptance;
mod derived_variables;
mod edit;
mod file;
mod lookup;

use std::path::{Path, PathBuf};

pub use acceptance::{Acceptance, AcceptanceFault, parted_site};
pub use edit::{Additions, EditFault};
pub(crate) use edit::{move_table, push_move};
pub use file::{SheetFault, read};
pub use lookup::{Decision, Relocation, Uncertainty};

use crate::layer::VariableForm;
use crate::place::{Place, PlaceFault};

/// One move: what lay under `from` lies under `to`.
#[derive(Clone, Debug)]
pub struct Move {
    /// The old place.
    pub from: Place,
    /// The new place.
    pub to: Place,
    /// Subtrees of `from` that stay.
    pub except: Vec<Place>,
    /// Other names of `from`.
    pub also: Vec<Place>,
    /// Whether a POSIX `from` is compared without regard to case.
    pub ignore_case: bool,
}

impl Move {
    /// A move without exceptions.
    pub fn new(from: Place, to: Place) -> Self {
        Self {
            from,
            to,
            except: Vec::new(),
            also: Vec::new(),
            ignore_case: false,
        }
    }

    /// `from` and its other names.
    pub fn names(&self) -> impl Iterator<Item = &Place> {
        std::iter::once(&self.from).chain(&self.also)
    }

    /// Whether names are compared with their case.
    pub fn respects_case(&self) -> bool {
        !self.from.root.is_windows() && !self.ignore_case
    }

    /// A text that is equal for equal moves: old and new place.
    pub fn identity(&self) -> String {
        format!("{} = {}", self.from, self.to)
    }
}

/// Documents whose program is known to the technician.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PortableFiles {
    /// Their names and paths.
    pub files: Vec<String>,
    /// How their program takes the value of an environment variable; none if it takes a path relative to the
    /// document.
    pub variables: Option<VariableForm>,
}

/// What a technician said: moves, where roots are seen from here, variables, scope.
#[derive(Clone, Debug)]
pub struct Sheet {
    /// The moves, in the order written.
    pub moves: Vec<Move>,
    /// Where places are seen from this machine.
    pub seen_at: Vec<(Place, PathBuf)>,
    /// Variables and the places they stood for before the move.
    pub variables: Vec<(String, Place)>,
    /// Files and folders to look at.
    pub paths: Vec<PathBuf>,
    /// Names and paths to leave out.
    pub skip: Vec<String>,
    /// Documents whose references take a spelling that survives the next move.
    pub portable: Vec<PortableFiles>,
    /// Whether roots without an entry in `seen_at` are this machine's own.
    pub native: bool,
    /// The file it was read from.
    pub file: Option<PathBuf>,
    /// Doubts that are changed all the same.
    pub accept: Acceptance,
}

impl Default for Sheet {
    fn default() -> Self {
        Self {
            moves: Vec::new(),
            seen_at: Vec::new(),
            variables: Vec::new(),
            paths: Vec::new(),
            skip: Vec::new(),
            portable: Vec::new(),
            native: true,
            file: None,
            accept: Acceptance::default(),
        }
    }
}

impl Sheet {
    /// The names of which the old places are made.
    pub fn old_names(&self) -> impl Iterator<Item = &str> {
        let places = self.moves.iter().flat_map(Move::names);
        places.flat_map(|place| place.components.iter().map(String::as_str))
    }

    /// The names on the way to its new places.
    pub fn new_names(&self) -> impl Iterator<Item = &str> {
        let places = self.moves.iter().map(|one| &one.to);
        places.flat_map(|place| place.components.iter().map(String::as_str))
    }

    /// Whether one of its places has a letter beyond ASCII in its name.
    pub fn has_names_beyond_ascii(&self) -> bool {
        let mut names = self.old_names().chain(self.new_names());
        names.any(|name| !name.is_ascii())
    }

    /// Adds a move given as `OLD=NEW`, split at the first `=` with a place on either side.
    ///
    /// # Errors
    /// Where a side is no place, or the text holds no `=`.
    pub fn add_move(&mut self, written: &str) -> Result<(), ArgumentFault> {
        let is_place = |text: &str| unshelled(text).is_ok_and(|text| Place::parse(text).is_ok());
        let between = written
            .match_indices('=')
            .map(|(at, _)| (&written[..at], &written[at + 1..]))
            .find(|(from, to)| is_place(from) && is_place(to));
        let (from, to) = match between {
            Some(sides) => sides,
            None => split(written, "OLD=NEW")?,
        };
        self.moves.push(Move::new(
            Place::parse(unshelled(from)?)?,
            Place::parse(unshelled(to)?)?,
        ));
        Ok(())
    }

    /// Adds where a place is seen, given as `PLACE=DIR`; `base` is what DIR is relative to.
    ///
    /// # Errors
    /// Where the left side is no place, or the text holds no `=`.
    pub fn add_seen_at(&mut self, written: &str, base: &Path) -> Result<(), ArgumentFault> {
        let (place, folder) = split(written, "PLACE=DIR")?;
        let place = Place::parse(unshelled(place)?)?;
        // What is said on the command line beats the sheet.
        self.seen_at.insert(0, (place, seen_folder(base, folder)));
        Ok(())
    }

    /// Faults of the moves as a whole: contradictions and exceptions that are none.
    pub fn faults(&self) -> Vec<(usize, String)> {
        let mut faults = Vec::new();
        for (index, one) in self.moves.iter().enumerate() {
            if one.from.same(&one.to) {
                faults.push((index, format!("{} moves to itself", one.from)));
            }
            for except in &one.except {
                let known = one
                    .names()
                    .any(|name| except.is_under_by(name, one.respects_case()));
                if !known {
                    faults.push((
                        index,
                        format!("the exception {except} does not lie under {}", one.from),
                    ));
                }
            }
            for name in one.names() {
                for (earlier, other) in self.moves[..index].iter().enumerate() {
                    if let Some(twice) = other.names().find(|place| place.same(name)) {
                        faults.push((
                            index,
                            format!(
                                "{twice} is moved twice: to {} by move {} and to {} by move {}",
                                other.to,
                                earlier + 1,
                                one.to,
                                index + 1
                            ),
                        ));
                    }
                }
            }
        }
        faults
    }

    /// Whether a second rewrite finds nothing: no new place lies under an old one.
    pub fn is_repeatable(&self) -> bool {
        !self.moves.iter().any(|one| {
            self.moves.iter().any(|other| {
                other
                    .names()
                    .any(|name| one.to.is_under_by(name, other.respects_case()))
            })
        })
    }

    /// The same sheet without the moves whose identity is in `done`.
    pub fn without(&self, done: &[String]) -> Self {
        let mut rest = self.clone();
        rest.moves.retain(|one| !done.contains(&one.identity()));
        rest
    }

    /// Where `place` lies after the moves; none if it stays.
    pub fn relocated(&self, place: &Place) -> Option<Place> {
        Some(self.moved_by(place)?.1)
    }

    /// Keeps only the moves from these places. What another move would have taken from below one of them stays where
    /// it is.
    ///
    /// # Errors
    /// Gives the first place from which nothing moves.
    pub fn keep_moves(&mut self, from: &[Place]) -> Result<(), Place> {
        let is_kept = |one: &Move| from.iter().any(|place| one.from.same(place));
        let known = |place: &&Place| self.moves.iter().any(|one| one.from.same(place));
        if let Some(unknown) = from.iter().find(|place| !known(place)) {
            return Err(unknown.clone());
        }
        let (mut kept, others): (Vec<Move>, Vec<Move>) =
            self.moves.drain(..).partition(|one| is_kept(one));
        for one in &mut kept {
            let stays = others.iter().map(|other| &other.from);
            let stays = stays.filter(|other| other.is_under(&one.from));
            one.except.extend(stays.cloned());
        }
        self.moves = kept;
        Ok(())
    }

    /// The number of the move that touches `place`, and where it lies after it; none if it stays.
    pub fn moved_by(&self, place: &Place) -> Option<(usize, Place)> {
        lookup::relocate(&self.moves, place)
    }

    /// The number of the move to whose new place `place` came; of several the nearest.
    pub fn arrived_by(&self, place: &Place) -> Option<usize> {
        let moves = self.moves.iter().enumerate();
        let under = moves.filter(|(_, one)| place.is_under(&one.to));
        let nearest = under.max_by_key(|(_, one)| one.to.components.len());
        nearest.map(|(number, _)| number)
    }

    /// Where `place` lay before the moves that lead to it.
    pub fn origins(&self, place: &Place) -> Vec<Place> {
        let led = |one: &&Move| place.is_under(&one.to);
        let origin = |one: &Move| place.rebased(one.to.components.len(), &one.from);
        let origins = self.moves.iter().filter(led).map(origin);
        let same = |old: &Place| self.relocated(old).is_some_and(|new| new.same(place));
        origins.filter(same).collect()
    }

    /// Whether `place` lies under the new place of a move.
    pub fn is_new_place(&self, place: &Place) -> bool {
        self.moves.iter().any(|one| place.is_under(&one.to))
    }

    /// Whether `place` lies under an old place of a move, its exceptions included.
    pub fn is_old_place(&self, place: &Place) -> bool {
        self.moves.iter().any(|one| {
            one.names()
                .any(|name| place.is_under_by(name, one.respects_case()))
        })
    }

    /// Names of the servers that the sheet speaks of, folded; no other may be contacted.
    pub fn servers(&self) -> Vec<String> {
        let moves = self
            .moves
            .iter()
            .flat_map(|one| one.names().chain([&one.to]));
        let mut servers: Vec<String> = moves
            .filter_map(|place| match &place.root {
                crate::place::Root::Share { server, .. } => Some(crate::place::fold(server)),
                _ => None,
            })
            .collect();
        servers.sort();
        servers.dedup();
        servers
    }
}

/// Whether a text names a volume by its label or serial number: `label:HERBARIUM`.
pub fn is_volume(text: &str) -> bool {
    text.starts_with("label:") || text.starts_with("serial:")
}

/// The folder at which a place is seen, relative to `base` unless it is a volume by its name.
fn seen_folder(base: &Path, written: &str) -> PathBuf {
    if is_volume(written) {
        PathBuf::from(written)
    } else {
        base.join(written)
    }
}

/// Why an argument is no move or no entry of what is seen where.
#[derive(Debug, thiserror::Error)]
pub enum ArgumentFault {
    /// The `=` is missing.
    #[error("{written:?} is not of the form {form}")]
    NoEquals {
        /// The argument.
        written: String,
        /// What it should look like.
        form: &'static str,
    },
    /// A place in it is none.
    #[error(transparent)]
    Place(#[from] PlaceFault),
    /// The shell took a backslash before a quote for an escape.
    #[error(
        "{0:?} holds a quote: the shell took the backslash before the closing quote for an escape; leave that backslash out, or double it"
    )]
    SwallowedQuote(String),
}

fn split<'a>(written: &'a str, form: &'static str) -> Result<(&'a str, &'a str), ArgumentFault> {
    written.split_once('=').ok_or_else(|| {
        if written.contains('"') {
            return ArgumentFault::SwallowedQuote(written.to_owned());
        }
        ArgumentFault::NoEquals {
            written: written.to_owned(),
            form,
        }
    })
}

/// Refuses a quote that `"D:\My Data\"` leaves behind in some shells.
fn unshelled(written: &str) -> Result<&str, ArgumentFault> {
    // A POSIX name may hold one.
    if written.contains('"') && !written.starts_with('/') {
        return Err(ArgumentFault::SwallowedQuote(written.to_owned()));
    }
    Ok(written)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn sheet(moves: &[&str]) -> Sheet {
        let mut sheet = Sheet::default();
        for one in moves {
            sheet.add_move(one).unwrap();
        }
        sheet
    }

    #[test]
    fn a_place_may_hold_an_equals_sign_or_a_quote() {
        let cases = [
            (r"D:\a=b=H:\c", r"D:\a=b", r"H:\c"),
            ("/srv/a=b=/x=y", "/srv/a=b", "/x=y"),
            ("/srv/it's=/a\"b", "/srv/it's", "/a\"b"),
            ("/a=/b=/c", "/a", "/b=/c"),
        ];
        for (written, from, to) in cases {
            let one = &sheet(&[written]).moves[0];
            assert_eq!(one.from.to_string(), from, "{written}");
            assert_eq!(one.to.to_string(), to, "{written}");
        }
        let mut refused = Sheet::default();
        assert!(refused.add_move(r#"D:\My Data"=H:\x"#).is_err());
    }

    #[test]
    fn repeatable_sheets() {
        let cases: [(&[&str], bool); 6] = [
            (&[r"D:\Herbarium=H:\Collections\Herbarium"], true),
            (&[r"D:\=E:\", r"E:\=D:\"], false),
            (&[r"D:\Herbarium=D:\Herbarium\2026"], false),
            (&[r"D:\Herbarium=D:\"], true),
            (&[r"D:\a=D:\b", r"D:\b=D:\c"], false),
            (&[r"D:\Herbarium=D:\Herbarium2"], true),
        ];
        for (moves, repeatable) in cases {
            assert_eq!(sheet(moves).is_repeatable(), repeatable, "{moves:?}");
        }
    }

    #[test]
    fn moves_as_a_whole_are_checked() {
        let mut faulty = sheet(&[r"D:\a=E:\a", r"d:/A=F:\a", r"D:\x=D:\x"]);
        faulty.moves[0].except.push(Place::parse(r"D:\b").unwrap());
        let faults = faulty.faults();
        assert_eq!(
            faults.iter().map(|(at, _)| *at).collect::<Vec<_>>(),
            [0, 1, 2]
        );
        assert!(faults[1].1.contains("moved twice"));
    }

    #[test]
    fn a_swallowed_quote_is_explained() {
        let mut sheet = Sheet::default();
        let fault = sheet
            .add_move("D:\\My Data\"=H:\\x")
            .unwrap_err()
            .to_string();
        assert!(
            fault.contains("backslash before the closing quote"),
            "{fault}"
        );
        assert!(
            sheet
                .add_move(r"D:\a")
                .unwrap_err()
                .to_string()
                .contains("OLD=NEW")
        );
        assert!(
            sheet
                .add_move(r"a=b")
                .unwrap_err()
                .to_string()
                .contains("absolute")
        );
    }
}
