//! Documents of office suites that are encrypted (MS-OFFCRYPTO): a compound file around the
//! encrypted package. Nothing in them can be read.

use super::{Container, Each, Fault, Source};
use crate::about::About;

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

    fn read(&self, _source: Source<'_>, _each: &mut Each<'_>) -> Result<(), Fault> {
        Err(Fault::Encrypted(UNREAD))
    }
}
