//! Near misses of a dangling place, and why each is likely.

use super::Resolver;
use crate::place::{Place, fold};
use crate::report::{Suggestion, Target};
use crate::sheet::Sheet;

/// How many suggestions one reference gets.
const MOST: usize = 3;
/// How alike two names must be to be taken for one misspelled, from 0 to 1.
const ALIKE: f64 = 0.72;

impl Resolver {
    /// What may be meant by the dangling `place`, the likeliest first.
    pub fn suggest(&self, place: &Place, sheet: &Sheet) -> Vec<Suggestion> {
        let mut found: Vec<(Place, String)> = Vec::new();
        if let Some(new) = sheet.relocated(place) {
            match self.target(&new) {
                Target::Live => {
                    found.push((new, "it moved there by the sheet, and exists".to_owned()));
                }
                Target::Dangling => self.near(&new, &mut found),
                Target::Unreachable => {}
            }
        }
        if self.target(place) == Target::Dangling {
            self.near(place, &mut found);
        }
        let mut keys = Vec::new();
        found.retain(|(place, _)| {
            let key = place.key();
            let fresh = !keys.contains(&key);
            keys.push(key);
            fresh
        });
        found.truncate(MOST);
        found
            .into_iter()
            .map(|(place, why)| Suggestion {
                place: place.to_string(),
                why,
            })
            .collect()
    }

    /// Looks around the first name that is missing.
    fn near(&self, place: &Place, found: &mut Vec<(Place, String)>) {
        let Some(depth) = self.existing_depth(place) else {
            return;
        };
        let Some(missing) = place.components.get(depth) else {
            return;
        };
        let parent = Place {
            root: place.root.clone(),
            components: place.components[..depth].to_vec(),
        };
        let rest = &place.components[depth + 1..];
        let with = |names: &[&str]| {
            let mut candidate = parent.clone();
            candidate
                .components
                .extend(names.iter().map(|name| (*name).to_owned()));
            candidate.components.extend(rest.iter().cloned());
            candidate
        };
        let is_live = |candidate: &Place| self.target(candidate) == Target::Live;
        // Unpacked without its own folder, or moved up by one.
        let without = with(&[]);
        if !rest.is_empty() && is_live(&without) {
            found.push((
                without,
                format!("it lies one level up, without the folder {missing:?}"),
            ));
        }
        let wanted = fold(missing);
        let mut alike = Vec::new();
        for name in self.names_in(&parent) {
            let deeper = with(&[&name, missing]);
            if is_live(&deeper) {
                found.push((
                    deeper,
                    format!("it lies one level deeper, in the folder {name:?}"),
                ));
            }
            let score = likeness(&wanted, &fold(&name));
            if score >= ALIKE {
                let renamed = with(&[&name]);
                if is_live(&renamed) {
                    alike.push((score, renamed, name));
                }
            }
        }
        alike.sort_by(|a, b| b.0.total_cmp(&a.0).then_with(|| a.2.cmp(&b.2)));
        found.extend(alike.into_iter().map(|(_, renamed, name)| {
            (
                renamed,
                format!("{name:?} is spelled almost like {missing:?}, and exists"),
            )
        }));
    }

    /// How many components of a dangling place exist; none if its root is not seen.
    fn existing_depth(&self, place: &Place) -> Option<usize> {
        let mut shorter = place.clone();
        while shorter.components.pop().is_some() {
            match self.target(&shorter) {
                Target::Live => return Some(shorter.components.len()),
                Target::Dangling => {}
                Target::Unreachable => return None,
            }
        }
        None
    }

    /// The names in a place that exists, sorted.
    fn names_in(&self, place: &Place) -> Vec<String> {
        let listing = self.path_of(place).and_then(|path| self.listing(&path));
        let mut names: Vec<String> = listing
            .iter()
            .flat_map(|listing| listing.values().flatten())
            .filter_map(|name| name.to_str().map(str::to_owned))
            .collect();
        names.sort();
        names
    }
}

/// How alike two folded names are. Blanks, dots and dashes count little.
fn likeness(a: &str, b: &str) -> f64 {
    let bare = |name: &str| {
        name.chars()
            .filter(|c| c.is_alphanumeric())
            .collect::<String>()
    };
    let (bare_a, bare_b) = (bare(a), bare(b));
    if !bare_a.is_empty() && bare_a == bare_b {
        return 1.0;
    }
    strsim::normalized_damerau_levenshtein(a, b)
}

#[cfg(test)]
mod tests {
    use super::super::tests::{place, resolver};
    use super::*;

    #[test]
    fn what_is_missing_is_looked_for_nearby() {
        let folder = tempfile::tempdir().unwrap();
        let names = [
            "Collections/Herbarium/Sheets/2019/0412.tif",
            "Collections/Herbarium/Labels/Labels/print.lbl",
            "Collections/Herbarium/loans.csv",
        ];
        let resolver = resolver(folder.path(), &names);
        let mut sheet = Sheet::default();
        sheet
            .add_move(r"D:\Herbarium=H:\Collections\Herbarium")
            .unwrap();
        let cases = [
            (
                r"H:\Collections\Herbarium\Sheet\2019\0412.tif",
                r"H:\Collections\Herbarium\Sheets\2019\0412.tif",
                "almost",
            ),
            (
                r"H:\Collections\Herbarium\Labels\print.lbl",
                r"H:\Collections\Herbarium\Labels\Labels\print.lbl",
                "deeper",
            ),
            (
                r"H:\Collections\Herbarium\Loans\loans.csv",
                r"H:\Collections\Herbarium\loans.csv",
                "one level up",
            ),
            (
                r"H:\Collections\Herbarium\Sheets\2019\0412.tiff",
                r"H:\Collections\Herbarium\Sheets\2019\0412.tif",
                "almost",
            ),
        ];
        for (written, expected, why) in cases {
            let got = resolver.suggest(&place(written), &sheet);
            assert_eq!(got[0].place, expected, "{written}");
            assert!(got[0].why.contains(why), "{written}: {}", got[0].why);
        }
        assert!(
            resolver
                .suggest(&place(r"H:\Nothing\here"), &sheet)
                .is_empty()
        );
        assert_eq!(
            resolver.suggest(&place(r"D:\Herbarium\loans.csv"), &sheet)[0].place,
            r"H:\Collections\Herbarium\loans.csv"
        );
        assert!(resolver.suggest(&place(r"X:\Nothing"), &sheet).is_empty());
    }
}
