//! The ways to passages, told without a string of their own for each.

use std::ops::Range;

use super::{LONGEST_NAME, MOST_STEPS, Step};

/// The way to a passage, written over by that to the next.
#[derive(Default)]
pub(super) struct Way {
    /// The steps of the longest way so far; those behind the last that was told are left over.
    steps: Vec<Step>,
}

impl Way {
    /// The way through entries of these names.
    pub(super) fn through<'n>(&mut self, names: impl IntoIterator<Item = &'n str>) -> &[Step] {
        let mut length = 0;
        for name in names {
            self.set_key(length, name);
            length += 1;
        }
        &self.steps[..length]
    }

    /// Makes the step at `at`, behind which nothing is told yet, one to an entry of this name.
    #[inline]
    pub(super) fn set_key(&mut self, at: usize, name: &str) {
        let name = told(name);
        match self.steps.get_mut(at) {
            Some(Step::Key(known)) => name.clone_into(known),
            Some(step) => *step = Step::Key(name.to_owned()),
            None => self.steps.push(Step::Key(name.to_owned())),
        }
    }

    /// Makes the step at `at`, behind which nothing is told yet, one to an entry of a list.
    #[inline]
    pub(super) fn set_index(&mut self, at: usize, index: usize) {
        match self.steps.get_mut(at) {
            Some(step) => *step = Step::Index(index),
            None => self.steps.push(Step::Index(index)),
        }
    }

    /// The first steps.
    pub(super) fn up_to(&self, length: usize) -> &[Step] {
        &self.steps[..length]
    }
}

/// So much of a name as shows that it is longer than what is told of it: there may be a million letters, and ways
/// to thousands of passages through it.
#[inline]
fn told(name: &str) -> &str {
    if name.len() <= LONGEST_NAME {
        return name;
    }
    let end = name.char_indices().nth(LONGEST_NAME + 1);
    end.map_or(name, |(end, _)| &name[..end])
}

/// Many ways, all their names in one string.
#[derive(Default)]
pub(super) struct Ways {
    names: String,
    steps: Vec<Kept>,
    /// Where the steps of each way end.
    ends: Vec<usize>,
}

/// A step that is kept.
enum Kept {
    /// To an entry whose name is here among the names.
    Key(Range<usize>),
    Index(usize),
}

impl Ways {
    /// Keeps a way and gives its number. Of a long one as many of the innermost steps are kept as show that it is
    /// longer than what is told.
    pub(super) fn keep(&mut self, way: &[Step]) -> usize {
        for step in &way[way.len().saturating_sub(MOST_STEPS + 1)..] {
            self.steps.push(match step {
                Step::Key(name) => {
                    let start = self.names.len();
                    self.names.push_str(told(name));
                    Kept::Key(start..self.names.len())
                }
                Step::Index(index) => Kept::Index(*index),
            });
        }
        self.ends.push(self.steps.len());
        self.ends.len() - 1
    }

    /// How long all the names are together, in bytes.
    pub(super) fn length(&self) -> usize {
        self.names.len()
    }

    /// The way of this number, told in `way`.
    pub(super) fn tell<'w>(&self, number: usize, way: &'w mut Way) -> &'w [Step] {
        let start = number.checked_sub(1).map_or(0, |before| self.ends[before]);
        let steps = &self.steps[start..self.ends[number]];
        for (at, step) in steps.iter().enumerate() {
            match step {
                Kept::Key(name) => way.set_key(at, &self.names[name.clone()]),
                Kept::Index(index) => way.set_index(at, *index),
            }
        }
        way.up_to(steps.len())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::site_text;
    use proptest::prelude::*;

    fn step() -> impl Strategy<Value = Step> {
        prop_oneof![
            "[a-z\u{f6}]{0,4}".prop_map(Step::Key),
            (LONGEST_NAME - 2..LONGEST_NAME + 4)
                .prop_map(|length| Step::Key("\u{f6}".repeat(length))),
            (0..9_usize).prop_map(Step::Index)
        ]
    }

    proptest! {
        #[test]
        fn ways_are_told_as_they_were_kept(
            all in prop::collection::vec(prop::collection::vec(step(), 0..MOST_STEPS + 4), 0..8),
        ) {
            let mut ways = Ways::default();
            let numbers: Vec<usize> = all.iter().map(|way| ways.keep(way)).collect();
            let mut room = Way::default();
            for (way, number) in all.iter().zip(numbers) {
                prop_assert_eq!(site_text(ways.tell(number, &mut room)), site_text(way));
            }
        }
    }
}
