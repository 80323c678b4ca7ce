//! What is told of one reference, kept small until every file is read: there may be a million.

use serde::{Deserialize, Serialize};

use crate::base::compact::{Compact, Words};
use crate::job::Job;
use crate::place::{Place, Root};
use crate::report::{Reference, Target};

/// A reference, judged or not.
#[derive(Debug)]
pub(super) struct CheckedReference {
    pub(super) reference: Reference,
    pub(super) place: Place,
    /// What else it may name if that is not there.
    pub(super) others: Vec<Place>,
    /// Whether the sheet says if it is judged.
    pub(super) of_sheet: bool,
    /// The move that it goes by or went by, its new place, and whether that exists.
    pub(super) by: Option<(usize, Place, Target)>,
}

impl CheckedReference {
    /// Whether it is judged wherever it lies: nothing else would say so where there is no sheet.
    pub(super) fn is_judged(&self, job: &Job<'_>) -> bool {
        !self.of_sheet || job.sheet.moves.is_empty()
    }

    /// A reference of which no move can speak, so that it is judged whatever the sheet says.
    pub(super) fn apart(reference: Reference, place: Place) -> Self {
        Self {
            reference,
            place,
            others: Vec::new(),
            of_sheet: false,
            by: None,
        }
    }
}

/// It as it is written down.
#[derive(Serialize, Deserialize)]
pub(super) struct WrittenReference<'a> {
    #[serde(borrow)]
    reference: <Reference as Compact>::Written<'a>,
    #[serde(borrow)]
    place: WrittenPlace<'a>,
    #[serde(borrow)]
    others: Vec<WrittenPlace<'a>>,
    of_sheet: bool,
    #[serde(borrow)]
    by: Option<(usize, WrittenPlace<'a>, Target)>,
}

#[derive(Serialize, Deserialize)]
struct WrittenPlace<'a> {
    #[serde(borrow)]
    root: WrittenRoot<'a>,
    #[serde(borrow)]
    names: Vec<&'a str>,
}

#[derive(Serialize, Deserialize)]
enum WrittenRoot<'a> {
    Drive(char),
    Share(&'a str, &'a str),
    Posix,
}

impl<'a> From<&'a Place> for WrittenPlace<'a> {
    fn from(place: &'a Place) -> Self {
        Self {
            root: match &place.root {
                Root::Drive(letter) => WrittenRoot::Drive(*letter),
                Root::Share { server, share } => WrittenRoot::Share(server, share),
                Root::Posix => WrittenRoot::Posix,
            },
            names: place.components.iter().map(String::as_str).collect(),
        }
    }
}

impl From<WrittenPlace<'_>> for Place {
    fn from(written: WrittenPlace<'_>) -> Self {
        Self {
            root: match written.root {
                WrittenRoot::Drive(letter) => Root::Drive(letter),
                WrittenRoot::Share(server, share) => Root::Share {
                    server: server.to_owned(),
                    share: share.to_owned(),
                },
                WrittenRoot::Posix => Root::Posix,
            },
            components: written.names.into_iter().map(str::to_owned).collect(),
        }
    }
}

impl Compact for CheckedReference {
    type Written<'a> = WrittenReference<'a>;

    fn written<'a>(&'a self, words: &mut Words) -> WrittenReference<'a> {
        let by = self.by.as_ref();
        WrittenReference {
            reference: self.reference.written(words),
            place: (&self.place).into(),
            others: self.others.iter().map(WrittenPlace::from).collect(),
            of_sheet: self.of_sheet,
            by: by.map(|(by, new, target)| (*by, new.into(), *target)),
        }
    }

    fn read(written: WrittenReference<'_>, words: &Words) -> Self {
        Self {
            reference: Reference::read(written.reference, words),
            place: written.place.into(),
            others: written.others.into_iter().map(Place::from).collect(),
            of_sheet: written.of_sheet,
            by: written.by.map(|(by, new, target)| (by, new.into(), target)),
        }
    }
}
