//! What is told of records: the list of them, and what a restore did.

use serde::Serialize;

use super::{Answer, LeftFile};

/// `restore`: what was put back.
#[derive(Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct RestoreReport {
    /// The record whose originals they are.
    pub record: String,
    /// The moves of that record, old place and new.
    pub moves: Vec<String>,
    /// Whether it only says what would be done.
    pub preview: bool,
    /// Files that have their originals again.
    pub restored: Vec<String>,
    /// Files that had them already.
    pub already_original: usize,
    /// Files of the record that it was not asked for.
    pub not_asked_for: usize,
    /// Files of which only the rewrite's edits were taken back.
    pub edits_taken_back: Vec<TakenBack>,
    /// Files that are left as they are, and why.
    pub left: Vec<LeftFile>,
    /// Files that it did not come to, because it was stopped.
    pub stopped_before: usize,
    /// The record in which what was replaced is kept.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub kept_in: Option<String>,
}

/// A file of which only edits were taken back.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct TakenBack {
    /// The file.
    pub file: String,
    /// How many stretches were taken back.
    pub taken_back: usize,
    /// How many there are.
    pub of: usize,
    /// Each of them.
    pub sites: Vec<TakenBackSite>,
}

/// A stretch that the rewrite had changed.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct TakenBackSite {
    /// The way to it inside the file.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub site: String,
    /// As the rewrite had written it.
    pub written: String,
    /// As it was before that.
    pub was: String,
    /// Whether it is that again. Else what stands there now is something else, and stays.
    pub taken_back: bool,
}

impl Answer for RestoreReport {
    fn command(&self) -> &'static str {
        "restore"
    }

    fn has_findings(&self) -> bool {
        let in_part = |file: &TakenBack| file.taken_back < file.of;
        !self.left.is_empty()
            || self.stopped_before > 0
            || self.edits_taken_back.iter().any(in_part)
    }
}

/// `history`: the records on this machine.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct HistoryReport {
    /// The records, the oldest first.
    pub records: Vec<RecordLine>,
    /// The folder that they are in.
    pub folder: String,
}

/// One record.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct RecordLine {
    /// Its name.
    pub id: String,
    /// Its folder.
    pub folder: String,
    /// When it was begun, in UTC.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub created: Option<String>,
    /// What made it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub kind: Option<RecordKind>,
    /// The moves, old place and new.
    pub moves: Vec<String>,
    /// The files and folders that the run was told to look at.
    pub paths: Vec<String>,
    /// Files that it replaced.
    pub files: usize,
    /// Of them, those that are their originals again, or what was before them.
    pub taken_back: usize,
    /// The restores that took all or some of it back, whether or not it still is.
    pub taken_back_by: Vec<String>,
    /// Its size on the disk, in bytes.
    pub bytes: u64,
    /// What is unusual about it; empty if nothing is.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub state: String,
    /// Whether its run was broken off.
    pub unfinished: bool,
    /// The record that a restore takes back.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub undoes: Option<String>,
}

/// What made a record.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum RecordKind {
    /// A rewrite.
    Rewrite,
    /// A restore.
    Restore,
    /// Links at old places, made or taken away.
    Bridge,
}

impl Answer for HistoryReport {
    fn command(&self) -> &'static str {
        "history"
    }

    fn has_findings(&self) -> bool {
        false
    }
}

/// `history --forget`: what was removed.
#[derive(Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ForgetReport {
    /// The records that are gone.
    pub forgotten: Vec<String>,
    /// Bytes that are free again.
    pub bytes: u64,
    /// Records that are kept, and why.
    pub left: Vec<LeftRecord>,
}

/// A record that is kept.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct LeftRecord {
    /// Its name.
    pub id: String,
    /// Why it is kept.
    pub why: String,
}

impl Answer for ForgetReport {
    fn command(&self) -> &'static str {
        "history"
    }

    fn has_findings(&self) -> bool {
        !self.left.is_empty()
    }
}
