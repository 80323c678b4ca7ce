//! How strings are escaped where they stand: one syntax a file, each a [`Layer`].

mod bare;
mod batch;
mod by_hand;
mod byte_array;
mod counted;
mod doubled;
mod escaped;
mod field;
mod file_uri;
mod fold;
mod markup;
mod percent;
mod registry;
mod rtf;
mod shell_word;
mod window;

pub use bare::*;
pub use batch::BatchText;
pub use by_hand::typed_by_hand;
pub use byte_array::ByteArray;
pub use counted::Counted;
pub use doubled::Doubled;
pub use escaped::*;
pub use field::Field;
pub use file_uri::FileUri;
pub use fold::{Brackets, Fold};
pub use markup::{Markup, MarkupLetters};
pub use percent::{Percent, UriPart};
pub use registry::RegistryHex;
pub use rtf::RtfText;
pub use shell_word::{ShellWord, shell_word_end};
pub use window::{STRETCH, Window};

use crate::layer::{Layer, Opened};

/// Writes `text` the way `layer` would write it where nothing stood before; none if the
/// layer cannot.
pub fn encode_fresh(layer: &dyn Layer, text: &str) -> Option<String> {
    use crate::layer::{Edit, Edits, UnitMap, splice};
    let empty = Opened {
        content: Vec::new(),
        map: UnitMap::default(),
    };
    let edits = Edits::new(vec![Edit {
        span: 0..0,
        with: text.as_bytes().to_vec(),
    }])
    .ok()?;
    let lifted = layer.lift(b"", &empty, &edits).ok()?;
    String::from_utf8(splice(b"", &lifted)).ok()
}
