//! Documents of office suites that are encrypted (MS-OFFCRYPTO): a compound file around the
//! encrypted package. Nothing in them can be read.

use super::{Budget, Container, Fault, LiftFault, NewPart, Part};
use crate::format::About;
use crate::layer::Edits;

/// Encrypted documents.
pub(super) struct Encrypted;

const ABOUT: About = About {
    name: "encrypted-document",
    what: "documents of office suites that need a password",
    content: "a compound file with an encrypted package",
    names: &[],
    read: "nothing: it is named and left",
    limits: "never changed; save it without its password, or change its links in its program",
};

const UNREAD: &str = "it is encrypted, so nothing in it can be read; save it without its password, or change its links in its program";

/// What begins a compound file (MS-CFB).
const COMPOUND: &[u8] = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1";

impl Container for Encrypted {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, bytes: &[u8], _file_name: &str) -> bool {
        let package = || super::bytes::to_utf16("EncryptedPackage");
        bytes.starts_with(COMPOUND) && memchr::memmem::find(bytes, &package()).is_some()
    }

    fn read(
        &self,
        _bytes: &[u8],
        _file_name: &str,
        _budget: &Budget,
        _each: &mut dyn FnMut(Part<'_>) -> Result<(), Fault>,
    ) -> Result<(), Fault> {
        Err(Fault::because(UNREAD))
    }

    fn lift(
        &self,
        _bytes: &[u8],
        _file_name: &str,
        _budget: &Budget,
        _new: &[NewPart],
    ) -> Result<Edits, LiftFault> {
        Err(LiftFault::Whole(UNREAD.to_owned()))
    }
}
