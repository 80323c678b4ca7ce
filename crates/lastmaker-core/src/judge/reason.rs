//! Why a reference stands as it does, as a type: the sentence, and the standing that follows.

use std::fmt;

use thiserror::Error;

use crate::format::Realm;
use crate::layer::Unfit;
use crate::place::Unspellable;
use crate::report::Standing;
use crate::scan::Flaw;
use crate::sheet::Uncertainty;

/// The short name of what is no place of this machine.
pub(crate) const FOREIGN: &str = "foreign";

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
    Foreign(Realm),
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
            Self::SealedDocument(_)
            | Self::AmongData
            | Self::Counted
            | Self::Torn
            | Self::Unfit(Unfit::NoSuchLetter { .. }) => Standing::Sealed,
            Self::Undoubled | Self::Flawed(_) => Standing::Malformed,
            Self::Collision => Standing::Collision,
            Self::Foreign(_) => Standing::Kept,
            Self::Container { standing, .. } => *standing,
            Self::Uncertain(_)
            | Self::Stray
            | Self::Pattern
            | Self::Unwritable(_)
            | Self::UnknownLetter { .. }
            | Self::Unfit(_)
            | Self::Unproven(_)
            | Self::NotThere
            | Self::HalfLine
            | Self::SavedSince
            | Self::OtherName => Standing::Doubtful,
        }
    }
}

impl Reason {
    /// Its short name, which never changes.
    pub fn name(&self) -> &'static str {
        match self {
            Self::Uncertain(Uncertainty::NameGoesOn(_)) => "name-goes-on",
            Self::Uncertain(Uncertainty::BlankFollows) => "blank-follows",
            Self::Uncertain(Uncertainty::MaybeKept) => "maybe-kept",
            Self::Uncertain(Uncertainty::UnknownHost(_)) => "unknown-host",
            Self::Uncertain(Uncertainty::DriveRelative) => "drive-relative",
            Self::Uncertain(Uncertainty::LoneLetter(_)) => "lone-letter",
            Self::SealedDocument(_) => "sealed",
            Self::Undoubled => "undoubled",
            Self::Stray => "stray",
            Self::AmongData => "among-data",
            Self::Counted => "counted",
            Self::Foreign(_) => FOREIGN,
            Self::Torn => "torn",
            Self::Pattern => "pattern",
            Self::Flawed(_) => "mistyped",
            Self::Unwritable(why) => why.name(),
            Self::UnknownLetter { .. } => "unknown-grammar",
            Self::Unfit(Unfit::Means { .. }) => "special-letter",
            Self::Unfit(Unfit::NoSuchLetter { .. }) => "no-such-letter",
            Self::Unfit(Unfit::Undecided { .. }) => "encoding-open",
            Self::Unfit(Unfit::NotWritable { .. }) => "not-writable",
            Self::Unfit(Unfit::InsideUnit | Unfit::Overlap) => "overlap",
            Self::NotThere => "not-there",
            Self::HalfLine => "half-line",
            Self::Collision => "collision",
            Self::Unproven(_) => "unproven",
            Self::Container { .. } => "container",
            Self::SavedSince => "saved-since",
            Self::OtherName => "other-name",
        }
    }
}

impl Unwritable {
    fn name(&self) -> &'static str {
        match self {
            Self::Unspellable(_) => "unspellable",
            Self::TailUnclear => "end-unclear",
            Self::Means(_) => "special-letter",
            Self::HoldsQuote(_) => "holds-quote",
            Self::UnknownSyntax | Self::UnknownQuotes => "unknown-quotes",
            Self::WindowTitle => "window-title",
        }
    }
}

impl fmt::Display for Reason {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Uncertain(uncertainty) => uncertainty.fmt(f),
            Self::SealedDocument(why) => f.write_str(why),
            Self::Undoubled => f.write_str(
                "its backslashes are not doubled, so the program reads something else",
            ),
            Self::Stray => f.write_str(
                "it stands outside of any string, and this format has no places there",
            ),
            Self::AmongData => f.write_str(
                "it stands among bytes that are no text, some of which may count its length",
            ),
            Self::Pattern => f.write_str(
                "it stands in a pattern, in which letters of the new place may mean something else",
            ),
            Self::Counted => f.write_str(
                "a number before it says how long it is, and would no longer be right",
            ),
            Self::Foreign(realm) => f.write_str(match realm {
                Realm::Container => "it is looked for inside of a container, not on this machine",
                Realm::Site => "it is an address within a web site, not a place of this machine",
                Realm::Page => "it is an address within a web site, as no file is at its new place here",
                Realm::Tree => "it counts from the folder that this file is in, not from the root",
            }),
            Self::Torn => f.write_str(
                "it is cut in two by something that is no text (a deleted stretch, a field, a note); mend it in its program",
            ),
            Self::Flawed(flaw) => f.write_str(flaw.sentence()),
            Self::Unwritable(why) => why.fmt(f),
            Self::UnknownLetter { format, letter } => write!(
                f,
                "the file breaks the grammar of {format}, so how {letter:?} is written in it is not known"
            ),
            Self::Unfit(why) => why.fmt(f),
            Self::NotThere => f.write_str("its new place does not exist, and only what exists is changed"),
            Self::HalfLine => f.write_str(
                "another reference of this line is left, and half a line would be worse than none",
            ),
            Self::Collision => f.write_str("another entry here has the new name already"),
            Self::Unproven(why) => why.fmt(f),
            Self::Container { why, .. } => f.write_str(why),
            Self::SavedSince => f.write_str(
                "it was rewritten before and has been saved since, so nobody can tell which of its places \
                 are old; --again applies the moves once more",
            ),
            Self::OtherName => f.write_str(
                "the file has another name outside of the paths given (a hard link); give the folder of that \
                 name too, or make this a file of its own",
            ),
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
