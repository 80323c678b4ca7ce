//! What people are told of a format or a container.

use serde::Serialize;

/// How documents of a format are recognised, what of them is read, and what is left.
#[derive(Clone, Copy, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct About {
    /// Lower case with hyphens, unique in its table.
    pub name: &'static str,
    /// What documents of it are.
    pub what: &'static str,
    /// What in a document shows that it is of this format; empty if only its name does.
    pub content: &'static str,
    /// The ends of file names that show it, in lower case; `=` comes before a whole name.
    pub names: &'static [&'static str],
    /// What is read and rewritten, in which escaping.
    pub read: &'static str,
    /// What of it is passed over, or read and left.
    pub limits: &'static str,
}

impl About {
    /// Says nothing: what the entries of a table begin from.
    pub(crate) const BLANK: Self = Self {
        name: "",
        what: "",
        content: "",
        names: &[],
        read: "",
        limits: "",
    };

    /// Whether a file of this name, in lower case, is said to be of this format.
    pub(crate) fn is_named(&self, file_name: &str) -> bool {
        // Every file is asked this for every format, so the last letter goes first.
        let last = file_name.as_bytes().last();
        let mut alike = self
            .names
            .iter()
            .filter(|name| name.as_bytes().last() == last);
        alike.any(|name| match name.strip_prefix('=') {
            Some(whole) => file_name == whole,
            None => file_name.ends_with(name),
        })
    }
}
