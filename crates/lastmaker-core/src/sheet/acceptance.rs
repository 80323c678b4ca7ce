//! Doubts that a technician has looked at and wants to have changed all the same.

use std::path::{Path, PathBuf};

use thiserror::Error;

use crate::report::{Position, ReasonName};

/// What is accepted: doubts for these reasons, and those at these sites.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Acceptance {
    reasons: Vec<ReasonName>,
    sites: Vec<AcceptedSite>,
}

/// Where a doubt is accepted.
#[derive(Clone, Debug, PartialEq, Eq)]
struct AcceptedSite {
    file: PathBuf,
    line: usize,
    column: Option<usize>,
}

/// Why something cannot be accepted.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
pub enum AcceptanceFault {
    /// There is no such reason, or its doubts cannot be written.
    #[error("{0:?} is no reason that can be accepted; those are {names}", names = acceptable_names())]
    NoSuchReason(String),
    /// It names no line.
    #[error("{0:?} names no line; write FILE:LINE or FILE:LINE:COLUMN, as the doubt is listed")]
    NoLine(String),
}

impl Acceptance {
    /// Accepts every doubt for the reason of this name.
    ///
    /// # Errors
    /// Where there is no such reason, or its doubts cannot be written.
    pub fn add_reason(&mut self, name: &str) -> Result<(), AcceptanceFault> {
        let known = ReasonName::acceptable().find(|one| one.word() == name);
        let reason = known.ok_or_else(|| AcceptanceFault::NoSuchReason(name.to_owned()))?;
        self.reasons.push(reason);
        Ok(())
    }

    /// Accepts the doubts at `FILE:LINE` or `FILE:LINE:COLUMN`, the file relative to `base`.
    ///
    /// # Errors
    /// Where no line is named.
    pub fn add_site(&mut self, text: &str, base: &Path) -> Result<(), AcceptanceFault> {
        let (file, line, column) =
            parted_site(text).ok_or_else(|| AcceptanceFault::NoLine(text.to_owned()))?;
        self.sites.push(AcceptedSite {
            file: base.join(file),
            line,
            column,
        });
        Ok(())
    }

    /// The reasons for which every doubt is accepted.
    pub fn reasons(&self) -> &[ReasonName] {
        &self.reasons
    }

    /// The sites at which doubts are accepted, as they are given.
    pub fn sites(&self) -> Vec<String> {
        let told = self.sites.iter().map(|site| {
            let column = site.column.map(|column| format!(":{column}"));
            format!(
                "{}:{}{}",
                site.file.display(),
                site.line,
                column.unwrap_or_default()
            )
        });
        told.collect()
    }

    /// Whether nothing is accepted.
    pub fn is_empty(&self) -> bool {
        self.reasons.is_empty() && self.sites.is_empty()
    }

    /// Whether a doubt for this reason, at `position` of `file`, is accepted.
    pub fn covers(&self, reason: ReasonName, file: &Path, position: Option<Position>) -> bool {
        let at_site = |site: &AcceptedSite| {
            position.is_some_and(|position| {
                site.line == position.line
                    && site.column.is_none_or(|column| column == position.column)
                    && is_same_file(&site.file, file)
            })
        };
        reason.row().acceptable
            && (self.reasons.contains(&reason) || self.sites.iter().any(at_site))
    }
}

fn acceptable_names() -> String {
    let names: Vec<&str> = ReasonName::acceptable().map(ReasonName::word).collect();
    names.join(", ")
}

/// The file, the line and the column that `FILE:LINE` or `FILE:LINE:COLUMN` names, as a preview lists a
/// reference; none if there is no line in it. Lines and columns count from 1.
pub fn parted_site(text: &str) -> Option<(&str, usize, Option<usize>)> {
    let number = |text: &str| text.parse::<usize>().ok().filter(|number| *number > 0);
    let behind = |text| {
        let (rest, last) = str::rsplit_once(text, ':')?;
        Some((rest, number(last)?))
    };
    let (rest, last) = behind(text)?;
    Some(match behind(rest) {
        Some((file, line)) => (file, line, Some(last)),
        None => (rest, last, None),
    })
}

/// Whether both paths lead to one file.
fn is_same_file(one: &Path, other: &Path) -> bool {
    let found = |path: &Path| std::fs::canonicalize(path).ok();
    one == other || found(one).is_some_and(|one| Some(one) == found(other))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sites_name_a_file_a_line_and_perhaps_a_column() {
        let at = |line, column| Some(Position { line, column });
        let cases = [
            ("a.ini:3", Some((at(3, 7), at(4, 7)))),
            (r"D:\desk\a.ini:3:7", Some((at(3, 7), at(3, 8)))),
            ("a.ini", None),
            ("a.ini:0", None),
            (r"D:\a.ini", None),
        ];
        for (text, expected) in cases {
            let mut accepted = Acceptance::default();
            let added = accepted.add_site(text, Path::new(""));
            assert_eq!(added.is_ok(), expected.is_some(), "{text}");
            let Some((inside, outside)) = expected else {
                continue;
            };
            let file = Path::new(text.trim_end_matches(|c: char| c == ':' || c.is_ascii_digit()));
            assert!(
                accepted.covers(ReasonName::SpecialLetter, file, inside),
                "{text}"
            );
            assert!(
                !accepted.covers(ReasonName::SpecialLetter, file, outside),
                "{text}"
            );
            assert!(!accepted.covers(ReasonName::Sealed, file, inside), "{text}");
        }
        let mut accepted = Acceptance::default();
        assert!(accepted.add_reason("sealed").is_err());
        accepted.add_reason("half-line").unwrap();
        assert!(accepted.covers(ReasonName::HalfLine, Path::new("x"), None));
        assert!(!accepted.covers(ReasonName::BlankFollows, Path::new("x"), None));
    }
}
