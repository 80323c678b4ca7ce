//! Finds hard-coded places in settings files, rewrites them, and keeps every original.
//!
//! Whoever wants the whole job begins with a [`job::Workspace`]: a [`sheet::Sheet`] that says what moved, and a
//! [`tree::Scope`] that says where to look. [`answers`] has one function a question; each gives a [`report`], which is
//! what the command line renders. The folder `examples` has five small programs.
//!
//! Data flows one way:
//!
//! 1. [`tree`] walks the files and rules them out by their bytes;
//! 2. [`open`] opens the rest: what a [`container`] holds in its own structure, bytes as
//!    [`text`], the passages where a [`mod@format`] has them, and takes off the [`layer`]s that
//!    each wears ([`codec`]s, encodings);
//! 3. [`scan`] finds [`place`]s in what is left, the [`sheet`] says which of them move, and
//!    [`judge`] how each reference stands;
//! 4. [`mod@plan`] makes edits of that, lifts them back through the layers, and proves the new
//!    copy by reading it again;
//! 5. [`record`] keeps the originals and puts the new copies in their place: nothing else
//!    writes a user's file; [`undo`] takes parts of it back;
//! 6. [`resolve`] says which places exist, [`bridge`] which links at old places would help, [`trace`] where things
//!    went, [`compare`] whether a copy is whole.
//!
//! A format knows nothing of moves, and a move nothing of formats; they meet in `judge`.
//! The core prints nothing, parses no arguments, and reads neither terminal nor environment.
//!
//! ```
//! use lastmaker_core::open::{Document, Reading};
//! use lastmaker_core::plan::{PlanOptions, plan};
//! use lastmaker_core::sheet::Sheet;
//!
//! let mut sheet = Sheet::default();
//! sheet.add_move(r"D:\Herbarium=H:\Collections\Herbarium").unwrap();
//! let bytes = br#"{"root": "D:\\Herbarium\\Sheets"}"#;
//! let document = Document::open(bytes, "viewer.json", Reading::default()).unwrap();
//! let plan = plan(&document, PlanOptions::of(&sheet));
//! assert_eq!(plan.new.unwrap(), br#"{"root": "H:\\Collections\\Herbarium\\Sheets"}"#);
//! ```

#![cfg_attr(
    test,
    allow(clippy::disallowed_methods, reason = "tests make files of their own")
)]

pub mod about;
pub mod answers;
pub mod base;
pub mod bridge;
pub mod codec;
pub mod compare;
pub mod container;
pub mod format;
pub mod job;
pub mod judge;
pub mod layer;
pub mod open;
pub mod place;
pub mod plan;
pub mod record;
pub mod registry_changes;
pub mod relative;
pub mod report;
pub mod resolve;
pub mod scan;
pub mod sheet;
pub mod text;
pub mod trace;
pub mod tree;
pub mod undo;
