//! Why a container is not read, or not rewritten.

use thiserror::Error;

/// Why a container is not read, or nothing in it rewritten. Its words are a sentence for people.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum Fault {
    /// It is cut short or damaged, as these words say.
    #[error("{0}")]
    Damaged(&'static str),
    /// Its database cannot be read.
    #[error(
        "the database cannot be read ({0}); open it in its program, or recover it with the database's own shell"
    )]
    UnreadDatabase(String),
    /// Its database holds together no more.
    #[error("the database is damaged ({0}); recover it with its program or its own shell first")]
    DamagedDatabase(String),
    /// Only who has its password, or the machine that it is tied to, can read it; these words say what helps.
    #[error("{0}")]
    Encrypted(&'static str),
    /// It is one of several files that make one archive.
    #[error("it is one piece of an archive in several pieces")]
    OneOfSeveral,
    /// One of its members cannot be read.
    #[error("its member {name} {why}")]
    Member {
        /// What it is called.
        name: String,
        /// What is the matter with it.
        why: String,
    },
    /// It has more members than any that people make.
    #[error("it has more than a million members, so it is not read")]
    TooManyMembers,
    /// Two of what it holds lie one over the other.
    #[error("its {0} overlap, as no program writes them, so it is left as it is")]
    Overlap(&'static str),
    /// Its time is over.
    #[error("reading it takes longer than one file may; --patient gives it the time")]
    Late,
    /// It unpacks to more than one file may.
    #[error("unpacked it is larger than {most} MiB, so it is not read; --max-document raises that")]
    TooLarge {
        /// How much that is, in MiB.
        most: u64,
    },
    /// What it counts lengths with cannot tell that of the new content.
    #[error("it would be too large for its own count of its length, so it is left as it is")]
    Uncountable,
    /// A new content cannot be packed as the old one was.
    #[error("it cannot be packed anew: {0}")]
    Unpacked(String),
    /// It is another one than was read before.
    #[error("it has fewer parts than were read")]
    FewerParts,
    /// The database does not take the change.
    #[error("the database refuses the change: {0}")]
    Refused(String),
    /// What finds words in the database would not find them any more.
    #[error("its full-text index {index} cannot be built anew: {why}")]
    UnbuiltIndex {
        /// What it is called.
        index: String,
        /// What the database says.
        why: String,
    },
    /// Its own check would find something that it does not find now.
    #[error("after the change its integrity check would find something")]
    Unsound,
    /// Containers of its sort are only read.
    #[error("it is never changed")]
    OnlyRead,
}

/// How a part stands that cannot have its new content.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Refused {
    /// Another entry would become the same.
    Collision,
    /// The structure around it does not allow it.
    Sealed,
    /// Something beside it depends on it in a way that is not known.
    Doubtful,
}

/// A part that cannot have its new content.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RefusedPart {
    /// Which part, counted from 0 in the order in which they are read.
    pub part: usize,
    /// How it stands.
    pub how: Refused,
    /// Why, as people are told.
    pub why: String,
}

impl RefusedPart {
    /// A part that cannot have its new content, and why.
    pub(super) fn new(part: usize, how: Refused, why: impl Into<String>) -> Self {
        Self {
            part,
            how,
            why: why.into(),
        }
    }
}

/// Why new contents are not lifted.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum LiftFault {
    /// Some parts must stay as they are; the others may be tried again without them.
    #[error("{} of its parts must stay as they are", .0.len())]
    Parts(Vec<RefusedPart>),
    /// Nothing can be changed.
    #[error(transparent)]
    Whole(#[from] Fault),
}
