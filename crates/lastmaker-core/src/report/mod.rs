//! What the questions are answered with: serde models of every result, no rendering.

mod model;

pub use model::{FileName, LeftFile, Marks, Notice, Reference, SCHEMA, Standing};
