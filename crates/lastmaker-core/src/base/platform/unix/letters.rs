//! Letters of drives, which there are none of here.

use std::io;
use std::path::{Path, PathBuf};

pub(crate) fn stands_in_for(_: char) -> Option<PathBuf> {
    None
}

pub(crate) fn give(_: char, _: &Path) -> io::Result<()> {
    Err(io::ErrorKind::Unsupported.into())
}

pub(crate) fn take(_: char, _: &Path) -> io::Result<()> {
    Err(io::ErrorKind::Unsupported.into())
}

pub(crate) fn remembered(_: char) -> Option<String> {
    None
}

pub(crate) fn remember(_: char, _: &str) -> io::Result<()> {
    Err(io::ErrorKind::Unsupported.into())
}

pub(crate) fn forget(_: char) -> io::Result<()> {
    Err(io::ErrorKind::Unsupported.into())
}
