//! What systems do differently with a file that is kept, replaced or linked: the only code of a record that asks
//! which system it runs on.

pub(super) mod belongings;
pub(super) mod durable;
pub(super) mod folder;
pub(super) mod link;
