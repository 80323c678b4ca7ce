//! The reasons for which a reference stands as it does: one row each. What programs may match on, what can be
//! accepted, the JSON Schema and the table in the docs are made of it.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

use super::Standing;

/// What is told of a reason.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct ReasonRow {
    /// Its short name, which never changes.
    pub name: &'static str,
    /// How a reference stands for it; none where that is said with it.
    pub standing: Option<Standing>,
    /// What it means.
    pub sentence: &'static str,
    /// What a person can do.
    pub cure: &'static str,
    /// Whether such a doubt can be accepted.
    pub acceptable: bool,
    /// The version of the program that told it first.
    pub since: &'static str,
}

/// Makes the names of the reasons and the table of them from the same rows.
macro_rules! reasons {
    ($($variant:ident $name:literal $standing:expr, $acceptable:literal, $since:literal: $sentence:literal, $cure:literal;)+) => {
        /// The short name of a reason, which never changes.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        #[non_exhaustive]
        pub enum ReasonName {
            $(#[doc = $sentence] #[serde(rename = $name)] $variant,)+
        }

        impl ReasonName {
            /// Every reason, in the order of the table.
            pub const ALL: &[Self] = &[$(Self::$variant),+];

            /// What is told of it.
            pub const fn row(self) -> &'static ReasonRow {
                match self {
                    $(Self::$variant => &ReasonRow {
                        name: $name,
                        standing: $standing,
                        sentence: $sentence,
                        cure: $cure,
                        acceptable: $acceptable,
                        since: $since,
                    },)+
                }
            }
        }
    };
}

reasons! {
    NameGoesOn "name-goes-on" Some(Standing::Doubtful), true, "0.1":
        "a letter follows with which the name could go on",
        "look whether the name ends there, and accept it if it does";
    BlankFollows "blank-follows" Some(Standing::Doubtful), true, "0.1":
        "a blank follows, and the name could go on",
        "look whether the name ends there, and accept it if it does";
    MaybeKept "maybe-kept" Some(Standing::Doubtful), false, "0.1":
        "it lies in an exception of the sheet, unless its name goes on",
        "change it by hand, or take the exception out of the sheet";
    UnknownHost "unknown-host" Some(Standing::Doubtful), true, "0.1":
        "it is on a machine of which the sheet does not say that it is the one whose drive moved",
        "name the machine in the sheet with `also`, or accept it";
    DriveRelative "drive-relative" Some(Standing::Doubtful), false, "0.1":
        "it is relative to the current folder of a drive",
        "write it in full by hand";
    LoneLetter "lone-letter" Some(Standing::Doubtful), true, "0.1":
        "it is a letter alone that may name a drive",
        "look what it stands for, and accept it if it is the drive";
    Sealed "sealed" Some(Standing::Sealed), false, "0.1":
        "its document may not be changed: it is signed, or counts or checks its own bytes",
        "change it in the program that made the document";
    Undoubled "undoubled" Some(Standing::Malformed), false, "0.1":
        "its backslashes are not doubled, so the program reads something else",
        "put it right with --repair, or by hand as it is shown";
    Stray "stray" Some(Standing::Doubtful), true, "0.1":
        "it stands outside of any string, and this format has no places there",
        "look whether anything reads it, and accept it if so";
    AmongData "among-data" Some(Standing::Sealed), false, "0.1":
        "it stands among bytes that are no text, some of which may count its length",
        "change it in its program";
    Counted "counted" Some(Standing::Sealed), false, "0.1":
        "a number before it says how long it is, and would no longer be right",
        "change it in its program";
    Foreign "foreign" Some(Standing::Kept), false, "0.1":
        "it is no place of this machine",
        "nothing; change it by hand if it is one after all";
    Torn "torn" Some(Standing::Sealed), false, "0.1":
        "it is cut in two by something that is no text (a deleted stretch, a field, a note)",
        "mend it in its program";
    Pattern "pattern" Some(Standing::Doubtful), true, "0.1":
        "it stands in a pattern, in which letters of the new place may mean something else",
        "look what the new pattern would match, and accept it if that is right";
    Mistyped "mistyped" Some(Standing::Malformed), false, "0.1":
        "it is evidently mistyped",
        "put it right with --repair, or by hand as it is shown";
    Unspellable "unspellable" Some(Standing::Doubtful), false, "0.1":
        "its spelling has no way to write the new place",
        "write the new place by hand in another spelling";
    EndUnclear "end-unclear" Some(Standing::Doubtful), false, "0.1":
        "where the path ends is not clear, and its separators must turn",
        "change it by hand";
    SpecialLetter "special-letter" Some(Standing::Doubtful), true, "0.1":
        "a letter of the new place would mean something else to the program that reads it there",
        "choose a new place without that letter, say with --read-as what the file is, or accept it";
    HoldsQuote "holds-quote" Some(Standing::Doubtful), false, "0.1":
        "the new place holds the quote in which the old one stands",
        "change it by hand, or choose a new place without it";
    UnknownQuotes "unknown-quotes" Some(Standing::Doubtful), false, "0.1":
        "it needs quotes now, and how the syntax around it quotes is not known",
        "change it by hand, or say with --read-as what the file is";
    WindowTitle "window-title" Some(Standing::Doubtful), false, "0.1":
        "it needs quotes now, and `start` would take it for a window's title",
        "put an empty title before it by hand";
    UnknownGrammar "unknown-grammar" Some(Standing::Doubtful), true, "0.1":
        "the file breaks the grammar of its format, so how a letter is written in it is not known",
        "mend the file, or accept it";
    NoSuchLetter "no-such-letter" Some(Standing::Sealed), false, "0.1":
        "the file's encoding has not every letter of the new place",
        "convert the file, or choose a new place that it can write";
    EncodingOpen "encoding-open" Some(Standing::Doubtful), false, "0.1":
        "nothing in the file shows how it writes a letter of the new place",
        "say the encoding with --encoding";
    NotWritable "not-writable" Some(Standing::Doubtful), false, "0.1":
        "the syntax has no way to hold the new place",
        "change it by hand, or choose another new place";
    Overlap "overlap" Some(Standing::Doubtful), false, "0.1":
        "two changes overlap, or one would cut an escape in two",
        "change it by hand";
    NotThere "not-there" Some(Standing::Doubtful), false, "0.1":
        "its new place does not exist, and only what exists is changed",
        "copy what is missing, or leave out --existing-only";
    HalfLine "half-line" Some(Standing::Doubtful), true, "0.1":
        "another reference of this line is left, and half a line would be worse than none",
        "settle the other one; or accept this one alone";
    Collision "collision" Some(Standing::Collision), false, "0.1":
        "another entry here has the new name already",
        "take one of the two out";
    Unproven "unproven" Some(Standing::Doubtful), false, "0.1":
        "the new copy did not hold what was promised, so the change was taken back",
        "change it by hand, and send the file's shape as a defect";
    Container "container" None, false, "0.1":
        "the file around it refuses the change",
        "change it in its program";
    SavedSince "saved-since" Some(Standing::Doubtful), false, "0.1":
        "it was rewritten before and has been saved since, so nobody can tell which of its places are old",
        "--again applies the moves once more";
    OtherName "other-name" Some(Standing::Doubtful), false, "0.1":
        "the file has another name outside of the paths given (a hard link)",
        "give the folder of that name too, or make this a file of its own";
    Relative "relative" Some(Standing::Elsewhere), false, "0.1":
        "it is relative to its document and leads nowhere",
        "mend it with --relative-references, or move what it names";
}

impl ReasonName {
    /// The name as it is written.
    pub fn word(self) -> &'static str {
        self.row().name
    }

    /// Those whose doubts can be accepted.
    pub fn acceptable() -> impl Iterator<Item = Self> {
        Self::ALL.iter().copied().filter(|one| one.row().acceptable)
    }
}

impl fmt::Display for ReasonName {
    fn fmt(&self, to: &mut fmt::Formatter<'_>) -> fmt::Result {
        to.pad(self.word())
    }
}

impl FromStr for ReasonName {
    type Err = ();

    fn from_str(name: &str) -> Result<Self, ()> {
        let mut all = Self::ALL.iter().copied();
        all.find(|one| one.word() == name).ok_or(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeSet;

    #[test]
    fn names_are_words_of_their_own_and_are_read_as_they_are_written() {
        let names: BTreeSet<&str> = ReasonName::ALL.iter().map(|one| one.word()).collect();
        assert_eq!(names.len(), ReasonName::ALL.len());
        for one in ReasonName::ALL {
            let row = one.row();
            assert_eq!(row.name.parse(), Ok(*one));
            assert_eq!(serde_json::to_value(one).unwrap(), row.name);
            let is_doubt = row.standing == Some(Standing::Doubtful);
            assert!(
                is_doubt || !row.acceptable,
                "{one} is no doubt that could be accepted"
            );
            for text in [row.sentence, row.cure] {
                assert!(!text.is_empty() && !text.ends_with('.'), "{one}: {text}");
            }
        }
    }

    /// The table in the docs is made of the rows; where it is not, this says what it must be.
    #[test]
    fn the_docs_have_the_table() {
        let mut table = String::from(
            "| reason | standing | means | what to do | since |\n|---|---|---|---|---|\n",
        );
        for one in ReasonName::ALL {
            let row = one.row();
            let standing = row.standing.map_or("as it says", Standing::word);
            let accept = if row.acceptable {
                ", can be accepted"
            } else {
                ""
            };
            table.push_str(&format!(
                "| `{}` | {standing}{accept} | {} | {} | {} |\n",
                row.name, row.sentence, row.cure, row.since
            ));
        }
        let docs = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/reasons.md");
        let text = std::fs::read_to_string(docs).unwrap();
        assert!(
            text.contains(&table),
            "docs/reasons.md wants this table:\n{table}"
        );
    }
}
