//! Opening a file: layers off, down to the passages that name places.
//!
//! A file is a document, or a container whose parts are documents again; [`visit`] goes through
//! all of them, and what is done with each is the [`Visitor`]'s. A document is read by its
//! format into passages; a passage may hold stretches in another syntax, which are read on.

mod document;
mod each;
mod large;
mod lines;
mod parts;
mod reading;
mod site;
mod stretches;
mod window;

pub use document::Document;
pub use each::EachDocument;
pub use large::{LargeFault, LargeText, Source, WindowSize};
pub use lines::LineCounter;
pub use parts::{
    Group, Inside, Kind, LINK, Left, OpenedDocument, Visitor, kind_of, visit, visit_link,
    visit_windows,
};
pub use reading::Reading;
pub use site::SitePassage;
pub use window::WindowAt;

pub(crate) use large::{FileSource, SplicedSource, encoding_of, pieces};
pub(crate) use site::join_ways;
