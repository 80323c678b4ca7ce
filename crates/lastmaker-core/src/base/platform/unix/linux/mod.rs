//! What only Linux tells.

mod open_files;
pub(crate) mod volumes;

pub(crate) use open_files::open_files;
