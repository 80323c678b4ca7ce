//! What everything stands on and what knows nothing of places or files' contents: letters and numbers for
//! bytes, long lists kept small, how much one file may cost, and what differs between systems.

pub(crate) mod ascii;
pub(crate) mod chunk;
pub mod compact;
pub(crate) mod fingerprint;
pub mod limits;
pub mod phase;
pub(crate) mod platform;
pub mod threads;
