//! The references of one file, many or few, kept small.

use serde::{Deserialize, Serialize};

use super::reference::{Marks, Notice};
use super::{
    FileName, Position, ReasonName, Reference, Standing, Suggestion, Surroundings, Target,
};
use crate::base::compact::{Compact, CompactList, Words};

/// The references of one file, in order.
#[derive(Clone, Debug, Default)]
pub struct References {
    file: FileName,
    all: CompactList<Reference>,
}

impl References {
    /// These references, of `file`.
    pub fn of(file: FileName, mut all: CompactList<Reference>) -> Self {
        all.shrink();
        Self { file, all }
    }

    /// The file.
    pub fn file(&self) -> &FileName {
        &self.file
    }

    /// How many there are.
    pub fn len(&self) -> usize {
        self.all.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.all.is_empty()
    }

    /// Each in order.
    pub fn iter(&self) -> impl Iterator<Item = Reference> + '_ {
        self.all.iter().map(|reference| Reference {
            file: self.file.clone(),
            ..reference
        })
    }

    /// Changes each of them.
    pub fn change(&mut self, change: impl FnMut(&mut Reference)) {
        self.all.change(change);
    }
}

/// The references of many files, in order. As a document it is the list of them all.
#[derive(Clone, Debug, Default)]
pub struct AllReferences(Vec<References>);

impl AllReferences {
    /// Adds one behind the others.
    pub fn push(&mut self, reference: &Reference) {
        if self.0.last().is_none_or(|last| last.file != reference.file) {
            let file = reference.file.clone();
            self.0.push(References::of(file, CompactList::default()));
        }
        if let Some(last) = self.0.last_mut() {
            last.all.push(reference);
        }
    }

    /// Each in order.
    pub fn iter(&self) -> impl Iterator<Item = Reference> + '_ {
        self.0.iter().flat_map(References::iter)
    }
}

impl Serialize for AllReferences {
    fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        to.collect_seq(self.iter())
    }
}

#[cfg(feature = "schema")]
impl schemars::JsonSchema for AllReferences {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        Vec::<Reference>::schema_name()
    }

    fn json_schema(of: &mut schemars::SchemaGenerator) -> schemars::Schema {
        Vec::<Reference>::json_schema(of)
    }

    fn inline_schema() -> bool {
        true
    }
}

/// A reference as it is written down; its file is known from elsewhere.
#[derive(Serialize, Deserialize)]
pub struct Written<'a> {
    site: &'a str,
    position: Option<(usize, usize)>,
    written: &'a str,
    place: &'a str,
    target: Option<Target>,
    standing: Standing,
    new_place: Option<&'a str>,
    new_target: Option<Target>,
    bridge: Option<&'a str>,
    format: usize,
    broke: Option<usize>,
    reason: Option<ReasonName>,
    why: Option<&'a str>,
    notice: Option<Notice>,
    #[serde(borrow)]
    surroundings: Option<Around<'a>>,
    #[serde(borrow)]
    suggestions: Vec<Suggested<'a>>,
    by: Option<usize>,
}

#[derive(Serialize, Deserialize)]
struct Around<'a> {
    before: &'a str,
    after: Option<&'a str>,
    marks: Marks,
    shown_before: bool,
}

#[derive(Serialize, Deserialize)]
struct Suggested<'a> {
    place: &'a str,
    why: &'a str,
    certain: bool,
}

impl Compact for Reference {
    type Written<'a> = Written<'a>;

    fn written<'a>(&'a self, words: &mut Words) -> Written<'a> {
        Written {
            site: &self.site,
            position: self.position.map(|at| (at.line, at.column)),
            written: &self.written,
            place: &self.place,
            target: self.target,
            standing: self.standing,
            new_place: self.new_place.as_deref(),
            new_target: self.new_target,
            bridge: self.bridge.as_deref(),
            format: words.number(self.format),
            broke: self.broke.map(|word| words.number(word)),
            reason: self.reason,
            why: self.why.as_deref(),
            notice: self.notice,
            surroundings: self.surroundings.as_deref().map(|around| Around {
                before: &around.before,
                after: around.after.as_deref(),
                marks: around.marks.clone(),
                shown_before: around.shown_before,
            }),
            suggestions: self.suggestions.iter().map(Suggested::of).collect(),
            by: self.by,
        }
    }

    fn read(written: Written<'_>, words: &Words) -> Self {
        let own = |text: Option<&str>| text.map(str::to_owned);
        let suggested = written.suggestions.into_iter();
        Self {
            file: FileName::default(),
            site: written.site.to_owned(),
            position: written
                .position
                .map(|(line, column)| Position { line, column }),
            written: written.written.to_owned(),
            place: written.place.to_owned(),
            target: written.target,
            standing: written.standing,
            new_place: own(written.new_place),
            new_target: written.new_target,
            bridge: own(written.bridge),
            format: words.word(written.format),
            broke: written.broke.map(|number| words.word(number)),
            reason: written.reason,
            why: own(written.why),
            notice: written.notice,
            surroundings: written.surroundings.map(|around| {
                Box::new(Surroundings {
                    before: around.before.to_owned(),
                    after: own(around.after),
                    marks: around.marks,
                    shown_before: around.shown_before,
                })
            }),
            suggestions: suggested.map(Suggested::suggestion).collect(),
            by: written.by,
        }
    }
}

impl<'a> Suggested<'a> {
    fn of(suggestion: &'a Suggestion) -> Self {
        Self {
            place: &suggestion.place,
            why: &suggestion.why,
            certain: suggestion.certain,
        }
    }

    fn suggestion(self) -> Suggestion {
        Suggestion {
            place: self.place.to_owned(),
            why: self.why.to_owned(),
            certain: self.certain,
        }
    }
}
