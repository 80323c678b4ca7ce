//! Finds hard-coded places in settings files, rewrites them, and keeps every original.
//!
//! Data flows one way:
//!
//! 1. [`scan`] walks a tree, rules files out by their bytes, and opens the rest as documents:
//!    what a [`container`] holds is opened in its own structure;
//! 2. [`text`] turns bytes into text, a [`mod@format`] says where its passages are, and the
//!    [`layer`]s that each wears ([`codec`]s, encodings) are taken off;
//! 3. [`place`] finds places in what is left, and the [`sheet`] says which of them move;
//! 4. [`rewrite`] makes edits of that, lifts them back through the layers, and proves the new
//!    copy by reading it again;
//! 5. [`record`] keeps the originals and puts the new copies in their place: nothing else
//!    writes a user's file;
//! 6. [`resolve`] says which places exist; [`survey`], [`check`] and [`mod@explain`] are questions built on
//!    that; [`report`] has the models of their answers.
//!
//! A format knows nothing of moves, and a move nothing of formats; only `rewrite` sees both.
//! The core prints nothing, parses no arguments, and reads neither terminal nor environment.
//!
//! ```
//! use lastmaker_core::rewrite::{PlanOptions, plan};
//! use lastmaker_core::scan::{Document, Reading};
//! use lastmaker_core::sheet::Sheet;
//!
//! let mut sheet = Sheet::default();
//! sheet.add_move(r"D:\Herbarium=H:\Collections\Herbarium").unwrap();
//! let bytes = br#"{"root": "D:\\Herbarium\\Sheets"}"#;
//! let document = Document::open(bytes, "viewer.json", Reading::default()).unwrap();
//! let options = PlanOptions { sheet: &sheet, reading: Reading::default(), repair: false };
//! let plan = plan(&document, bytes, "viewer.json", options);
//! assert_eq!(plan.new.unwrap(), br#"{"root": "H:\\Collections\\Herbarium\\Sheets"}"#);
//! ```

#![cfg_attr(
    test,
    allow(clippy::disallowed_methods, reason = "tests make files of their own")
)]

pub mod check;
pub mod codec;
pub mod container;
pub mod explain;
pub mod format;
pub mod job;
pub mod layer;
pub mod place;
mod platform;
pub mod record;
pub mod registry_changes;
pub mod report;
pub mod resolve;
pub mod rewrite;
pub mod scan;
pub mod sheet;
pub mod survey;
pub mod text;
