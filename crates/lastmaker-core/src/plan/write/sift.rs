//! Finding out which of many changes no new copy holds with.

use crate::judge::Unproven;

use super::proof::Flaw;

/// How often new copies of one document are made and proved; after that it is evidently not
/// understood.
pub(in crate::plan) const MOST_ATTEMPTS: usize = 64;

/// Those of `all` with which no new copy holds, found half by half, and why; none if that takes more
/// attempts than are left. `attempt` tries some of them.
pub(in crate::plan) fn sift<T: Copy>(
    all: &[T],
    attempts: &mut usize,
    mut attempt: impl FnMut(&[T]) -> Result<(), Flaw>,
) -> Option<Vec<(T, Unproven)>> {
    let mut good: Vec<T> = Vec::new();
    let mut bad = Vec::new();
    let (left, right) = all.split_at(all.len() / 2);
    let mut open = vec![right, left];
    while let Some(part) = open.pop() {
        if *attempts >= MOST_ATTEMPTS {
            return None;
        }
        *attempts += 1;
        let tried: Vec<T> = good.iter().chain(part).copied().collect();
        let why = match attempt(&tried) {
            Ok(()) => {
                good = tried;
                continue;
            }
            Err(Flaw::Document(flaw)) => flaw,
            Err(Flaw::References(_)) => Unproven::Reference,
        };
        match part {
            [one] => bad.push((*one, why)),
            _ => {
                let (left, right) = part.split_at(part.len() / 2);
                open.extend([right, left]);
            }
        }
    }
    Some(bad)
}
