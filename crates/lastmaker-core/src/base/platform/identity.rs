//! Which file it is.

/// Which file of the machine it is, whatever it is called: its file system, and its number there.
pub(crate) type Identity = (u64, u64);
