//! The fewest links that make everything resolve: each at the highest folder that works.

use std::collections::{BTreeMap, HashSet};

use super::site::{Refusal, Site, Verdict};
use super::{Bridge, Served};
use crate::place::Place;

/// A reference that names an old place, and will go on doing so.
#[derive(Clone, Debug)]
pub struct Need {
    /// The old place.
    pub old: Place,
    /// The file that it is in, by a number.
    pub file: usize,
}

/// The links that serve `needs`, by old place, and those that would if they could be made.
pub fn fewest(site: &Site<'_>, needs: &[Need]) -> Vec<Bridge> {
    let mut bridges = Vec::new();
    let mut served = vec![false; needs.len()];
    for one in &site.sheet.moves {
        for name in one.names() {
            let own: Vec<usize> = (0..needs.len())
                .filter(|at| !served[*at] && needs[*at].old.is_under(name))
                .filter(|at| {
                    // The longest old place has the say.
                    let by = site.sheet.moved_by(&needs[*at].old);
                    by.is_some_and(|(by, _)| std::ptr::eq(&site.sheet.moves[by], one))
                })
                .collect();
            if own.is_empty() {
                continue;
            }
            for at in &own {
                served[*at] = true;
            }
            cover(site, needs, name, &one.to, &own, &mut bridges);
        }
    }
    bridges
}

/// Adds the links for those of the needs that lie under `old`.
fn cover(
    site: &Site<'_>,
    needs: &[Need],
    old: &Place,
    new: &Place,
    own: &[usize],
    bridges: &mut Vec<Bridge>,
) {
    let mut verdict = site.judge(old, new);
    // Where nothing is seen an exception may stay there all the same.
    if matches!(verdict, Verdict::Unseen) && site.stays_below(old) {
        verdict = Verdict::Refused(Refusal::Exception);
    }
    let goes_deeper = matches!(
        verdict,
        Verdict::Refused(
            Refusal::Folder(_) | Refusal::EmptyFolder | Refusal::Exception | Refusal::WholeDrive
        )
    );
    let depth = old.components.len();
    let (at_it, below): (Vec<usize>, Vec<usize>) = own
        .iter()
        .partition(|at| !goes_deeper || needs[**at].old.components.len() == depth);
    if !at_it.is_empty() {
        let files: HashSet<usize> = at_it.iter().map(|at| needs[*at].file).collect();
        bridges.push(Bridge {
            old: old.clone(),
            new: new.clone(),
            way: site.way(old, new),
            verdict,
            serves: Some(Served {
                references: at_it.len(),
                files: files.len(),
            }),
        });
    }
    let mut children: BTreeMap<String, Vec<usize>> = BTreeMap::new();
    for at in below {
        let name = &needs[at].old.components[depth];
        let key = old.child(name).disk_key();
        children.entry(key).or_default().push(at);
    }
    for own in children.values() {
        let name = needs[own[0]].old.components[depth].clone();
        cover(
            site,
            needs,
            &old.child(&name),
            &new.child(&name),
            own,
            bridges,
        );
    }
}
