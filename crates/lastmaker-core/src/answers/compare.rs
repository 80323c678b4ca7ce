//! Is all of what moved at its new place, too.

use crate::compare::{Comparing, Pair, Seen, compare};
use crate::report::{CompareReport, LeftFile};
use crate::resolve::{NamedFolder, Resolver, UnseenFault};
use crate::sheet::Sheet;

/// What is compared with what.
#[derive(Debug)]
pub struct Comparison {
    pairs: Vec<Pair>,
    /// Moves of which a side is not seen.
    unseen: Vec<LeftFile>,
}

impl Comparison {
    /// Two folders, each a path here or a place that the sheet sees from here. If they are both sides of one of its
    /// moves, what does not go along with that is no part of it.
    ///
    /// # Errors
    /// Where one of them cannot be looked at.
    pub fn between(old: &str, new: &str, sheet: &Sheet) -> Result<Self, UnseenFault> {
        let resolver = Resolver::new(sheet);
        let (old, new) = (resolver.folder_named(old)?, resolver.folder_named(new)?);
        let same = |named: &NamedFolder, of: &_| named.place.as_ref().is_some_and(|it| it.same(of));
        let mut moves = sheet.moves.iter();
        let of_move = moves.position(|one| same(&old, &one.from) && same(&new, &one.to));
        let pair = Pair::new(seen(old), seen(new));
        Ok(Self {
            pairs: vec![match of_move {
                Some(index) => pair.of_move(sheet, index),
                None => pair,
            }],
            unseen: Vec::new(),
        })
    }

    /// Both sides of each move of the sheet.
    ///
    /// # Errors
    /// Where no move has two sides that can be looked at: why the first has not.
    pub fn of_moves(sheet: &Sheet) -> Result<Self, UnseenFault> {
        let resolver = Resolver::new(sheet);
        let mut pairs = Vec::new();
        let mut left = Vec::new();
        let mut first = None;
        for (index, one) in sheet.moves.iter().enumerate() {
            let sides = resolver.folder_at(&one.from);
            let sides = sides.and_then(|old| Ok((old, resolver.folder_at(&one.to)?)));
            match sides {
                Ok((old, new)) => pairs.push(Pair::new(seen(old), seen(new)).of_move(sheet, index)),
                Err(fault) => {
                    let name = one.from.to_string();
                    left.push(LeftFile::new(name.as_ref(), fault.to_string()));
                    first.get_or_insert(fault);
                }
            }
        }
        match first {
            Some(fault) if pairs.is_empty() => Err(fault),
            _ => Ok(Self {
                pairs,
                unseen: left,
            }),
        }
    }

    /// Compares them, one pair after the other.
    pub fn run(self, comparing: &Comparing<'_>) -> CompareReport {
        let compared = self.pairs.iter().map(|pair| compare(pair, comparing));
        CompareReport::new(compared.collect(), self.unseen, comparing.content)
    }
}

fn seen(named: NamedFolder) -> Seen {
    Seen {
        name: named.name,
        path: named.path,
    }
}
