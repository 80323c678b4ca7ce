//! A place as it was found in a decoded string.

use std::ops::Range;

use crate::place::Components;
use crate::place::{Form, Place, Root, Spelling};

/// Why a find is no plain place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Doubt {
    /// `D:name`: relative to whatever folder is current on that drive.
    DriveRelative,
    /// A lone letter beside a key such as *drive*.
    LoneLetter,
}

/// What is evidently wrong with how a place is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Flaw {
    /// `D:D:\x`
    DoubledDrive,
    /// A quote without a second one.
    StrayQuote,
    /// A blank at the end of a value, which belongs to no name.
    TrailingBlank,
}

impl Flaw {
    /// A sentence for people.
    pub fn sentence(self) -> &'static str {
        match self {
            Self::DoubledDrive => "its drive is written twice, so no program finds it",
            Self::StrayQuote => "a quote stands beside it that nothing closes",
            Self::TrailingBlank => "a blank stands behind it that belongs to no name",
        }
    }
}

/// What is around a place in its field.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stands {
    /// Nothing: the field is this place, the item of a list that this sign parts if there is one.
    Alone(Option<char>),
    /// Quotes, of which this is the first.
    Quoted(char),
    /// It is an argument of a command without quotes, so that a blank would cut it in two.
    Argument,
    /// Other text: what ends the place is not said.
    Bare,
}

/// A name between separators, as a byte range of the content; never empty.
pub type Token = Range<usize>;

/// A place as it is written in a decoded string. All offsets are bytes of the content.
#[derive(Clone, Debug)]
pub struct Found {
    /// Where the spelling of the place begins.
    pub start: usize,
    /// Where its root ends: after `D:`, after the share's name, before the `/`.
    pub root_end: usize,
    /// The root.
    pub root: Root,
    /// Components that the root stands for already: those of a variable's value.
    pub base: Vec<String>,
    /// How it is written.
    pub spelling: Spelling,
    /// The names up to `hard_end`.
    pub tokens: Vec<Token>,
    /// Where the place ends at the latest.
    pub hard_end: usize,
    /// Where the next place of the same field begins: in running text this one, if it is a
    /// place by itself, ends before.
    pub next: Option<usize>,
    /// Where it ends for certain, if its surroundings say so.
    pub firm_end: Option<usize>,
    /// What is around it, and so what a letter that comes in could be taken for.
    pub stands: Stands,
    /// Why it is no plain place.
    pub doubt: Option<Doubt>,
    /// What is evidently wrong with it, and the letters that are too many.
    pub flaw: Option<(Flaw, Range<usize>)>,
}

impl Found {
    /// Whether the field is this place and nothing else, or the place is in quotes.
    pub fn is_delimited(&self) -> bool {
        matches!(self.stands, Stands::Alone(_) | Stands::Quoted(_))
    }

    /// The place as it reads if it ends at offset `end` of `content`.
    pub fn place_until(&self, content: &str, end: usize) -> Place {
        let windows = self.root.is_windows();
        let mut components = Components::new(self.spelling.form.folds(), windows);
        components
            .names
            .reserve_exact(self.base.len() + self.tokens.len());
        components.names.extend_from_slice(&self.base);
        for token in &self.tokens {
            if token.start >= end {
                break;
            }
            components.push(&content[token.start..token.end.min(end)]);
        }
        Place {
            root: self.root.clone(),
            components: components.names,
        }
    }

    /// The same find seen from `end`, after its first `tokens` names, as if `base` were
    /// written up to there.
    pub fn translated(&self, end: usize, tokens: usize, base: &Place) -> Self {
        Self {
            spelling: Spelling {
                form: match self.spelling.form {
                    Form::Variable => Form::Plain,
                    form => form,
                },
                ..self.spelling
            },
            root_end: end,
            root: base.root.clone(),
            base: base.components.clone(),
            tokens: self.tokens[tokens..].to_vec(),
            ..self.clone()
        }
    }
}
