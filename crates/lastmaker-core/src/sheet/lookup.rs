//! Which move a place falls under: other names first, then the longest old place.

use super::{Move, Sheet};
use thiserror::Error;

use crate::place::{DriveFolder, Place};
use crate::scan::{Alias, AliasKind, Doubt, Fit, Found, PrefixFit, fit};

/// What the sheet says of a found place.
#[derive(Clone, Debug)]
pub enum Decision {
    /// No move touches it.
    Elsewhere,
    /// It lies in an exception.
    Kept,
    /// It moves.
    Moves(Relocation),
    /// It might: the relocation as it would be, and why nobody can tell.
    Doubtful(Relocation, Uncertainty),
}

impl Decision {
    /// Where it goes, or would.
    pub fn relocation(&self) -> Option<&Relocation> {
        match self {
            Self::Moves(relocation) | Self::Doubtful(relocation, _) => Some(relocation),
            Self::Elsewhere | Self::Kept => None,
        }
    }

    fn map(self, change: impl FnOnce(Relocation) -> Relocation) -> Self {
        match self {
            Self::Moves(relocation) => Self::Moves(change(relocation)),
            Self::Doubtful(relocation, why) => Self::Doubtful(change(relocation), why),
            decision => decision,
        }
    }
}

/// Why nobody can tell whether a place moves.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum Uncertainty {
    /// After the name comes a letter with which it could go on.
    #[error("{0:?} follows, and the name could go on")]
    NameGoesOn(char),
    /// After the name comes a blank.
    #[error("a blank follows, and the name could go on")]
    BlankFollows,
    /// It lies in an exception, unless the name goes on: no change of it can be accepted.
    #[error("it lies in an exception of the sheet, unless its name goes on")]
    MaybeKept,
    /// It is on a machine that the sheet does not speak of.
    #[error(
        "whether {0} is the machine whose drive moved is not known; \
         if it is, say so in the sheet with also = ['\\\\{0}\\…$']"
    )]
    UnknownHost(String),
    /// It is relative to a folder that nobody knows.
    #[error("it is relative to the current folder of that drive")]
    DriveRelative,
    /// It is a letter and nothing else.
    #[error("{0:?} may name a drive")]
    LoneLetter(String),
}

/// Where a found place goes.
#[derive(Clone, Debug)]
pub struct Relocation {
    /// Where the spelling of the old prefix ends, as a byte offset of the content.
    pub end: usize,
    /// What comes instead of the prefix.
    pub to: Place,
    /// Components that the old prefix stands for.
    pub depth: usize,
    /// Which of the sheet's moves it is.
    pub by: usize,
    /// As what the find was read where that is not how it was found: `/mnt/d/x` as a place on a
    /// drive.
    pub seen: Option<Box<Found>>,
}

/// A fit that was tried: the candidate with the longest old place is kept.
struct Best {
    index: usize,
    fit: PrefixFit,
    clear: bool,
    length: usize,
}

impl Sheet {
    /// Decides over a place found in `content`: as it is written, else as what else it may name.
    pub fn decide(&self, found: &Found, content: &str) -> Decision {
        let decision = self.decide_reading(found, content);
        if let (Decision::Elsewhere, Some(alias)) = (&decision, found.alias(content)) {
            let decision = self.decide_reading(&alias.found, content);
            return match &alias.kind {
                AliasKind::AdminShare { server } => self.on_host(decision, server),
                AliasKind::Folder(folder) => as_folder(decision, *folder, &alias),
            };
        }
        match found.root.admin_server() {
            Some(server) if matches!(decision, Decision::Moves(_)) => {
                decision.map(|relocation| through_share(relocation, server))
            }
            _ => decision,
        }
    }

    /// A decision over a drive, carried over to an administrative share of `server`.
    fn on_host(&self, decision: Decision, server: &str) -> Decision {
        let local = ["localhost", "127.0.0.1"]
            .iter()
            .any(|name| name.eq_ignore_ascii_case(server));
        let mut names = self.moves.iter().flat_map(Move::names);
        let known = local
            || names.any(|name| {
                let named = name.root.admin_server();
                named.is_some_and(|other| other.eq_ignore_ascii_case(server))
            });
        let decision = decision.map(|relocation| through_share(relocation, server));
        match decision {
            Decision::Moves(relocation) if !known => {
                Decision::Doubtful(relocation, Uncertainty::UnknownHost(server.to_owned()))
            }
            decision => decision,
        }
    }

    fn decide_reading(&self, found: &Found, content: &str) -> Decision {
        if let Some(doubt) = found.doubt {
            return self.decide_doubt(found, content, doubt);
        }
        // A name that is an alias is first carried over to what it stands for.
        let alias = longest(
            found,
            content,
            self.moves
                .iter()
                .enumerate()
                .flat_map(|(index, one)| one.also.iter().map(move |also| (index, also))),
            &self.moves,
        );
        let mut clear = true;
        let mut carried = None;
        if let Some(best) = alias {
            clear = best.clear;
            let from = &self.moves[best.index].from;
            carried = Some((
                found.translated(best.fit.end, best.fit.tokens, from),
                best.length,
            ));
        }
        let seen = carried.as_ref().map_or(found, |(found, _)| found);
        let froms = self
            .moves
            .iter()
            .enumerate()
            .map(|(index, one)| (index, &one.from));
        let Some(best) = longest(seen, content, froms, &self.moves) else {
            return Decision::Elsewhere;
        };
        clear &= best.clear;
        let one = &self.moves[best.index];
        let mut unclear_at = best.fit.end;
        let mut maybe_kept = false;
        for except in &one.except {
            match self.fit_except(seen, found, content, except, one) {
                Fit::Clear(_) => return Decision::Kept,
                Fit::Doubtful(fit) => {
                    clear = false;
                    maybe_kept = true;
                    unclear_at = fit.end;
                }
                Fit::None => {}
            }
        }
        let depth = match &carried {
            Some((carried, alias_length)) => best.length - carried.base.len() + alias_length,
            None => best.length,
        };
        let relocation = Relocation {
            end: best.fit.end,
            to: one.to.clone(),
            depth,
            by: best.index,
            seen: None,
        };
        if clear {
            Decision::Moves(relocation)
        } else {
            let why = match content[unclear_at..].chars().next() {
                _ if maybe_kept => Uncertainty::MaybeKept,
                Some(next) if !next.is_whitespace() => Uncertainty::NameGoesOn(next),
                _ => Uncertainty::BlankFollows,
            };
            Decision::Doubtful(relocation, why)
        }
    }

    fn fit_except(
        &self,
        seen: &Found,
        written: &Found,
        content: &str,
        except: &Place,
        one: &Move,
    ) -> Fit {
        let respect_case = one.respects_case();
        match fit(seen, content, except, respect_case) {
            // An exception may be written under one of the other names.
            Fit::None => fit(written, content, except, respect_case),
            known => known,
        }
    }

    fn decide_doubt(&self, found: &Found, content: &str, doubt: Doubt) -> Decision {
        let whole_drive = self.moves.iter().enumerate().find(|(_, one)| {
            one.names()
                .any(|name| name.root == found.root && name.components.is_empty())
        });
        let Some((by, one)) = whole_drive else {
            return Decision::Elsewhere;
        };
        let why = match doubt {
            Doubt::DriveRelative => Uncertainty::DriveRelative,
            Doubt::LoneLetter => {
                Uncertainty::LoneLetter(content[found.start..found.root_end].to_owned())
            }
        };
        Decision::Doubtful(
            Relocation {
                end: found.root_end,
                to: one.to.clone(),
                depth: 0,
                by,
                seen: None,
            },
            why,
        )
    }
}

/// The new place through the administrative share of its drive, if it is on one.
fn through_share(mut relocation: Relocation, server: &str) -> Relocation {
    relocation.to = relocation.to.through_share_of(server);
    relocation
}

/// A decision over a drive that is written as a folder. `/d` alone says too little to be a whole
/// drive.
fn as_folder(decision: Decision, folder: DriveFolder, alias: &Alias) -> Decision {
    let whole_drive = decision
        .relocation()
        .is_some_and(|relocation| relocation.depth == 0);
    if folder == DriveFolder::Root && whole_drive {
        return Decision::Elsewhere;
    }
    decision.map(|relocation| Relocation {
        seen: Some(Box::new(alias.found.clone())),
        ..relocation
    })
}

/// The candidate with the most components that `found` lies under, or might; of several the one that
/// fits best.
fn longest<'a>(
    found: &Found,
    content: &str,
    candidates: impl Iterator<Item = (usize, &'a Place)>,
    moves: &[Move],
) -> Option<Best> {
    candidates
        .filter_map(|(index, place)| {
            let (fit, clear) = match fit(found, content, place, moves[index].respects_case()) {
                Fit::None => return None,
                Fit::Clear(fit) => (fit, true),
                Fit::Doubtful(fit) => (fit, false),
            };
            Some(Best {
                index,
                fit,
                clear,
                length: place.components.len(),
            })
        })
        // Of names of one length the one that fits for certain wins, then the longer name: the order
        // of the sheet decides nothing.
        .reduce(|best, next| {
            let rank = |one: &Best| (one.length, one.clear, one.fit.end);
            if rank(&next) > rank(&best) {
                next
            } else {
                best
            }
        })
}

/// The number of the move that touches a place, and the place after it; none if none of them touches it or an exception keeps it.
pub(super) fn relocate(moves: &[Move], place: &Place) -> Option<(usize, Place)> {
    let under = |one: &Move, name: &Place| place.is_under_by(name, one.respects_case());
    let alias = moves
        .iter()
        .flat_map(|one| one.also.iter().map(move |also| (one, also)))
        .filter(|(one, also)| under(one, also))
        .max_by_key(|(_, also)| also.components.len());
    let carried = alias.map(|(one, also)| place.rebased(also.components.len(), &one.from));
    let written = place;
    let place = carried.as_ref().unwrap_or(place);
    let (number, one) = moves
        .iter()
        .enumerate()
        .filter(|(_, one)| place.is_under_by(&one.from, one.respects_case()))
        .max_by_key(|(_, one)| one.from.components.len())?;
    let kept = one
        .except
        .iter()
        .any(|except| place.is_under_by(except, one.respects_case()));
    let to = match written.root.admin_server() {
        Some(server) if carried.is_some() => one.to.through_share_of(server),
        _ => one.to.clone(),
    };
    (!kept).then(|| (number, place.rebased(one.from.components.len(), &to)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::scan::{Finder, Hint};

    fn place(written: &str) -> Place {
        Place::parse(written).unwrap()
    }

    /// What the first place of a value becomes: the prefix replaced, `=` kept, `?` doubtful.
    fn decided(sheet: &Sheet, content: &str) -> String {
        let hint = Hint::for_value("root");
        let found = &Finder {
            variables: &sheet.variables,
        }
        .find(content, hint)[0];
        match sheet.decide(found, content) {
            Decision::Elsewhere => String::new(),
            Decision::Kept => "=".to_owned(),
            Decision::Moves(r) => format!(
                "{}{}",
                found.spelling.write(&r.to).unwrap(),
                &content[r.end..]
            ),
            Decision::Doubtful(r, _) => format!("?{}", r.to),
        }
    }

    #[test]
    fn longest_first_exceptions_stay_and_aliases_are_carried_over() {
        let mut sheet = Sheet::default();
        sheet
            .add_move(r"D:\Herbarium=H:\Collections\Herbarium")
            .unwrap();
        sheet.add_move(r"D:\Herbarium\Maps=M:\Maps").unwrap();
        sheet
            .add_move(r"\\mossbank\press=\\fernhall\press")
            .unwrap();
        sheet.moves[0].except.push(place(r"D:\Herbarium\Loans"));
        sheet.moves[0].also.push(place(r"S:\"));
        sheet.moves[0].also.push(place(r"\\mossbank\d$\Herbarium"));
        sheet
            .variables
            .push(("HERB".to_owned(), place(r"D:\Herbarium")));
        sheet.variables.push(("DATA".to_owned(), place(r"D:\")));
        let cases = [
            (r"D:\Herbarium\x", r"H:\Collections\Herbarium\x"),
            (r"D:\Herbarium\Maps\x", r"M:\Maps\x"),
            (r"D:\Herbarium\MapsOld", r"H:\Collections\Herbarium\MapsOld"),
            (r"D:\Herbarium\Loans", "="),
            (
                r"D:\Herbarium\LoansOld",
                r"H:\Collections\Herbarium\LoansOld",
            ),
            (r"S:\x", r"H:\Collections\Herbarium\x"),
            (r"s:/maps/x", "m:/Maps/x"),
            (r"S:\Loans\x", "="),
            (r"S:\x\..\Maps\y", r"M:\Maps\y"),
            (r"\\mossbank\d$\Herbarium\Maps", r"\\mossbank\M$\Maps"),
            (r"\\MOSSBANK\Press\x", r"\\fernhall\press\x"),
            (r"\\mossbank\presses\x", ""),
            (r"D:\Loans", ""),
            (r"%HERB%\x", ""),
            (r"%HERB%\Maps\x", r"M:\Maps\x"),
            (r"%DATA%\Herbarium\x", r"H:\Collections\Herbarium\x"),
            (r"see D:\Herbarium now", r"?H:\Collections\Herbarium"),
            (r"see D:\Herbarium\Loans now", r"?H:\Collections\Herbarium"),
        ];
        for (content, expected) in cases {
            assert_eq!(decided(&sheet, content), expected, "{content}");
        }
        assert_eq!(
            sheet.relocated(&place(r"S:\Maps\x")).unwrap().to_string(),
            r"M:\Maps\x"
        );
        assert!(sheet.relocated(&place(r"S:\Loans")).is_none());
    }

    #[test]
    fn swaps_apply_at_once() {
        let mut sheet = Sheet::default();
        sheet.add_move(r"D:\=E:\").unwrap();
        sheet.add_move(r"E:\=D:\").unwrap();
        for (content, expected) in [
            (r"D:\x", r"E:\x"),
            (r"E:\x", r"D:\x"),
            ("D:", "E:"),
            ("D:x", r"?E:\"),
        ] {
            assert_eq!(decided(&sheet, content), expected, "{content}");
        }
    }
}
