//! What the questions are answered with: serde models of every result, no rendering.

mod model;

pub(crate) use model::is_zero;
pub use model::{FileName, LeftFile, Marks, Notice, Reference, SCHEMA, Standing};
