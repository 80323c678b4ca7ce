//! One file of a record, and how paths and bytes are written down.

use std::ffi::{OsStr, OsString};
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};

use crate::base::compact::{Compact, CompactList, Words};
use crate::record::written::PathText;
use crate::record::{Belongings, LinkKind};

/// One file of a record.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Entry {
    /// Its number in the record, from 1.
    pub number: usize,
    /// The file.
    pub path: PathText,
    /// Its other names, if it has several.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub links: Vec<PathText>,
    /// What its original is called among the originals: its number, then its own name.
    pub original: String,
    /// Hash of the content before; empty if there was no file.
    pub before: String,
    /// Hash of the content after.
    pub after: String,
    /// Whether there was no file before.
    #[serde(default, skip_serializing_if = "is_false")]
    pub created: bool,
    /// Whether the original is in the record.
    pub kept: bool,
    /// What sort of link it is, if it is one; its original is its target.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub link: Option<LinkKind>,
    /// Time of last modification before, in nanoseconds since 1970.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub modified: Option<i128>,
    /// What belonged to the file besides its content.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub belongings: Option<Belongings>,
    /// What changed, where that is known piece by piece.
    #[serde(default, skip_serializing_if = "CompactList::is_empty")]
    pub sites: CompactList<SiteChange>,
    /// The moves that the file has been through, this time and before, if they are not those of
    /// the record.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub moves: Option<Vec<String>>,
}

/// What every name of a new copy begins with.
const TEMPORARY: &str = ".lastmaker-";

/// Whether a file is called as new copies are while they are beside the old ones.
pub fn is_temporary(name: &OsStr) -> bool {
    let name = name.as_encoded_bytes();
    let ends = [&b".tmp"[..], b".tmp.old"];
    name.starts_with(TEMPORARY.as_bytes()) && ends.iter().any(|end| name.ends_with(end))
}

fn is_false(flag: &bool) -> bool {
    !flag
}

/// A stretch of a text that a rewrite changed: a line of a string as it stands in its document,
/// or what is around the change where that line is very long.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct SiteChange {
    /// The way to the string that it is in.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub site: String,
    /// The stretch after the change.
    pub now: String,
    /// Whether the text goes on before the stretch, and after it, on the same line.
    #[serde(default, skip_serializing_if = "is_whole_line")]
    pub goes_on: (bool, bool),
    /// What stood in its pieces before, in order.
    pub was: Vec<SiteEdit>,
}

fn is_whole_line(goes_on: &(bool, bool)) -> bool {
    *goes_on == (false, false)
}

/// A piece of a stretch, and what stood there before.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct SiteEdit {
    /// Byte offset in the stretch as it is after the change.
    pub at: usize,
    /// Length in bytes after the change.
    pub length: usize,
    /// What stood there.
    pub was: String,
    /// Which of the record's moves changed it, counted from 0; none if several did together.
    #[serde(rename = "move", default, skip_serializing_if = "Option::is_none")]
    pub by: Option<usize>,
}

/// A piece as it is kept in memory.
type WrittenEdit<'a> = (usize, usize, &'a str, Option<usize>);

impl Compact for SiteChange {
    type Written<'a> = (&'a str, &'a str, (bool, bool), Vec<WrittenEdit<'a>>);

    fn written<'a>(&'a self, _: &mut Words) -> Self::Written<'a> {
        let was = self.was.iter();
        let was = was.map(|edit| (edit.at, edit.length, edit.was.as_str(), edit.by));
        (&self.site, &self.now, self.goes_on, was.collect())
    }

    fn read((site, now, goes_on, was): Self::Written<'_>, _: &Words) -> Self {
        let was = was.into_iter().map(|(at, length, was, by)| SiteEdit {
            at,
            length,
            was: was.to_owned(),
            by,
        });
        Self {
            site: site.to_owned(),
            now: now.to_owned(),
            goes_on,
            was: was.collect(),
        }
    }
}

impl Entry {
    /// The original, in the record's folder.
    pub fn original(&self, record: &Path) -> PathBuf {
        record.join("originals").join(&self.original)
    }

    /// What the new copy is called while it is beside the file, in a record that calls itself
    /// `id`.
    pub(in crate::record) fn temporary(&self, id: &str) -> OsString {
        format!("{TEMPORARY}{id}-{}.tmp", self.number).into()
    }

    /// The file and its other names.
    pub(in crate::record) fn paths(&self) -> impl Iterator<Item = PathBuf> + '_ {
        std::iter::once(&self.path)
            .chain(&self.links)
            .map(PathText::to_path)
    }
}

/// What the original of the file at `path` is called: a name that a person knows again, and that
/// every file system takes.
pub(in crate::record) fn name_of_original(number: usize, path: &Path) -> String {
    const LONGEST: usize = 100;
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    let plain = |letter: char| letter.is_alphanumeric() || "._-+()[]@#~ ".contains(letter);
    let mut text = format!("{number:06} ");
    for letter in name.chars() {
        if text.len() > LONGEST {
            break;
        }
        text.push(if plain(letter) { letter } else { '_' });
    }
    text.trim_end_matches(['.', ' ']).to_owned()
}

/// What became of an entry.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum EntryState {
    /// It may or may not have been done: the run ended in the middle.
    Begun,
    /// The file is the new one.
    Done,
    /// The file was left or put back, and why.
    Left(String),
}
