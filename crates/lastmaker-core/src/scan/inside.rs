//! What is to be read in a file: the document that it is, or the parts of a container, and the
//! parts of those.

use std::path::Path;

use super::read::{Document, Reading};
use crate::container::{
    BINARY, Budget, Container, DEEPEST, Fault, Holding, Source, Stands, recognise,
};
use crate::place::Hint;

/// What some bytes are.
pub enum Kind<'a> {
    /// Something that holds documents or strings.
    Container(&'static dyn Container),
    /// Text.
    Document(Document<'a>),
}

/// What `bytes` are. What the technician says of the format beats their look.
pub fn kind_of<'a>(bytes: &'a [u8], file_name: &str, reading: Reading) -> Kind<'a> {
    let told = reading.format.is_some() || reading.value.is_some();
    if !told && let Some(container) = recognise(bytes, file_name) {
        return Kind::Container(container);
    }
    match Document::open(bytes, file_name, reading) {
        Some(document) => Kind::Document(document),
        None => Kind::Container(BINARY),
    }
}

/// A document in a file, and where in it.
pub struct Leaf<'d, 'a> {
    /// The document.
    pub document: &'d Document<'a>,
    /// The way to it through its containers; empty where the file is the document.
    pub way: &'d str,
    /// The format that is told for it: its own, or for a string its container's.
    pub format: &'static str,
    /// Where it stands, if it is a run of letters among bytes.
    pub stands: Option<Stands>,
    /// Its file name, by which its format may be known.
    pub name: &'d str,
    /// How it was read.
    pub reading: Reading,
}

impl Leaf<'_, '_> {
    /// The way to what has the site `site` in the document and begins in the column `column`.
    pub fn site(&self, site: &str, column: usize) -> String {
        match self.stands {
            Some(stands) => join_ways(
                self.way,
                &stands_at(stands, &self.document.text.content, column),
            ),
            None => join_ways(self.way, site),
        }
    }

    /// Line and column as they are told: none in a string.
    pub fn position(&self, at: (usize, usize)) -> (usize, usize) {
        // In a string by itself they say nothing.
        if self.reading.value.is_some() {
            (0, 0)
        } else {
            at
        }
    }
}

/// How one looks inside.
#[derive(Clone, Copy)]
pub struct Looking<'a> {
    /// How much may be unpacked.
    pub budget: &'a Budget,
    /// Whether runs of letters in files of no known kind are read.
    pub binary: bool,
}

/// Yields every document in `bytes`, in order, and gives what could not be read, each a
/// sentence.
pub fn look_inside(
    bytes: &[u8],
    file_name: &str,
    reading: Reading,
    looking: Looking<'_>,
    each: &mut dyn FnMut(&Leaf<'_, '_>),
) -> Vec<String> {
    let mut look = Look {
        looking,
        reading,
        each,
        left: Vec::new(),
    };
    let outcome = look.at(bytes, (file_name, ""), reading, (DEEPEST, None));
    let mut left = look.left;
    left.extend(outcome.err().map(|fault| fault.0));
    summed_up(left)
}

/// A few of many sentences about parts of one file, and how many more there are.
pub(crate) fn summed_up(mut left: Vec<String>) -> Vec<String> {
    const MOST: usize = 5;
    if left.len() > MOST {
        let more = left.len() - MOST;
        left.truncate(MOST);
        left.push(format!(
            "{more} more of its parts are not read, for reasons like these"
        ));
    }
    left
}

/// What a link of the file system goes by, as a format.
pub const LINK: &str = "link";

/// Yields where a link leads, as a string.
pub fn look_at_link(target: &Path, each: &mut dyn FnMut(&Leaf<'_, '_>)) {
    let bytes = target.as_os_str().as_encoded_bytes();
    let reading = Reading::of_string(Hint::for_name());
    if let Some(document) = Document::open(bytes, "", reading) {
        each(&Leaf {
            document: &document,
            way: "",
            format: LINK,
            stands: None,
            name: "",
            reading,
        });
    }
}

struct Look<'l> {
    looking: Looking<'l>,
    reading: Reading,
    each: &'l mut dyn FnMut(&Leaf<'_, '_>),
    left: Vec<String>,
}

impl Look<'_> {
    fn at(
        &mut self,
        bytes: &[u8],
        (name, way): (&str, &str),
        reading: Reading,
        (depth, sealed): (usize, Option<&'static str>),
    ) -> Result<(), Fault> {
        let container = match kind_of(bytes, name, reading) {
            Kind::Document(mut document) => {
                document.sealed = document.sealed.or(sealed);
                (self.each)(&Leaf {
                    format: document.format.name(),
                    document: &document,
                    way,
                    stands: None,
                    name,
                    reading,
                });
                return Ok(());
            }
            Kind::Container(container) => container,
        };
        let binary = container.name() == BINARY.name();
        if binary && !self.looking.binary {
            return Ok(());
        }
        let Some(depth) = depth.checked_sub(1) else {
            self.left.push(too_deep(way));
            return Ok(());
        };
        let source = Source {
            bytes,
            name,
            budget: self.looking.budget,
        };
        container.read(source, &mut |part| {
            let sealed = sealed.or(part.sealed);
            let way = join_ways(way, part.way);
            match part.holding {
                Holding::Unreadable(why) => self.left.push(why),
                Holding::Document { name, bytes, .. } => {
                    let reading = self.reading.of_part();
                    let inside = self.at(bytes, (name, &way), reading, (depth, sealed));
                    if let Err(fault) = inside {
                        self.left.push(format!("in {way}: {}", fault.0));
                    }
                }
                Holding::Text {
                    bytes,
                    hint,
                    stands,
                } => {
                    let reading = Reading::of_string(hint);
                    let opened = Document::open(bytes, "", reading);
                    if let Some(mut document) = opened {
                        document.sealed = sealed;
                        (self.each)(&Leaf {
                            document: &document,
                            way: &way,
                            format: container.name(),
                            stands,
                            name: "",
                            reading,
                        });
                    }
                }
            }
            Ok(())
        })
    }
}

/// What is told of a container that stands too deep in others.
pub(crate) fn too_deep(way: &str) -> String {
    format!("{way} stands more than {DEEPEST} containers deep, so it is not read")
}

/// One way behind another.
pub fn join_ways(outer: &str, inner: &str) -> String {
    match (outer.is_empty(), inner.is_empty()) {
        (_, true) => outer.to_owned(),
        (true, false) => inner.to_owned(),
        (false, false) => format!("{outer} > {inner}"),
    }
}

/// The byte at which the letter in `column`, counted from 1, of a run of letters stands.
pub fn stands_at(stands: Stands, run: &str, column: usize) -> String {
    let before = run.chars().take(column - 1);
    match stands.wide {
        true => {
            let at = stands.at + before.map(char::len_utf16).sum::<usize>() * 2;
            format!("byte {at}, in UTF-16")
        }
        false => format!(
            "byte {}",
            stands.at + before.map(char::len_utf8).sum::<usize>()
        ),
    }
}
