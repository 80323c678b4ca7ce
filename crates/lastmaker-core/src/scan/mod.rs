//! From text to places: the fields of a passage, where a root stands in them, how far each place reaches, and
//! what it may be read as.

mod alias;
mod command;
mod doubt;
mod extent;
mod field;
mod file_name;
mod find;
mod fit;
mod found;
mod hint;
mod root;
mod upcoming;
mod variable_root;

pub use alias::{Alias, AliasKind};
pub use field::{Field, FieldKind, fields};
pub use file_name::{is_file_name, may_hold_place, may_name_file};
pub use find::{Finder, MOST_FINDS};
pub use fit::{Fit, PrefixFit, fit, readings};
pub use found::{Doubt, Flaw, Found, Stands, Token};
pub use hint::{Hint, Key};
pub(crate) use upcoming::{Letters, OF_PLACES, Upcoming, lines_with};
