//! What is to be read in a file: the document that it is, or the parts of a container, and the
//! parts of those. One walk serves looking, planning and explaining.

use std::path::Path;

use super::document::Document;
use super::large::{LargeFault, LargeText};
use super::reading::Reading;
use super::site::join_ways;
use crate::container::{
    BINARY, Budget, Container, DEEPEST, Fault, Part, PartContent, RunAt, Source, recognise,
};
use crate::report::Position;
use crate::scan::Hint;

/// What some bytes are.
#[allow(
    clippy::large_enum_variant,
    reason = "there is one at a time, and most are documents"
)]
pub enum Kind<'a> {
    /// Something that holds documents or strings.
    Container(&'static dyn Container),
    /// Text.
    Document(Document<'a>),
}

/// What `bytes` are. What the technician says of the format beats their look.
pub fn kind_of<'a>(bytes: &'a [u8], file_name: &'a str, reading: Reading) -> Kind<'a> {
    let told = reading.format.is_some() || reading.value.is_some();
    if !told && let Some(container) = recognise(bytes, file_name) {
        return Kind::Container(container);
    }
    match Document::open(bytes, file_name, reading) {
        Some(document) => Kind::Document(document),
        None => Kind::Container(BINARY),
    }
}

/// What is done with the documents and containers of a file.
pub trait Visitor {
    /// What is made of a document, or of a container from what was made of its parts.
    type Made;
    /// What is kept of every part of a container, visited or not.
    type Mark;

    /// Whether a part is visited at all.
    fn wants(&self, holding: &PartContent<'_>) -> bool;

    /// Whether runs of letters in files of no known kind are visited.
    fn wants_binary(&self) -> bool {
        true
    }

    /// Takes a document.
    fn document(&mut self, leaf: &OpenedDocument<'_, '_>, left: &mut Left) -> Option<Self::Made>;

    /// What is kept of a part.
    fn mark(&self, part: &Part<'_>) -> Self::Mark;

    /// Takes a container whose parts have been visited.
    fn container(&mut self, group: Group<'_, Self::Made, Self::Mark>) -> Option<Self::Made>;
}

/// A document in a file, and where in it.
pub struct OpenedDocument<'d, 'a> {
    /// The document.
    pub document: &'d Document<'a>,
    /// The way to it through its containers; empty where the file is the document.
    pub way: &'d str,
    /// The format that is told for it: its own, or for a string its container's.
    pub format: &'static str,
    /// Whether the file has a structure that is known.
    pub known: bool,
    /// Where it is, if it is a run of letters among bytes.
    pub run: Option<RunAt>,
}

impl OpenedDocument<'_, '_> {
    /// The way to what has the site `site` in the document and begins at `at`.
    pub fn site(&self, site: &str, at: Position) -> String {
        match self.run {
            Some(run) => {
                let letters = self.document.text.content.chars().take(at.column - 1);
                join_ways(self.way, &run.offset_after(letters))
            }
            None => join_ways(self.way, site),
        }
    }

    /// Whether it is not the file itself, so that what is told of it is told differently of the file.
    pub fn is_part(&self) -> bool {
        self.run.is_some()
            || !self.way.is_empty()
            || self.document.reading.value.is_some()
            || self.format != self.document.format.name()
    }

    /// The position as it is told: in a string by itself it says nothing.
    pub fn position(&self, at: Position) -> Option<Position> {
        self.document.reading.value.is_none().then_some(at)
    }
}

/// A container whose parts have been visited.
pub struct Group<'a, M, K> {
    /// What reads it.
    pub container: &'static dyn Container,
    /// What was read.
    pub source: Source<'a>,
    /// How it was read.
    pub reading: Reading,
    /// What was made of its parts, each with the part's number, counted from 0.
    pub parts: Vec<(usize, M)>,
    /// What is kept of each part, by its number.
    pub marks: Vec<K>,
    /// Why not all of it could be read.
    pub fault: Option<Fault>,
}

/// What of a file could not be read or changed, each a sentence.
#[derive(Debug, Default)]
pub struct Left(Vec<String>);

impl Left {
    /// Adds `why` for what is at the end of `way`.
    pub fn add(&mut self, way: &str, why: &str) {
        self.0.push(match way {
            "" => why.to_owned(),
            way => format!("in {way}: {why}"),
        });
    }

    /// A few of many sentences, and how many more there are.
    fn summed_up(self) -> Vec<String> {
        const MOST: usize = 5;
        let mut left = self.0;
        if left.len() > MOST {
            let more = left.len() - MOST;
            left.truncate(MOST);
            left.push(format!(
                "{more} more of its parts are not read, for reasons like these"
            ));
        }
        left
    }
}

/// The bytes of a file, or of a part of a container.
#[derive(Clone, Copy)]
pub struct Inside<'a> {
    /// The bytes.
    pub bytes: &'a [u8],
    /// The name, by which a format may be known.
    pub name: &'a str,
    /// What is said of them.
    pub reading: Reading,
}

/// Lets `visitor` see every document and container in `inside`, in order. Gives what it made of
/// the whole, and what could not be read or changed.
pub fn visit<V: Visitor>(
    inside: Inside<'_>,
    budget: &Budget,
    visitor: &mut V,
) -> (Option<V::Made>, Vec<String>) {
    let mut walk = Walk {
        budget,
        reading: inside.reading.of_part(),
        visitor,
        left: Left::default(),
    };
    let outermost = Nest {
        way: "",
        depth: DEEPEST,
        sealed: None,
    };
    let made = walk.at(inside, outermost);
    (made, walk.left.summed_up())
}

/// Lets `visitor` see every window of a large text, in order, and shows `each` what it made of it and where that
/// begins. Gives what could not be read or changed.
///
/// # Errors
/// As [`LargeText::each_window`].
pub fn visit_windows<V: Visitor>(
    text: &LargeText<'_>,
    visitor: &mut V,
    each: &mut dyn FnMut(usize, V::Made),
) -> Result<Vec<String>, LargeFault> {
    let mut left = Left::default();
    text.each_window(&mut |raw, at| {
        let holding = PartContent::Document {
            name: text.name(),
            bytes: raw,
            cut: false,
        };
        if !visitor.wants(&holding) {
            return;
        }
        let window = text.window(raw, at);
        let leaf = OpenedDocument {
            format: window.format.name(),
            document: &window,
            way: "",
            known: true,
            run: None,
        };
        if let Some(made) = visitor.document(&leaf, &mut left) {
            each(at.start, made);
        }
    })?;
    Ok(left.summed_up())
}

/// The name of the format that a link of the file system is said to have.
pub const LINK: &str = "link";

/// Lets `visitor` see where a link leads, as a string.
pub fn visit_link<V: Visitor>(target: &Path, visitor: &mut V) -> Option<V::Made> {
    let bytes = target.as_os_str().as_encoded_bytes();
    let document = Document::open(bytes, "", Reading::of_string(Hint::Name))?;
    let leaf = OpenedDocument {
        document: &document,
        way: "",
        format: LINK,
        known: true,
        run: None,
    };
    visitor.document(&leaf, &mut Left::default())
}

/// One walk through a file.
struct Walk<'w, V> {
    budget: &'w Budget,
    /// What is said of the parts.
    reading: Reading,
    visitor: &'w mut V,
    left: Left,
}

/// Where a walk is.
#[derive(Clone, Copy)]
struct Nest<'a> {
    /// The way to it.
    way: &'a str,
    /// How many containers may still be opened.
    depth: usize,
    /// Why nothing may be changed, if a container around says so.
    sealed: Option<&'static str>,
}

impl<V: Visitor> Walk<'_, V> {
    fn at(&mut self, inside: Inside<'_>, nest: Nest<'_>) -> Option<V::Made> {
        match kind_of(inside.bytes, inside.name, inside.reading) {
            Kind::Document(mut document) => {
                document.sealed_around = nest.sealed;
                let leaf = OpenedDocument {
                    format: document.format.name(),
                    document: &document,
                    way: nest.way,
                    known: true,
                    run: None,
                };
                self.visitor.document(&leaf, &mut self.left)
            }
            Kind::Container(container) => self.container(container, inside, nest),
        }
    }

    fn container(
        &mut self,
        container: &'static dyn Container,
        inside: Inside<'_>,
        nest: Nest<'_>,
    ) -> Option<V::Made> {
        if !container.is_known() && !self.visitor.wants_binary() {
            return None;
        }
        let Some(depth) = nest.depth.checked_sub(1) else {
            let too_deep = format!(
                "{} is more than {DEEPEST} containers deep, so it is not read",
                nest.way
            );
            self.left.add("", &too_deep);
            return None;
        };
        let nest = Nest { depth, ..nest };
        let source = Source {
            bytes: inside.bytes,
            name: inside.name,
            budget: self.budget,
        };
        let (mut parts, mut marks) = (Vec::new(), Vec::new());
        let read = container.read(source, &mut |part| {
            self.budget.has_time()?;
            let number = marks.len();
            marks.push(self.visitor.mark(&part));
            let made = self.part(container, &part, nest);
            parts.extend(made.map(|made| (number, made)));
            Ok(())
        });
        let fault = read.err();
        if let Some(fault) = &fault {
            self.left.add(nest.way, &fault.to_string());
        }
        self.visitor.container(Group {
            container,
            source,
            reading: inside.reading,
            parts,
            marks,
            fault,
        })
    }

    fn part(
        &mut self,
        container: &'static dyn Container,
        part: &Part<'_>,
        nest: Nest<'_>,
    ) -> Option<V::Made> {
        if let PartContent::Unreadable(why) = &part.holding {
            self.left.add("", &why.to_string());
            return None;
        }
        if !self.visitor.wants(&part.holding) {
            return None;
        }
        let way = join_ways(nest.way, part.way);
        let nest = Nest {
            way: &way,
            sealed: nest.sealed.or(part.sealed),
            ..nest
        };
        match &part.holding {
            PartContent::Unreadable(_) => None,
            PartContent::Document { name, bytes, .. } => {
                let reading = self.reading;
                self.at(
                    Inside {
                        bytes,
                        name,
                        reading,
                    },
                    nest,
                )
            }
            PartContent::Text { bytes, hint, run } => {
                let mut document = Document::open(bytes, "", Reading::of_string(*hint))?;
                document.sealed_around = nest.sealed;
                let leaf = OpenedDocument {
                    document: &document,
                    way: nest.way,
                    format: container.name(),
                    known: container.is_known(),
                    run: *run,
                };
                self.visitor.document(&leaf, &mut self.left)
            }
        }
    }
}
