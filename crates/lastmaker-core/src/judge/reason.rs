//! Why a reference stands as it does, as a type: the sentence, and the standing that follows.

use std::fmt;

use thiserror::Error;

use crate::format::Namespace;
use crate::layer::Unfit;
use crate::place::Unspellable;
use crate::report::{ReasonName, Standing};
use crate::scan::Flaw;
use crate::sheet::Uncertainty;

/// Why a reference is not simply rewritten.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Reason {
    /// It could be read two ways.
    Uncertain(Uncertainty),
    /// Its document may not be changed, and why.
    SealedDocument(&'static str),
    /// Somebody typed single backslashes where the syntax wants them doubled.
    Undoubled,
    /// It is outside of any string, where its format has no places.
    Stray,
    /// It is among bytes that are no text.
    AmongData,
    /// A number before it says how long it is.
    Counted,
    /// It is no place of this machine.
    Foreign(Namespace),
    /// It stands in a regular expression.
    Pattern,
    /// It is not in one piece.
    Torn,
    /// It is evidently mistyped.
    Flawed(Flaw),
    /// The change itself cannot be written.
    Unwritable(Unwritable),
    /// The document breaks the grammar of a format, so how a letter is written is not known.
    UnknownLetter {
        /// The format that the document claims to be of.
        format: &'static str,
        /// The letter.
        letter: char,
    },
    /// The layers around it, or the encoding, cannot express the change.
    Unfit(Unfit),
    /// Its new place does not exist, and only what exists is changed.
    NotThere,
    /// Another reference of the same line is left, and the line belongs together.
    HalfLine,
    /// Another entry has the new name already.
    Collision,
    /// The proof of the new copy failed, and how.
    Unproven(Unproven),
    /// The container around it refuses the change.
    Container {
        /// How it is left.
        standing: Standing,
        /// What the container says.
        why: String,
    },
    /// Its file was rewritten before and has been saved since.
    SavedSince,
    /// Its file has another name outside of the scope.
    OtherName,
}

impl Reason {
    /// How a reference stands for this reason.
    pub fn standing(&self) -> Standing {
        match self {
            Self::Container { standing, .. } => *standing,
            _ => self.name().row().standing.unwrap_or(Standing::Doubtful),
        }
    }

    /// Its short name.
    pub fn name(&self) -> ReasonName {
        match self {
            Self::Uncertain(Uncertainty::NameGoesOn(_)) => ReasonName::NameGoesOn,
            Self::Uncertain(Uncertainty::BlankFollows) => ReasonName::BlankFollows,
            Self::Uncertain(Uncertainty::MaybeKept) => ReasonName::MaybeKept,
            Self::Uncertain(Uncertainty::UnknownHost(_)) => ReasonName::UnknownHost,
            Self::Uncertain(Uncertainty::DriveRelative) => ReasonName::DriveRelative,
            Self::Uncertain(Uncertainty::LoneLetter(_)) => ReasonName::LoneLetter,
            Self::SealedDocument(_) => ReasonName::Sealed,
            Self::Undoubled => ReasonName::Undoubled,
            Self::Stray => ReasonName::Stray,
            Self::AmongData => ReasonName::AmongData,
            Self::Counted => ReasonName::Counted,
            Self::Foreign(_) => ReasonName::Foreign,
            Self::Torn => ReasonName::Torn,
            Self::Pattern => ReasonName::Pattern,
            Self::Flawed(_) => ReasonName::Mistyped,
            Self::Unwritable(why) => why.name(),
            Self::UnknownLetter { .. } => ReasonName::UnknownGrammar,
            Self::Unfit(Unfit::Means { .. }) => ReasonName::SpecialLetter,
            Self::Unfit(Unfit::NoSuchLetter { .. }) => ReasonName::NoSuchLetter,
            Self::Unfit(Unfit::Undecided { .. }) => ReasonName::EncodingOpen,
            Self::Unfit(Unfit::NotWritable { .. }) => ReasonName::NotWritable,
            Self::Unfit(Unfit::InsideUnit | Unfit::Overlap) => ReasonName::Overlap,
            Self::NotThere => ReasonName::NotThere,
            Self::HalfLine => ReasonName::HalfLine,
            Self::Collision => ReasonName::Collision,
            Self::Unproven(_) => ReasonName::Unproven,
            Self::Container { .. } => ReasonName::Container,
            Self::SavedSince => ReasonName::SavedSince,
            Self::OtherName => ReasonName::OtherName,
        }
    }
}

impl Unwritable {
    fn name(&self) -> ReasonName {
        match self {
            Self::Unspellable(_) => ReasonName::Unspellable,
            Self::TailUnclear => ReasonName::EndUnclear,
            Self::Means(_) => ReasonName::SpecialLetter,
            Self::HoldsQuote(_) => ReasonName::HoldsQuote,
            Self::UnknownSyntax | Self::UnknownQuotes => ReasonName::UnknownQuotes,
            Self::WindowTitle => ReasonName::WindowTitle,
        }
    }
}

impl fmt::Display for Reason {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Uncertain(uncertainty) => uncertainty.fmt(f),
            Self::SealedDocument(why) => f.write_str(why),
            Self::Foreign(namespace) => f.write_str(match namespace {
                Namespace::Container => {
                    "it is looked for inside of a container, not on this machine"
                }
                Namespace::Site => {
                    "it is an address within a web site, not a place of this machine"
                }
                Namespace::Page => {
                    "it is an address within a web site, as no file is at its new place here"
                }
                Namespace::Tree => {
                    "it counts from the folder that this file is in, not from the root"
                }
            }),
            Self::Flawed(flaw) => f.write_str(flaw.sentence()),
            Self::Unwritable(why) => why.fmt(f),
            Self::UnknownLetter { format, letter } => write!(
                f,
                "the file breaks the grammar of {format}, so how {letter:?} is written in it is not known"
            ),
            Self::Unfit(why) => why.fmt(f),
            Self::Unproven(why) => why.fmt(f),
            Self::Container { why, .. } => f.write_str(why),
            Self::SavedSince | Self::OtherName | Self::Torn => {
                let row = self.name().row();
                write!(f, "{}; {}", row.sentence, row.cure)
            }
            Self::Undoubled
            | Self::Stray
            | Self::AmongData
            | Self::Counted
            | Self::Pattern
            | Self::NotThere
            | Self::HalfLine
            | Self::Collision => f.write_str(self.name().row().sentence),
        }
    }
}

/// A letter as people name it.
fn letter_name(letter: char) -> String {
    match letter {
        ' ' => "the blank of the new place".to_owned(),
        letter => format!("the {letter:?} of the new place"),
    }
}

/// Why the new place cannot be written in place of the old one.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum Unwritable {
    /// The spelling has no way to write it.
    #[error(transparent)]
    Unspellable(#[from] Unspellable),
    /// The separators of the rest must turn, and where that ends is not clear.
    #[error("where the path ends is not clear, and its separators must turn")]
    TailUnclear,
    /// The new place brings in a letter that means something else there.
    #[error("{} would mean something else to the program that reads it here", letter_name(*.0))]
    Means(char),
    /// The new place holds the quote around the old one.
    #[error("the new place holds the {0} in which the old one stands")]
    HoldsQuote(char),
    /// It needs quotes in a syntax that is not known.
    #[error("it needs quotes now, and the syntax around it is not known")]
    UnknownSyntax,
    /// It needs quotes in quotes of another kind.
    #[error("it needs quotes now, and stands in quotes of a kind that is not known")]
    UnknownQuotes,
    /// In quotes it would be a window's title.
    #[error("it needs quotes now, and `start` would take it for a window's title")]
    WindowTitle,
}

/// What the proof of a new copy found wrong.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum Unproven {
    /// A reference would not name the new place.
    #[error("after the change it would not name the new place")]
    Reference,
    /// The changes cannot be written together.
    #[error(transparent)]
    Unfit(#[from] Unfit),
    /// The new copy is no text.
    #[error("the new copy is no text")]
    NotText,
    /// The new copy would be read in another encoding.
    #[error("the new copy would be read in another encoding")]
    OtherEncoding,
    /// The new copy would be read in another format.
    #[error("the new copy would be read in another format")]
    OtherFormat,
    /// The new copy would break the grammar.
    #[error("the new copy would break its format's grammar")]
    BrokenGrammar,
    /// A string would play another part.
    #[error("a string would have another part in the document")]
    OtherRole,
    /// Something else would change.
    #[error("a passage that was not to change would be another")]
    OtherPassage,
    /// A string would come or go.
    #[error("the new copy would hold more or fewer strings")]
    MoreOrFewer,
    /// It is no settings file.
    #[error("it names more old places than there is memory for; --max-memory raises that")]
    TooMany,
    /// It takes too long.
    #[error("reading it takes longer than one file may; --patient gives it the time")]
    TooSlow,
}
