//! What only Linux does.

mod durable;
pub(super) mod flags;

pub(in crate::record) use durable::sync_file_systems;
